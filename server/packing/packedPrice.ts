import { createHash } from "node:crypto"
import { setImmediate } from "node:timers/promises"
import type { Money } from "core/money/index.ts"
import {
  buildPallets,
  type Content,
  goesAsFreight,
  type PackagingType,
  type PackLoad,
  type SuggestedBox,
  type Suggestion,
  type UsableBox,
} from "core/packing/index.ts"
import type { RatedPackage } from "core/rating/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import { sumMass } from "core/units/index.ts"
import type { Knex } from "knex"
import { compute } from "../compute/pool.ts"
import { plannedOf } from "../packages/shipment.ts"
import { contentOf } from "../packaging/catalog.ts"
import { askedOf, type Ground, type OrderPlan, planOrder } from "../plan/plan.ts"
import type { PlannedRows } from "../plan/plannedRows.ts"
import { compare, type Offer, type Rateable } from "../rating/offers.ts"
import { termsOn } from "../rating/plannedTerms.ts"
import { settledOf } from "../rules/settleOrder.ts"
import { boxesFor, type Carton, loadOf, usableBoxes } from "./suggestion.ts"

/** Pieces of goods above which no packing is worked out for a price that is only offered. */
export const mostPieces = 150

/** What goods cost when they are packed as the bench will suggest, by the service that the bench will propose. */
export interface PackedPrice {
  readonly plan: OrderPlan
  readonly offer: Offer
  readonly cost: Money
}

/** What prices of packings are worked out from, read once for many. */
export interface PackingGround {
  readonly ground: Ground
  readonly cartons: readonly Carton[]
}

export const packingGround = async (db: Knex, ground: Ground): Promise<PackingGround> => ({
  ground,
  cartons: await usableBoxes(db, ground.warehouse.id),
})

/**
 * An order, or several as one, packed by the very method of the bench: planned first, then in the cartons that the
 * planned service takes. Null where nothing takes it, a piece goes into no carton, or there are too many pieces to work
 * out a packing for an offer.
 */
export async function packedRateable(
  { ground, cartons }: PackingGround,
  { order, lines }: PlannedRows,
): Promise<{ readonly plan: OrderPlan; readonly goods: Rateable } | null> {
  const plan = planOrder(ground, order, lines)
  const asked = askedOf(ground, order, lines)
  const contents = lines.map((line, index) => ({ id: line.id as number, piece: contentOf(line, index, line.ordered) }))
  const pieces = contents.reduce((sum, one) => sum + one.piece.quantity, 0)
  if (plan.serviceId === null || pieces > mostPieces) return null
  const goods = contents.some((one) => goesAsFreight(one.piece.item))
    ? asked
    : await packedGoods(ground, cartons, asked, contents, { order, plan })
  return goods && { plan, goods }
}

/** Prices already worked out, by all that they were worked out from. */
const prices = new Map<string, Promise<PackedPrice | null>>()
const mostPrices = 2_000
const fingerprints = new WeakMap<PackingGround, string>()
const digest = (of: unknown): string => createHash("sha256").update(JSON.stringify(of, withMaps)).digest("base64")
const withMaps = (_: string, value: unknown): unknown =>
  value instanceof Map || value instanceof Set ? [...value] : value

/** What prices depend on besides the order: what can be booked until when with whom, by which tariffs, in which cartons. */
function fingerprint(packing: PackingGround): string {
  const { ground, cartons } = packing
  const known = fingerprints.get(packing)
  if (known) return known
  const services = ground.services.map(({ versions, ...one }) => [one, versions.map((version) => version.id)])
  const { today, at, collections, packaging, book, warehouse } = ground
  const made = digest([services, today, at, collections, packaging, book, warehouse, cartons])
  fingerprints.set(packing, made)
  return made
}

/**
 * What that costs by the service that the bench will propose, compared over all services. Worked out once for the same
 * order on the same ground: offers to combine ask for some four hundred, of which a change alters a few.
 */
export function packedPrice(packing: PackingGround, rows: PlannedRows): Promise<PackedPrice | null> {
  const key = `${fingerprint(packing)} ${digest(rows)}`
  const known = prices.get(key)
  if (known) return known
  if (prices.size >= mostPrices) prices.delete(prices.keys().next().value as string)
  const price = workOutPrice(packing, rows)
  prices.set(key, price)
  // what broke off is tried again
  price.catch(() => prices.delete(key))
  return price
}

async function workOutPrice(packing: PackingGround, rows: PlannedRows): Promise<PackedPrice | null> {
  // each takes some milliseconds, and a page asks for dozens: what others ask for comes between
  await setImmediate()
  const packed = await packedRateable(packing, rows)
  if (!packed) return null
  const { preselected } = compare(packing.ground, packed.goods)
  return preselected?.price ? { plan: packed.plan, offer: preselected, cost: preselected.price.contract } : null
}

/** Packings already worked out, by what they were worked out from: a page that is opened again asks for the same. */
const kept = new Map<string, Promise<Outcome<Suggestion>>>()
const mostKept = 500

/** The suggested packing of loads in boxes, worked out in the pool, once for the same input. */
export function suggested(loads: readonly PackLoad[], boxes: readonly UsableBox[]): Promise<Outcome<Suggestion>> {
  const input = { loads, boxes }
  const key = createHash("sha256").update(JSON.stringify(input)).digest("base64")
  const known = kept.get(key)
  if (known) return known
  if (kept.size >= mostKept) kept.delete(kept.keys().next().value as string)
  const found = compute("suggest", input)
  kept.set(key, found)
  // what broke off is tried again
  found.catch(() => kept.delete(key))
  return found
}

async function packedGoods(
  ground: Ground,
  cartons: readonly Carton[],
  asked: Rateable,
  contents: readonly { readonly id: number; readonly piece: Content }[],
  { order, plan }: { readonly order: PlannedRows["order"]; readonly plan: OrderPlan },
): Promise<Rateable | null> {
  const loads = contents.map((one) => loadOf(one, one.piece.quantity))
  const service = termsOn(ground.services, plannedOf({ ...order, planned_service_id: plan.serviceId }), ground.today)
  const found = await suggested(loads, boxesFor(cartons, loads, service, settingOf(settledOf(order), "packaging")))
  if (!found.ok || found.value.left.length > 0) return null
  return { ...asked, ...ratedBoxes(ground.packaging, found.value.boxes, contents) }
}

/** Suggested boxes as the engine takes them: as parcels, and on the pallets that they would fill. */
export function ratedBoxes(
  packaging: readonly PackagingType[],
  boxes: readonly SuggestedBox[],
  contents: readonly { readonly id: number; readonly piece: Content }[],
): Pick<Rateable, "parcels" | "pallets" | "standing"> {
  const pieceOf = new Map(contents.map((one) => [String(one.id), one.piece.item]))
  const parcels = boxes.flatMap((box, index): RatedPackage[] => {
    const inside = box.placed.flatMap((place) => pieceOf.get(place.key) ?? [])
    const type = packaging.find((one) => one.code === box.code)
    const [only] = inside
    if (!only) return []
    return [
      {
        number: index + 1,
        weight: sumMass([...inside.map((item) => item.unitWeight), ...(type ? [type.tare] : [])]),
        size: type?.outer ?? only.unitSize,
        packaging: type?.code ?? null,
        handling: "parcel",
        stackable: true,
      },
    ]
  })
  const pallet = packaging.find((one) => one.kind === "pallet")
  const built = pallet && buildPallets(pallet, parcels)
  const pallets = built?.ok
    ? built.value.map(
        (one, index): RatedPackage => ({
          number: index + 1,
          weight: one.gross,
          size: one.outer,
          handling: "pallet",
        }),
      )
    : parcels
  return { parcels, pallets, standing: "loose" }
}
