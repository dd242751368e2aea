import type { Knex } from "knex"
import { leadOf } from "./joined.ts"

/** Whether labels of an order were asked for or bought: it can't be changed before they are void. */
export async function labelsAskedFor(trx: Knex, orderId: number): Promise<boolean> {
  const shipment = await trx("shipment")
    .where({ order_id: await leadOf(trx, orderId) })
    .whereIn("state", ["buying", "bought", "voiding"])
    .first("id")
  return shipment !== undefined
}
