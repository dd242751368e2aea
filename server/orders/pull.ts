import { createHash } from "node:crypto"
import { localTime } from "core/calendar/index.ts"
import type { Knex } from "knex"
import type { Context } from "../accounts/index.ts"
import { businessNow } from "../clock/index.ts"
import { rowsOfAnything } from "../formats/ordersJson.ts"
import { fetchOrders } from "../gateways/orderSource.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { keepRows, takeIn } from "./intake.ts"

/** At most so many pages of a source in one go; the rest comes the next time. */
const pages = 20

/**
 * Asks a source for the orders since the last time and takes them in as an upload is, so that what is refused can be
 * looked at. Where it stopped is noted only after a page's orders are in: after a failure they come again, and are the
 * same orders. Returns how many orders were read. Throws to be run again.
 */
export async function pullOrders(
  db: Knex,
  sourceId: number,
  fetchPage: typeof fetchOrders = fetchOrders,
): Promise<number> {
  let read = 0
  for (let page = 0; page < pages; page += 1) {
    const source = await db("order_source").where({ id: sourceId }).first()
    if (!source?.pull_url || !source.pull_warehouse_id) return read
    const { orders, next } = await fetchPage(source.pull_url, source.pull_cursor)
    if (orders.length === 0) return read
    const now = await businessNow(db)
    const actor = { userId: null, name: source.name, role: "clerk" as const, warehouseId: source.pull_warehouse_id }
    const context: Context = { db, now, actor }
    const { zone } = await warehouseById(db, actor.warehouseId)
    let line = 1
    const rows = orders.flatMap((order) => {
      const own = rowsOfAnything(order, line)
      line += own.length
      return own
    })
    const hash = () => createHash("sha256").update(JSON.stringify(orders)).digest("hex")
    const name = `${source.name}, asked ${localTime(now, zone)}`
    await takeIn(context, await keepRows(context, { sourceId, name, format: "json", hash }, rows))
    read += orders.length
    await db("order_source").where({ id: sourceId, pull_cursor: source.pull_cursor }).update({ pull_cursor: next })
    if (next === source.pull_cursor) return read
  }
  return read
}
