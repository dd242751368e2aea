import type { OrderId } from "core/ids/index.ts"
import { money } from "core/money/index.ts"
import { buildPallets, goesAsFreight, type SuggestedBox } from "core/packing/index.ts"
import { type Outcome, reason, refused } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import { mass } from "core/units/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { parsed } from "../audit/index.ts"
import type { PackageRow } from "../db/tables.ts"
import { rateable } from "../packages/goods.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { returnPackaging } from "../packages/used.ts"
import { type Carton, usableCartons } from "../packaging/boxes.ts"
import { type Changed, change } from "../packing/change.ts"
import { digest, suggested } from "../packing/packedPrice.ts"
import { isOfWeight } from "../packing/recount.ts"
import { dryIceIn, loadsOf, packableOf, takeBoxes } from "../packing/suggestion.ts"
import { palletsRated } from "../plan/estimate.ts"
import { packingAsked, parcelsOf, plainInput } from "../plan/suggested.ts"
import { compare, costOf, type Offer } from "../rating/offers.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { offersFor, type Rated } from "./buy.ts"

/** Another packing of the same goods that costs less, with the service that it goes by. */
export interface Otherwise {
  readonly boxes: readonly SuggestedBox[]
  readonly offer: Offer
}

/** A comparison of a shipment as it is packed, with what it was made from. */
export type RatedAs = Pick<Rated, "offers" | "preselected" | "ground" | "pallet">

/** Pieces above which no other packing is looked for. */
const mostPieces = 150

/** What packing again must save: a minute of a packer's work (common practice). */
const worthWhile = 1

/** Answers already worked out, by what they follow from. */
const kept = new Map<string, Otherwise | null>()
const mostKept = 300

/**
 * Whether the goods would cost less packed otherwise, as the bench would suggest it. Null where that saves less than
 * packing again is worth, nothing arrives in the same time, or there is too much to try.
 */
export async function otherwise(db: Knex, rated: RatedAs, shipment: Shipment): Promise<Otherwise | null> {
  const pieces = shipment.lines.reduce((sum, line) => sum + line.packed, 0)
  const freight = shipment.lines.some((line) => line.packed > 0 && goesAsFreight(line.piece.item))
  // what the scale says of these packages would not be said of the others, whose weights are calculated
  const doubted = shipment.packages.some((one) =>
    [...one.flaws, ...one.overridden.map((pass) => pass.flaw)].some(isOfWeight),
  )
  if (
    doubted ||
    rated.offers.length === 0 ||
    pieces === 0 ||
    pieces > mostPieces ||
    freight ||
    shipment.state !== "open"
  )
    return null
  const { database } = db.client.connectionSettings
  const { today, warehouse } = rated.ground
  const cartons = await usableCartons(db, shipment.warehouseId)
  const versions = rated.offers.map((offer) => offer.version?.id)
  const service = rated.preselected?.service.code
  const key = digest([database, shipment.id, shipment.version, today, service, versions, warehouse, cartons])
  if (!kept.has(key)) {
    if (kept.size >= mostKept) kept.delete(kept.keys().next().value as string)
    kept.set(key, await search(rated, shipment, cartons))
  }
  return kept.get(key) ?? null
}

async function search(rated: RatedAs, shipment: Shipment, cartons: readonly Carton[]): Promise<Otherwise | null> {
  const { ground } = rated
  const loads = loadsOf(shipment, (line) => line.packed, shipment.keepTogether)
  const plain = rateable(ground.warehouse, shipment, rated.pallet)
  const now = rated.preselected?.price ? costOf(rated.preselected.price) : null
  const sending = { ...plain, chosenServiceId: null }
  const wanted = settingOf(shipment.settled, "packaging")
  const dryIce = dryIceIn(shipment)
  const found = await suggested(plainInput(packingAsked({ ...ground, cartons }, sending, { loads, wanted, dryIce })))
  if (!found.ok || found.value.left.length > 0) return null
  // what surcharges of the packages as they are ask for goes into these as well
  const ice = dryIce > 0 ? mass(dryIce, "kg") : null
  const worth = new Map(loads.map((load) => [load.key, load.declared]))
  const parcels = parcelsOf(cartons, found.value.boxes, loads).map((one, at) => {
    const values = found.value.boxes[at]?.placed.flatMap(({ key }) => worth.get(key) ?? []) ?? []
    const told = values.reduce((sum, value) => sum + value, 0)
    const declared = values.length > 0 ? money(told.toFixed(2), ground.warehouse.currency) : null
    return { ...one, dryIce: ice, declared, stackable: shipment.wishes.stackable }
  })
  const built = rated.pallet && buildPallets(rated.pallet, parcels)
  const pallets = built?.ok
    ? palletsRated(built.value, parcels).map((one) => ({ ...one, stackable: shipment.wishes.stackable, dryIce: ice }))
    : parcels
  const { preselected } = compare(ground, { ...sending, parcels, pallets, standing: "loose" })
  if (!preselected?.price || preselected.needs) return null
  // never for a later arrival than what is promised, where the packages as they are keep it
  if (preselected.late && rated.preselected && !rated.preselected.late) return null
  const most = now?.sub(worthWhile)
  return !most || costOf(preselected.price).lte(most) ? { boxes: found.value.boxes, offer: preselected } : null
}

/** Boxes as they were packed, to be packed so again: code of the packaging, and pieces by line. */
type PackedBefore = readonly {
  readonly code: string | null
  readonly pieces: Readonly<Record<string, number>>
  /** What was found of it by hand, as its row holds it; nothing of packages that were kept before this was. */
  readonly found?: Readonly<
    Pick<PackageRow, "tare_kg" | "measured_kg" | "length_mm" | "width_mm" | "height_mm" | "size_by_hand">
  >
}[]

/** The packages of a shipment in cartons of the catalog; null where one is of another kind, or stands on a pallet. */
async function packedNow(db: Knex, shipment: Shipment): Promise<PackedBefore | null> {
  if (shipment.packages.some((one) => one.kind !== "carton" || one.packaging === null || one.on !== null)) return null
  const rows = await db("package")
    .where({ shipment_id: shipment.id })
    .select("id", "tare_kg", "measured_kg", "length_mm", "width_mm", "height_mm", "size_by_hand")
  const byId = new Map(rows.map(({ id, ...found }) => [id as number, found]))
  return shipment.packages
    .filter((one) => one.contents.length > 0)
    .map((one) => ({
      code: one.packaging,
      pieces: Object.fromEntries(one.contents.map((content, at) => [String(one.lineIds[at]), content.quantity])),
      found: byId.get(one.id),
    }))
}

/**
 * Packs a shipment as it would cost less: its packages are empty and gone, and the cartons of the other packing stand
 * there and know what is to go into each. Refused where that is not to be had any more. A key counts once.
 */
export async function repack(context: Context, orderId: OrderId, key: string): Promise<Outcome<Shipment>> {
  const { db, actor, now } = context
  const seen = await shipmentOf(db, orderId)
  if (!seen || seen.warehouseId !== actor.warehouseId) return refused(reason("order.unknown"))
  const found = await otherwise(db, await offersFor(db, await warehouseById(db, seen.warehouseId), seen, now), seen)
  const detail = { packages: found?.boxes.length ?? 0, before: await packedNow(db, seen), version: seen.version + 1 }
  return change(
    context,
    orderId,
    { action: "pack.otherwise", detail, once: { key, text: "otherwise" } },
    async (trx, shipment): Promise<Changed> => {
      if (!found || shipment.version !== seen.version) return [reason("packing.stale")]
      await packAnew(trx, shipment, found.boxes, false)
      return []
    },
  )
}

/**
 * Takes a repacking back, as long as nothing was done since: the cartons are as they were, filled as they were, and not
 * scanned. Refused where something was done, or they were no cartons of the catalog. A key counts once.
 */
export async function repackBack(context: Context, orderId: OrderId, key: string): Promise<Outcome<Shipment>> {
  const { db } = context
  const last = await db("audit")
    .where({ order_id: orderId, action: "pack.otherwise" })
    .orderBy("id", "desc")
    .first("detail")
  const kept = last && parsed<{ before?: PackedBefore | null; version?: number }>(last.detail)
  const before = kept?.before
  return change(
    context,
    orderId,
    { action: "pack.as-before", detail: { packages: before?.length ?? 0 }, once: { key, text: "as before" } },
    async (trx, shipment): Promise<Changed> => {
      if (!before || shipment.version !== kept?.version) return [reason("packing.not-back")]
      const boxes = before.map(({ code, pieces }) => ({
        code,
        placed: Object.entries(pieces).flatMap(([line, quantity]) =>
          Array.from({ length: quantity }, () => ({ key: line, x: 0, y: 0, z: 0, length: 1, width: 1, height: 1 })),
        ),
      }))
      const ids = await packAnew(trx, shipment, boxes, true)
      // weighed and measured as they were, and by no plan
      for (const [at, { found }] of before.entries())
        if (found)
          await trx("package")
            .where({ id: ids[at] as number })
            .update({ ...found, planned: null })
      return []
    },
  )
}

/** All packages of a shipment gone, and others there: filled, or empty and knowing what is to go into each; their ids. */
async function packAnew(
  trx: Knex,
  shipment: Shipment,
  boxes: readonly SuggestedBox[],
  fill: boolean,
): Promise<readonly number[]> {
  await returnPackaging(trx, shipment)
  const ids = await trx("package").where({ shipment_id: shipment.id }).whereNot("state", "void").pluck("id")
  await trx("package_content").whereIn("package_id", ids).delete()
  await trx("package").whereIn("id", ids).update({ state: "void", parent_id: null })
  const pieces = packableOf(shipment)
  const plain = boxes.map((box) => ({ code: box.code, placed: box.placed.map((place) => ({ ...place })) }))
  return takeBoxes(trx, shipment, pieces, plain, fill)
}
