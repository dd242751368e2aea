import { localDate } from "core/calendar/index.ts"
import { lengthIn, massIn } from "core/units/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { type DraftContent, draftContent } from "../intake/typed.ts"
import { handled, shipmentOrDraft } from "../packages/shipment.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { quoteByNumber } from "./index.ts"

/** An order as the form of a new quote begins with it: its packages where they are packed, else its items. */
export async function askedOfOrder(work: Context & { readonly warehouse: Warehouse }, orderNumber: string) {
  const order = await work
    .db("sales_order")
    .where({ order_number: orderNumber, warehouse_id: work.warehouse.id })
    .first("id", "promised_on")
  const shipment = order ? await shipmentOrDraft(work.db, order.id) : null
  if (!order || !shipment) return null
  const packed = handled(shipment.packages).filter((one) => one.contents.length > 0 || !one.carried.isZero())
  const { shipTo } = shipment
  return {
    customer: shipment.customerCode,
    company: shipTo.company,
    street: shipTo.street,
    city: shipTo.city,
    state: shipTo.state,
    postalCode: shipTo.postalCode,
    country: shipTo.country,
    kind: shipTo.kind,
    promisedOn: shipment.promisedOn ?? "",
    worth: "",
    options: shipment.wishes.options,
    packages: packed
      .map((one) => {
        const edges = [one.outer.length, one.outer.width, one.outer.height].map((edge) =>
          lengthIn(edge, "in").toDecimalPlaces(2).toString(),
        )
        const kind = one.kind === "pallet" ? "1 pallet " : ""
        return `${kind}${massIn(one.actual, "lb").toDecimalPlaces(2)} lb ${edges.join(" × ")} in`
      })
      .join("\n"),
    items: packed.length > 0 ? "" : shipment.lines.map((line) => `${line.ordered} ${line.sku}`).join("\n"),
  }
}

/** What is typed of an order for a quote: its customer, address, day and items, by pieces. Null without such a quote. */
export async function draftOfQuote(
  work: Context & { readonly warehouse: Warehouse },
  number: string,
): Promise<DraftContent | null> {
  authorise(work.actor, "orders.work")
  const quote = await quoteByNumber(work.db, work.warehouse, number, work.now)
  if (!quote) return null
  const { shipTo, promisedOn, lines, note } = quote.asked
  const skus = lines.map((line) => line.sku)
  const pieces = new Map(
    (
      await work
        .db("item")
        .join("item_level", "item_level.item_id", "item.id")
        .whereIn("item.sku", skus)
        .where("item_level.quantity", 1)
        .select("item.sku", "item_level.name")
    ).map((row) => [String(row.sku), { sku: row.sku, unit: row.name }]),
  )
  return draftContent.parse({
    quote: quote.number,
    customer: quote.customer.name,
    ordered_on: localDate(work.now, work.warehouse.zone),
    promised_on: promisedOn,
    company: shipTo.company,
    attention: shipTo.attention,
    street: shipTo.street,
    street2: shipTo.street2,
    city: shipTo.city,
    state: shipTo.state,
    postal_code: shipTo.postalCode,
    country: shipTo.country,
    phone: shipTo.phone,
    address_kind: shipTo.kind,
    currency: work.warehouse.currency,
    notes: note,
    lines: lines.map((line) => ({
      sku: line.sku,
      unit: "each",
      ...pieces.get(line.sku),
      quantity: String(line.quantity),
    })),
  })
}
