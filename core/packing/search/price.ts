import {
  type CountedPackage,
  inexact,
  type Lane,
  partsInKilogram,
  partsInMillimetre,
  sorted,
} from "../../rating/index.ts"
import type { PricedBox } from "./problem.ts"
import type { Pricer } from "./search.ts"

/** A way to send packages: what prices them, and whose own boxes may be used on it. */
export interface PricedLane {
  readonly lane: Lane
  readonly carrier: string
}

/** The cheapest way for packages, in the currency of the lanes, with its place among them; null where none takes them. */
export function cheapest(
  lanes: readonly PricedLane[],
  packages: readonly PricedBox[],
): { readonly cost: number; readonly at: number } | null {
  const counted = packages.map(countedBox)
  let best: { cost: number; at: number } | null = null
  lanes.forEach(({ lane, carrier }, at) => {
    if (packages.some((one) => one.carrier !== null && one.carrier !== carrier)) return
    const cost = priceOn(lane, counted)
    if (cost !== null && (!best || cost < best.cost)) best = { cost, at }
  })
  return best
}

/** What is compared by: what we pay, or where another pays, what is published. */
function priceOn(lane: Lane, packages: readonly CountedPackage[]): number | null {
  try {
    const price = lane.price(packages)
    return price && (lane.payer === "shipper" ? price.contract : price.list) / lane.scale
  } catch (thrown) {
    // of hundreds of packings one that whole numbers can't price is left out
    if (thrown === inexact) return null
    throw thrown
  }
}

export const pricerOf =
  (lanes: readonly PricedLane[]): Pricer =>
  (packages) =>
    cheapest(lanes, packages)?.cost ?? null

const known = new WeakMap<PricedBox["outer"], Pick<CountedPackage, "edges" | "height">>()

/** A package as compiled prices count it. */
function countedBox({
  code,
  outer,
  kilograms,
  declared = 0,
  dryIce = 0,
  freightClass = null,
  pallet,
}: PricedBox): CountedPackage {
  const size = known.get(outer) ?? sizeOf(outer)
  known.set(outer, size)
  return {
    edges: size.edges,
    height: size.height,
    mass: Math.round(kilograms * partsInKilogram),
    pallet: pallet !== undefined,
    packaging: code,
    freightClass,
    stackable: pallet?.stackable ?? true,
    dryIce: Math.round(dryIce * partsInKilogram),
    // to the cent, as it is told
    declared: Math.round(declared * 100) * 10_000,
  }
}

function sizeOf({ length, width, height }: PricedBox["outer"]): Pick<CountedPackage, "edges" | "height"> {
  const parts = (millimetres: number) => Math.round(millimetres * partsInMillimetre)
  return { edges: sorted(parts(length), parts(width), parts(height)), height: parts(height) }
}
