import type { OrderId } from "core/ids/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"

/** The stops of an order as they were written down. */
export async function currentStops(trx: Knex, orderId: OrderId): Promise<Reason[]> {
  const rows = await trx("order_stop").where({ order_id: orderId }).orderBy("id").select("code", "detail")
  return rows.map((row) => ({ code: row.code, values: parsed<Record<string, string>>(row.detail) }))
}

/** Writes down why an order is stopped, and on its story when that is not what stood there. */
export async function writeStops(
  trx: Knex,
  orderId: OrderId,
  reasons: readonly Reason[],
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
) {
  const before = await currentStops(trx, orderId)
  const key = (one: Reason) => JSON.stringify([one.code, Object.entries(one.values).sort()])
  const same =
    before.length === reasons.length && before.every((one, index) => key(one) === key(reasons[index] as Reason))
  if (same) return
  await trx("order_stop").where({ order_id: orderId }).delete()
  for (const one of reasons) {
    await trx("order_stop").insert({
      order_id: orderId,
      code: one.code,
      detail: JSON.stringify(one.values),
      raised_at: now,
    })
  }
  const action = reasons.length > 0 ? "order.stopped" : "order.stop-ended"
  await record(trx, actor, now, { action, orderId, detail: { reasons } })
}
