import {
  type Content,
  type FixedPackage,
  goesAsFreight,
  type PackLoad,
  type ServiceLane,
  type SuggestedBox,
  type Suggestion,
  type SuggestionInput,
  suggestPacking,
} from "core/packing/index.ts"
import { type RatedPackage, sharedClass } from "core/rating/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import type { Tariff } from "core/tariff/index.ts"
import { mass, size, sumMass } from "core/units/index.ts"
import { boxesFor, type Carton, handlingCost, loadsOfLine } from "../packaging/boxes.ts"
import type { RatingGround } from "../rating/offers.ts"
import { type ParcelWay, parcelWays, type Sending } from "../rating/parcelWays.ts"

/** What packings are worked out on: services and trucks, and the cartons on the shelf. */
export type PackingGround = RatingGround & { readonly cartons: readonly Carton[] }

export interface PackAsk {
  readonly loads: readonly PackLoad[]
  /** The packaging that is asked for. */
  readonly wanted: string | undefined
  readonly fixed?: readonly FixedPackage[]
  /** Kilograms of dry ice in each package. */
  readonly dryIce?: number
}

/** A packing that is asked for, with the ways that price it. */
export interface PackingAsked {
  readonly input: Omit<SuggestionInput, "ways">
  readonly ways: readonly ParcelWay[]
}

/** What is asked of the packing computation for goods that are to be sent. */
export function packingAsked(ground: PackingGround, sending: Sending, ask: PackAsk): PackingAsked {
  const ways = parcelWays(ground, sending)
  const carriers = new Set(ways.map((way) => way.service.carrierCode))
  const boxes = boxesFor(ground.cartons, ask.loads, ask.wanted, carriers)
  // a packaging that is asked for goes around whole cases too
  const all = boxes.every((box) => box.code === ask.wanted)
  return {
    input: {
      loads: all ? ask.loads.map((load) => ({ ...load, asIs: false })) : ask.loads,
      boxes,
      handling: handlingCost(ground.warehouse),
      fill: ground.warehouse.fillShare,
      fixed: ask.fixed ?? [],
      dryIce: ask.dryIce ?? 0,
    },
    ways,
  }
}

/** The same as plain data: for the browser, or for a thread of the pool. */
export const plainInput = ({ input, ways }: PackingAsked): SuggestionInput => ({
  ...input,
  ways: ways.map((way) => way.plain()),
})

/** Packings worked out in this process, by all that they were worked out from. */
const kept = new Map<string, Outcome<Suggestion>>()
const mostKept = 2_000

/**
 * The suggested packing, worked out here and now, once for the same input: the very one that the bench will suggest.
 * For goods of an order's size; larger ones go to the pool.
 */
export function packedNow(asked: PackingAsked): Outcome<Suggestion> {
  const key = keyOf(asked)
  const known = kept.get(key)
  if (known) return known
  const lanes = asked.ways.map(({ lane, service }): ServiceLane => {
    return { lane, carrier: service.carrierCode, service: service.code, name: service.name }
  })
  const found = suggestPacking(asked.input, lanes)
  if (kept.size >= mostKept) kept.delete(kept.keys().next().value as string)
  kept.set(key, found)
  return found
}

/** Tariffs are known by a number of this process: a released one is never changed. */
const numbers = new WeakMap<Tariff, number>()
let count = 0
function numberOf(tariff: Tariff): number {
  const known = numbers.get(tariff)
  if (known !== undefined) return known
  count += 1
  numbers.set(tariff, count)
  return count
}

const keyOf = ({ input, ways }: PackingAsked): string =>
  JSON.stringify([
    input,
    ways.map(({ lane, service, version, request }) => [
      numberOf(version.tariff),
      service.code,
      lane.zone,
      { ...request, options: [...(request.options ?? [])], holidays: 0 },
    ]),
  ])

/** Pieces and whole cases above which an estimate is arithmetic, and no packing is worked out. */
export const mostPacked = 150

/** How many pieces and whole cases are to be packed. */
export const unitsIn = (loads: readonly PackLoad[]): number => loads.reduce((sum, one) => sum + one.quantity, 0)

/** An order's goods as they will be suggested at the bench; null where they are too many or go into no carton. */
export function suggestedParcels(
  ground: PackingGround,
  sending: Sending,
  contents: readonly { readonly id: number; readonly piece: Content }[],
  wanted: string | undefined,
): readonly RatedPackage[] | null {
  const loads = contents
    .filter((one) => !goesAsFreight(one.piece.item))
    .flatMap((one) => loadsOfLine(one, one.piece.quantity, ground.warehouse.keepTogether))
  const pieces = unitsIn(loads)
  if (pieces === 0 || pieces > mostPacked) return null
  const found = packedNow(packingAsked(ground, sending, { loads, wanted }))
  return found.ok && found.value.left.length === 0 ? parcelsOf(ground.cartons, found.value.boxes, loads) : null
}

/** Suggested boxes as the engine takes them, of the loads that were packed. */
export function parcelsOf(
  cartons: readonly Carton[],
  boxes: readonly SuggestedBox[],
  loads: readonly PackLoad[],
): RatedPackage[] {
  const byKey = new Map(loads.map((load) => [load.key, load]))
  const types = new Map(cartons.map(({ type }) => [type.code, type]))
  return boxes.flatMap((box, index): RatedPackage[] => {
    const inside = box.placed.flatMap((place) => byKey.get(place.key) ?? [])
    const type = box.code === null ? undefined : types.get(box.code)
    const [only] = inside
    if (!only) return []
    return [
      {
        number: index + 1,
        weight: sumMass([...inside.map((one) => mass(one.weight, "kg")), ...(type ? [type.tare] : [])]),
        size: type?.outer ?? size(only.length, only.width, only.height, "mm"),
        packaging: type?.code ?? null,
        handling: "parcel",
        freightClass: sharedClass(inside),
        stackable: true,
      },
    ]
  })
}
