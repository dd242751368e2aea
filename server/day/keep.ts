import type { WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { announce } from "../audit/index.ts"
import { onTheLine, replanAll, replanMissed } from "../plan/plan.ts"
import { ensureDropOffs } from "../rating/dropOffs.ts"
import { ensureCollections } from "../setup/collections.ts"
import { warehouseById } from "../setup/warehouse.ts"

/** Keeps a warehouse's day: makes the coming collections, and moves orders off the trucks they can't make any more. */
export async function keepDay(db: Knex, warehouseId: WarehouseId, now: Date): Promise<void> {
  const warehouse = await warehouseById(db, warehouseId)
  // days that are new on the calendar may be the latest ones that are in time
  const grown = (await ensureCollections(db, warehouse, now)) > 0
  await ensureDropOffs(db, warehouse, now)
  const planned = grown
    ? await replanAll(db, warehouseId, await onTheLine(db, warehouseId), now)
    : await replanMissed(db, warehouse, now)
  if (planned > 0) await announce(db, { warehouseId })
}
