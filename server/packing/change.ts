import { palletSize } from "core/packing/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { type AuditAction, announce, type Change, type DeedOf, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"
import { measure } from "../measures/index.ts"
import { leadOf, lockShipmentOf } from "../orders/joined.ts"
import { type Shipment, type ShipmentPackage, shipmentOf } from "../packages/shipment.ts"
import { packagingTypes } from "../packaging/catalog.ts"

/** Packages of a shipment, at most. */
export const mostPackages = 200

/** Why something can't be done; or that it is so already: then nothing is changed or told again. */
export type Changed = readonly Reason[] | "before"

/** What a change is called on the order's story, and what it is known by where it counts once. */
export type What = (
  | DeedOf<Extract<AuditAction, `${"pack" | "ship" | "quote"}.${string}`>>
  /** What a scan or the work itself writes down. */
  | { readonly action: null; readonly detail?: Readonly<Record<string, unknown>> }
) & {
  /** The key that it is sent with, and what was scanned or pressed. */
  readonly once?: { readonly key: string; readonly text: string }
}

/**
 * Runs a change of an open shipment under its lock and counts its version up, so that what was seen before is old. What
 * was done is written on the order's story. Refused where it would make more packages than a shipment may have. A key
 * counts once: sent again, the shipment is answered as it is now.
 */
export async function change(
  context: Context,
  ofOrder: number,
  { once, ...deed }: What,
  work: (trx: Knex, shipment: Shipment) => Promise<Changed>,
): Promise<Outcome<Shipment>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const refusal = Symbol("refusal")
  // looked up before the transaction: what it reads must be what stands there once the lock is its own
  const orderId = await leadOf(db, ofOrder)
  try {
    return await inTransaction(db, async (trx) => {
      await lockShipmentOf(trx, orderId, actor.warehouseId)
      const shipment = await shipmentOf(trx, orderId)
      if (!shipment || shipment.warehouseId !== actor.warehouseId) return refused(reason("order.unknown"))
      if (shipment.orderId !== orderId || !shipment.members.some((one) => one.id === ofOrder))
        return refused(reason("order.changed-meanwhile"))
      if (once && (await doneBefore(trx, context, once))) return accepted(shipment)
      if (shipment.state !== "open") throw { [refusal]: [reason("pack.not-open", { state: shipment.state })] }
      if (await trx("sales_order").where({ id: orderId }).whereNotNull("cancelled_at").first("id"))
        throw { [refusal]: [reason("order.is-cancelled")] }
      const reasons = await work(trx, shipment)
      if (reasons === "before") return accepted(shipment)
      if (reasons.length > 0) throw { [refusal]: reasons }
      await trx("shipment")
        .where({ id: shipment.id })
        .update({ version: shipment.version + 1, trouble: null })
      await measure(trx, actor, now, orderId, "pack")
      if (deed.action) await record(trx, actor, now, { ...deed, orderId } as Change)
      else await announce(trx, { orderId })
      const after = (await shipmentOf(trx, orderId)) as Shipment
      if (after.packages.length > Math.max(mostPackages, shipment.packages.length))
        throw { [refusal]: [reason("pack.too-many-packages", { most: mostPackages })] }
      return accepted(after)
    })
  } catch (error) {
    const reasons = (error as { [refusal]?: readonly Reason[] })?.[refusal]
    if (reasons) return { ok: false, reasons }
    throw error
  }
}

/** Whether a change was made already. Notes it where it was not; a refusal takes the note back. */
async function doneBefore(trx: Knex, { actor, now }: Context, { key, text }: Required<What>["once"]): Promise<boolean> {
  if (await trx("scan").where({ id: key }).first("id")) return true
  await trx("scan").insert({
    id: key,
    at: now,
    user_id: actor.userId ?? 0,
    place: "pack",
    text: text.slice(0, 120),
    outcome: "done",
  })
  return false
}

/** What a package is made of: a packaging of the catalog, or a size and tare without one. */
export interface PackageMade {
  readonly id: number | null
  readonly outer_length_mm: string
  readonly outer_width_mm: string
  readonly outer_height_mm: string
  readonly tare_kg: string
}

/** A new package of a packaging, with the next number of the order; its id. */
export async function newPackage(trx: Knex, shipment: Shipment, type: PackageMade): Promise<number> {
  const order = there(await trx("sales_order").where({ id: shipment.orderId }).forUpdate().first("next_package"))
  await trx("sales_order")
    .where({ id: shipment.orderId })
    .update({ next_package: order.next_package + 1 })
  const id = newId(
    await trx("package").insert({
      shipment_id: shipment.id,
      number: order.next_package,
      packaging_id: type.id,
      length_mm: type.outer_length_mm,
      width_mm: type.outer_width_mm,
      height_mm: type.outer_height_mm,
      tare_kg: type.tare_kg,
    }),
  )
  return id
}

/** The outer size of a pallet after what is on it changed, unless a person measured it. */
export async function resizePallet(trx: Knex, before: Shipment, number: number | null): Promise<void> {
  if (number === null) return
  const shipment = (await shipmentOf(trx, before.orderId)) as Shipment
  const pallet = shipment.packages.find((one) => one.number === number && one.kind === "pallet")
  const type = (await packagingTypes(trx)).find((one) => one.code === pallet?.packaging)
  if (!pallet || !type || pallet.sizeByHand) return
  const cartons = shipment.packages.filter((one) => one.on === number)
  const pieces = pallet.contents.flatMap((content) =>
    Array.from({ length: Math.min(content.quantity, 200) }, () => ({
      size: content.item.unitSize,
      weight: content.item.unitWeight,
    })),
  )
  const load = [...cartons.map((one) => ({ size: one.outer, weight: one.actual })), ...pieces]
  const outer = palletSize(
    type,
    load.map((one, index) => ({ ...one, number: index + 1 })),
  )
  await trx("package")
    .where({ id: pallet.id })
    .update({
      length_mm: outer.length.toFixed(6),
      width_mm: outer.width.toFixed(6),
      height_mm: outer.height.toFixed(6),
    })
}

/** Whether a package of a shipment was taken away: asked for once more, there is nothing left to do. */
export const isGone = async (trx: Knex, shipment: Shipment, number: number): Promise<boolean> =>
  (await trx("package").where({ shipment_id: shipment.id, number, state: "void" }).first("id")) !== undefined

/** A package of a shipment that is open, or why it can't be changed. */
export function openPackage(shipment: Shipment, number: number): ShipmentPackage | Reason[] {
  const one = shipment.packages.find((candidate) => candidate.number === number)
  if (!one) return [reason("pack.no-such-package", { number })]
  return one.state === "open" ? one : [reason("pack.package-closed", { number })]
}
