import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"

/**
 * Whether labels of an order were asked for or bought, or an outside warehouse has it: it can't be changed before they are
 * void, or it is back. Asked before nearly every change, so it is one statement.
 */
export const labelsAskedFor = async (trx: Knex, orderId: OrderId): Promise<boolean> =>
  (await labelsAskedForOf(trx, [orderId])).size > 0

/** Those of some orders of which labels were asked for. */
export async function labelsAskedForOf(trx: Knex, orderIds: readonly OrderId[]): Promise<ReadonlySet<number>> {
  const labels = trx("shipment as h")
    .whereRaw("h.order_id = COALESCE(o.joined_to_id, o.id)")
    .whereIn("h.state", ["buying", "bought", "voiding"])
  const outside = trx("outside_order as x").whereRaw("x.order_id = o.id").whereNot("x.state", "refused")
  const ids = await trx("sales_order as o")
    .whereIn("o.id", [...orderIds])
    .where((asked) => asked.whereExists(labels.select(trx.raw("1"))).orWhereExists(outside.select(trx.raw("1"))))
    .pluck("o.id")
  return new Set(ids)
}
