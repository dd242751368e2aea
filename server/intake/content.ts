import { tidyPostalCode } from "core/address/index.ts"
import type { CustomerId, ItemId, OrderId } from "core/ids/index.ts"
import { coded, type Reason, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { NewSalesOrderRow } from "../db/tables.ts"
import type { OrderRow, Reference } from "../formats/orderRow.ts"
import { customerNamed } from "../setup/customerNamed.ts"

/** A line of an order as its source sent it, in base units. */
export interface ContentLine {
  readonly itemId: ItemId
  readonly sku: string
  readonly description: string
  readonly ordered: number
  readonly unit: string
  readonly unitPrice: string | null
}

/** The columns of an order that its source says; how it stands in the house is not among them. */
export type OrderHead = Omit<
  NewSalesOrderRow,
  "warehouse_id" | "source_id" | "source_number" | "order_number" | "received_at" | "content_hash"
>

/** What an order says: the columns of its own row, its lines and its references. */
export interface OrderContent {
  readonly head: OrderHead
  readonly lines: readonly ContentLine[]
  readonly references: readonly Reference[]
}

/** The content of an order from its good rows: the head from the first, a line from each. Throws without a row. */
export async function contentOf(
  trx: Knex,
  rows: readonly OrderRow[],
  refusals: readonly Reason[],
): Promise<OrderContent> {
  const first = rows[0]
  if (!first) throw new Error("an order without a good row has no content")
  const customer = await customerNamed(trx, first.customer)
  const known = customer ? await knownAddress(trx, customer.id, first) : null
  return {
    head: {
      customer_id: customer?.id ?? null,
      customer_name: customer?.name ?? first.customer,
      po_number: first.po_number,
      ordered_on: first.ordered_on,
      promised_on: first.promised_on || null,
      ship_on: first.ship_on || null,
      service_asked: first.service_asked ?? "",
      freight_paid: first.freight_paid || null,
      company: first.company || first.customer,
      attention: first.attention,
      street: first.street,
      street2: first.street2,
      city: first.city,
      state: first.state,
      postal_code: tidyPostalCode(first.country, first.postal_code),
      country: first.country,
      phone: first.phone,
      address_kind: knownKind(first.address_kind) ?? known?.address_kind ?? "unknown",
      // what the directory is sure of is sure here too, unless the source says otherwise
      kind_confirmed:
        !!known?.kind_confirmed && (knownKind(first.address_kind) ?? known.address_kind) === known.address_kind,
      building: known?.building ?? "",
      instructions: known?.instructions ?? "",
      opening_hours: known?.opening_hours ?? "",
      dock: known?.dock ?? "unknown",
      forklift: known?.forklift ?? "unknown",
      notes: first.notes,
      incoterm: first.incoterm ?? "",
      incoterm_place: first.incoterm_place ?? "",
      currency: first.currency ?? "USD",
      source_state: first.source_state ?? "",
      record_url: first.record_url ?? "",
      refused_rows: JSON.stringify(refusals),
    },
    lines: await linesOf(trx, rows),
    references: referencesOf(rows),
  }
}

/** A kind that the source says; "unknown" says nothing. */
const knownKind = (kind: string) => (["business", "residential"] as const).find((one) => one === kind) ?? null

/** The customer's address in the directory that the order goes to, if it is there. */
async function knownAddress(trx: Knex, customerId: CustomerId, row: OrderRow) {
  return trx("address_book")
    .where({
      customer_id: customerId,
      street: row.street,
      postal_code: tidyPostalCode(row.country, row.postal_code),
      country: row.country,
    })
    .orderBy("id")
    .first("address_kind", "kind_confirmed", "building", "instructions", "opening_hours", "dock", "forklift")
}

async function linesOf(trx: Knex, rows: readonly OrderRow[]): Promise<ContentLine[]> {
  const found = await trx("item")
    .join("item_level", "item_level.item_id", "item.id")
    .whereIn("sku", [...new Set(rows.map((row) => row.sku))])
    .select("item.id", "item.sku", "item.description", "item_level.name", "item_level.quantity")
  const levels = new Map(found.map((one) => [`${one.sku}\n${one.name}`, one]))
  return rows.map((row) => {
    const level = levels.get(`${row.sku}\n${row.unit}`)
    if (!level) throw new Error(coded(reason("intake.unit-gone", { sku: row.sku, unit: row.unit })))
    return {
      itemId: level.id,
      sku: level.sku,
      description: level.description,
      ordered: row.quantity * level.quantity,
      unit: row.unit,
      unitPrice: row.unit_price || null,
    }
  })
}

/** The references that the rows name, each name once: what the first row with it says. */
function referencesOf(rows: readonly OrderRow[]): Reference[] {
  const found = new Map<string, Reference>()
  const add = (name: string, value: string | undefined, printed: boolean) => {
    if (value && !found.has(name)) found.set(name, { name, value, printed })
  }
  for (const row of rows) {
    add("Reference", row.reference, true)
    add("Cost centre", row.cost_centre, false)
    for (const one of row.references ?? []) add(one.name, one.value, one.printed)
  }
  return [...found.values()]
}

/** Writes the lines and references of an order that has none. */
export async function insertLines(trx: Knex, orderId: OrderId, content: Pick<OrderContent, "lines">): Promise<void> {
  if (content.lines.length === 0) return
  await trx("order_line").insert(
    content.lines.map((line, index) => ({
      order_id: orderId,
      line_number: index + 1,
      item_id: line.itemId,
      ordered: line.ordered,
      unit: line.unit,
      unit_price: line.unitPrice,
    })),
  )
}

export async function putReferences(
  trx: Knex,
  orderId: OrderId,
  references: readonly Reference[],
  fresh = false,
): Promise<void> {
  if (!fresh) await trx("order_reference").where({ order_id: orderId }).delete()
  if (references.length > 0)
    await trx("order_reference").insert(references.map((one) => ({ order_id: orderId, ...one })))
}
