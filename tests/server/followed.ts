import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { load } from "server/dock/load.ts"
import { pullEvents } from "server/tracking/pull.ts"
import { there } from "../../server/db/there.ts"
import { askForLabels, carrierAt, closeDoor, packed, packedInto, type Rig, row, takeFile, workAll } from "./rig.ts"

export interface Shipped {
  readonly orderId: OrderId
  readonly tracking: readonly string[]
  readonly door: number
}

/** An order with labels, on its truck; in one carton, or in cartons of so many pieces. */
export async function labelledOn(
  rig: Rig,
  number: string,
  service: string,
  more: Record<string, string> = {},
  cartons: readonly number[] = [],
): Promise<Shipped> {
  await takeFile(rig.context, row({ order_number: number, ...more }))
  const { orderId, shipment } =
    cartons.length > 0 ? await packedInto(rig.context, number, cartons) : await packed(rig.context, number)
  await askForLabels(rig.context, orderId, shipment, service)
  await workAll(rig.db)
  const packages = await rig
    .db("package")
    .where({ shipment_id: shipment.id })
    .whereNot({ state: "void" })
    .orderBy("number")
    .select("sscc", "tracking", "collection_id")
  const door = there(packages[0]?.collection_id)
  for (const one of packages) await load(rig.context, door, { sscc: there(one.sscc) }, randomUUID())
  return { orderId, tracking: packages.map((one) => there(one.tracking)), door }
}

/** Orders that have left for good with the truck of a service. */
export async function shipped(
  rig: Rig,
  numbers: readonly string[],
  service = "LKG",
  more: Record<string, string> = {},
  cartons: readonly number[] = [],
): Promise<Shipped[]> {
  const all: Shipped[] = []
  for (const number of numbers) all.push(await labelledOn(rig, number, service, more, cartons))
  for (const door of new Set(all.map((one) => one.door))) await closeDoor(rig.context, door, await onBoard(rig, door))
  await workAll(rig.db)
  return all
}

const onBoard = async (rig: Rig, door: number): Promise<number> =>
  (await rig.db("package").where({ collection_id: door, state: "on-truck" }).whereNull("parent_id").select("id")).length

/** What a carrier's people scan; the same id again is the same event. */
export async function scanned(rig: Rig, carrier: string, ...events: readonly object[]): Promise<void> {
  const answer = await fetch(`${carrierAt(rig, carrier)}/v1/events`, { method: "POST", body: JSON.stringify(events) })
  if (answer.status !== 201) throw new Error(`the carrier answered ${answer.status}`)
}

/** Asks a carrier for all that it has. */
export async function pulled(rig: Rig, carrier: string): Promise<number> {
  const { id } = there(await rig.db("carrier").where({ code: carrier }).first("id"))
  return pullEvents(rig.db, id)
}
