import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { leadOf } from "./joined.ts"

/**
 * Whether labels of an order were asked for or bought, or an outside warehouse has it: it can't be changed before they are
 * void, or it is back.
 */
export async function labelsAskedFor(trx: Knex, orderId: OrderId): Promise<boolean> {
  const shipment = await trx("shipment")
    .where({ order_id: await leadOf(trx, orderId) })
    .whereIn("state", ["buying", "bought", "voiding"])
    .first("id")
  if (shipment !== undefined) return true
  const outside = await trx("outside_order").where({ order_id: orderId }).whereNot({ state: "refused" }).first("state")
  return outside !== undefined
}
