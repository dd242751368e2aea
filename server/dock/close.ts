import { localTime } from "core/calendar/index.ts"
import type { CollectionId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { massIn, sumMass } from "core/units/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { membersOf } from "../orders/joined.ts"
import { type Collection, collectionById } from "../setup/collections.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { ordersToGo } from "./doors.ts"
import { formsOf, makeForms } from "./forms.ts"
import { departing } from "./jobs.ts"
import { withLoad } from "./load.ts"
import { comingTrucks } from "./nextTrucks.ts"
import { type DockPackage, packagesOf, stoppedShipments } from "./packages.ts"

/** So many orders are named in a refusal. */
const mostNamed = 8

/** Orders of what is on a truck with their other parts: what each source is told depends on all of them. By id. */
async function ordersOn(db: Knex, collectionId: CollectionId): Promise<number[]> {
  const loaded = db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", (on) => on.on("o.id", "h.order_id").orOn("o.joined_to_id", "h.order_id"))
    .where("p.collection_id", collectionId)
  const own: { source_id: number; source_number: string }[] = await loaded.distinct("o.source_id", "o.source_number")
  if (own.length === 0) return []
  return db("sales_order")
    .whereIn(
      ["source_id", "source_number"],
      own.map((one) => [one.source_id, one.source_number]),
    )
    .orderBy("id")
    .pluck("id")
}

/**
 * Works on a collection of a warehouse in one transaction that holds its orders, itself and its packages, null where
 * there is none. What is read in it is read after it has them all: a transaction sees what was there at its first plain
 * read, so that one made before it waited for somebody else would show what is no longer so.
 */
export async function withTruck<T>(
  db: Knex,
  warehouseId: WarehouseId,
  collectionId: CollectionId,
  work: (trx: Knex, collection: Collection | null) => Promise<T>,
): Promise<T> {
  for (;;) {
    const orders = await ordersOn(db, collectionId)
    const done = await inTransaction(db, async (trx): Promise<{ readonly value: T } | null> => {
      if (orders.length > 0) await trx("sales_order").whereIn("id", orders).orderBy("id").forUpdate().select("id")
      await trx("collection").where({ id: collectionId, warehouse_id: warehouseId }).forUpdate().select("id")
      await trx("package").where({ collection_id: collectionId }).orderBy("id").forUpdate().select("id")
      // an order whose labels were bought meanwhile is to be held as well
      const known = new Set(orders)
      if ((await ordersOn(trx, collectionId)).some((id) => !known.has(id))) return null
      return { value: await work(trx, await collectionById(trx, warehouseId, collectionId)) }
    })
    if (done) return done.value
  }
}

export interface Closed {
  /** Numbers of the forms that are in force. */
  readonly numbers: readonly string[]
}

/**
 * Closes a collection: everything for it is on the truck or named as left behind, as many are on the truck as the
 * clerk saw, and none of them is stopped. Ahead of its cut-off, with orders to go, it also wants the number of those
 * that the clerk knows will miss it. Its packages are gone, each on one form of the carrier's own kind, and what was
 * left behind goes with the next truck of its service: all in one transaction. The carrier, the sources and whoever
 * should know are told once the time is over in which a lead may reopen it. Closing again changes nothing.
 */
export async function closeCollection(
  context: Context,
  collectionId: CollectionId,
  expectedPackages: number,
  ordersMissing = 0,
): Promise<Outcome<Closed>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return withTruck(db, actor.warehouseId, collectionId, async (trx, collection): Promise<Outcome<Closed>> => {
    if (!collection) return refused(reason("dock.no-such-collection"))
    const forms = async () => accepted({ numbers: await numbersOf(trx, actor.warehouseId, collectionId) })
    if (collection.closedAt) return forms()
    const packages = (await packagesOf(trx, [collectionId])).get(collectionId) ?? []
    const missing = packages.filter((one) => one.state === "labelled")
    if (missing.length > 0) return refused(...missing.map((one) => reason("dock.missing", { package: one.name })))
    const loaded = packages.filter((one) => one.state === "on-truck")
    if (loaded.length !== expectedPackages)
      return refused(reason("dock.count-changed", { seen: expectedPackages, now: loaded.length }))
    const stopped = await stoppedOn(trx, loaded)
    if (stopped.length > 0) return refused(...stopped)
    const warehouse = await warehouseById(trx, actor.warehouseId)
    const toGo =
      now < collection.cutOff ? ((await ordersToGo(trx, warehouse.id, [collectionId])).get(collectionId) ?? []) : []
    if (toGo.length > 0 && toGo.length !== ordersMissing) {
      const names = toGo.slice(0, mostNamed).map((one) => one.orderNumber)
      return refused(
        reason("dock.early", {
          n: toGo.length,
          orders: names.join(", ") + (toGo.length > mostNamed ? " …" : ""),
          time: localTime(collection.cutOff, warehouse.zone),
        }),
      )
    }
    await makeForms(trx, context, collection, loaded, { atClosing: true })
    const closing = collection.closings + 1
    await trx("collection")
      .where({ id: collectionId })
      .update({ closed_at: now, closed_by: actor.name, final_at: null, closings: closing })
    await trx("package").where({ collection_id: collectionId, state: "on-truck" }).update({ state: "gone" })
    await moveLeftBehind(
      trx,
      context,
      collection,
      packages.filter((one) => one.state === "left-behind"),
    )
    const numbers = await numbersOf(trx, actor.warehouseId, collectionId)
    await recordGone(trx, context, collection, loaded)
    await record(trx, actor, now, {
      action: "dock.collection-closed",
      collectionId,
      detail: {
        manifest: numbers.join(", "),
        packages: loaded.length,
        lb: massIn(sumMass(loaded.map((one) => one.weight)), "lb").toFixed(1),
        missed: toGo.map((one) => one.orderNumber).join(", "),
      },
    })
    const { closing_wait: wait } = there(await trx("warehouse").where({ id: warehouse.id }).first("closing_wait"))
    await departing.queue(trx, `depart:${collectionId}:${closing}`, { collectionId, closing }, wait * 60_000)
    return forms()
  })
}

const numbersOf = async (trx: Knex, warehouseId: WarehouseId, collectionId: CollectionId): Promise<string[]> =>
  (await formsOf(trx, warehouseId, [collectionId]))
    .filter((form) => form.state !== "discarded")
    .map((form) => form.number)

/** Why packages on a truck must not leave; empty where they may. */
async function stoppedOn(trx: Knex, loaded: readonly DockPackage[]): Promise<Reason[]> {
  const off = loaded.filter((one) => one.stopped)
  if (off.length === 0) return []
  const why = await stoppedShipments(
    trx,
    off.map((one) => one.orderId),
  )
  return [...off.map((one) => reason("dock.take-it-off", { package: one.name })), ...[...why.values()].flat()]
}

/** Notes in the story of each order with which form its packages left. */
async function recordGone(
  trx: Knex,
  { actor, now }: Context,
  collection: Collection,
  loaded: readonly DockPackage[],
): Promise<void> {
  const rows = await trx("package as p")
    .join("closing_form as f", "f.id", "p.form_id")
    .whereIn(
      "p.id",
      loaded.map((one) => one.id),
    )
    .select("p.id", "f.number")
  const formOf = new Map(rows.map((row) => [row.id, row.number]))
  const byLead = new Map<number, Set<string>>()
  for (const one of loaded)
    byLead.set(one.orderId, (byLead.get(one.orderId) ?? new Set()).add(formOf.get(one.id) ?? ""))
  for (const [lead, numbers] of byLead)
    for (const orderId of await membersOf(trx, lead))
      await record(trx, actor, now, {
        action: "dock.gone",
        orderId,
        collectionId: collection.id,
        detail: { door: collection.door, carrier: collection.carrier, manifest: [...numbers].join(", ") },
      })
}

async function moveLeftBehind(
  trx: Knex,
  { actor, now }: Context,
  closed: Collection,
  packages: readonly DockPackage[],
): Promise<void> {
  for (const one of packages) {
    const next = await nextTruck(trx, closed, one)
    if (!next) continue
    await withLoad(trx, one.id)
      .where({ state: "left-behind" })
      .update({ collection_id: next.id, state: "labelled", missed_id: closed.id })
    await record(trx, actor, now, {
      action: "dock.stayed",
      orderId: one.orderId,
      collectionId: closed.id,
      detail: { package: one.name, next: next.on_date, door: next.door },
    })
  }
}

/** The next truck of a package's service after another. */
export async function nextTruck(
  trx: Knex,
  after: Pick<Collection, "carrierId" | "cutOff">,
  one: Pick<DockPackage, "id">,
) {
  const service = await trx("shipment")
    .join("package", "package.shipment_id", "shipment.id")
    .join("service", "service.id", "shipment.service_id")
    .where("package.id", one.id)
    .first("service.code", "shipment.warehouse_id")
  const coming = await comingTrucks(trx, service.warehouse_id, after)
  return coming.find((truck) => truck.services.includes(service.code))
}

/** A door to be closed with others, with as many packages as the clerk saw on its truck. */
export interface ToClose {
  readonly collectionId: CollectionId
  readonly expected: number
}

/** So many doors are closed at once. */
export const mostAtOnce = 100

/** Closes several doors, each by itself: one that can't be closed keeps none of the others. */
export async function closeAll(
  context: Context,
  doors: readonly ToClose[],
): Promise<{
  readonly closed: readonly string[]
  readonly refused: readonly { door: string; why: readonly Reason[] }[]
}> {
  const closed: string[] = []
  const refusedDoors: { door: string; why: readonly Reason[] }[] = []
  for (const one of doors.slice(0, mostAtOnce)) {
    const outcome = await closeCollection(context, one.collectionId, one.expected)
    const { door = "" } = (await collectionById(context.db, context.actor.warehouseId, one.collectionId)) ?? {}
    if (outcome.ok) closed.push(door)
    else refusedDoors.push({ door, why: outcome.reasons })
  }
  return { closed, refused: refusedDoors }
}
