import type { OrderId } from "core/ids/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Actor, authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { leadOf } from "../orders/joined.ts"
import { recheck } from "./recheck.ts"

/** Looks at an order's stops again, such as after stock came; the reasons that are left. */
export async function checkAgain(context: Context, orderId: OrderId): Promise<readonly Reason[]> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).first("id")
    return order ? recheck(trx, orderId, actor, now) : []
  })
}

/** Stops an order by hand, or lets it go on again (the lead). Safe to repeat. */
export async function holdOrder(context: Context, orderId: OrderId, held: boolean): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, held ? "orders.hold" : "orders.release-hold")
  await inTransaction(db, (trx) => putHold(trx, actor, now, orderId, held))
}

/**
 * The change itself, in the caller's transaction; false when the order was held, or not, already. What is labeled can
 * be stopped until it has left: then it is not loaded.
 */
export async function putHold(trx: Knex, actor: Actor, now: Date, orderId: OrderId, held: boolean): Promise<boolean> {
  if (held && (await hasLeft(trx, orderId))) return false
  const changed = await trx("sales_order")
    .where({ id: orderId, warehouse_id: actor.warehouseId, held_by_hand: !held })
    .update({ held_by_hand: held })
  if (changed === 0) return false
  await record(trx, actor, now, { action: held ? "order.held" : "order.hold-ended", orderId })
  await recheck(trx, orderId, actor, now)
  return true
}

/** Whether all packages of an order's shipment have left, or it is canceled. */
async function hasLeft(trx: Knex, orderId: OrderId): Promise<boolean> {
  const order = await trx("sales_order").where({ id: orderId }).first("left_line_at", "cancelled_at")
  if (!order || order.cancelled_at !== null) return true
  if (order.left_line_at === null) return false
  const here = await trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "h.order_id": await leadOf(trx, orderId) })
    .whereNotIn("p.state", ["gone", "void"])
    .first("p.id")
  return here === undefined
}
