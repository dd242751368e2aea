import { addBusinessDays, isLocalDate, type LocalDate } from "core/calendar/index.ts"
import type { CollectionId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { membersOf, touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import type { Collection } from "../setup/collections.ts"
import { type Ground, groundOf, replan } from "./plan.ts"

/** The day from which an order may leave, null for at once; and the collection that a person chose for it. */
/** What of an order its leaving goes by. */
export type LeavingColumns = Pick<
  SalesOrderRow,
  "promised_on" | "ship_on" | "chosen_ship_on" | "chosen_collection_id" | "collection_id" | "warehouse_id"
>

export interface Leaving {
  readonly shipOn: LocalDate | null
  readonly collectionId: CollectionId | null
}

/**
 * From which day an order, or the orders of one shipment as one row, may leave: the ship date that was set at the bench,
 * or that of the truck that a person chose, or the day that was asked for.
 */
export function leavingOf(order: LeavingColumns, collections: readonly Pick<Collection, "id" | "onDate">[]): Leaving {
  if (order.chosen_ship_on) return { shipOn: order.chosen_ship_on, collectionId: null }
  const chosen = collections.find((one) => one.id === order.chosen_collection_id)
  return { shipOn: chosen?.onDate ?? order.ship_on ?? null, collectionId: chosen?.id ?? null }
}

/**
 * The same with what is planned where nobody chose and the warehouse sends as late as a promise allows, read from the
 * database.
 */
export const leavingBy = async (db: Knex, order: LeavingColumns): Promise<Leaving> =>
  there((await leavingByMany(db, new Map([[0, order]]))).get(0))

/** The same of many orders, by any key. */
export async function leavingByMany<Key>(
  db: Knex,
  orders: ReadonlyMap<Key, LeavingColumns>,
): Promise<Map<Key, Leaving>> {
  const all = [...orders.values()]
  const known = all.flatMap((order) => [order.chosen_collection_id ?? [], order.collection_id ?? []].flat())
  const rows = await db("collection")
    .whereIn("id", [...new Set(known)])
    .whereNull("closed_at")
    .select("id", "on_date")
  const collections = new Map(rows.map((row) => [row.id as number, { id: row.id, onDate: row.on_date as LocalDate }]))
  const policies = new Map(
    (
      await db("warehouse")
        .whereIn("id", [...new Set(all.map((order) => order.warehouse_id))])
        .select("id", "leave_policy")
    ).map((row) => [row.id as number, row.leave_policy]),
  )
  return new Map(
    [...orders].map(([key, order]) => {
      const own = [order.chosen_collection_id, order.collection_id].flatMap((id) => collections.get(id ?? 0) ?? [])
      const leaving = leavingOf(order, own)
      if (order.chosen_ship_on || leaving.collectionId !== null) return [key, leaving]
      const policy = there(policies.get(order.warehouse_id))
      const planned = policy === "latest" ? own.find((one) => one.id === order.collection_id) : undefined
      return [key, planned ? { shipOn: planned.onDate, collectionId: planned.id } : leaving]
    }),
  )
}

/** Business days that a ship date may lie ahead (common practice). */
export const mostAhead = 10

/** The days on which a truck leaves a warehouse, from today to ten business days ahead. */
export function shipDays(collections: readonly Pick<Collection, "onDate">[], today: LocalDate): LocalDate[] {
  const last = addBusinessDays(today, mostAhead, { holidays: new Set(), saturday: false })
  return [...new Set(collections.map((one) => one.onDate))].filter((day) => day >= today && day <= last).sort()
}

/**
 * Sets the ship date of an order, with all that are one shipment with it; null leaves it to the order and the plan. What
 * was rated before is old with it. Refused for a day on which no truck leaves or that is further ahead than ten business
 * days, and once labels are asked for. Safe to repeat.
 */
export async function setShipDate(context: Context, orderId: OrderId, text: string | null): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  if (text !== null && !isLocalDate(text)) return refused(reason("ship-date.no-truck", { day: text }))
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    return order
      ? putShipDate(trx, context, order, text, await groundOf(trx, actor.warehouseId, now))
      : refused(reason("order.unknown"))
  })
}

/** The change itself, of an order that is locked, in the caller's transaction. */
export async function putShipDate(
  trx: Knex,
  { actor, now }: Context,
  order: SalesOrderRow,
  day: LocalDate | null,
  ground: Ground,
): Promise<Outcome<null>> {
  const members = await membersOf(trx, order.id)
  if (order.chosen_ship_on === day && (day === null || order.chosen_collection_id === null)) return accepted(null)
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (await labelsAskedFor(trx, order.id)) return refused(reason("order.labels-asked-for"))
  if (day !== null && !shipDays(ground.collections, ground.today).includes(day))
    return refused(
      ground.collections.some((one) => one.onDate === day)
        ? reason("ship-date.too-far", { day, most: mostAhead })
        : reason("ship-date.no-truck", { day }),
    )
  await trx("sales_order")
    .whereIn("id", members)
    .update({
      chosen_ship_on: day,
      // the truck that was chosen before leaves on another day
      ...(day === null ? {} : { chosen_collection_id: null }),
      version: trx.raw("version + 1"),
    })
  await touchShipment(trx, order.id)
  await replan(trx, ground, order.id)
  for (const id of members)
    await record(trx, actor, now, {
      action: day === null ? "order.ship-date-open" : "order.ship-date",
      orderId: id,
      detail: { day: day ?? "" },
    })
  return accepted(null)
}
