import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { membersOf, touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { type Ground, groundOf, replan, waysOf } from "../plan/plan.ts"
import { plannedRows } from "../plan/plannedRows.ts"
import { collectionById } from "../setup/collections.ts"

/** A collection and service that a person chose for an order; nulls leave both to the plan, or the service to it. */
export interface Choice {
  readonly collection: number | null
  readonly service: number | null
}

/**
 * Lets an order leave with a collection that a person chose, whatever the plan would say, in the caller's transaction.
 * Refused when that collection is closed or past, takes no service that can carry the order, or labels are asked for.
 */
export async function chooseCollection(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  choice: Choice,
  known?: Ground,
): Promise<Outcome<null>> {
  // orders of one shipment leave together
  const members = await membersOf(trx, orderId)
  const { order, lines } = await plannedRows(trx, members[0] as number)
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
  const ground = known?.warehouse.id === order.warehouse_id ? known : await groundOf(trx, order.warehouse_id, now)
  const collection = choice.collection ? ground.collections.find((one) => one.id === choice.collection) : null
  if (choice.collection && !collection) return refused(reason("plan.collection-gone"))
  if (collection) {
    const { ways } = waysOf(
      ground,
      { ...order, ship_on: null, chosen_ship_on: null, chosen_collection_id: null },
      lines,
    )
    const takes = ways.some(
      (way) =>
        (choice.service === null || way.service.id === choice.service) &&
        way.departures.some((one) => one.id === collection.id),
    )
    if (!takes) return refused(reason("plan.collection-cannot", { door: collection.door, carrier: collection.carrier }))
  }
  // a service that was chosen before stays where the truck takes it
  const kept = collection ? ground.services.find((one) => one.id === order.chosen_service_id) : undefined
  const service = choice.service ?? (kept && collection?.services.includes(kept.code) ? kept.id : null)
  await trx("sales_order")
    .whereIn("id", members)
    .update({
      chosen_collection_id: collection?.id ?? null,
      chosen_service_id: service,
      // who puts it on a truck says its day with that
      chosen_ship_on: null,
      version: trx.raw("version + 1"),
    })
  await touchShipment(trx, orderId)
  const plan = await replan(trx, ground, orderId)
  const leaving = plan.collectionId ? await collectionById(trx, ground.warehouse.id, plan.collectionId) : null
  await record(trx, actor, now, {
    action: collection ? "order.leaves-with" : "order.leaves-as-planned",
    orderId,
    detail: { door: leaving?.door ?? "–", carrier: leaving?.carrier ?? "–", day: leaving?.onDate ?? "" },
  })
  return accepted(null)
}
