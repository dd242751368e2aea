import { createHash } from "node:crypto"
import { localTime } from "core/calendar/index.ts"
import type { SourceId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { businessNow } from "../clock/index.ts"
import type { OrderSourceRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { rowsOfAnything } from "../formats/ordersJson.ts"
import { fetchOrders, type Period } from "../gateways/orderSource.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { keepRows } from "./read.ts"
import { sourceFromRow } from "./source.ts"
import { takeIn } from "./take.ts"

/** At most so many pages of a source in one go; the rest comes the next time. */
const pages = 20

/**
 * Asks a source for the orders since the last time and takes them in as an upload is, so that what is refused can be
 * looked at. Where it stopped is noted only after a page's orders are in: after a failure they come again, and are the
 * same orders. How it went is noted on the source. Returns how many orders were read. Throws to be run again.
 */
export async function pullOrders(
  db: Knex,
  sourceId: SourceId,
  fetchPage: typeof fetchOrders = fetchOrders,
): Promise<number> {
  const source = await db("order_source").where({ id: sourceId }).first()
  if (!source?.pull_url || !source.pull_warehouse_id || !source.active) return 0
  const actor = { userId: null, name: source.name, role: "clerk" as const, warehouseId: source.pull_warehouse_id }
  const move = (from: string, to: string) =>
    db("order_source").where({ id: sourceId, pull_cursor: from }).update({ pull_cursor: to })
  return noting(db, sourceId, () =>
    askPages({ db, now: new Date(0), actor }, source, { cursor: source.pull_cursor, period: null }, fetchPage, move),
  )
}

/**
 * Asks a source, now and by hand, for the orders of a period by their dates. Where the regular asking stands is not
 * touched; orders that are here already are the same orders.
 */
export async function pullPeriod(
  context: Context,
  code: string,
  period: Period,
  fetchPage: typeof fetchOrders = fetchOrders,
): Promise<Outcome<{ orders: number }>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const source = await db("order_source").where({ code }).first()
  if (!source?.pull_url) return refused(reason("source.not-asked", { name: source?.name ?? code }))
  if (!source.active) return refused(reason("source.not-active", { name: source.name }))
  if (period.from > period.to) return refused(reason("source.period", { from: period.from, to: period.to }))
  // what is asked for is taken into the source's own warehouse, whoever asks
  const by = { ...actor, warehouseId: source.pull_warehouse_id ?? actor.warehouseId }
  try {
    const orders = await noting(db, source.id, () =>
      askPages({ ...context, actor: by }, source, { cursor: "", period }, fetchPage, async () => undefined),
    )
    return accepted({ orders })
  } catch (error) {
    return refused(reason("source.no-answer", { name: source.name, detail: (error as Error).message.slice(0, 120) }))
  }
}

async function askPages(
  context: Context,
  row: OrderSourceRow,
  from: { readonly cursor: string; readonly period: Period | null },
  fetchPage: typeof fetchOrders,
  moved: (from: string, to: string) => Promise<unknown>,
): Promise<number> {
  const { db } = context
  const source = sourceFromRow(row)
  let cursor = from.cursor
  let read = 0
  for (let page = 0; page < pages; page += 1) {
    const { orders, next } = await fetchPage(there(row.pull_url), cursor, from.period)
    if (orders.length === 0) return read
    const now = await businessNow(db)
    const { zone } = await warehouseById(db, context.actor.warehouseId)
    let line = 1
    const rows = orders.flatMap((order) => {
      const own = rowsOfAnything(order, line)
      line += own.length
      return own
    })
    const hash = () => createHash("sha256").update(JSON.stringify(orders)).digest("hex")
    const period = from.period ? `, ${from.period.from} – ${from.period.to}` : ""
    const name = `${source.name}, ${localTime(now, zone)}${period}`
    const at = { ...context, now }
    await takeIn(at, await keepRows(at, { source, name, format: "json", hash }, rows))
    read += orders.length
    await moved(cursor, next)
    if (next === cursor) return read
    cursor = next
  }
  return read
}

/** Notes on a source when it was run last and what was in the way, if anything was. */
export async function noting<T>(db: Knex, sourceId: SourceId, run: () => Promise<T>): Promise<T> {
  try {
    const answer = await run()
    await db("order_source")
      .where({ id: sourceId })
      .update({ ran_at: await businessNow(db), run_trouble: null })
    return answer
  } catch (error) {
    const trouble = (error as Error).message.slice(0, 300)
    await db("order_source")
      .where({ id: sourceId })
      .update({ ran_at: await businessNow(db), run_trouble: trouble })
    throw error
  }
}
