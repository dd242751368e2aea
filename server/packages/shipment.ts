import type { OrderId } from "core/ids/index.ts"
import type { Content } from "core/packing/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { onOneState } from "../db/connection.ts"

import { readShipment, readShipments } from "./read.ts"
import type { Shipment, ShipmentPackage } from "./types.ts"

export * from "./types.ts"

/**
 * The shipment that an order's goods are in, with the lines, packages and contents of all its orders, or null when there
 * is none yet. An order has one shipment; a shipment may hold several orders.
 */
export async function shipmentOf(db: Knex, orderId: OrderId): Promise<Shipment | null> {
  const shipment = await shipmentOrDraft(db, orderId)
  return shipment && shipment.id > 0 ? shipment : null
}

/** The same, or what the shipment would be before anybody opened it: id 0, no packages. Null for no such order. */
export const shipmentOrDraft = (db: Knex, ofOrder: number): Promise<Shipment | null> =>
  // the version and what it is the version of, or buying what is seen would be refused
  onOneState(db, (view) => readShipment(view, ofOrder))

/** The same of many orders at once, by their ids. */
export const shipmentsOrDrafts = (db: Knex, orderIds: readonly number[]): Promise<Map<number, Shipment>> =>
  onOneState(db, (view) => readShipments(view, orderIds))

/** Packages that are handled by themselves: all but those that stand on a pallet. */
export const handled = <T extends { readonly on: number | null }>(packages: readonly T[]): T[] =>
  packages.filter((one) => one.on === null)

/** The flaws that keep packages of a shipment from being closed and bought, each with its package. */
export const keepingOpen = (shipment: Pick<Shipment, "packages">): Reason[] =>
  shipment.packages.flatMap((one) =>
    one.flaws
      .filter((flaw) => flaw.code.startsWith("flaw."))
      .map((flaw) => ({ code: flaw.code, values: { ...flaw.values, package: String(one.number) } })),
  )

/** What of the picked goods is in no package yet, as contents. */
export const unpacked = (shipment: Pick<Shipment, "lines">): Content[] =>
  shipment.lines
    .filter((line) => line.picked > line.packed)
    .map((line) => ({ ...line.piece, quantity: line.picked - line.packed }))

/** The handled packages of a shipment that hold goods of one of its orders. */
export function packagesOf(shipment: Shipment, orderId: OrderId): ShipmentPackage[] {
  if (shipment.members.length === 1) return handled(shipment.packages)
  const own = new Set(shipment.lines.filter((line) => line.orderId === orderId).map((line) => line.id))
  const holds = (one: ShipmentPackage) => one.lineIds.some((id) => own.has(id))
  return handled(shipment.packages).filter(
    (one) => holds(one) || shipment.packages.some((other) => other.on === one.number && holds(other)),
  )
}
