import { localDate } from "core/calendar/index.ts"
import type { QuoteId } from "core/ids/index.ts"
import { wishesSchema } from "core/rating/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { type Mass, showMass, sumMass, timesMass } from "core/units/index.ts"
import { authorise, type Context, may } from "../actors/index.ts"
import { parsed } from "../audit/index.ts"
import { there } from "../db/there.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { handled, type Shipment } from "../packages/shipment.ts"
import { change } from "../packing/change.ts"
import { openShipment } from "../packing/index.ts"
import { groundOf } from "../plan/plan.ts"
import { chooseService } from "../plan/sentWith.ts"
import { ratingGround } from "../rating/offers.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { type QuoteAsked, quoteAsked, rateableQuote } from "./asked.ts"
import type { QuotedService } from "./index.ts"

/**
 * Turns a quote into a shipment: the order is sent with the service that was quoted, asked for what was quoted, and
 * charged the quoted amount for that service, whatever it costs by then; another service is charged by the rules. Refused when the quote is over or was sent already, when the
 * order goes elsewhere or is clearly heavier (the lead may use it anyway), or when labels were asked for. The
 * same again changes nothing.
 */
export async function shipQuote(
  context: Context,
  quoteId: QuoteId,
  orderNumber: string,
  service: string,
): Promise<Outcome<{ readonly orderNumber: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const warehouse = await warehouseById(db, actor.warehouseId)
  const order = await db("sales_order").where({ order_number: orderNumber, warehouse_id: warehouse.id }).first("id")
  if (!order) return refused(reason("quote.no-order", { orderNumber }))
  const quote = await db("quote").where({ id: quoteId, warehouse_id: warehouse.id }).first()
  if (!quote) return refused(reason("quote.gone"))
  if (quote.state === "shipped" && quote.shipped_order_id === order.id && quote.chosen === service)
    return accepted({ orderNumber })
  if (quote.state !== "open") return refused(reason(quote.state === "shipped" ? "quote.shipped" : "quote.withdrawn"))
  if (quote.valid_until < localDate(now, warehouse.zone))
    return refused(reason("quote.over", { until: quote.valid_until }))
  const offer = parsed<QuotedService[]>(quote.offers).find((one) => one.code === service)
  if (!offer || offer.charged === null) return refused(reason("quote.not-quoted", { service }))
  const asked = quoteAsked.parse(parsed(quote.asked))
  const opened = await openShipment(context, order.id)
  if (!opened.ok) return opened
  const weighed = await rateableQuote(db, await ratingGround(db, warehouse, now), asked)
  if (!weighed.ok) return weighed
  const quoted = sumMass(weighed.value.rateable.parcels.map((one) => one.weight))
  const what = {
    action: "quote.shipped" as const,
    detail: {
      number: quote.number,
      service: offer.name,
      charged: `${offer.charged} ${warehouse.currency}`,
    },
  }
  const changed = await change(context, order.id, what, async (trx, shipment) => {
    if (await labelsAskedFor(trx, order.id)) return [reason("order.labels-asked-for")]
    const other = elsewhere(asked, shipment.shipTo)
    if (other) return [other]
    const heavier = may(actor, "charging.override") ? null : heavierThan(quoted, shipment)
    if (heavier) return [heavier]
    const row = there(await trx("quote").where({ id: quoteId }).forUpdate().first("version", "state"))
    if (row.state !== "open") return [reason("quote.shipped")]
    const { id } = there(await trx("service").where({ code: service }).first("id"))
    await chooseService(trx, await groundOf(trx, warehouse.id, now), shipment.orderId, id)
    await trx("shipment")
      .where({ id: shipment.id })
      .update({
        wishes: JSON.stringify(wishesSchema.parse({ ...shipment.wishes, options: asked.options })),
        charged_by_hand: JSON.stringify({
          amount: offer.charged,
          why: `quote ${quote.number}`,
          actor: actor.name,
          service,
        }),
      })
    await trx("quote")
      .where({ id: quoteId })
      .update({ state: "shipped", chosen: service, shipped_order_id: order.id, version: row.version + 1 })
    return []
  })
  return changed.ok ? accepted({ orderNumber }) : changed
}

/** How much heavier than quoted goods may be before the quoted charge is not theirs: a tenth, common practice. */
const heavierBy = 1.1

/** A quote is for so much weight; what is clearly heavier, packed or by its items, is not sent at its price. */
function heavierThan(quoted: Mass, { lines, packages, orderNumber }: Shipment): Reason | null {
  const items = sumMass(lines.map((line) => timesMass(line.piece.item.unitWeight, line.ordered)))
  const packed = sumMass(handled(packages).map((one) => one.actual))
  const heaviest = packed.gt(items) ? packed : items
  return heaviest.gt(quoted.mul(heavierBy))
    ? reason("quote.heavier", { quoted: showMass(quoted, "lb"), orderNumber, order: showMass(heaviest, "lb") })
    : null
}

/** A quote is for a place; an order that goes to another is not sent at its price. */
function elsewhere(asked: QuoteAsked, shipTo: { postalCode: string; country: string }) {
  const plain = (code: string) =>
    code
      .toUpperCase()
      .replace(/[^A-Z0-9]/g, "")
      .slice(0, 5)
  const same = plain(asked.shipTo.postalCode) === plain(shipTo.postalCode) && asked.shipTo.country === shipTo.country
  return same ? null : reason("quote.elsewhere", { quoted: asked.shipTo.postalCode, order: shipTo.postalCode })
}
