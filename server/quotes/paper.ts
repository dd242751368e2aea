import { addressLines } from "core/address/index.ts"
import { localDate } from "core/calendar/index.ts"
import type { QuoteModel } from "../pdf/quote.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import type { Quote } from "./index.ts"

/** A quote as its paper says it; `known` services only, and of them what the customer pays. */
export function quoteModel(warehouse: Warehouse, quote: Quote): QuoteModel {
  const { asked, quoted, customer } = quote
  const lines = addressLines(asked.shipTo).filter(Boolean)
  return {
    number: quote.number,
    date: localDate(quote.madeAt, warehouse.zone),
    validUntil: quote.validUntil,
    seller: warehouse.sender,
    customer: lines[0] === customer.name || !customer.name ? lines : [customer.name, ...lines],
    goods:
      asked.packages.length > 0
        ? asked.packages.map(
            (one) =>
              `${one.count} ${one.pallet ? "pallet" : "package"}${one.count === 1 ? "" : "s"}, ${one.weight} ${one.weightUnit}, ` +
              `${one.length} × ${one.width} × ${one.height} ${one.lengthUnit}${one.freightClass ? `, class ${one.freightClass}` : ""}`,
          )
        : asked.lines.map((one) => `${one.quantity} × ${one.sku}`),
    options: asked.options.map((option) => option.replaceAll("-", " ")),
    currency: quoted.currency,
    services: quoted.services.flatMap((one) =>
      one.charged !== null && one.arrives
        ? [
            {
              name: `${one.carrier}, ${one.name}`,
              arrives: `${one.arrives.date} by ${one.arrives.time}`,
              charged: one.charged,
            },
          ]
        : [],
    ),
    note: asked.note,
  }
}
