import { localDate } from "core/calendar/index.ts"
import type { PaperKind } from "core/papers/index.ts"
import type { Work } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { shipmentOrDraft } from "server/packages/shipment.ts"
import { drawOne } from "server/papers/drawn.ts"
import { forOffer, paperFacts } from "server/papers/facts.ts"
import { offersFor } from "server/shipping/buy.ts"
import type { FloorPaper } from "../parts/printed.server.ts"

/** A paper of a shipment as it will be once it is bought with a service, the proposed one where none is named. */
export async function draftOf(
  work: Work,
  orderNumber: string,
  kind: PaperKind,
  wanted: string | null,
): Promise<FloorPaper | null> {
  const { db, warehouse, now, actor } = work
  const order = await summaryByNumber(db, warehouse, orderNumber)
  const shipment = order && (await shipmentOrDraft(db, order.id))
  if (!shipment) return null
  const { offers, preselected } = await offersFor(db, warehouse, shipment, now)
  const chosen = offers.find((one) => one.service.code === wanted && one.rate) ?? preselected
  const facts = await paperFacts(db, warehouse, shipment, {
    on: chosen && forOffer(chosen),
    today: localDate(now, warehouse.zone),
    signer: actor.name,
  })
  const drawn = await drawOne(kind, facts, { language: shipment.language, madeAt: now, picture: null })
  return drawn && { kind, name: drawn.name, bytes: drawn.bytes, orderId: order.id }
}
