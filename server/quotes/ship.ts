import { localDate } from "core/calendar/index.ts"
import { wishesSchema } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { type Context, require } from "../accounts/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { openShipment } from "../packing/index.ts"
import { shipmentOf } from "../packing/shipment.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { type QuoteAsked, quoteAsked } from "./asked.ts"
import type { QuotedService } from "./index.ts"

/**
 * Turns a quote into a shipment: the order is sent with the service that was quoted, asked for what was quoted, and
 * charged the quoted amount, whatever it costs by then. Refused when the quote is over or was sent already, when the
 * order goes elsewhere, or when labels were asked for. The same again changes nothing.
 */
export async function shipQuote(
  context: Context,
  quoteId: number,
  bench: string,
  service: string,
): Promise<Outcome<{ readonly bench: string }>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  const warehouse = await warehouseById(db, actor.warehouseId)
  const order = await db("sales_order").where({ bench_number: bench, warehouse_id: warehouse.id }).first("id")
  if (!order) return refused(reason("quote.no-order", { bench }))
  const quote = await db("quote").where({ id: quoteId, warehouse_id: warehouse.id }).first()
  if (!quote) return refused(reason("quote.gone"))
  if (quote.state === "shipped" && quote.shipped_order_id === order.id && quote.chosen === service)
    return accepted({ bench })
  if (quote.state !== "open") return refused(reason(quote.state === "shipped" ? "quote.shipped" : "quote.withdrawn"))
  if (quote.valid_until < localDate(now, warehouse.zone))
    return refused(reason("quote.over", { until: quote.valid_until }))
  const offer = parsed<QuotedService[]>(quote.offers).find((one) => one.code === service)
  if (!offer || offer.charged === null) return refused(reason("quote.not-quoted", { service }))
  const asked = quoteAsked.parse(parsed(quote.asked))
  const opened = await openShipment(context, order.id)
  if (!opened.ok) return opened
  return inTransaction(db, async (trx) => {
    const shipment = await shipmentOf(trx, order.id)
    if (shipment?.state !== "open" || (await labelsAskedFor(trx, order.id)))
      return refused(reason("order.labels-asked-for"))
    const other = elsewhere(asked, shipment.shipTo)
    if (other) return refused(other)
    const row = await trx("quote").where({ id: quoteId }).forUpdate().first("version", "state")
    if (row.state !== "open") return refused(reason("quote.shipped"))
    const { id } = await trx("service").where({ code: service }).first("id")
    await trx("sales_order").where({ id: shipment.orderId }).update({ chosen_service_id: id })
    await trx("shipment")
      .where({ id: shipment.id })
      .update({
        version: shipment.version + 1,
        wishes: JSON.stringify(wishesSchema.parse({ ...shipment.wishes, options: asked.options })),
        charged_by_hand: JSON.stringify({ amount: offer.charged, why: `quote ${quote.number}`, actor: actor.name }),
      })
    await trx("quote")
      .where({ id: quoteId })
      .update({ state: "shipped", chosen: service, shipped_order_id: order.id, version: row.version + 1 })
    await record(trx, actor, now, {
      action: "quote.shipped",
      orderId: order.id,
      detail: { number: quote.number, service: offer.name, amount: offer.charged },
    })
    return accepted({ bench })
  })
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
