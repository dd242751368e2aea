import type { CartId, ItemId, UserId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { openRuns } from "../orders/membership.ts"

export interface CartRow {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly totes: number
  readonly toteLitres: number | null
  readonly litres: number | null
  readonly kilograms: number | null
  /** The number of the run that has it now. */
  readonly busyWith: number | null
}

export async function carts(db: Knex, warehouseId: WarehouseId): Promise<CartRow[]> {
  const rows = await db("cart as c")
    .where({ "c.warehouse_id": warehouseId, "c.active": true })
    .orderBy("c.code")
    .select(
      "c.*",
      db.raw("(SELECT COUNT(*) FROM tote t WHERE t.cart_id = c.id) AS totes"),
      db.raw("(SELECT MIN(t.litres) FROM tote t WHERE t.cart_id = c.id) AS tote_litres"),
      db.raw("(SELECT MIN(r.number) FROM pick_run r WHERE r.cart_id = c.id AND r.state IN ('picking','left')) AS busy"),
    )
  return rows.map((row) => ({
    id: row.id,
    code: row.code,
    name: row.name,
    totes: Number(row.totes),
    toteLitres: row.tote_litres === null ? null : Number(row.tote_litres),
    litres: row.litres === null ? null : Number(row.litres),
    kilograms: row.kilograms === null ? null : Number(row.kilograms),
    busyWith: row.busy,
  }))
}

export interface RunRow {
  readonly id: number
  readonly number: number
  readonly kind: "orders" | "single"
  readonly label: string
  readonly zone: string | null
  readonly state: "ready" | "picking" | "left" | "done" | "dropped"
  readonly cart: string | null
  readonly cartId: CartId | null
  readonly holder: string | null
  readonly holderId: UserId | null
  readonly people: readonly string[]
  readonly orders: number
  readonly pieces: number
  readonly picked: number
  readonly stops: number
  readonly stopsDone: number
  readonly metres: number | null
  readonly apartMetres: number | null
  readonly begunAt: Date | null
  readonly leavesAt: Date | null
}

/** Runs of a warehouse, the one that leaves first on top: those still to be walked, or all of a number. */
export async function runs(
  db: Knex,
  warehouseId: WarehouseId,
  only: { number: number } | null = null,
): Promise<RunRow[]> {
  const rows = await db("pick_run as r")
    .leftJoin("cart as c", "c.id", "r.cart_id")
    .leftJoin("user as u", "u.id", "r.holder_id")
    .where("r.warehouse_id", warehouseId)
    .where((query) => void (only ? query.where("r.number", only.number) : query.whereIn("r.state", [...openRuns])))
    .orderBy("r.number")
    .limit(200)
    .select(
      "r.*",
      "c.code as cart",
      "u.name as holder",
      db.raw("(SELECT COUNT(*) FROM pick_run_order m WHERE m.run_id = r.id) AS orders"),
      db.raw(
        "(SELECT MIN(k.cut_off) FROM pick_run_order m JOIN sales_order o ON o.id = m.order_id JOIN collection k ON k.id = o.collection_id WHERE m.run_id = r.id) AS leaves_at",
      ),
    )
  if (rows.length === 0) return []
  const ids = rows.map((row) => row.id)
  const sums = await db("allocation as a")
    .whereIn("a.run_id", ids)
    .groupBy("a.run_id")
    .select(
      "a.run_id",
      db.raw("SUM(a.quantity) AS pieces"),
      db.raw("SUM(a.picked) AS picked"),
      db.raw("COUNT(*) AS stops"),
      db.raw("SUM(a.picked >= a.quantity) AS stops_done"),
    )
  const people = await db("pick_run_person as p")
    .join("user as u", "u.id", "p.user_id")
    .whereIn("p.run_id", ids)
    .whereNull("p.left_at")
    .orderBy("p.since")
    .select("p.run_id", "u.name")
  return rows
    .map((row): RunRow => {
      const sum = sums.find((one) => one.run_id === row.id)
      return {
        id: row.id,
        number: row.number,
        kind: row.kind,
        label: row.label,
        zone: row.zone,
        state: row.state,
        cart: row.cart,
        cartId: row.cart_id,
        holder: row.holder,
        holderId: row.holder_id,
        people: people.flatMap((one) => (one.run_id === row.id ? [one.name as string] : [])),
        orders: Number(row.orders),
        pieces: Number(sum?.pieces ?? 0),
        picked: Number(sum?.picked ?? 0),
        stops: Number(sum?.stops ?? 0),
        stopsDone: Number(sum?.stops_done ?? 0),
        metres: row.metres === null ? null : Number(row.metres),
        apartMetres: row.apart_metres === null ? null : Number(row.apart_metres),
        begunAt: row.begun_at,
        leavesAt: row.leaves_at,
      }
    })
    .sort(
      (a, b) =>
        (a.leavesAt?.getTime() ?? Number.MAX_SAFE_INTEGER) - (b.leavesAt?.getTime() ?? Number.MAX_SAFE_INTEGER) ||
        a.number - b.number,
    )
}

/** The orders of a run in their order. */
export const ordersOfRun = (
  db: Knex,
  runId: number,
): Promise<{ id: number; orderNumber: string; customer: string }[]> =>
  db("pick_run_order as m")
    .join("sales_order as o", "o.id", "m.order_id")
    .where("m.run_id", runId)
    .orderBy("m.position")
    .select("o.id", "o.order_number as orderNumber", "o.customer_name as customer")

/** A tote of a warehouse by its code, and the number of the order that is in it. */
export async function toteByCode(
  db: Knex,
  warehouseId: WarehouseId,
  code: string,
): Promise<{ code: string; orderNumber: string | null } | null> {
  const tote = await db("tote as t")
    .leftJoin("sales_order as o", "o.id", "t.order_id")
    .where({ "t.warehouse_id": warehouseId, "t.code": code })
    .first("t.code", "o.order_number as orderNumber")
  return tote ?? null
}

/**
 * The next order of a run of single items that is picked, not packed, and has this item: at the bench an item of such a
 * run opens its order. Null where none waits.
 */
export async function waitingForItem(db: Knex, warehouseId: WarehouseId, itemId: ItemId): Promise<string | null> {
  const row = await db("pick_run as r")
    .join("pick_run_order as m", "m.run_id", "r.id")
    .join("sales_order as o", "o.id", "m.order_id")
    .join("order_line as l", "l.order_id", "o.id")
    .where({ "r.warehouse_id": warehouseId, "r.kind": "single", "l.item_id": itemId })
    .whereIn("r.state", ["picking", "left", "done"])
    .whereNull("o.left_line_at")
    .whereNotExists(db("shipment as h").whereRaw("h.order_id = o.id"))
    .whereNotExists(
      db("allocation as a")
        .join("order_line as q", "q.id", "a.order_line_id")
        .whereRaw("q.order_id = o.id AND a.picked < a.quantity"),
    )
    .orderBy("m.position")
    .first("o.order_number")
  return row?.order_number ?? null
}
