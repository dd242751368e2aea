import type { OrderId } from "core/ids/index.ts"
import { goesAsFreight, type SuggestedBox } from "core/packing/index.ts"
import { type Outcome, reason, refused } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import type { Service } from "core/tariff/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { rateable } from "../packages/goods.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { returnPackaging } from "../packages/used.ts"
import { packagingTypes } from "../packaging/catalog.ts"
import { type Changed, change } from "../packing/change.ts"
import { ratedBoxes, suggested } from "../packing/packedPrice.ts"
import { isOfWeight } from "../packing/recount.ts"
import { boxesFor, loadsOf, takeBoxes, usableBoxes } from "../packing/suggestion.ts"
import { compare, costOf, type Offer } from "../rating/offers.ts"
import { plannedTerms } from "../rating/plannedTerms.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { offersFor, type Rated } from "./buy.ts"

/** Another packing of the same goods that costs less, with the service that it goes by. */
export interface Otherwise {
  readonly boxes: readonly SuggestedBox[]
  readonly offer: Offer
}

/** Pieces above which no other packing is looked for, and services for whose limits one is. */
const mostPieces = 150
const mostServices = 4

/** Refusals of a service that other packages might not have. */
const ofPackages = new Set(["rate.over-weight", "rate.over-length", "rate.over-girth", "rate.too-many-pieces"])

/** What packing again must save: a minute of a packer's work (common practice). */
const worthWhile = 1

/** Answers already worked out, by what they follow from. */
const kept = new Map<string, Otherwise | null>()
const mostKept = 300

/**
 * Whether the goods would cost less packed otherwise: as the bench would suggest it, and for the limits of the first few
 * services that refuse the packages as they are. Null where that saves less than packing again is worth, nothing arrives
 * in the same time, or there is too much to try.
 */
export async function otherwise(db: Knex, rated: Rated, shipment: Shipment): Promise<Otherwise | null> {
  const refusing = rated.offers.filter(
    (offer) =>
      offer.terms && offer.terms.goods.handling !== "pallet" && offer.refusals.some((one) => ofPackages.has(one.code)),
  )
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
  const versions = rated.offers.map((offer) => offer.version?.id ?? 0).join()
  const key = `${database} ${shipment.id} ${shipment.version} ${rated.ground.today} ${rated.preselected?.service.code} ${versions}`
  if (!kept.has(key)) {
    if (kept.size >= mostKept) kept.delete(kept.keys().next().value as string)
    kept.set(key, await search(db, rated, shipment, refusing))
  }
  return kept.get(key) ?? null
}

async function search(
  db: Knex,
  rated: Rated,
  shipment: Shipment,
  refusing: readonly Offer[],
): Promise<Otherwise | null> {
  const loads = loadsOf(shipment, (line) => line.packed)
  const cartons = await usableBoxes(db, shipment.warehouseId)
  const packaging = await packagingTypes(db)
  const plain = rateable(rated.ground.warehouse, shipment, rated.pallet)
  const contents = shipment.lines.map((line) => ({ id: line.id, piece: line.piece }))
  const now = rated.preselected?.price ? costOf(rated.preselected.price) : null
  let best: Otherwise | null = null
  const planned = await plannedTerms(db, shipment.warehouseId, shipment.plannedService)
  for (const terms of [planned, ...byLimits(refusing).slice(0, mostServices)]) {
    const found = await suggested(loads, boxesFor(cartons, loads, terms, settingOf(shipment.settled, "packaging")))
    if (!found.ok || found.value.left.length > 0) continue
    const goods = { ...plain, ...ratedBoxes(packaging, found.value.boxes, contents) }
    const { preselected } = compare(rated.ground, { ...goods, chosenServiceId: null })
    if (!preselected?.price || preselected.needs) continue
    const cost = costOf(preselected.price)
    // never for a later arrival than what is promised, where the packages as they are keep it
    if (preselected.late && rated.preselected && !rated.preselected.late) continue
    const least = best?.offer.price ? costOf(best.offer.price) : now?.sub(worthWhile)
    if (!least || cost.lte(least)) best = { boxes: found.value.boxes, offer: preselected }
  }
  return best
}

/** Of services with the same limits one. */
function byLimits(offers: readonly Offer[]): Service[] {
  const once = new Map<string, Service>()
  for (const { terms } of offers)
    if (terms) {
      const { weight, length, lengthAndGirth, pieces } = terms.limits
      const key = [weight, length, lengthAndGirth, pieces, terms.weighing.unit, terms.lengthUnit].join(" ")
      if (!once.has(key)) once.set(key, terms)
    }
  return [...once.values()]
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
  return change(
    context,
    orderId,
    { action: "pack.otherwise", detail: { packages: found?.boxes.length ?? 0 }, once: { key, text: "otherwise" } },
    async (trx, shipment): Promise<Changed> => {
      if (!found || shipment.version !== seen.version) return [reason("packing.stale")]
      await returnPackaging(trx, shipment)
      const ids = await trx("package").where({ shipment_id: shipment.id }).whereNot("state", "void").pluck("id")
      await trx("package_content").whereIn("package_id", ids).delete()
      await trx("package").whereIn("id", ids).update({ state: "void", parent_id: null })
      const pieces = new Map(loadsOf(shipment, () => 1).map((one) => [one.key, one]))
      const boxes = found.boxes.map((box) => ({ code: box.code, placed: box.placed.map((place) => ({ ...place })) }))
      await takeBoxes(trx, shipment, pieces, boxes, false)
      return []
    },
  )
}
