import type { LocalDate } from "core/calendar/index.ts"
import type { WarehouseId } from "core/ids/index.ts"
import { totesFor } from "core/picking/index.ts"
import { size, volumeIn } from "core/units/index.ts"
import type { Knex } from "knex"

/** What runs can be put together by. */
export const groupings = ["all", "collection", "carrier", "zone", "customer", "item", "single", "hand"] as const
export type Grouping = (typeof groupings)[number]

/** An order that has something to be picked and is in no open run. */
export interface Candidate {
  readonly id: number
  readonly orderNumber: string
  readonly customer: string
  readonly promisedOn: LocalDate | null
  readonly collection: {
    readonly id: number
    readonly door: string
    readonly cutOff: Date
    readonly carrier: string
  } | null
  /** What is to be taken, by bin. */
  readonly stops: readonly {
    readonly bin: string
    readonly zone: string
    readonly sku: string
    readonly quantity: number
    readonly litres: number
    readonly kilograms: number
  }[]
}

/** Orders of a warehouse that can go into a run, in the order in which they must leave. */
export async function runCandidates(db: Knex, warehouseId: WarehouseId): Promise<Candidate[]> {
  const rows = await db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("sales_order as o", "o.id", "l.order_id")
    .join("stock as s", "s.id", "a.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .join("item as i", "i.id", "s.item_id")
    .leftJoin("collection as c", "c.id", "o.collection_id")
    .leftJoin("carrier as k", "k.id", "c.carrier_id")
    .where("o.warehouse_id", warehouseId)
    .whereNull("o.left_line_at")
    .whereNull("a.run_id")
    .whereRaw("a.picked < a.quantity")
    .whereNotExists(db("order_stop as t").whereRaw("t.order_id = o.id"))
    .orderByRaw("c.cut_off IS NULL, c.cut_off, o.priority DESC, o.received_at, o.id, b.walk_order")
    .select(
      "o.id",
      "o.order_number",
      "o.customer_name",
      "o.promised_on",
      "c.id as collection_id",
      "c.door",
      "c.cut_off",
      "k.name as carrier",
      "b.code as bin",
      "b.zone",
      "i.sku",
      "i.length_mm",
      "i.width_mm",
      "i.height_mm",
      "i.weight_kg",
      db.raw("a.quantity - a.picked AS quantity"),
    )
  const found = new Map<number, Omit<Candidate, "stops"> & { stops: Candidate["stops"][number][] }>()
  for (const row of rows) {
    const order: Omit<Candidate, "stops"> & { stops: Candidate["stops"][number][] } = found.get(row.id) ?? {
      id: row.id,
      orderNumber: row.order_number,
      customer: row.customer_name,
      promisedOn: row.promised_on,
      collection: row.collection_id
        ? { id: row.collection_id, door: row.door, cutOff: row.cut_off, carrier: row.carrier }
        : null,
      stops: [],
    }
    found.set(row.id, order)
    const quantity = Number(row.quantity)
    const cubicCentimetres = volumeIn(size(row.length_mm, row.width_mm, row.height_mm, "mm"), "cm").toNumber()
    order.stops.push({
      bin: row.bin,
      zone: row.zone,
      sku: row.sku,
      quantity,
      litres: (quantity * cubicCentimetres) / 1_000,
      kilograms: quantity * Number(row.weight_kg ?? 0),
    })
  }
  return [...found.values()]
}

/** Values that candidates can be told apart by, with how many orders have each. */
export function groupsOf(
  candidates: readonly Candidate[],
  by: Grouping,
): { value: string; label: string; orders: number }[] {
  const groups = new Map<string, { value: string; label: string; orders: Set<number> }>()
  const put = (value: string, label: string, order: number) => {
    const group = groups.get(value) ?? { value, label, orders: new Set<number>() }
    groups.set(value, group)
    group.orders.add(order)
  }
  for (const one of candidates) {
    if (by === "collection" && one.collection) put(String(one.collection.id), one.collection.door, one.id)
    if (by === "carrier" && one.collection) put(one.collection.carrier, one.collection.carrier, one.id)
    if (by === "customer") put(one.customer, one.customer, one.id)
    if (by === "zone") for (const stop of one.stops) put(stop.zone, stop.zone, one.id)
    if (by === "item") for (const stop of one.stops) put(stop.sku, stop.sku, one.id)
  }
  return [...groups.values()].map((group) => ({ ...group, orders: group.orders.size }))
}

/** Candidates of one group; by zone with only the stops that lie there. */
export function inGroup(
  candidates: readonly Candidate[],
  by: Grouping,
  value: string,
  chosen: readonly number[],
): Candidate[] {
  switch (by) {
    case "all":
      return [...candidates]
    case "single":
      return candidates.filter(isSingle)
    case "hand":
      return candidates.filter((one) => chosen.includes(one.id))
    case "collection":
      return candidates.filter((one) => String(one.collection?.id ?? "") === value)
    case "carrier":
      return candidates.filter((one) => one.collection?.carrier === value)
    case "customer":
      return candidates.filter((one) => one.customer === value)
    case "item":
      return candidates.filter((one) => one.stops.some((stop) => stop.sku === value))
    case "zone":
      return candidates.flatMap((one) => {
        const stops = one.stops.filter((stop) => stop.zone === value)
        return stops.length > 0 ? [{ ...one, stops }] : []
      })
  }
}

/** An order of one item, which is picked together with others and told apart at the bench. */
export const isSingle = (one: Candidate): boolean => new Set(one.stops.map((stop) => stop.sku)).size === 1

/** A candidate as runs are built from it. */
export function runOrderOf(one: Candidate, toteLitres: number | null) {
  const litres = one.stops.reduce((sum, stop) => sum + stop.litres, 0)
  return {
    id: one.id,
    bins: [...new Set(one.stops.map((stop) => stop.bin))],
    litres,
    kilograms: one.stops.reduce((sum, stop) => sum + stop.kilograms, 0),
    totes: toteLitres === null ? 1 : totesFor(litres, toteLitres),
  }
}
