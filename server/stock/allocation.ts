import type { ItemId, LineId, OrderId, StockId, WarehouseId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import { type Allocated, allocateStock, type ItemLevel, type StockPlace, type Take } from "core/picking/index.ts"
import type { Knex } from "knex"
import type { AllocationRow } from "../db/tables.ts"

export interface Held {
  readonly quantity: number
  readonly picked: number
}

/** What an order's lines hold of the stock, a row for each place. */
export type HeldRow = Pick<AllocationRow, "id" | "order_line_id" | "stock_id" | "quantity" | "picked"> & {
  readonly item_id: number
}

export async function heldRows(trx: Knex, orderIds: readonly OrderId[]): Promise<Map<number, HeldRow[]>> {
  const rows = await trx("allocation")
    .join("order_line", "order_line.id", "allocation.order_line_id")
    .whereIn("order_id", [...orderIds])
    .select("allocation.id", "order_id", "order_line_id", "stock_id", "item_id", "quantity", "picked")
  return grouped(rows, (row) => row.order_id)
}

/** What each line holds of the stock, and how much of it is picked. */
export function heldByLine(rows: readonly HeldRow[]): Map<number, Held> {
  const lines = new Map<number, Held>()
  for (const row of rows) {
    const before = lines.get(row.order_line_id) ?? { quantity: 0, picked: 0 }
    lines.set(row.order_line_id, {
      quantity: before.quantity + row.quantity,
      picked: before.picked + row.picked,
    })
  }
  return lines
}

/** A place of stock with the item that lies there. */
export type Stock = StockPlace & { readonly itemId: ItemId }

/** What of each item lies where in a warehouse and is not held yet, locked until the transaction ends. */
export async function lockedStock(trx: Knex, warehouseId: WarehouseId, itemIds: readonly ItemId[]): Promise<Stock[]> {
  if (itemIds.length === 0) return []
  // locked in the order of their ids, so that two orders never wait for each other
  const rows = await trx("stock")
    .leftJoin("lot", "lot.id", "stock.lot_id")
    .join("bin", "bin.id", "stock.bin_id")
    .where("stock.warehouse_id", warehouseId)
    .whereIn("stock.item_id", [...new Set(itemIds)])
    .orderBy("stock.id")
    .forUpdate()
    .select(
      "stock.id",
      "stock.item_id",
      "stock.on_hand",
      "stock.allocated",
      "stock.to_count",
      "lot.code as lot",
      "lot.state",
      "lot.expires_on",
      "lot.received_on",
      "bin.code as bin",
      "bin.walk_order",
      "bin.blocked_why",
    )
  return rows.map((row) => ({
    id: row.id,
    itemId: row.item_id,
    bin: row.bin,
    binOrder: row.walk_order,
    blocked: row.blocked_why !== null || !!row.to_count,
    lot:
      row.lot === null
        ? null
        : { code: row.lot, state: row.state, receivedOn: row.received_on, expiresOn: row.expires_on },
    free: row.on_hand - row.allocated,
  }))
}

/** What a line lacks, and how long it must live. */
export interface LineNeed {
  readonly id: number
  readonly itemId: ItemId
  readonly sku: string
  readonly lacking: number
  readonly perCase: number
}

/** Pieces of a whole case of an item: its smallest level above one piece. */
export const perCase = (levels: readonly ItemLevel[]): number => levels.find((level) => level.count > 1)?.count ?? 1

/**
 * What each line of an order would take, one after another so that two lines of one item don't take the same pieces.
 * Nothing is written.
 *
 * @param life the day on which the goods must be good, and the days beyond it that the customer wants
 */
export function allot(
  stock: readonly Stock[],
  lines: readonly LineNeed[],
  life: { readonly usableOn: string; readonly minimumLife: number },
): Map<number, Allocated> {
  const free = new Map(stock.map((place) => [place.id, place.free]))
  const byItem = grouped(stock, (place) => place.itemId)
  return new Map(
    lines.map((line) => {
      const places = (byItem.get(line.itemId) ?? []).map((place) => ({ ...place, free: free.get(place.id) ?? 0 }))
      const found: Allocated =
        line.lacking > 0
          ? allocateStock({ sku: line.sku, quantity: line.lacking, perCase: line.perCase, ...life }, places)
          : { takes: [], lacking: 0, passedOver: [] }
      for (const take of found.takes) free.set(take.stockId, (free.get(take.stockId) ?? 0) - take.quantity)
      return [line.id, found]
    }),
  )
}

/** Writes what lines take of the stock that the caller has locked. */
export const hold = (trx: Knex, taken: ReadonlyMap<number, readonly Take[]>): Promise<void> => exchange(trx, [], taken)

/** Writes that lines give back what they hold and have not picked, and take other pieces; the caller has locked the stock. */
export async function exchange(
  trx: Knex,
  given: readonly HeldRow[],
  taken: ReadonlyMap<number, readonly Take[]>,
): Promise<void> {
  const rows = [...taken].flatMap(([lineId, takes]) =>
    takes.map((take) => ({ order_line_id: lineId, stock_id: take.stockId, quantity: take.quantity })),
  )
  await end(trx, given)
  if (rows.length > 0) await trx("allocation").insert(rows)
  await changeAllocated(trx, [
    ...given.map((row) => [row.stock_id, row.picked - row.quantity] as const),
    ...rows.map((row) => [row.stock_id, row.quantity] as const),
  ])
}

/** Whether lines would take just what they hold: then nothing need be written. */
export function holdsJust(held: readonly HeldRow[], taken: ReadonlyMap<number, readonly Take[]>): boolean {
  const sums = new Map<string, number>()
  const add = (line: number, stock: number, pieces: number) => {
    const key = `${line} ${stock}`
    sums.set(key, (sums.get(key) ?? 0) + pieces)
  }
  for (const row of held) add(row.order_line_id, row.stock_id, row.quantity)
  for (const [line, takes] of taken) for (const take of takes) add(line, take.stockId, -take.quantity)
  return [...sums.values()].every((pieces) => pieces === 0)
}

/**
 * Adds to what is allocated of places of stock, in one statement that locks them in the order of their ids: whoever
 * changes several places does so by this, so that two never wait for each other.
 */
async function changeAllocated(trx: Knex, changes: readonly (readonly [stockId: StockId, pieces: number])[]) {
  const sums = new Map<number, number>()
  for (const [stockId, pieces] of changes) sums.set(stockId, (sums.get(stockId) ?? 0) + pieces)
  const changed = [...sums].filter(([, pieces]) => pieces !== 0).sort(([a], [b]) => a - b)
  if (changed.length === 0) return
  const cases = changed.map(() => "WHEN ? THEN ?").join(" ")
  await trx("stock")
    .whereIn(
      "id",
      changed.map(([id]) => id),
    )
    .orderBy("id")
    .update({ allocated: trx.raw(`CAST(allocated AS SIGNED) + CASE id ${cases} ELSE 0 END`, changed.flat()) })
}

/** Gives back what an order holds and has not picked; the items of which something is free again. */
export async function freeStock(trx: Knex, orderId: OrderId): Promise<number[]> {
  const rows = (await heldRows(trx, [orderId])).get(orderId) ?? []
  await exchange(trx, rows, new Map())
  return freedBy(rows)
}

/** Items of which something is free again when rows are given back. */
export const freedBy = (rows: readonly HeldRow[]): number[] => [
  ...new Set(rows.filter((row) => row.quantity > row.picked).map((row) => row.item_id)),
]

/** Gives back what a line holds and has not picked. */
export async function freeUnpicked(trx: Knex, lineId: LineId): Promise<void> {
  const rows = await trx("allocation").where({ order_line_id: lineId }).whereRaw("quantity > picked")
  await giveBack(trx, rows)
  await end(
    trx,
    rows.filter((row) => row.picked === 0),
  )
  const begun = rows.filter((row) => row.picked > 0).map((row) => row.id)
  if (begun.length > 0)
    await trx("allocation")
      .whereIn("id", begun)
      .update({ quantity: trx.ref("picked") })
}

type GivenRow = Pick<AllocationRow, "id" | "stock_id" | "quantity" | "picked">

const giveBack = (trx: Knex, rows: readonly GivenRow[]): Promise<void> =>
  changeAllocated(
    trx,
    rows.map((row) => [row.stock_id, row.picked - row.quantity]),
  )

async function end(trx: Knex, rows: readonly Pick<GivenRow, "id">[]): Promise<void> {
  if (rows.length === 0) return
  await trx("allocation")
    .whereIn(
      "id",
      rows.map((row) => row.id),
    )
    .delete()
}
