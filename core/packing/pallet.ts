import { accepted, type Outcome, reason, refused } from "../refusal/index.ts"
import { type Length, length, type Mass, mass, type Size, sumMass } from "../units/index.ts"
import type { PackagingType } from "./index.ts"

/** A carton that is to stand on a pallet. */
export interface Loose {
  readonly number: number
  readonly size: Size
  readonly weight: Mass
}

export interface Place {
  readonly number: number
  /** From the pallet's corner, in millimetres. */
  readonly x: number
  readonly y: number
  readonly z: number
  readonly length: number
  readonly width: number
  readonly height: number
}

export interface BuiltPallet {
  readonly places: readonly Place[]
  /** The pallet's footprint by the height of deck and load. */
  readonly outer: Size
  /** Cartons and pallet. */
  readonly gross: Mass
}

/**
 * Cartons set on as many pallets as they need, in layers of rows, the largest base below, none over the edge, within
 * the pallet's load and height. A way that holds, not the best one: the clerk measures what was really built. Refuses
 * a carton that is larger than the pallet, or heavier than it takes.
 */
export function buildPallets(type: PackagingType, cartons: readonly Loose[]): Outcome<BuiltPallet[]> {
  const [long, wide, high] = [type.inner.length, type.inner.width, type.inner.height].map((edge) =>
    edge.toNumber(),
  ) as [number, number, number]
  const boxes = cartons.map((one) => {
    const height = one.size.height.toNumber()
    const [length, width] = [one.size.length.toNumber(), one.size.width.toNumber()].sort((a, b) => b - a) as [
      number,
      number,
    ]
    return { ...one, length, width, height }
  })
  const misfit = boxes.find(
    (one) =>
      one.length > Math.max(long, wide) ||
      one.width > Math.min(long, wide) ||
      one.height > high ||
      one.weight.gt(type.maxLoad),
  )
  if (misfit) return refused(reason("pallet.carton-too-large", { package: misfit.number, pallet: type.name }))
  const pallets: BuiltPallet[] = []
  let left = [...boxes].sort((a, b) => b.length * b.width - a.length * a.width || b.height - a.height)
  while (left.length > 0) {
    const places: Place[] = []
    const standing: typeof left = []
    let z = 0
    while (left.length > 0) {
      const layer = layLayer(left, long, wide, high - z, type.maxLoad, sumMass(standing.map((one) => one.weight)))
      if (layer.length === 0) break
      places.push(...layer.map((one) => ({ ...one.place, z })))
      z += Math.max(...layer.map((one) => one.box.height))
      standing.push(...layer.map((one) => one.box))
      const laid = new Set(layer.map((one) => one.box))
      left = left.filter((one) => !laid.has(one))
    }
    const deck = type.outer.height
    pallets.push({
      places,
      outer: { length: type.outer.length, width: type.outer.width, height: deck.add(z) as Length },
      gross: sumMass([type.tare, ...standing.map((one) => one.weight)]),
    })
  }
  return accepted(pallets)
}

/**
 * The outer size of one pallet with all this on it, however high: in layers as `buildPallets` sets them, or for a piece
 * larger than the pallet the footprint of both and the height of the tallest.
 */
export function palletSize(type: PackagingType, load: readonly Loose[]): Size {
  const boundless = { ...type, maxLoad: mass(1e6, "kg"), inner: { ...type.inner, height: length(1e6, "mm") } }
  const built = buildPallets(boundless, load)
  if (built.ok && built.value.length <= 1) return built.value[0]?.outer ?? type.outer
  const most = (edge: keyof Size, least: Length): Length =>
    load.reduce((so, one) => (one.size[edge].gt(so) ? one.size[edge] : so), least)
  return {
    length: most("length", type.outer.length),
    width: most("width", type.outer.width),
    height: type.outer.height.add(most("height", length(0, "mm"))) as Length,
  }
}

type Box = Loose & { length: number; width: number; height: number }

/** One layer: rows along the pallet's length, each box turned so that its row wastes least. */
function layLayer(
  boxes: readonly Box[],
  long: number,
  wide: number,
  room: number,
  maxLoad: Mass,
  already: Mass,
): { box: Box; place: Omit<Place, "z"> }[] {
  const laid: { box: Box; place: Omit<Place, "z"> }[] = []
  let load = already
  let x = 0
  let y = 0
  let row = 0
  for (const box of boxes) {
    if (box.height > room || load.add(box.weight).gt(maxLoad)) continue
    const ways = [
      { length: box.length, width: box.width },
      { length: box.width, width: box.length },
    ]
    const here = ways.find((one) => x + one.length <= long && y + one.width <= wide && (row === 0 || one.width <= row))
    const next = here ? undefined : ways.find((one) => one.length <= long && y + row + one.width <= wide)
    const way = here ?? next
    if (!way) continue
    if (!here) {
      x = 0
      y += row
      row = 0
    }
    laid.push({ box, place: { number: box.number, x, y, ...way, height: box.height } })
    x += way.length
    row = Math.max(row, way.width)
    load = sumMass([load, box.weight])
  }
  return laid
}

/** The heaviest parcel that any carrier of ours takes; above it a single piece is freight (common practice: 150 lb). */
export const heaviestParcel: Mass = mass(150, "lb")

/** Whether a piece goes on a pallet by itself: marked so in the catalog, or heavier than any parcel. */
export const goesAsFreight = (item: { readonly freightOnly: boolean; readonly unitWeight: Mass }): boolean =>
  item.freightOnly || item.unitWeight.gt(heaviestParcel)
