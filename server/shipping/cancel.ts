import type { IntentId, OrderId, UserId } from "core/ids/index.ts"
import { type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { businessNow } from "../clock/index.ts"
import { cancelByHand, type PutBack } from "../decisions/cancel.ts"
import { decideChange } from "../intake/change.ts"
import { askVoid, type Cancels } from "./void.ts"

/**
 * Asks for the labels of an order to be voided and for the order to be canceled then: because its source canceled
 * it, which any clerk may follow, or because the lead says so. What was picked goes back to its bins once the carrier
 * has agreed; where it does not, the order stays stopped. Asking again changes nothing.
 */
export async function voidAndCancel(context: Context, orderId: OrderId): Promise<Outcome<{ intentId: IntentId }>> {
  const { db, actor } = context
  authorise(actor, "shipping.void")
  const order = await db("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).first("id")
  if (!order) return refused(reason("order.unknown"))
  const change = await db("order_change").where({ order_id: orderId, state: "open", kind: "cancelled" }).first("id")
  authorise(actor, change ? "orders.work" : "orders.cancel")
  return askVoid(context, orderId, {
    orderId,
    changeId: (change?.id as number | undefined) ?? null,
    role: actor.role,
    warehouseId: actor.warehouseId,
  })
}

/** Cancels an order whose labels are void by now; nothing where they are not, or its source wants it again. Repeatable. */
export async function cancelVoided(
  db: Knex,
  voided: { readonly intentId: IntentId; readonly userId: UserId | null; readonly actor: string },
  { orderId, changeId, role, warehouseId }: Cancels,
): Promise<void> {
  const intent = await db("buy_intent").where({ id: voided.intentId }).first("state")
  if (intent?.state !== "void") return
  const context: Context = {
    db,
    now: await businessNow(db),
    actor: { userId: voided.userId, name: voided.actor, role, warehouseId },
  }
  // refused: it stands on its page as it did, and whoever looks at it decides
  if (changeId === null) await cancelByHand(context, orderId)
  else await decideChange(context, orderId, changeId, "take")
}

/** Waits until an order is canceled with its labels; what is to be carried back then, or null when the time is over. */
export async function waitForCancel({ db }: Context, orderId: OrderId, limitMs: number): Promise<PutBack[] | null> {
  for (const end = Date.now() + limitMs; Date.now() < end; ) {
    const order = await db("sales_order").where({ id: orderId }).first("cancelled_at")
    if (order?.cancelled_at) {
      const rows = await db("stock_movement as m")
        .join("stock as s", "s.id", "m.stock_id")
        .join("item as i", "i.id", "s.item_id")
        .join("bin as b", "b.id", "s.bin_id")
        .where({ "m.order_id": orderId, "m.cause": "put-back" })
        .where("m.at", ">=", order.cancelled_at)
        .orderBy("m.id")
        .select("i.sku", "b.code as bin", "m.quantity")
      return rows.map((row) => ({ sku: row.sku, bin: row.bin, quantity: Number(row.quantity) }))
    }
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  return null
}
