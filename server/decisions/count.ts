import type { OrderId, StockId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { lockOrders } from "../orders/joined.ts"
import { moveStock } from "../stock/move.ts"
import { askForDeal } from "../stock/waiting.ts"
import { recheck } from "./recheck.ts"

export interface CountTask {
  readonly id: number
  readonly bin: string
  readonly sku: string
  readonly description: string
  readonly lot: string | null
  readonly why: string
  readonly order: string | null
  readonly raisedAt: Date
  readonly raisedBy: string
  readonly onHand: number
}

/** Asks for a count of what lies in a place, and lets nothing more be allocated from it until then. */
export async function askForCount(
  trx: Knex,
  { actor, now }: Pick<Context, "actor" | "now">,
  stockId: StockId,
  why: string,
  orderId: OrderId | null,
): Promise<void> {
  const stock = there(await trx("stock").where({ id: stockId }).forUpdate().first("warehouse_id", "on_hand"))
  await trx("stock").where({ id: stockId }).update({ to_count: true })
  if (await trx("count_task").where({ stock_id: stockId }).whereNull("done_at").forUpdate().first("id")) return
  await trx("count_task").insert({
    warehouse_id: stock.warehouse_id,
    stock_id: stockId,
    why,
    order_id: orderId,
    raised_at: now,
    raised_by: actor.name,
    expected: stock.on_hand,
  })
}

/** Places that are to be counted, the oldest first. */
export async function countTasks(db: Knex, warehouseId: WarehouseId): Promise<CountTask[]> {
  const rows = await db("count_task as c")
    .join("stock as s", "s.id", "c.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .join("item as i", "i.id", "s.item_id")
    .leftJoin("lot as l", "l.id", "s.lot_id")
    .leftJoin("sales_order as o", "o.id", "c.order_id")
    .where({ "c.warehouse_id": warehouseId })
    .whereNull("c.done_at")
    .orderBy("c.id")
    .limit(300)
    .select(
      "c.id",
      "b.code as bin",
      "i.sku",
      "i.description",
      "l.code as lot",
      "c.why",
      "o.order_number as order",
      "c.raised_at as raisedAt",
      "c.raised_by as raisedBy",
      "s.on_hand as onHand",
    )
  return rows
}

/**
 * Writes down what was counted. The difference is a movement; what orders hold beyond what is there is taken from those
 * that leave last, which are checked again. The place may be allocated from again. Safe to repeat: a task is done once.
 */
export async function count(
  context: Context,
  taskId: number,
  counted: number,
): Promise<Outcome<{ difference: number; orders: readonly string[] }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  if (!Number.isInteger(counted) || counted < 0 || counted > 1_000_000)
    return refused(reason("count.number", { counted }))
  const place = await db("count_task as c")
    .join("stock as s", "s.id", "c.stock_id")
    .where({ "c.id": taskId, "c.warehouse_id": actor.warehouseId })
    .first("s.id", "s.item_id")
  if (!place) return refused(reason("count.unknown"))
  const holding = await db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .where("a.stock_id", place.id)
    .whereRaw("a.quantity > a.picked")
    .distinct("l.order_id")
    .pluck("l.order_id")
  return inTransaction(db, async (trx): Promise<Outcome<{ difference: number; orders: readonly string[] }>> => {
    await lockOrders(trx, holding)
    const task = await trx("count_task").where({ id: taskId }).whereNull("done_at").forUpdate().first()
    if (!task) {
      const done = await trx("count_task").where({ id: taskId }).first("expected", "counted")
      return done?.counted === counted
        ? accepted({ difference: 0, orders: [] })
        : refused(reason("count.done-already", { counted: done?.counted ?? "" }))
    }
    const stock = there(await trx("stock").where({ id: place.id }).forUpdate().first())
    const difference = counted - stock.on_hand
    const orders = counted < stock.allocated ? await release(trx, place.id, stock.allocated - counted) : []
    if (difference !== 0) {
      const note = `counted ${counted}, ${stock.on_hand} known`
      if (!(await moveStock(trx, context, { stockId: place.id, quantity: difference, cause: "count", note })))
        return refused(reason("count.changed-meanwhile"))
    }
    await trx("stock").where({ id: place.id }).update({ to_count: false })
    await trx("count_task").where({ id: taskId }).update({ counted, done_at: now, done_by: actor.name })
    for (const one of orders) await recheck(trx, one.id, actor, now)
    await askForDeal(trx, actor.warehouseId, [place.item_id])
    const words = await trx("stock as s")
      .join("bin as b", "b.id", "s.bin_id")
      .join("item as i", "i.id", "s.item_id")
      .where("s.id", place.id)
      .first("b.code as bin", "i.sku")
    await record(trx, actor, now, {
      action: "stock.counted",
      warehouseId: actor.warehouseId,
      orderId: task.order_id,
      detail: { ...words, counted, difference },
    })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ difference, orders: orders.map((one) => one.orderNumber) })
  })
}

/** Takes pieces that are not there from the orders that hold them, those that leave last first; the orders. */
async function release(trx: Knex, stockId: StockId, pieces: number): Promise<{ id: number; orderNumber: string }[]> {
  const rows = await trx("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("sales_order as o", "o.id", "l.order_id")
    .leftJoin("collection as c", "c.id", "o.collection_id")
    .where("a.stock_id", stockId)
    .whereRaw("a.quantity > a.picked")
    .orderByRaw("c.cut_off IS NULL DESC, c.cut_off DESC, o.priority, o.received_at DESC, a.id DESC")
    .select("a.id", "a.quantity", "a.picked", "o.id as order_id", "o.order_number")
  const orders = new Map<number, string>()
  let left = pieces
  for (const row of rows) {
    if (left <= 0) break
    const taken = Math.min(left, row.quantity - row.picked)
    left -= taken
    await trx("stock").where({ id: stockId }).decrement("allocated", taken)
    if (row.picked === 0 && taken === row.quantity) await trx("allocation").where({ id: row.id }).delete()
    else
      await trx("allocation")
        .where({ id: row.id })
        .update({ quantity: row.quantity - taken })
    orders.set(row.order_id, row.order_number)
  }
  return [...orders].map(([id, orderNumber]) => ({ id, orderNumber }))
}
