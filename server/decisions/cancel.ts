import type { LineId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Actor, authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { leadOf } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { leaveRuns } from "../orders/membership.ts"
import { putWords } from "../orders/words.ts"
import { partOff } from "../plan/plan.ts"
import { freeStock } from "../stock/allocation.ts"
import { moveStock } from "../stock/move.ts"
import { askForDeal } from "../stock/waiting.ts"
import { lockParts, takeBackParts } from "./reroute.ts"

/**
 * Cancels an order in the caller's transaction: its packages are taken apart, what was picked goes back to its bins,
 * its stock is free, its stops end, and it leaves the line. The caller has made sure that no labels are asked for.
 * Answers what has to be carried back.
 */
export async function cancelOrder(
  trx: Knex,
  orderId: OrderId,
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
  detail: Record<string, unknown> = {},
): Promise<PutBack[]> {
  await partOff(trx, orderId, actor, now)
  await takeApart(trx, orderId)
  const back = await putBack(trx, orderId, null, actor, now)
  const freed = await freeStock(trx, orderId)
  await leaveRuns(trx, orderId)
  const { warehouse_id } = there(await trx("sales_order").where({ id: orderId }).first("warehouse_id"))
  const items = await trx("item")
    .whereIn("sku", [...new Set(back.map((one) => one.sku))])
    .pluck("id")
  await trx("order_stop").where({ order_id: orderId }).delete()
  await askForDeal(trx, warehouse_id, [...freed, ...items])
  await trx("order_change").where({ order_id: orderId, state: "open" }).update({ state: "overtaken", decided_at: now })
  await trx("sales_order")
    .where({ id: orderId })
    .update({ cancelled_at: now, left_line_at: now, version: trx.raw("version + 1") })
  await record(trx, actor, now, {
    action: "order.cancelled",
    orderId,
    detail: { cameWith: "", ...detail, back: putBackText(back) },
  })
  await putWords(trx, orderId)
  return back
}

/** Cancels an order by hand (the lead), such as one that was typed twice. Refused once labels are asked for. */
export async function cancelByHand(context: Context, orderId: OrderId): Promise<Outcome<{ back: readonly PutBack[] }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.cancel")
  return inTransaction(db, async (trx): Promise<Outcome<{ back: readonly PutBack[] }>> => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!order) return refused(reason("order.unknown"))
    if (order.cancelled_at) return accepted({ back: [] })
    await lockParts(trx, orderId)
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.void-first"))
    if (order.split_from_id !== null) {
      const whole = there(await trx("sales_order").where({ id: order.split_from_id }).first("order_number"))
      return refused(reason("split.cancel-whole", { order: whole.order_number }))
    }
    const parts = await takeBackParts(trx, context, orderId)
    if (!parts.ok) return parts
    return accepted({ back: await cancelOrder(trx, orderId, actor, now, { cameWith: "" }) })
  })
}

/** Takes the packages of an open shipment apart: they hold nothing any more, and their numbers are not used again. */
export async function takeApart(trx: Knex, orderId: OrderId): Promise<void> {
  const open = await trx("shipment")
    .where({ order_id: await leadOf(trx, orderId), state: "open" })
    .forUpdate()
    .pluck("id")
  if (open.length === 0) return
  const packages = await trx("package").whereIn("shipment_id", open).whereNot("state", "void").pluck("id")
  await trx("package_content").whereIn("package_id", packages).delete()
  await trx("package").whereIn("id", packages).update({ state: "void", parent_id: null })
  await trx("shipment").whereIn("id", open).increment("version", 1)
}

/** Pieces that lie in a bin again. */
export interface PutBack {
  readonly sku: string
  readonly bin: string
  readonly quantity: number
}

export const putBackText = (back: readonly PutBack[]): string =>
  back.map((one) => `${one.quantity} × ${one.sku} → ${one.bin}`).join(", ")

/**
 * Takes picked pieces of an order, or of one of its lines, back into the stock that they came from; `most` of a line
 * where it is given, the last allocation first. Answers what has to be carried back.
 */
export async function putBack(
  trx: Knex,
  orderId: OrderId,
  of: { readonly lineId: LineId; readonly most: number } | null,
  actor: Pick<Actor, "userId">,
  now: Date,
): Promise<PutBack[]> {
  const rows = await trx("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("stock as s", "s.id", "a.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .join("item as i", "i.id", "s.item_id")
    .where("l.order_id", orderId)
    .where("a.picked", ">", 0)
    .where((query) => of && query.where("l.id", of.lineId))
    .orderBy("a.id", "desc")
    .select("a.id", "a.stock_id", "a.picked", "a.unverified", "i.sku", "b.code as bin")
  const back: PutBack[] = []
  let left = of?.most ?? Number.POSITIVE_INFINITY
  for (const row of rows) {
    const quantity = Math.min(left, row.picked)
    if (quantity <= 0) break
    left -= quantity
    await trx("allocation")
      .where({ id: row.id })
      .update({
        picked: row.picked - quantity,
        quantity: trx.raw("quantity - ?", [quantity]),
        unverified: Math.min(row.unverified, row.picked - quantity),
      })
    if (!(await moveStock(trx, { actor, now }, { stockId: row.stock_id, quantity, cause: "put-back", orderId })))
      throw new Error(`stock ${row.stock_id} can't be given back what was taken from it`)
    back.push({ sku: row.sku, bin: row.bin, quantity })
  }
  await trx("allocation")
    .whereIn("order_line_id", trx("order_line").where({ order_id: orderId }).select("id"))
    .where({ quantity: 0 })
    .delete()
  return back
}
