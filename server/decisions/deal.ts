import type { ItemId, OrderId, WarehouseId } from "core/ids/index.ts"
import { byRight, type Claimant } from "core/picking/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { lockOrders } from "../orders/joined.ts"
import { currentStops } from "../orders/stops.ts"
import { freeStock } from "../stock/allocation.ts"
import { claimants, waiting } from "../stock/waiting.ts"
import { recheck } from "./recheck.ts"

const program: Pick<Actor, "userId" | "name"> = { userId: null, name: "Varnok" }

/** Orders that hold something of these items which may be taken from them: nobody has begun them, and no run has them. */
async function holders(db: Knex, warehouseId: WarehouseId, itemIds: readonly ItemId[]): Promise<number[]> {
  const rows = await db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("sales_order as o", "o.id", "l.order_id")
    .where({ "o.warehouse_id": warehouseId })
    .whereIn("l.item_id", [...itemIds])
    .whereNull("o.left_line_at")
    .whereNotExists(
      db("allocation as p")
        .join("order_line as q", "q.id", "p.order_line_id")
        .whereRaw("q.order_id = o.id AND (p.picked > 0 OR p.run_id IS NOT NULL)"),
    )
    .whereNotExists(db("shipment as h").whereRaw("h.order_id = COALESCE(o.joined_to_id, o.id)"))
    .distinct("o.id")
  return rows.map((row) => row.id)
}

/** What a job says is to be dealt out. */
export interface Deal {
  readonly warehouseId: WarehouseId
  readonly itemIds: readonly ItemId[]
}

const dealOf = (payload: Record<string, unknown>): Deal => payload as unknown as Deal

/** Two deals of one warehouse as one, of the items of both; null for those of different warehouses. */
export function dealtTogether(mine: Record<string, unknown>, other: Record<string, unknown>) {
  const [a, b] = [dealOf(mine), dealOf(other)]
  return a.warehouseId === b.warehouseId
    ? { warehouseId: a.warehouseId, itemIds: [...new Set([...a.itemIds, ...b.itemIds])] }
    : null
}

const notWorth = Symbol("what could be taken is not enough")

/** Whether any of these items lies somewhere free, where it may be taken from. */
const anyFree = async (db: Knex, warehouseId: WarehouseId, itemIds: readonly ItemId[]): Promise<boolean> =>
  (await db("stock as s")
    .join("bin as b", "b.id", "s.bin_id")
    .leftJoin("lot as l", "l.id", "s.lot_id")
    .where({ "s.warehouse_id": warehouseId, "s.to_count": false })
    .whereIn("s.item_id", [...itemIds])
    .whereRaw("s.on_hand > s.allocated AND b.blocked_why IS NULL AND (l.id IS NULL OR l.state = 'released')")
    .first("s.id")) !== undefined

/**
 * Deals scarce stock out: each waiting order, who has the better right first, is given what is free; and where that is
 * not enough, what orders with a lesser right hold and have not begun, the last of them first, when it can then be
 * shipped. Those are stopped for want of stock in its place, and the story of both says so.
 */
export async function dealStock(db: Knex, { warehouseId, itemIds }: Deal, now: Date): Promise<void> {
  for (const claimant of await waiting(db, warehouseId, itemIds)) {
    const lacking = await lackingItems(db, claimant.id)
    const others = await claimants(db, await holders(db, warehouseId, lacking))
    const lesser = others.filter((other) => byRight(claimant, other) < 0)
    if (lesser.length === 0 && !(await anyFree(db, warehouseId, lacking))) continue
    try {
      await inTransaction(db, async (trx) => {
        const ids = [claimant.id, ...lesser.map((one) => one.id)].sort((a, b) => a - b)
        // locked before anything is read, so that what is read is how it stands now
        await lockOrders(trx, ids)
        await recheck(trx, claimant.id, program, now, { dealing: true })
        if (!(await onlyShort(trx, claimant.id))) return
        const still = new Set(await holders(trx, warehouseId, lacking))
        const taken: Claimant[] = []
        for (const victim of lesser.toReversed().filter((one) => still.has(one.id))) {
          await freeStock(trx, victim.id)
          taken.push(victim)
          await recheck(trx, claimant.id, program, now, { dealing: true })
          if (!(await onlyShort(trx, claimant.id))) break
        }
        if (taken.length === 0) return
        if ((await currentStops(trx, claimant.id)).length > 0) throw notWorth
        const orderNumber = new Map<number, string>(
          (await trx("sales_order").whereIn("id", ids).select("id", "order_number")).map((row) => [
            row.id,
            row.order_number,
          ]),
        )
        for (const victim of taken.toSorted(byRight)) {
          await recheck(trx, victim.id, program, now, { dealing: true })
          if ((await currentStops(trx, victim.id)).length === 0) continue
          const detail = { to: orderNumber.get(claimant.id) ?? "", from: orderNumber.get(victim.id) ?? "" }
          await record(trx, program, now, { action: "stock.gave-way", orderId: victim.id, detail })
          await record(trx, program, now, { action: "stock.came-first", orderId: claimant.id, detail })
        }
      })
    } catch (error) {
      if (error !== notWorth) throw error
    }
  }
}

const onlyShort = async (trx: Knex, orderId: OrderId): Promise<boolean> => {
  const stops = await currentStops(trx, orderId)
  return stops.length > 0 && stops.every((stop) => stop.code === "stop.stock-short" || withheld.has(stop.code))
}

/** Stops that only say why stock which lies there was passed over. */
const withheld = new Set([
  "stop.lot-unreleased",
  "stop.lot-blocked",
  "stop.lot-expired",
  "stop.lot-too-old",
  "stop.bin-blocked",
])

/** Items that the stops of an order say are short. */
async function lackingItems(db: Knex, orderId: OrderId): Promise<number[]> {
  const skus = (await currentStops(db, orderId)).flatMap((stop) =>
    stop.code === "stop.stock-short" && stop.values.sku ? [stop.values.sku] : [],
  )
  return db("item").whereIn("sku", skus).pluck("id")
}
