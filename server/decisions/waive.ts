import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { passedKey, waivable } from "../orders/passed.ts"
import { currentStops } from "../orders/stops.ts"
import { recheck } from "./recheck.ts"

/**
 * Lets a stop pass: a doubled purchase-order number that is right, a promise that can't be kept, a credit stop, a
 * screening hit or a house without a number (the lead). It holds for this very stop and no other of its kind. Safe to repeat.
 */
export async function waive(context: Context, orderId: OrderId, code: string): Promise<Outcome<readonly Reason[]>> {
  const { db, actor, now } = context
  const rule = waivable[code]
  if (!rule) return refused(reason("order.not-waivable"))
  authorise(actor, rule.right)
  return inTransaction(db, async (trx): Promise<Outcome<readonly Reason[]>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    const stops = (await currentStops(trx, orderId)).filter((one) => one.code === code)
    await putWaivers(trx, { actor, now }, orderId, stops)
    if (stops.length > 0)
      await record(trx, actor, now, { action: "order.stop-passed", orderId, detail: { reasons: stops } })
    return accepted(await recheck(trx, orderId, actor, now))
  })
}

/** Notes that very stops were let pass; they are checked again by the caller. Safe to repeat. */
export async function putWaivers(
  trx: Knex,
  { actor, now }: Pick<Context, "now"> & { readonly actor: { readonly name: string } },
  orderId: OrderId,
  stops: readonly Reason[],
): Promise<void> {
  for (const one of stops)
    await trx("order_waiver")
      .insert({
        order_id: orderId,
        code: one.code,
        detail_hash: passedKey(one),
        detail: JSON.stringify(one.values),
        actor: actor.name,
        at: now,
      })
      .onConflict()
      .ignore()
}
