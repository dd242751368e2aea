import type { BinId, ItemId, LotId, OrderId, StockId, WarehouseId } from "core/ids/index.ts"
import { sameCode } from "core/picking/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { newId, there } from "../db/there.ts"

export type Cause =
  | "opening"
  | "receipt"
  | "pick"
  | "put-back"
  | "transfer"
  | "adjustment"
  | "count"
  | "return"
  | "scrap"

export interface Movement {
  readonly stockId: StockId
  /** Pieces that come (positive) or go (negative). */
  readonly quantity: number
  readonly cause: Cause
  /** How the pieces that orders hold here change with it; a pick takes what was held. */
  readonly allocated?: number
  readonly orderId?: OrderId | null
  readonly note?: string
  /** Made by the client; the same one on the same stock counts once. */
  readonly key?: string | null
}

/**
 * Moves stock, in the caller's transaction: the only way in which what lies in a bin changes. Answers false, with nothing
 * changed, where less would be left than orders hold there, or less than nothing; and "before", with nothing changed, for
 * a key that has been.
 */
export async function moveStock(
  trx: Knex,
  { actor, now }: { readonly actor: Pick<Actor, "userId">; readonly now: Date },
  movement: Movement,
): Promise<boolean | "before"> {
  const { stockId, quantity, allocated = 0, key = null } = movement
  if (key && (await trx("stock_movement").where({ move_key: key, stock_id: stockId }).first("id"))) return "before"
  const changed = await trx("stock")
    .where({ id: stockId })
    .whereRaw("on_hand + ? >= 0 AND allocated + ? >= 0 AND on_hand + ? >= allocated + ?", [
      quantity,
      allocated,
      quantity,
      allocated,
    ])
    .update({ on_hand: trx.raw("on_hand + ?", [quantity]), allocated: trx.raw("allocated + ?", [allocated]) })
  if (changed === 0) return false
  if (brings.has(movement.cause) && quantity > 0) await noteMost(trx, stockId)
  await trx("stock_movement").insert({
    stock_id: stockId,
    quantity,
    cause: movement.cause,
    at: now,
    user_id: actor.userId,
    order_id: movement.orderId ?? null,
    note: (movement.note ?? "").slice(0, 120),
    move_key: key,
  })
  return true
}

/** Causes by which there may be more of an item than there ever was. */
const brings: ReadonlySet<Cause> = new Set(["opening", "receipt", "adjustment", "count", "return"])

/** Keeps the most that ever lay of an item, in all warehouses together. */
async function noteMost(trx: Knex, stockId: StockId): Promise<void> {
  const { item_id: itemId } = there(await trx("stock").where({ id: stockId }).first("item_id"))
  const { pieces } = (await trx("stock").where({ item_id: itemId }).sum({ pieces: "on_hand" }).first()) ?? {}
  await trx("item")
    .where({ id: itemId })
    .where("most_on_hand", "<", Number(pieces))
    .update({ most_on_hand: Number(pieces) })
}

/** A bin of a warehouse by its code as somebody typed it; null: there is none. */
export async function binOf(
  trx: Knex,
  warehouseId: WarehouseId,
  code: string,
): Promise<{ readonly id: BinId; readonly code: string; readonly purpose: "inspection" | "repair" | null } | null> {
  const columns = ["id", "code", "purpose"] as const
  const exact = await trx("bin")
    .where({ warehouse_id: warehouseId, code })
    .first(...columns)
  if (exact) return exact
  const all = await trx("bin")
    .where({ warehouse_id: warehouseId })
    .select(...columns)
  return all.find((bin) => sameCode(bin.code, code)) ?? null
}

/**
 * The row of an item (and lot) in a bin, locked; made with nothing in it where there is none. The bin is locked first, so
 * that two who receive at once make one row.
 */
export async function stockRow(
  trx: Knex,
  at: {
    readonly warehouseId: WarehouseId
    readonly binId: BinId
    readonly itemId: ItemId
    readonly lotId: LotId | null
  },
): Promise<number> {
  await trx("bin").where({ id: at.binId }).forUpdate().first("id")
  const there = await trx("stock")
    .where({ bin_id: at.binId, item_id: at.itemId, lot_id: at.lotId })
    .orderBy("id")
    .forUpdate()
    .first("id")
  if (there) return there.id
  const row = { warehouse_id: at.warehouseId, bin_id: at.binId, item_id: at.itemId, lot_id: at.lotId, on_hand: 0 }
  return newId(await trx("stock").insert(row))
}

export interface Unreconciled {
  readonly bin: string
  readonly sku: string
  readonly lot: string | null
  readonly onHand: number
  readonly moved: number
  readonly allocated: number
  readonly held: number
}

/**
 * Places whose stock is not the sum of its movements, or whose held pieces are not those of the allocations; none on a
 * sound database. Of all warehouses and places, or of some: a page asks about those that it shows.
 */
export async function reconcileStock(
  db: Knex,
  { warehouseId, stockIds }: { readonly warehouseId?: WarehouseId; readonly stockIds?: readonly StockId[] } = {},
): Promise<Unreconciled[]> {
  const of = <Row extends object, Result>(query: Knex.QueryBuilder<Row, Result>) =>
    stockIds === undefined ? query : query.whereIn("stock_id", [...stockIds])
  const rows = await db("stock as s")
    .join("bin as b", "b.id", "s.bin_id")
    .join("item as i", "i.id", "s.item_id")
    .leftJoin("lot as l", "l.id", "s.lot_id")
    .leftJoin(
      of(db("stock_movement")).groupBy("stock_id").select("stock_id").sum({ moved: "quantity" }).as("m"),
      "m.stock_id",
      "s.id",
    )
    .leftJoin(
      of(db("allocation")).groupBy("stock_id").select("stock_id", db.raw("SUM(quantity - picked) AS held")).as("a"),
      "a.stock_id",
      "s.id",
    )
    .where((query) => warehouseId !== undefined && query.where("s.warehouse_id", warehouseId))
    .where((query) => stockIds !== undefined && query.whereIn("s.id", [...stockIds]))
    .whereRaw("(s.on_hand <> COALESCE(m.moved, 0) OR s.allocated <> COALESCE(a.held, 0))")
    .orderBy("b.code")
    .select("b.code as bin", "i.sku", "l.code as lot", "s.on_hand", "m.moved", "s.allocated", "a.held")
  return rows.map((row) => ({
    bin: row.bin,
    sku: row.sku,
    lot: row.lot,
    onHand: row.on_hand,
    moved: Number(row.moved ?? 0),
    allocated: row.allocated,
    held: Number(row.held ?? 0),
  }))
}
