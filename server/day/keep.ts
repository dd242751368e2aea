import type { Knex } from "knex"
import { announce } from "../audit/index.ts"
import { onTheLine, replanAll, replanMissed } from "../orders/plan.ts"
import { ensureCollections } from "../setup/collections.ts"
import { warehouseById } from "../setup/warehouse.ts"

/** Keeps a warehouse's day: makes the coming collections, and moves orders off the trucks they can't make any more. */
export async function keepDay(db: Knex, warehouseId: number, now: Date): Promise<void> {
  const warehouse = await warehouseById(db, warehouseId)
  // days that are new on the calendar may be the latest ones that are in time
  const grown = (await ensureCollections(db, warehouse, now)) > 0
  const planned = grown
    ? await replanAll(db, warehouseId, await onTheLine(db, warehouseId), now)
    : await replanMissed(db, warehouse, now)
  if (planned > 0) await announce(db, { warehouseId })
}

/** Real time for which short-lived rows are kept, in milliseconds. */
const keptFor = { upkeep: 600_000, notices: 3_600_000, requests: 30 * 86_400_000, devices: 180 * 86_400_000 }

/** Takes away what nobody needs any more: notices, presences, ended sessions, recurring jobs that are done. */
export async function clearUp(db: Knex): Promise<void> {
  const before = (ms: number) => new Date(Date.now() - ms)
  await db("change_notice").where("at", "<", before(keptFor.notices)).delete()
  await db("presence").where("seen_at", "<", before(60_000)).delete()
  await db("session").where("expires_at", "<", new Date()).delete()
  await db("known_device").where("seen_at", "<", before(keptFor.devices)).delete()
  await db("api_request").where("at", "<", before(keptFor.requests)).delete()
  await db("job")
    .where({ state: "done" })
    .whereIn("kind", [
      "day.keep",
      "source.pull",
      "source.folder",
      "orders.words",
      "orders.recheck",
      "outside.ask",
      "clear-up",
    ])
    .where("done_at", "<", before(keptFor.upkeep))
    .delete()
}
