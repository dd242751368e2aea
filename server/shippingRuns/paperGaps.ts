import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Shipment } from "../packages/shipment.ts"
import { paperRefusals } from "../papers/drawn.ts"
import { forService, mayNeedPapers, paperFacts } from "../papers/facts.ts"
import type { OfferSummary } from "../rating/batch.ts"
import type { RatingGround } from "../rating/offers.ts"
import { inForce } from "../rating/tariffs.ts"

/** What keeps the papers of a packed shipment from being made for the service that a run chose: it would be refused when bought. */
export async function paperGapsOf(
  db: Knex,
  { warehouse, services, today }: Pick<RatingGround, "warehouse" | "services" | "today">,
  shipment: Shipment,
  offer: OfferSummary,
  signer: string,
): Promise<Reason[]> {
  const service = services.find((one) => one.code === offer.code)
  const held = service && offer.leaves ? inForce(service, offer.leaves) : null
  if (!service || !held || !offer.leaves || shipment.packages.length === 0) return []
  if (!mayNeedPapers(warehouse, shipment, held.terms)) return []
  const on = forService(service, held.terms, offer.leaves)
  return paperRefusals(await paperFacts(db, warehouse, shipment, { on, today, signer }))
}
