import { randomUUID } from "node:crypto"
import type { ItemId, OrderId, WarehouseId } from "core/ids/index.ts"
import { byRight, type Claimant } from "core/picking/index.ts"
import type { Knex } from "knex"
import { dealing } from "./jobs.ts"

/**
 * Asks the worker to deal an item's stock out again, in the transaction of what freed it or of the order that lacks it;
 * nothing is asked for where nobody waits.
 */
export async function askForDeal(trx: Knex, warehouseId: WarehouseId, itemIds: readonly ItemId[]): Promise<void> {
  if (itemIds.length === 0) return
  const waits = await waiting(trx, warehouseId, itemIds)
  if (waits.length === 0) return
  await dealing.queue(trx, `stock.deal:${randomUUID()}`, { warehouseId, itemIds: [...new Set(itemIds)] })
}

/** Orders of a warehouse that are stopped for want of these items, who has the better right first. */
export async function waiting(db: Knex, warehouseId: WarehouseId, itemIds: readonly ItemId[]): Promise<Claimant[]> {
  const rows = await db("sales_order as o")
    .join("order_stop as t", "t.order_id", "o.id")
    .join("order_line as l", "l.order_id", "o.id")
    .where({ "o.warehouse_id": warehouseId, "t.code": "stop.stock-short" })
    .whereNull("o.cancelled_at")
    .whereNull("o.left_line_at")
    .whereIn("l.item_id", [...itemIds])
    .distinct("o.id")
  return claimants(
    db,
    rows.map((row) => row.id),
  )
}

/** Orders as claimants to stock, who has the better right first. */
export async function claimants(db: Knex, orderIds: readonly OrderId[]): Promise<Claimant[]> {
  const rows = await db("sales_order as o")
    .leftJoin("collection as c", "c.id", db.raw("COALESCE(o.must_collection_id, o.collection_id)"))
    .whereIn("o.id", [...orderIds])
    .select("o.id", "o.priority", "o.received_at", "c.cut_off")
  return rows
    .map((row) => ({ id: row.id, leavesAt: row.cut_off ?? null, priority: row.priority, receivedAt: row.received_at }))
    .sort(byRight)
}
