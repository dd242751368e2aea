import type { WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"

/** Notices that a state is told by: more than may be written while one of them waits for its transaction to commit. */
const latest = 200
/** What is kept is worked out again after so long (real time) even if nothing was noticed. */
const longestMs = 10_000
/** Things of other days and warehouses that are kept at most. */
const most = 50

/**
 * What has changed in a warehouse so far, as a text that differs after each change. Notices are numbered when they are
 * written and seen when their transaction commits, so the newest number alone would miss one that commits late.
 */
export async function changeState(db: Knex, warehouseId: WarehouseId): Promise<string> {
  const newest = db("change_notice").where({ warehouse_id: warehouseId }).orderBy("id", "desc").limit(latest)
  const row = await db
    .from(newest.select("id").as("newest"))
    .first<{ newest: number | null; n: number; total: string | null }>(
      db.raw("MAX(id) AS newest, COUNT(*) AS n, SUM(id) AS total"),
    )
  return `${row.newest} ${row.n} ${row.total}`
}

interface Kept {
  readonly state: string
  readonly at: number
  readonly value: Promise<unknown>
}
const kept = new WeakMap<Knex, Map<string, Kept>>()

/**
 * Something that is worked out from what is stored about a warehouse, once for each change there, however many pages of
 * however many people ask for it at once. Each process keeps its own; the changes are counted in the database.
 *
 * @param name of what is worked out, with all that it depends on besides the warehouse
 */
export async function onceForEachChange<T>(
  { db, changes }: Pick<Context, "db" | "changes">,
  warehouseId: WarehouseId,
  name: string,
  work: () => Promise<T>,
): Promise<T> {
  const all = kept.get(db) ?? new Map<string, Kept>()
  kept.set(db, all)
  const key = `${warehouseId} ${name}`
  // asked before the work begins: what changes meanwhile is worked out again next time
  const state = changes ?? (await changeState(db, warehouseId))
  const known = all.get(key)
  if (known && known.state === state && Date.now() - known.at < longestMs) return known.value as Promise<T>
  const value = work()
  all.delete(key)
  all.set(key, { state, at: Date.now(), value })
  for (const old of all.keys()) if (all.size > most) all.delete(old)
  value.catch(() => {
    if (all.get(key)?.value === value) all.delete(key)
  })
  return value
}
