import type { OrderId, ServiceId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { membersOf, touchShipment } from "../orders/joined.ts"
import type { Offer } from "../rating/offers.ts"
import { type Ground, replan } from "./plan.ts"

/** Who says what an order is sent with: a person or a shipping run, a rule or instruction, or the comparison itself. */
export type SentBy = "chosen" | "settled" | "compared"

/**
 * The service that an order is sent with, as order page, bench and shipping runs all say it: what was chosen where it can
 * take it, what is settled where that is in time, or the cheapest in time of the comparison.
 */
export function sentBy(
  preselected: Pick<Offer, "service">,
  order: { readonly chosen_service_id: number | null },
  settledService: string | undefined,
): SentBy {
  if (preselected.service.id === order.chosen_service_id) return "chosen"
  return preselected.service.code === settledService ? "settled" : "compared"
}

/**
 * Chooses the service of an order and of all that are one shipment with it (null: none), and plans them by it, in the caller's
 * transaction. What was seen of the shipment before is old.
 */
export async function chooseService(
  trx: Knex,
  ground: Ground,
  orderId: OrderId,
  serviceId: ServiceId | null,
): Promise<void> {
  const members = await membersOf(trx, orderId)
  await trx("sales_order")
    .whereIn("id", members)
    .update({ chosen_service_id: serviceId, version: trx.raw("version + 1") })
  await touchShipment(trx, orderId)
  await replan(trx, ground, orderId)
}
