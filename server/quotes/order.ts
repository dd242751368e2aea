import { lengthIn, massIn } from "core/units/index.ts"
import type { Work } from "../http/context.ts"
import { handled, shipmentOrDraft } from "../packing/shipment.ts"

/** An order as the form of a new quote begins with it: its packages where they are packed, else its items. */
export async function askedOfOrder(work: Work, bench: string) {
  const order = await work
    .db("sales_order")
    .where({ bench_number: bench, warehouse_id: work.warehouse.id })
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
