import { isLocalDate, type LocalDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { recheck } from "./recheck.ts"

/** The day that a text names, if an order may be promised for it; no text promises nothing. */
export function promiseDay(text: string | null, today: LocalDate): Outcome<LocalDate | null> {
  if (!text) return accepted(null)
  if (!isLocalDate(text)) return refused(reason("order.promise-day"))
  return text < today ? refused(reason("order.promise-gone", { promised: text })) : accepted(text)
}

/**
 * Sets the day by which an order is promised, such as after speaking with the customer; null promises nothing. Refused
 * for a day that is none or gone, and once labels are asked for. Safe to repeat.
 */
export async function changePromise(
  context: Context,
  orderId: OrderId,
  promisedOn: string | null,
  today: LocalDate,
): Promise<Outcome<null>> {
  authorise(context.actor, "orders.work")
  const day = promiseDay(promisedOn, today)
  if (!day.ok) return day
  return inTransaction(context.db, (trx) => putPromise(trx, context, orderId, day.value))
}

/** The change itself, in the caller's transaction. */
export async function putPromise(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  promisedOn: LocalDate | null,
): Promise<Outcome<null>> {
  const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
  if (!order) return refused(reason("order.unknown"))
  if (order.promised_on === promisedOn) return accepted(null)
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
  await trx("sales_order")
    .where({ id: orderId })
    .update({ promised_on: promisedOn, version: order.version + 1 })
  const changes = [{ field: "promised_on", from: order.promised_on ?? "", to: promisedOn ?? "" }]
  await record(trx, actor, now, { action: "order.promise-changed", orderId, detail: { changes } })
  await recheck(trx, orderId, actor, now)
  return accepted(null)
}
