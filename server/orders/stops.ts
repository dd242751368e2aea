import type { OrderId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"

/** The stops of an order as they were written down. */
export const currentStops = async (trx: Knex, orderId: OrderId): Promise<readonly Reason[]> =>
  (await stopsOf(trx, [orderId])).get(orderId) ?? []

/** The same of many orders; an order without a stop is not in it. */
export async function stopsOf(trx: Knex, orderIds: readonly OrderId[]): Promise<Map<number, Reason[]>> {
  const rows = await trx("order_stop")
    .whereIn("order_id", [...orderIds])
    .orderBy("id")
    .select("order_id", "code", "detail")
  const reasonOf = ({ code, detail }: (typeof rows)[number]) => ({ code, values: parsed<Reason["values"]>(detail) })
  return new Map([...grouped(rows, (row) => row.order_id)].map(([id, own]) => [id, own.map(reasonOf)]))
}

interface Found {
  readonly orderId: OrderId
  /** As they stand written. */
  readonly before: readonly Reason[]
  readonly reasons: readonly Reason[]
}

/** Writes down why orders are stopped, and on the story of each when that is not what stood there. */
export async function writeStops(
  trx: Knex,
  found: readonly Found[],
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
): Promise<void> {
  const changed = found.filter(({ before, reasons }) => keyOf(before) !== keyOf(reasons))
  if (changed.length === 0) return
  await trx("order_stop")
    .whereIn(
      "order_id",
      changed.filter((one) => one.before.length > 0).map((one) => one.orderId),
    )
    .delete()
  const rows = changed.flatMap(({ orderId, reasons }) =>
    reasons.map(({ code, values }) => ({
      order_id: orderId,
      code,
      detail: JSON.stringify(values),
      raised_at: now,
    })),
  )
  if (rows.length > 0) await trx("order_stop").insert(rows)
  for (const { orderId, reasons } of changed) {
    const action = reasons.length > 0 ? "order.stopped" : "order.stop-ended"
    await record(trx, actor, now, { action, orderId, detail: { reasons } })
  }
}

const keyOf = (reasons: readonly Reason[]): string =>
  JSON.stringify(reasons.map((one) => [one.code, Object.entries(one.values).sort()]))
