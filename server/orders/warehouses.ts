import { kilometres, type Place } from "core/address/index.ts"
import type { LineId, OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { placeOfPostalCode } from "../addresses/places.ts"

/** What a warehouse has of an order, and how far it is from where the order goes. */
/** Pieces of an item at a warehouse. */
interface Count {
  readonly warehouse_id: number
  readonly item_id: number
  readonly n: number
}

export interface WarehouseFit {
  readonly id: number
  readonly name: string
  /** Lines that it can ship whole. */
  readonly has: number
  readonly lines: number
  /** What it lacks, in base units. */
  readonly missing: readonly {
    readonly sku: string
    readonly lineId: LineId
    readonly ordered: number
    readonly free: number
  }[]
  /** Along the great circle; null where no open data tell where one of the two lies. */
  readonly km: number | null
}

interface Needed {
  readonly id: number
  readonly item_id: number
  readonly sku: string
  readonly ordered: number
}

/**
 * Every warehouse at work with what it has for the lines of an order: the one that has it all first, the nearest of
 * those; then the one that has most. What the order itself holds counts as free.
 */
export async function warehouseFits(
  db: Knex,
  order: { readonly id: number | null; readonly country: string; readonly postal_code: string },
  lines: readonly Needed[],
): Promise<WarehouseFit[]> {
  const warehouses = await db("warehouse").where({ at_work: true }).orderBy("id")
  const items = [...new Set(lines.map((line) => line.item_id))]
  const stock = await db("stock")
    .whereIn("item_id", items)
    .groupBy("warehouse_id", "item_id")
    .select<Count[]>("warehouse_id", "item_id", db.raw("SUM(on_hand - allocated) AS n"))
  const held = order.id
    ? await db("allocation as a")
        .join("order_line as l", "l.id", "a.order_line_id")
        .join("stock as s", "s.id", "a.stock_id")
        .where("l.order_id", order.id)
        .groupBy("s.warehouse_id", "s.item_id")
        .select<Count[]>("s.warehouse_id", "s.item_id", db.raw("SUM(a.quantity - a.picked) AS n"))
    : []
  const to = placeOfPostalCode(order.country, order.postal_code)
  const fits = warehouses.map((warehouse): WarehouseFit => {
    const of = (rows: readonly Count[], item: number) =>
      Number(rows.find((row) => row.warehouse_id === warehouse.id && row.item_id === item)?.n ?? 0)
    const left = new Map(items.map((item) => [item, of(stock, item) + of(held, item)]))
    const missing = lines.flatMap((line) => {
      const free = Math.max(0, left.get(line.item_id) ?? 0)
      left.set(line.item_id, free - line.ordered)
      return free >= line.ordered ? [] : [{ sku: line.sku, lineId: line.id, ordered: line.ordered, free }]
    })
    return {
      id: warehouse.id,
      name: warehouse.name,
      has: lines.length - missing.length,
      lines: lines.length,
      missing,
      km: distance(placeOfPostalCode(warehouse.country, warehouse.postal_code), to),
    }
  })
  return fits.sort(
    (a, b) => b.has - a.has || (a.km ?? Number.POSITIVE_INFINITY) - (b.km ?? Number.POSITIVE_INFINITY) || a.id - b.id,
  )
}

const distance = (from: Place | null, to: Place | null): number | null =>
  from && to ? Math.round(kilometres(from, to)) : null

/** Whether one warehouse with some of an order and another with the rest can ship it together. */
export function canSplit(here: WarehouseFit, there: WarehouseFit): boolean {
  const some = here.has > 0 || here.missing.some((one) => one.free > 0)
  return some && here.missing.length > 0 && lackingThere(here, there) === null
}

/** What the other warehouse lacks of what one lacks; null where it has enough. */
export const lackingThere = (here: WarehouseFit, there: WarehouseFit): string | null =>
  here.missing.find((one) => {
    const short = there.missing.find((other) => other.lineId === one.lineId)
    return short !== undefined && short.free < one.ordered - one.free
  })?.sku ?? null

/** The lines of an order as warehouses are asked for them. */
export const neededOf = (db: Knex, orderId: OrderId): Promise<Needed[]> =>
  db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .select("l.id", "l.item_id", "i.sku", "l.ordered") as unknown as Promise<Needed[]>

/** The nearest warehouse that can ship an order whole, or null where none can. */
export async function nearestWithAll(
  db: Knex,
  order: { readonly country: string; readonly postal_code: string },
  lines: readonly { readonly item_id: number; readonly ordered: number }[],
): Promise<number | null> {
  const needed = lines.map((line, id) => ({ ...line, id, sku: "" }))
  const [best] = await warehouseFits(db, { ...order, id: null }, needed)
  return best && best.missing.length === 0 ? best.id : null
}
