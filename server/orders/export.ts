import { localDate, localTime } from "core/calendar/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { type CsvRow, csvRows, csvText } from "../formats/csvOut.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import type { OrderFilter } from "./filter.ts"
import { findOrders } from "./list.ts"
import { tagsOf } from "./marks.ts"

const columns = [
  "order",
  "stage",
  "stopped",
  "customer",
  "purchase_order",
  "source",
  "source_number",
  "company",
  "city",
  "state",
  "postal_code",
  "country",
  "promised_on",
  "received_on",
  "lines",
  "pieces",
  "carrier",
  "leaves_on",
  "leaves_at",
  "tags",
  "notes",
  "tracking",
] as const

/** How stages and reasons are said in the file. */
export interface Words {
  readonly stage: (stage: string) => string
  readonly reasons: (reasons: readonly Reason[]) => string
}

/** The orders that a filter finds as CSV, newest first, part by part, so that a large list needs no memory. */
export async function* exportOrders(
  context: Context,
  warehouse: Warehouse,
  filter: OrderFilter,
  words: Words,
): AsyncGenerator<string> {
  authorise(context.actor, "orders.see")
  const { db } = context
  let head = true
  for (let before: number | null = null; ; ) {
    const page = await findOrders(context, warehouse, filter, before, 500)
    const ids = page.orders.map((order) => order.id)
    const [rows, tags, notes, tracking] = await Promise.all([
      db("sales_order as o")
        .join("order_source as s", "s.id", "o.source_id")
        .leftJoin("collection as c", "c.id", "o.collection_id")
        .leftJoin("carrier as k", "k.id", "c.carrier_id")
        .whereIn("o.id", ids)
        .select("o.*", "s.name as source_name", "k.name as carrier", "c.cut_off"),
      tagsOf(db, ids),
      db("order_note").whereIn("order_id", ids).whereNull("dropped_at").orderBy("id").select("order_id", "text"),
      db("package as p")
        .join("shipment as h", "h.id", "p.shipment_id")
        .whereIn("h.order_id", ids)
        .whereNot("p.state", "void")
        .whereNotNull("p.tracking")
        .orderBy("p.number")
        .select("h.order_id", "p.tracking"),
    ])
    const rowOf = new Map(rows.map((row) => [row.id, row]))
    const joined = (list: readonly { order_id: number }[], id: number, name: "text" | "tracking") =>
      list
        .filter((one) => one.order_id === id)
        .map((one) => (one as unknown as Record<string, string>)[name])
        .join("; ")
    const part = page.orders.map((order): CsvRow => {
      const row = rowOf.get(order.id)
      return {
        order: order.orderNumber,
        stage: words.stage(order.stage),
        stopped: words.reasons(order.stops),
        customer: order.customer,
        purchase_order: order.poNumber,
        source: row.source_name,
        source_number: order.sourceNumber,
        company: row.company,
        city: row.city,
        state: row.state,
        postal_code: row.postal_code,
        country: row.country,
        promised_on: order.promisedOn,
        received_on: localDate(order.receivedAt, warehouse.zone),
        lines: order.lines,
        pieces: order.facts.ordered,
        carrier: row.carrier,
        leaves_on: row.cut_off ? localDate(row.cut_off, warehouse.zone) : null,
        leaves_at: row.cut_off ? localTime(row.cut_off, warehouse.zone) : null,
        tags: (tags.get(order.id) ?? []).join(", "),
        notes: [row.notes, joined(notes, order.id, "text")].filter(Boolean).join("; "),
        tracking: joined(tracking, order.id, "tracking"),
      }
    })
    if (head) yield csvText(columns, part)
    else if (part.length > 0) yield csvRows(columns, part)
    head = false
    if (page.next === null) return
    before = page.next
  }
}
