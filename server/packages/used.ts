import type { PackagingId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { Shipment } from "./shipment.ts"

/** Takes the packaging of closed packages off the shelf, once for each package. Never below nothing: a carton was there. */
export async function takePackaging(trx: Knex, shipment: Pick<Shipment, "id" | "warehouseId">): Promise<void> {
  const used = await trx("package")
    .where({ shipment_id: shipment.id, state: "closed", origin: "catalogue" })
    .whereNull("used_packaging_id")
    .whereNotNull("packaging_id")
    .orderBy("packaging_id")
    .select("id", "packaging_id")
  for (const one of used) {
    await trx("packaging_stock")
      .where({ warehouse_id: shipment.warehouseId })
      .where("packaging_id", one.packaging_id)
      .update({ on_hand: trx.raw("GREATEST(0, on_hand - 1)") })
    await trx("package").where({ id: one.id }).update({ used_packaging_id: one.packaging_id })
  }
}

/** Gives it back when packages are opened again: another carton may be taken. */
export async function returnPackaging(trx: Knex, shipment: Pick<Shipment, "id" | "warehouseId">): Promise<void> {
  const used = await trx("package")
    .where({ shipment_id: shipment.id, state: "closed" })
    .whereNotNull("used_packaging_id")
    .orderBy("used_packaging_id")
    .select("id", "used_packaging_id")
  for (const one of used) {
    await trx("packaging_stock")
      .where({ warehouse_id: shipment.warehouseId })
      .where("packaging_id", one.used_packaging_id)
      .increment("on_hand", 1)
    await trx("package").where({ id: one.id }).update({ used_packaging_id: null })
  }
}

export interface PackagingStock {
  readonly packagingId: PackagingId
  readonly onHand: number
  readonly lowAt: number
  /** At or below what was set: to be ordered. */
  readonly low: boolean
}

/** What lies on the shelf of each packaging that is counted at a warehouse, by its id. */
export async function packagingStock(db: Knex, warehouseId: WarehouseId): Promise<Map<number, PackagingStock>> {
  const rows = await db("packaging_stock").where({ warehouse_id: warehouseId })
  return new Map(
    rows.map((row) => [
      row.packaging_id,
      { packagingId: row.packaging_id, onHand: row.on_hand, lowAt: row.low_at, low: row.on_hand <= row.low_at },
    ]),
  )
}

/** Sets what lies on the shelf of a packaging, and from when it is low. Safe to repeat. */
export async function setPackagingStock(
  context: Context,
  packagingId: PackagingId,
  onHand: number,
  lowAt: number,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "stock.move")
  for (const [field, figure] of [
    ["on-hand", onHand],
    ["low-at", lowAt],
  ] as const)
    if (!Number.isInteger(figure) || figure < 0 || figure > 100_000)
      return refused(reason("packaging.figure", { field, figure: String(figure) }))
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const type = await trx("packaging").where({ id: packagingId }).first("code")
    if (!type) return refused(reason("pack.no-such-packaging", { code: String(packagingId) }))
    await trx("packaging_stock")
      .insert({ warehouse_id: actor.warehouseId, packaging_id: packagingId, on_hand: onHand, low_at: lowAt })
      .onConflict(["warehouse_id", "packaging_id"])
      .merge({ on_hand: onHand, low_at: lowAt })
    const detail = { code: type.code, onHand, lowAt }
    await record(trx, actor, now, { action: "packaging.counted", warehouseId: actor.warehouseId, detail })
    return accepted(null)
  })
}
