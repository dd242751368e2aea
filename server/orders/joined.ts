import { createHash } from "node:crypto"
import { shipToKey } from "core/address/index.ts"
import type { OrderId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import type { AddressColumns } from "../addresses/row.ts"
import { addressOf } from "../addresses/row.ts"
import { record } from "../audit/index.ts"

/** The order whose shipment an order's goods are in: the first of those joined, or the order itself. */
export async function leadOf(trx: Knex, orderId: OrderId): Promise<number> {
  const row = await trx("sales_order").where({ id: orderId }).first("joined_to_id")
  return row?.joined_to_id ?? orderId
}

/** The same for many orders, by their ids; one that there is not is left out. */
export async function leadsOf(trx: Knex, orderIds: readonly number[]): Promise<Map<number, number>> {
  const rows = await trx("sales_order")
    .whereIn("id", [...orderIds])
    .select("id", "joined_to_id")
  return new Map(rows.map((row) => [row.id, row.joined_to_id ?? row.id]))
}

/** All orders of one shipment, the leading one first; the order alone where nothing is joined. */
export async function membersOf(trx: Knex, orderId: OrderId): Promise<number[]> {
  const lead = await leadOf(trx, orderId)
  const others: number[] = await trx("sales_order").where({ joined_to_id: lead }).orderBy("id").pluck("id")
  return [lead, ...others]
}

/** What tells an order's place of delivery from others, short enough to be looked up by. */
export const shipToKeyOf = (order: AddressColumns): string =>
  createHash("sha1")
    .update(shipToKey(addressOf(order)))
    .digest("hex")

/** Counts the version of an order's open shipment up, so that what was seen of it before is old. */
export async function touchShipment(trx: Knex, orderId: OrderId): Promise<void> {
  await trx("shipment")
    .where({ order_id: await leadOf(trx, orderId), state: "open" })
    .increment("version", 1)
}

/**
 * Parts an order from those it was joined with, in the caller's transaction: what is packed of it comes out of their
 * packages. The leading order parts all. The caller has made sure that no labels are asked for. Answers the other orders,
 * which are to be planned again; none where nothing was joined.
 */
export async function part(
  trx: Knex,
  orderId: OrderId,
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
): Promise<number[]> {
  const members = await membersOf(trx, orderId)
  const [lead] = members as [number]
  if (members.length === 1) return []
  const leaving = lead === orderId ? members.slice(1) : [orderId]
  const shipment = await trx("shipment").where({ order_id: lead, state: "open" }).forUpdate().first("id")
  if (shipment) {
    await trx("package_content")
      .whereIn("package_id", trx("package").where({ shipment_id: shipment.id }).select("id"))
      .whereIn("order_line_id", trx("order_line").whereIn("order_id", leaving).select("id"))
      .delete()
    // their contents are not what they were closed and weighed with
    await trx("package").where({ shipment_id: shipment.id, state: "closed" }).update({ state: "open" })
    await trx("package").where({ shipment_id: shipment.id, state: "open" }).update({ measured_kg: null })
    await trx("shipment").where({ id: shipment.id }).increment("version", 1)
  }
  await trx("sales_order")
    .whereIn("id", leaving)
    .update({ joined_to_id: null, version: trx.raw("version + 1") })
  // what was calculated for these is not what the others cost
  await trx("sales_order").where({ id: lead }).update({ joined_for: null })
  const names = new Map(
    (await trx("sales_order").whereIn("id", members).select("id", "order_number")).map((row) => [
      row.id,
      row.order_number,
    ]),
  )
  for (const id of [...leaving, lead])
    await record(trx, actor, now, {
      action: "order.parted",
      orderId: id,
      detail: { orders: (id === lead ? leaving : [lead]).map((one) => names.get(one)).join(", ") },
    })
  return members.filter((id) => id !== orderId)
}

/** Locks an order and then its shipments, in the one order of `lockOrder`; whoever packs, buys or voids begins with it. */
export async function lockShipmentOf(trx: Knex, orderId: OrderId, warehouseId: WarehouseId): Promise<void> {
  await trx("sales_order").where({ id: orderId, warehouse_id: warehouseId }).forUpdate().select("id")
  await trx("shipment").where({ order_id: orderId, warehouse_id: warehouseId }).orderBy("id").forUpdate().select("id")
}

/**
 * Locks orders and then the open shipments that they are in, each by their ids: for whoever goes on to lock stock.
 * An order of another warehouse is left alone where one is given.
 */
export async function lockOrders(trx: Knex, orderIds: readonly OrderId[], warehouseId?: WarehouseId): Promise<void> {
  const orders = await trx("sales_order")
    .whereIn("id", [...orderIds])
    .where((own) => warehouseId !== undefined && own.where({ warehouse_id: warehouseId }))
    .orderBy("id")
    .forUpdate()
    .select("id", "joined_to_id")
  const leads = [...new Set(orders.map((one) => one.joined_to_id ?? one.id))]
  await trx("shipment").whereIn("order_id", leads).where({ state: "open" }).orderBy("id").forUpdate().select("id")
}
