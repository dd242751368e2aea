import type { Knex } from "knex"
import { wordsAreMissing } from "../orders/words.ts"
import { withOutside } from "../outside/index.ts"
import { enqueue } from "./queue.ts"

/** How often a day is kept and things are cleared up (real time). */
const everyMs = { day: 20_000, words: 20_000, outside: 20_000, clear: 600_000 }

/**
 * Puts work that comes back into the queue, once for each span of time however many workers ask: keeping each
 * warehouse's day, asking sources for orders, asking outside warehouses how our orders stand, clearing up.
 */
export async function enqueueRecurring(db: Knex, now = Date.now()): Promise<void> {
  const span = (ms: number) => Math.floor(now / ms)
  for (const { id } of await db("warehouse").where({ at_work: true }).select("id"))
    await enqueue(db, "day.keep", `day.keep:${id}:${span(everyMs.day)}`, { warehouseId: id })
  const sources = await db("order_source")
    .where({ active: true })
    .where((some) => some.whereNotNull("pull_url").orWhereNotNull("folder"))
    .select("id", "kind", "pull_every_s")
  for (const { id, kind, pull_every_s } of sources) {
    const job = kind === "folder" ? "source.folder" : "source.pull"
    await enqueue(db, job, `${job}:${id}:${span(pull_every_s * 1_000)}`, { sourceId: id })
  }
  if (await wordsAreMissing(db)) await enqueue(db, "orders.words", `orders.words:${span(everyMs.words)}`, {})
  for (const orderId of await withOutside(db))
    await enqueue(db, "outside.ask", `outside.ask:${orderId}:${span(everyMs.outside)}`, { orderId })
  await enqueue(db, "clear-up", `clear-up:${span(everyMs.clear)}`, {})
}
