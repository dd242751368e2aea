import type { OrderId, PatternId } from "core/ids/index.ts"
import { settledWishes } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { settledOf } from "../rules/settleOrder.ts"
import { recheck } from "./recheck.ts"

/**
 * Sends an order with a shipping pattern that a person chose, before what rules say; null leaves it to the rules again.
 * Refused once labels are asked for. Safe to repeat.
 */
export async function choosePattern(
  context: Context,
  orderId: OrderId,
  patternId: PatternId | null,
): Promise<Outcome<null>> {
  authorise(context.actor, "orders.work")
  return inTransaction(context.db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: context.actor.warehouseId })
      .forUpdate()
      .first("id")
    return order ? putPattern(trx, context, orderId, patternId) : refused(reason("order.unknown"))
  })
}

/** The change itself, in the caller's transaction. */
export async function putPattern(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  patternId: PatternId | null,
): Promise<Outcome<null>> {
  const order = there(
    await trx("sales_order").where({ id: orderId }).forUpdate().first("pattern_id", "cancelled_at", "version"),
  )
  if (order.pattern_id === patternId) return accepted(null)
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
  const pattern = patternId === null ? null : await trx("shipping_pattern").where({ id: patternId }).first("name")
  if (patternId !== null && !pattern) return refused(reason("pattern.gone"))
  await trx("sales_order")
    .where({ id: orderId })
    .update({ pattern_id: patternId, version: order.version + 1 })
  await record(trx, actor, now, {
    action: pattern ? "order.pattern" : "order.pattern-off",
    orderId,
    detail: { name: pattern?.name ?? "" },
  })
  await recheck(trx, orderId, actor, now, { settleAnew: true })
  const after = there(await trx("sales_order").where({ id: orderId }).first("settings"))
  // what the leading order is sent with goes for the shipment
  const open = await trx("shipment").where({ order_id: orderId, state: "open" }).forUpdate().first("id", "wishes")
  if (open) {
    const { options } = settledWishes(settledOf(after))
    await trx("shipment")
      .where({ id: open.id })
      .update({
        // what was said of value, dry ice and payer stays
        wishes: JSON.stringify({ ...parsed<object>(open.wishes), options }),
        version: trx.raw("version + 1"),
      })
  }
  return accepted(null)
}
