import { addDays, type LocalDate, localDate } from "core/calendar/index.ts"
import { poundsColumn, type RoundSheetModel } from "core/documents/index.ts"
import type { CollectionId, OrderId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { mostStops } from "core/round/index.ts"
import { type Strokes, strokesSchema } from "core/signature/index.ts"
import { mass, sumMass } from "core/units/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { placeOfPostalCode } from "../addresses/places.ts"
import { parsed, record } from "../audit/index.ts"
import { compute } from "../compute/pool.ts"
import { collectionById } from "../setup/collections.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { withTruck } from "./close.ts"

/** Days for which an order that was not delivered is taken along by the next round. */
const daysCarried = 14

/** Whether a carrier is our own vehicle: all its services are. */
export async function isOwnVehicle(db: Knex, carrierId: number): Promise<boolean> {
  const modes: string[] = await db("service").where({ carrier_id: carrierId }).distinct("mode").pluck("mode")
  return modes.length > 0 && modes.every((mode) => mode === "own")
}

/** The orders that lead shipments which leave with a truck. */
const leadsOn = (db: Knex, collectionId: CollectionId) =>
  db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where("p.collection_id", collectionId)
    .whereIn("p.state", ["labelled", "on-truck", "gone"])
    .whereNull("p.parent_id")
    .orderBy("h.order_id")
    .distinct<{ id: number }[]>("h.order_id as id")

/** Orders of rounds of the last days that nobody took, and that no later round has. */
async function undelivered(db: Knex, warehouseId: WarehouseId, collectionId: CollectionId, from: string) {
  const rows = await db("round_stop as s")
    .join("collection as c", "c.id", "s.collection_id")
    .where({ "s.warehouse_id": warehouseId, "s.state": "not-delivered" })
    .whereNot("s.collection_id", collectionId)
    .where("c.on_date", ">=", from)
    .whereNotExists(
      db("round_stop as l")
        .whereRaw("l.order_id = s.order_id")
        .whereRaw("l.id > s.id")
        .whereNot("l.collection_id", collectionId),
    )
    .orderBy("s.order_id")
    .distinct<{ id: number }[]>("s.order_id as id")
  return rows
}

/**
 * Plans the round of our own vehicle: the orders on its truck, and those that nobody took on a round before, grouped by
 * their address, in the order that is shortest by distance. Planned again, what was told of a stop stays. Refused where
 * the truck is another carrier's, or has too many stops.
 */
export async function planRoundOf(
  context: Context,
  collectionId: CollectionId,
): Promise<Outcome<{ readonly stops: number; readonly km: number }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const collection = await collectionById(db, actor.warehouseId, collectionId)
  if (!collection) return refused(reason("dock.no-such-collection"))
  if (!(await isOwnVehicle(db, collection.carrierId)))
    return refused(reason("round.not-own", { carrier: collection.carrier }))
  const warehouse = await warehouseById(db, actor.warehouseId)
  const from = addDays(localDate(now, warehouse.zone), -daysCarried)
  const leads = async (trx: Knex) => [
    ...new Set(
      [...(await leadsOn(trx, collectionId)), ...(await undelivered(trx, actor.warehouseId, collectionId, from))].map(
        (one) => one.id,
      ),
    ),
  ]
  const ids = await leads(db)
  if (ids.length === 0) return refused(reason("round.empty", { door: collection.door }))
  const orders = await db("sales_order")
    .whereIn("id", ids)
    .orderBy("id")
    .select("id", "country", "postal_code", "street", "street2", "city", "company")
  const stops = new Map<string, { readonly orders: number[]; readonly country: string; readonly postalCode: string }>()
  for (const one of orders) {
    const key = [one.country, one.postal_code, one.city, one.street, one.street2, one.company].join("\n").toLowerCase()
    const known = stops.get(key)
    if (known) known.orders.push(one.id)
    else stops.set(key, { orders: [one.id], country: one.country, postalCode: one.postal_code })
  }
  if (stops.size > mostStops) return refused(reason("round.too-many", { most: mostStops }))
  const list = [...stops.values()]
  const planned = await compute("round", {
    from: placeOfPostalCode(warehouse.country, warehouse.postalCode),
    stops: list.map((one) => placeOfPostalCode(one.country, one.postalCode)),
  })
  return withTruck(
    db,
    actor.warehouseId,
    collectionId,
    async (trx): Promise<Outcome<{ stops: number; km: number }>> => {
      for (const [position, at] of planned.order.entries())
        for (const orderId of (list[at] as (typeof list)[number]).orders)
          await trx("round_stop")
            .insert({
              warehouse_id: actor.warehouseId,
              collection_id: collectionId,
              order_id: orderId,
              position: position + 1,
            })
            .onConflict(["collection_id", "order_id"])
            .merge({ position: position + 1 })
      await trx("round_stop")
        .where({ collection_id: collectionId, state: "planned" })
        .whereNotIn("order_id", ids)
        .delete()
      await trx("collection")
        .where({ id: collectionId })
        .update({ round_km: planned.km.toFixed(1) })
      await record(trx, actor, now, {
        action: "round.planned",
        collectionId,
        detail: { door: collection.door, n: list.length, km: planned.km.toFixed(0) },
      })
      return accepted({ stops: list.length, km: planned.km })
    },
  )
}

/** Plans the round of a truck that was just closed, where it is our own vehicle: what left is what is driven to. */
export async function planClosed(context: Context, collectionId: CollectionId): Promise<void> {
  const collection = await collectionById(context.db, context.actor.warehouseId, collectionId)
  if (collection?.closedAt && (await isOwnVehicle(context.db, collection.carrierId)))
    await planRoundOf(context, collectionId)
}

export interface RoundOrder {
  readonly id: OrderId
  readonly orderNumber: string
  readonly packages: readonly string[]
  readonly lb: string
  readonly state: "planned" | "delivered" | "not-delivered"
  readonly name: string
  readonly reason: string
  readonly strokes: Strokes
  readonly at: Date | null
  readonly by: string
}

export interface RoundStop {
  readonly position: number
  readonly receiver: string
  readonly attention: string
  readonly street: string
  readonly place: string
  readonly phone: string
  readonly instructions: string
  readonly orders: readonly RoundOrder[]
}

/** The stops of a round in their order, each with the orders that are delivered there. */
export async function roundStops(db: Knex, warehouseId: WarehouseId, collectionId: CollectionId): Promise<RoundStop[]> {
  const rows = await db("round_stop as s")
    .join("sales_order as o", "o.id", "s.order_id")
    .where({ "s.warehouse_id": warehouseId, "s.collection_id": collectionId })
    .orderBy(["s.position", "o.order_number"])
    .select(
      "s.*",
      "o.order_number",
      "o.company",
      "o.attention",
      "o.street",
      "o.street2",
      "o.city",
      "o.state as region",
      "o.postal_code",
      "o.phone",
      "o.instructions",
      "o.opening_hours",
    )
  const packages = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .whereIn(
      "h.order_id",
      rows.map((row) => row.order_id),
    )
    .whereNull("p.parent_id")
    .whereNot("p.state", "void")
    .orderBy("p.number")
    .select("h.order_id", "p.number", "p.sent_kg")
  const stops = new Map<number, RoundStop & { orders: RoundOrder[] }>()
  for (const row of rows) {
    const own = packages.filter((one) => one.order_id === row.order_id)
    const order: RoundOrder = {
      id: row.order_id,
      orderNumber: row.order_number,
      packages: own.map((one) => `${row.order_number}-${one.number}`),
      lb: poundsColumn(sumMass(own.map((one) => mass(one.sent_kg ?? "0", "kg")))),
      state: row.state,
      name: row.name,
      reason: row.reason,
      strokes: strokesSchema.parse(parsed(row.strokes) ?? []),
      at: row.told_at,
      by: row.told_by,
    }
    const known = stops.get(row.position)
    if (known) known.orders.push(order)
    else
      stops.set(row.position, {
        position: row.position,
        receiver: row.company || row.attention,
        attention: row.company ? row.attention : "",
        street: [row.street, row.street2].filter(Boolean).join(", "),
        place: `${row.city} ${row.region} ${row.postal_code}`.trim(),
        phone: row.phone,
        instructions: [row.instructions, row.opening_hours].filter(Boolean).join(", "),
        orders: [order],
      })
  }
  return [...stops.values()]
}

/** Miles of kilometers, as a driver reads them. */
export const milesOf = (km: string | number | null): string => (Number(km ?? 0) / 1.609344).toFixed(0)

/** The sheet of a round as it is planned; null where it is not. */
export async function roundSheetOf(
  db: Knex,
  warehouseId: WarehouseId,
  collectionId: CollectionId,
): Promise<RoundSheetModel | null> {
  const collection = await db("collection as c")
    .join("warehouse as w", "w.id", "c.warehouse_id")
    .where({ "c.id": collectionId, "c.warehouse_id": warehouseId })
    .first("c.door", "c.on_date", "c.round_km", "w.code")
  const stops = collection ? await roundStops(db, warehouseId, collectionId) : []
  if (!collection || stops.length === 0) return null
  return {
    number: `RD-${collection.code}-${collection.on_date.slice(2).replaceAll("-", "")}-${collection.door}`,
    door: collection.door,
    day: collection.on_date,
    miles: milesOf(collection.round_km),
    stops: stops.map((stop) => ({
      position: stop.position,
      lines: [stop.receiver, stop.attention, stop.street, stop.place, stop.phone, stop.instructions].filter(Boolean),
      packages: stop.orders.flatMap((one) => one.packages),
      lb: poundsColumn(sumMass(stop.orders.map((one) => mass(one.lb, "lb")))),
    })),
  }
}

/** How many orders are on a truck whose round does not have them. */
export async function unplanned(db: Knex, collectionId: CollectionId): Promise<number> {
  const [on, has] = await Promise.all([
    leadsOn(db, collectionId),
    db("round_stop").where({ collection_id: collectionId }).pluck("order_id"),
  ])
  const known = new Set<number>(has)
  return on.filter((one) => !known.has(one.id)).length
}

/** What is known of a round before its stops; null for a truck that is not our own vehicle, or of another warehouse. */
export async function roundOf(
  db: Knex,
  warehouseId: WarehouseId,
  collectionId: CollectionId,
): Promise<{
  readonly id: CollectionId
  readonly door: string
  readonly onDate: LocalDate
  readonly closed: boolean
  readonly km: string | null
} | null> {
  const row = await db("collection")
    .where({ id: collectionId, warehouse_id: warehouseId })
    .first("id", "door", "on_date", "closed_at", "round_km", "carrier_id")
  return row && (await isOwnVehicle(db, row.carrier_id))
    ? { id: row.id, door: row.door, onDate: row.on_date, closed: row.closed_at !== null, km: row.round_km }
    : null
}

export interface RoundBrief {
  readonly collectionId: CollectionId
  readonly door: string
  readonly onDate: string
  readonly closed: boolean
  readonly stops: number
  readonly planned: number
  readonly delivered: number
  readonly notDelivered: number
}

/** Rounds of a warehouse, the latest first. */
export async function rounds(db: Knex, warehouseId: WarehouseId): Promise<RoundBrief[]> {
  const rows = await db("round_stop as s")
    .join("collection as c", "c.id", "s.collection_id")
    .where("s.warehouse_id", warehouseId)
    .groupBy("c.id", "c.door", "c.on_date", "c.closed_at")
    .orderBy([
      { column: "c.on_date", order: "desc" },
      { column: "c.id", order: "desc" },
    ])
    .limit(50)
    .select(
      "c.id",
      "c.door",
      "c.on_date",
      "c.closed_at",
      db.raw("COUNT(DISTINCT s.position) AS stops"),
      db.raw("SUM(s.state = 'planned') AS planned"),
      db.raw("SUM(s.state = 'delivered') AS delivered"),
      db.raw("SUM(s.state = 'not-delivered') AS behind"),
    )
  const figure = (row: object, name: string) => Number((row as Record<string, unknown>)[name])
  return rows.map((row) => ({
    collectionId: row.id,
    door: row.door,
    onDate: row.on_date,
    closed: row.closed_at !== null,
    stops: figure(row, "stops"),
    planned: figure(row, "planned"),
    delivered: figure(row, "delivered"),
    notDelivered: figure(row, "behind"),
  }))
}
