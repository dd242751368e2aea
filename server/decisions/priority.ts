import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { recheck } from "./recheck.ts"

export const priorities = [-1, 0, 1, 2] as const

/**
 * Says how urgent an order is among those of one collection: who is given scarce stock first, and picked first. An order
 * that waits for stock is checked again. Safe to repeat.
 */
export async function setPriority(context: Context, orderId: OrderId, priority: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  if (!(priorities as readonly number[]).includes(priority)) return refused(reason("priority.unknown"))
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id", "priority", "cancelled_at")
    if (!order) return refused(reason("order.unknown"))
    if (order.priority === priority || order.cancelled_at) return accepted(null)
    await trx("sales_order").where({ id: orderId }).update({ priority })
    await record(trx, actor, now, { action: "order.priority", orderId, detail: { from: order.priority, to: priority } })
    await recheck(trx, orderId, actor, now)
    return accepted(null)
  })
}
