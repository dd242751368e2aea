import type { LocalDate } from "core/calendar/index.ts"
import type { OrderId, ReturnId, ShipmentId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { laneTo } from "../addresses/lane.ts"
import { locate } from "../addresses/places.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"

type Receiver = Pick<SalesOrderRow, "country" | "state" | "postal_code">

/** The receiver's time zone and the lane to him. */
function towards(receiver: Receiver, zone: string): { readonly zone: string; readonly lane: string } {
  return {
    zone: locate(receiver.country, receiver.postal_code).zone ?? zone,
    lane: laneTo(receiver),
  }
}

const orderOf = async (trx: Knex, orderId: OrderId) =>
  there(
    await trx("sales_order as o")
      .join("warehouse as w", "w.id", "o.warehouse_id")
      .where("o.id", orderId)
      .first(
        "o.id",
        "o.warehouse_id",
        "o.order_number",
        "o.country",
        "o.state",
        "o.postal_code",
        "o.promised_on",
        "w.zone",
      ),
  )

/** Follows the packages of a shipment that was just bought, in the transaction in which it was. Again changes nothing. */
export async function followShipment(trx: Knex, shipmentId: ShipmentId, now: Date): Promise<void> {
  const shipment = there(
    await trx("shipment as h")
      .join("service as s", "s.id", "h.service_id")
      .join("carrier as k", "k.id", "s.carrier_id")
      .where("h.id", shipmentId)
      .first(
        "h.order_id",
        "h.warehouse_id",
        "h.service_id",
        "h.master_tracking",
        "h.ship_date",
        "h.arrives_on",
        "s.carrier_id",
        "k.name",
      ),
  )
  const order = await orderOf(trx, shipment.order_id)
  const packages = await trx("package")
    .where({ shipment_id: shipmentId })
    .whereNot({ state: "void" })
    .whereNotNull("tracking")
    .orderBy("number")
    .select("id", "number", "tracking")
  for (const one of packages)
    await trx("tracked_unit")
      .insert({
        warehouse_id: shipment.warehouse_id,
        order_id: shipment.order_id,
        kind: "package",
        package_id: one.id,
        piece: one.number,
        carrier_id: shipment.carrier_id,
        service_id: shipment.service_id,
        carrier: shipment.name,
        tracking: there(one.tracking),
        master: shipment.master_tracking ?? "",
        name: `${order.order_number}-${one.number}`,
        ...towards(order, order.zone),
        shipped_on: shipment.ship_date,
        arrives_on: shipment.arrives_on,
        due_on: order.promised_on ?? shipment.arrives_on,
        look_at: now,
      })
      .onConflict(["kind", "order_id", "tracking", "piece"])
      .ignore()
}

/** Follows no longer what a booking that is void was to carry. */
export async function unfollowShipment(trx: Knex, shipmentId: ShipmentId, now: Date): Promise<void> {
  await endUnits(
    trx,
    trx("tracked_unit as u")
      .join("package as p", "p.id", "u.package_id")
      .where({ "p.shipment_id": shipmentId, "u.kind": "package" })
      .whereNull("u.void_at")
      .select("u.id"),
    now,
  )
}

/** Follows packages that come back by a label of ours. */
export async function followReturn(
  trx: Knex,
  of: {
    readonly returnId: ReturnId
    readonly orderId: OrderId
    readonly number: number
    readonly serviceId: number
    readonly master: string
    readonly tracking: readonly string[]
  },
): Promise<void> {
  const order = await orderOf(trx, of.orderId)
  const service = there(
    await trx("service as s")
      .join("carrier as k", "k.id", "s.carrier_id")
      .where("s.id", of.serviceId)
      .first("k.id", "k.name"),
  )
  for (const [index, tracking] of of.tracking.entries())
    await trx("tracked_unit")
      .insert({
        warehouse_id: order.warehouse_id,
        order_id: of.orderId,
        kind: "return",
        return_id: of.returnId,
        piece: index + 1,
        carrier_id: service.id,
        service_id: of.serviceId,
        carrier: service.name,
        tracking,
        master: of.master,
        name: `${order.order_number}-R${of.number}.${index + 1}`,
        zone: order.zone,
      })
      .onConflict(["kind", "order_id", "tracking", "piece"])
      .ignore()
}

/** Follows no longer what a label for the way back was to bring, once it is void. */
export async function unfollowReturn(trx: Knex, returnId: ReturnId, now: Date): Promise<void> {
  await endUnits(
    trx,
    trx("tracked_unit as u").where({ return_id: returnId }).whereNull("u.void_at").select("u.id"),
    now,
  )
}

async function endUnits(trx: Knex, query: Knex.QueryBuilder, now: Date): Promise<void> {
  const ids = ((await query) as { id: number }[]).map((one) => one.id)
  if (ids.length === 0) return
  await trx("tracked_unit").whereIn("id", ids).update({ void_at: now, look_at: null })
  await trx("tracking_case")
    .whereIn("unit_id", ids)
    .whereIn("state", ["open", "watched"])
    .update({ state: "over", told_at: now })
}

/**
 * Follows numbers of an order that others ship: an outside warehouse, or a carrier that we do not book with. Where its
 * carrier's name is that of one of ours, his events are theirs.
 */
export async function followElsewhere(
  trx: Knex,
  orderId: OrderId,
  shipped: {
    readonly carrier: string
    readonly tracking: readonly string[]
    readonly shippedOn: LocalDate | null
    readonly leftAt: Date
  },
): Promise<void> {
  const order = await orderOf(trx, orderId)
  const known = await trx("carrier").where({ name: shipped.carrier }).first("id")
  for (const [index, tracking] of shipped.tracking.entries()) {
    if (tracking === "") continue
    await trx("tracked_unit")
      .insert({
        warehouse_id: order.warehouse_id,
        order_id: orderId,
        kind: "elsewhere",
        piece: index + 1,
        carrier_id: known?.id ?? null,
        carrier: shipped.carrier,
        tracking,
        name: `${order.order_number}-${index + 1}`,
        ...towards(order, order.zone),
        shipped_on: shipped.shippedOn,
        due_on: order.promised_on,
        left_at: shipped.leftAt,
        look_at: shipped.leftAt,
      })
      .onConflict(["kind", "order_id", "tracking", "piece"])
      .ignore()
  }
}

/** Notes that packages of shipments have left with a truck for good: from then on they are expected to be seen. */
export async function unitsLeft(
  trx: Knex,
  of: { readonly collectionId: number; readonly at: Date },
  now: Date,
): Promise<number[]> {
  const ids: number[] = await trx("tracked_unit as u")
    .join("package as p", "p.id", "u.package_id")
    .where({ "p.collection_id": of.collectionId, "p.state": "gone" })
    .whereNull("u.void_at")
    .whereNull("u.left_at")
    .orderBy("u.id")
    .pluck("u.id")
  if (ids.length > 0) await trx("tracked_unit").whereIn("id", ids).update({ left_at: of.at, look_at: now })
  return ids
}
