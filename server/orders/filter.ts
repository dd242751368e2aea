import { addDays, instantAt, type LocalDate, localDate } from "core/calendar/index.ts"
import { isoDay } from "core/calendar/schema.ts"
import { type Stage, stages } from "core/orders/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import type { Context } from "../actors/index.ts"
import { likeInAnyCase } from "../db/words.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** Days that a filter names by their distance from today, so that a kept view stays true tomorrow. */
export const promiseDays = ["past", "today", "tomorrow", "week", "none", "between"] as const
export const receiptDays = ["today", "yesterday", "week", "between"] as const
/** `line`: all that is still to be done; `stopped`: what waits for a person; or one stage. */
export const filterStages = ["line", "stopped", ...stages] as const

const text = (most: number) => z.string().trim().max(most).catch("").default("")
const day = isoDay.or(z.literal("")).catch("").default("")
const oneOf = <T extends readonly [string, ...string[]]>(values: T) =>
  z
    .enum(["", ...values])
    .catch("")
    .default("")

/**
 * What orders are looked for, as it stands in the address of the list and in a kept view. All that is set must hold.
 * What can't be read is left out rather than refused: an address is often typed.
 */
export const orderFilter = z.object({
  /** Beginnings of any words; a whole number finds its order at once. */
  find: text(100),
  stage: oneOf(filterStages),
  /** A customer's code or the beginning of its name. */
  customer: text(60),
  /** Code of a source. */
  source: text(24),
  /** Code of the carrier whose collection the order is to leave with. */
  carrier: text(16),
  country: text(2),
  tag: text(24),
  promised: oneOf(promiseDays),
  promised_from: day,
  promised_to: day,
  received: oneOf(receiptDays),
  received_from: day,
  received_to: day,
})
export type OrderFilter = z.infer<typeof orderFilter>

export const readFilter = (search: URLSearchParams): OrderFilter => orderFilter.parse(Object.fromEntries(search))

/** A filter as the query of an address, without what is not set; the same filter is always the same text. */
export function filterQuery(filter: OrderFilter): string {
  const query = new URLSearchParams()
  for (const name of Object.keys(orderFilter.shape) as (keyof OrderFilter)[])
    if (filter[name]) query.set(name, filter[name])
  return query.toString()
}

/** Days from and to, both included; null is open at that end. */
interface DayRange {
  readonly from: LocalDate | null
  readonly to: LocalDate | null
}

const promiseRange = (filter: OrderFilter, today: LocalDate): DayRange | null =>
  ({
    "": null,
    none: null,
    past: { from: null, to: addDays(today, -1) },
    today: { from: today, to: today },
    tomorrow: { from: addDays(today, 1), to: addDays(today, 1) },
    week: { from: today, to: addDays(today, 6) },
    between: { from: filter.promised_from || null, to: filter.promised_to || null },
  })[filter.promised]

const receiptRange = (filter: OrderFilter, today: LocalDate): DayRange | null =>
  ({
    "": null,
    today: { from: today, to: today },
    yesterday: { from: addDays(today, -1), to: addDays(today, -1) },
    week: { from: addDays(today, -6), to: today },
    between: { from: filter.received_from || null, to: filter.received_to || null },
  })[filter.received]

/** Narrows a query over `sales_order AS o` to what the filter says, but for its words and for what only core can tell. */
export async function narrow(
  { db, now }: Pick<Context, "db" | "now">,
  warehouse: Warehouse,
  filter: OrderFilter,
): Promise<(query: Knex.QueryBuilder) => Knex.QueryBuilder> {
  const today = localDate(now, warehouse.zone)
  const customers = filter.customer ? await customerIds(db, filter.customer) : null
  const source = filter.source ? ((await db("order_source").where({ code: filter.source }).first("id"))?.id ?? 0) : null
  const promised = promiseRange(filter, today)
  const received = receiptRange(filter, today)
  return (query) => {
    query.where("o.warehouse_id", warehouse.id)
    narrowToStage(db, query, filter.stage)
    if (customers) query.whereIn("o.customer_id", customers)
    if (source !== null) query.where("o.source_id", source)
    if (filter.country) query.where("o.country", filter.country.toUpperCase())
    if (filter.tag)
      query.whereExists(
        db("order_tag as t").whereRaw("t.order_id = o.id").where("t.tag", filter.tag).select(db.raw("1")),
      )
    if (filter.carrier)
      query.whereIn(
        "o.collection_id",
        db("collection as c")
          .join("carrier as k", "k.id", "c.carrier_id")
          .where("k.code", filter.carrier)
          .select("c.id"),
      )
    if (filter.promised === "none") query.whereNull("o.promised_on")
    if (promised?.from) query.where("o.promised_on", ">=", promised.from)
    if (promised?.to) query.where("o.promised_on", "<=", promised.to)
    const instants = received ? receiptInstants(received, warehouse.zone) : null
    if (instants?.from) query.where("o.received_at", ">=", instants.from)
    if (instants?.before) query.where("o.received_at", "<", instants.before)
    return query
  }
}

/** Whether an order is what the filter's stage means; the last word, since stages are computed and never stored. */
export function isOfStage(stage: OrderFilter["stage"], order: { stage: Stage; stops: readonly unknown[] }): boolean {
  if (stage === "" || stage === "line") return true
  return stage === "stopped" ? order.stops.length > 0 : order.stage === stage
}

/** What the database can tell of a stage by its indexes: never less than the orders of that stage. */
function narrowToStage(db: Knex, query: Knex.QueryBuilder, stage: OrderFilter["stage"]): void {
  switch (stage) {
    case "":
      return
    case "stopped":
      query.whereNull("o.cancelled_at").whereIn("o.id", db("order_stop").select("order_id"))
      return
    case "cancelled":
      query.whereNotNull("o.cancelled_at")
      return
    case "labelled":
      query
        .whereNull("o.cancelled_at")
        .whereIn(
          "o.id",
          db("package as p")
            .join("shipment as h", "h.id", "p.shipment_id")
            .whereIn("p.state", ["labelled", "on-truck", "left-behind"])
            .select("h.order_id"),
        )
      return
    case "outside":
      query.whereNull("o.cancelled_at").whereIn("o.id", db("outside_order").select("order_id"))
      return
    case "gone":
    case "delivered":
      query.whereNotNull("o.left_line_at").whereNull("o.cancelled_at")
      return
    default:
      query.whereNull("o.left_line_at")
  }
}

async function customerIds(db: Knex, asked: string): Promise<number[]> {
  const exact = await db("customer")
    .where(likeInAnyCase(db, "code", asked.replace(/[\\%_]/g, "\\$&")))
    .pluck("id")
  if (exact.length > 0) return exact
  return db("customer")
    .where("name", "like", `${asked.replace(/[\\%_]/g, "\\$&")}%`)
    .limit(200)
    .pluck("id")
}

const receiptInstants = (range: DayRange, zone: string) => ({
  from: range.from ? instantAt(range.from, "00:00", zone) : null,
  before: range.to ? instantAt(addDays(range.to, 1), "00:00", zone) : null,
})
