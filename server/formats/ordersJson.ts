import { isoDay } from "core/calendar/schema.ts"
import { z } from "zod"
import { type ReadRow, readRow, rowRefusal } from "./orderRow.ts"

const text = (max: number, description: string) => z.string().max(max).describe(description)
const optional = (max: number, description: string) => text(max, description).optional()

/** An order as other systems send it in JSON, at `/api/v1/orders` and from a source that is asked. */
export const orderDocument = z
  .strictObject({
    number: text(40, "The sender's number for the order; the same number again is the same order.").min(1),
    purchaseOrder: optional(40, "The customer's purchase-order number."),
    orderedOn: isoDay.describe("Date of the order."),
    promisedOn: isoDay.optional().describe("Date by which it must arrive."),
    customer: text(60, "Name or code of the customer.").min(1),
    shipTo: z.strictObject({
      company: optional(60, "Falls back to the customer's name."),
      attention: optional(60, "Person or department."),
      street: text(60, "Street and number."),
      street2: optional(60, "Second line."),
      city: text(40, "City."),
      state: optional(6, "State or province, such as MN; needed in the United States and Canada."),
      postalCode: text(12, "Postal code."),
      country: z
        .string()
        .regex(/^[A-Z]{2}$/)
        .default("US")
        .describe("ISO 3166-1 alpha-2."),
      phone: optional(24, "Telephone; needed abroad."),
      kind: z.enum(["unknown", "business", "residential"]).default("unknown"),
    }),
    incoterm: optional(3, "Incoterms 2020 rule; needed abroad."),
    incotermPlace: optional(60, "The named place of the rule."),
    currency: z
      .string()
      .regex(/^[A-Z]{3}$/)
      .default("USD")
      .describe("ISO 4217, of the unit prices."),
    notes: optional(500, "For the clerk."),
    shipOn: isoDay.optional().describe("Date on which the customer asked it to leave."),
    serviceAsked: optional(24, "Code or name of the service that the customer asked for."),
    freightPaid: z
      .string()
      .regex(/^\d{1,9}(\.\d{1,2})?$/)
      .optional()
      .describe("What the customer paid for freight, in the order's currency, as text."),
    reference: optional(60, "The customer's own reference, printed on the label."),
    costCentre: optional(60, "A reference for the files, not printed."),
    references: z
      .array(
        z.strictObject({
          name: text(30, "What the reference is called.").regex(/^[^=+@\s][^\n]*$/),
          value: text(60, "The reference."),
          printed: z.boolean().default(false).describe("Whether it stands on the label."),
        }),
      )
      .max(6)
      .optional(),
    state: optional(40, "The order's state in the sender's own words; which of them ship is set up for each source."),
    recordUrl: z
      .string()
      .max(300)
      .regex(/^https?:\/\/[^\s"<>]+$/)
      .optional()
      .describe("Where the sender shows its own record."),
    lines: z
      .array(
        z.strictObject({
          sku: optional(24, "Item; or its GTIN."),
          gtin: optional(14, "GTIN of a level of packaging, instead of item and unit."),
          quantity: z.number().int().min(1).max(999_999),
          unit: optional(16, "Level of packaging: each, case …"),
          unitPrice: z
            .string()
            .regex(/^\d{1,9}(\.\d{1,4})?$/)
            .optional()
            .describe("Price of one unit, as text."),
        }),
      )
      .min(1)
      .max(500),
  })
  .describe("A sales order.")
export type OrderDocument = z.infer<typeof orderDocument>

/** The rows of an order that has the shape; refusals name the place in the document. */
export function rowsOfOrder(order: OrderDocument, from = 1): ReadRow[] {
  const { shipTo } = order
  const head = {
    order_number: order.number,
    po_number: order.purchaseOrder,
    ordered_on: order.orderedOn,
    promised_on: order.promisedOn,
    customer: order.customer,
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
    incoterm: order.incoterm,
    incoterm_place: order.incotermPlace,
    currency: order.currency,
    notes: order.notes,
    ship_on: order.shipOn,
    service_asked: order.serviceAsked,
    freight_paid: order.freightPaid,
    reference: order.reference,
    cost_centre: order.costCentre,
    source_state: order.state,
    record_url: order.recordUrl,
    ...Object.fromEntries(
      (order.references ?? []).map((one) => [`reference${one.printed ? "+" : "-"}${one.name}`, one.value]),
    ),
  }
  return order.lines.map((line, index) =>
    readRow(
      {
        ...head,
        sku: line.sku,
        gtin: line.gtin,
        quantity: String(line.quantity),
        unit: line.unit,
        unit_price: line.unitPrice,
      },
      from + index,
    ),
  )
}

/** The rows of anything that claims to be an order: of one without the shape a refused row for each fault. */
export function rowsOfAnything(value: unknown, from = 1): ReadRow[] {
  const order = orderDocument.safeParse(value)
  if (order.success) return rowsOfOrder(order.data, from).map((row) => ({ ...row, document: from }))
  const number = z.object({ number: z.string().max(40) }).safeParse(value)
  const raw = { order_number: number.success ? number.data.number : "" }
  return [
    {
      line: from,
      raw,
      row: null,
      refusals: order.error.issues
        .slice(0, 20)
        .map((issue) => rowRefusal(from, issue.path.join("."), "json-shape", issue.message)),
    },
  ]
}

/** Whether a JSON text has at most so many values, told by its commas before anything is parsed. */
export function valuesAtMost(json: string, most: number): boolean {
  let values = 1
  for (let at = json.indexOf(","); at >= 0; at = json.indexOf(",", at + 1)) {
    values += 1
    if (values > most) return false
  }
  return true
}

/** Whether brackets are nested no deeper than `most`, told from the text before anything is parsed. */
export function nestedAtMost(json: string, most: number): boolean {
  let depth = 0
  let inText = false
  for (let i = 0; i < json.length; i += 1) {
    const sign = json[i]
    if (inText) {
      if (sign === "\\") i += 1
      else if (sign === '"') inText = false
    } else if (sign === '"') inText = true
    else if (sign === "{" || sign === "[") {
      depth += 1
      if (depth > most) return false
    } else if (sign === "}" || sign === "]") depth -= 1
  }
  return true
}
