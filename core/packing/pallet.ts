import { accepted, type Outcome, reason, refused } from "../refusal/index.ts"
import { type Length, length, type Mass, mass, type Size, sumMass } from "../units/index.ts"
import type { PackagingType } from "./index.ts"
import { leastSupport, type PackLoad, type UsableBox } from "./place.ts"
import { type Kind, partsInMillimetre } from "./search/goods.ts"
import { problemOf } from "./search/problem.ts"
import type { Lying } from "./search/room.ts"
import { type Filling, PackingSearch } from "./search/search.ts"

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
  /** Which layer it is in, from 1 at the deck. */
  readonly layer: number
}

export interface BuiltPallet {
  /** In the order of loading: nothing comes before what it stands on. */
  readonly places: readonly Place[]
  /** The pallet's footprint by the height of deck and load; the wrap adds nothing that is measured. */
  readonly outer: Size
  /** Cartons and pallet. */
  readonly gross: Mass
}

/**
 * What may stand on a carton by the strength of its board, in kilograms: the McKee formula (McKee, Gander, Wachuta,
 * "Compression strength formula for corrugated boxes", Paperboard Packaging 48, 1963; from memory), in its short form
 * 5.87 × edge crush × √(perimeter × thickness), for the usual board of 32 lb/in and 0.16 in, a fourth of it in use
 * (common practice).
 *
 * @example 16 × 12 in: 5.87 × 32 × √(56 × 0.16) = 562 lb, 141 lb in use
 */
export const stackingStrength = (millimetresAround: number): number =>
  ((5.87 * 32 * Math.sqrt((millimetresAround / 25.4) * 0.16)) / 4) * 0.45359237

/** Cartons as the packing computation sees them: upright, each bearing what its board does. */
const loadsOf = (cartons: readonly Loose[]): PackLoad[] =>
  cartons.map((one) => {
    const [l, w, h] = [one.size.length.toNumber(), one.size.width.toNumber(), one.size.height.toNumber()]
    return {
      key: String(one.number),
      sku: "",
      kind: "general",
      hazard: null,
      length: l,
      width: w,
      height: h,
      weight: one.weight.toNumber(),
      upright: true,
      loadLimit: stackingStrength(2 * (l + w)),
      ownCarton: false,
      quantity: 1,
    }
  })

/** The room of a pallet as a box without walls. */
const boxOf = (type: PackagingType): UsableBox => {
  const [l, w, h] = [type.inner.length.toNumber(), type.inner.width.toNumber(), type.inner.height.toNumber()]
  const outer = { length: l, width: w, height: h }
  return {
    code: type.code,
    ...outer,
    maxLoad: type.maxLoad.toNumber(),
    outer,
    tare: 0,
    stock: null,
    cost: 0,
    carrier: null,
  }
}

/** Steps and looks for fewer pallets: the same on any machine. */
const steps = 300
const looks = 600_000

const kept = new Map<string, Outcome<BuiltPallet[]>>()
const mostKept = 400

/**
 * Cartons set on as few pallets as are found, upright, each supported as in a box and within what the cartons below it
 * bear, none over the edge, within the pallet's load and height, heavy ones low and the load in the middle. The order in
 * which they are given changes nothing. Refuses a carton that is larger than the pallet, or heavier than it takes.
 * Worked out once for the same cartons.
 */
export function buildPallets(type: PackagingType, cartons: readonly Loose[]): Outcome<BuiltPallet[]> {
  const key = [type, ...cartons]
    .map((one) =>
      "number" in one
        ? `${one.number} ${one.weight} ${one.size.length} ${one.size.width} ${one.size.height}`
        : `${one.code} ${one.maxLoad} ${one.tare} ${one.inner.length} ${one.inner.width} ${one.inner.height} ${one.outer.length} ${one.outer.width} ${one.outer.height}`,
    )
    .join("|")
  const known = kept.get(key)
  if (known) return known
  const built = build(type, cartons)
  if (kept.size >= mostKept) kept.delete(kept.keys().next().value as string)
  kept.set(key, built)
  return built
}

function build(type: PackagingType, cartons: readonly Loose[]): Outcome<BuiltPallet[]> {
  const box = boxOf(type)
  const [long, wide] = [Math.max(box.length, box.width), Math.min(box.length, box.width)]
  const misfit = cartons.find(({ size, weight }) => {
    const [l, w] = [size.length.toNumber(), size.width.toNumber()]
    return (
      Math.max(l, w) > long || Math.min(l, w) > wide || size.height.toNumber() > box.height || weight.gt(type.maxLoad)
    )
  })
  if (misfit) return refused(reason("pallet.carton-too-large", { package: misfit.number, pallet: type.name }))
  if (cartons.length === 0) return accepted([])
  const problem = problemOf(loadsOf(cartons), [box], 0, leastSupport)
  const search = new PackingSearch(problem, { price: null, handling: 0, fixed: [], aim: "fewest" }, 1)
  search.construct()
  const volume = problem.kinds.reduce((sum, kind) => sum + kind.volume * kind.quantity, 0)
  const bound = Math.max(
    Math.ceil(volume / (problem.boxes[0]?.volume ?? 1) - 1e-9),
    sumMass(cartons.map((one) => one.weight))
      .div(type.maxLoad)
      .ceil()
      .toNumber(),
  )
  if ((search.best?.fillings.length ?? 0) > Math.max(1, bound)) search.improve(steps, looks)
  const best = search.best
  if (!best) return refused(reason("pallet.carton-too-large", { package: cartons[0]?.number ?? 0, pallet: type.name }))
  const numbers = problem.kinds.map((kind) =>
    kind.of.flatMap((one) => Array.from({ length: one.quantity }, () => one.key)),
  )
  const sorted = [...best.fillings].sort((a, b) => b.kilograms - a.kilograms)
  const pallets: BuiltPallet[] = []
  for (const filling of sorted) {
    const lying = steady(search, filling, problem.kinds, box)
    const named = (lying ?? filling.lying).map((one) => ({ ...one, number: Number(numbers[one.shape]?.shift()) }))
    if (lying) pallets.push(pallet(type, cartons, centred(named, box)))
    else {
      const apart = balancedApart(
        type,
        cartons.filter((one) => named.some((each) => each.number === one.number)),
      )
      if (!apart.ok) return apart
      pallets.push(...apart.value)
    }
  }
  return accepted(pallets)
}

/** Cartons that no way of standing balances on one pallet: the heaviest by itself, the others on another. */
function balancedApart(type: PackagingType, cartons: readonly Loose[]): Outcome<BuiltPallet[]> {
  const [heaviest, ...others] = [...cartons].sort((a, b) => b.weight.cmp(a.weight) || a.number - b.number)
  const [one, rest] = [build(type, heaviest ? [heaviest] : []), build(type, others)]
  return one.ok && rest.ok ? accepted([...one.value, ...rest.value]) : one.ok ? rest : one
}

/** The way of lying that keeps its weight low and in the middle; null where none of many does. */
function steady(
  search: PackingSearch,
  filling: Filling,
  kinds: readonly Kind[],
  box: UsableBox,
): readonly Lying[] | null {
  const kind = search.problem.boxes[0] as (typeof search.problem.boxes)[number]
  const ways = [...search.fitting.all(kind, filling.counts), filling.lying]
  return ways.find((lying) => inMiddle(centred(lying, box), kinds, box)) ?? null
}

/** The load moved so that as much is free on one side as on the other. */
function centred<T extends Lying>(lying: readonly T[], box: UsableBox): T[] {
  const free = (room: number, ends: readonly number[]) => Math.floor((room * partsInMillimetre - Math.max(...ends)) / 2)
  const dx = Math.max(
    0,
    free(
      box.length,
      lying.map((one) => one.x + one.length),
    ),
  )
  const dy = Math.max(
    0,
    free(
      box.width,
      lying.map((one) => one.y + one.width),
    ),
  )
  return lying.map((one) => ({ ...one, x: one.x + dx, y: one.y + dy }))
}

/** Whether the center of gravity lies over the middle half of the deck. */
function inMiddle(lying: readonly Lying[], kinds: readonly Kind[], box: UsableBox): boolean {
  const weight = (one: Lying) => (kinds[one.shape] as Kind).weight
  const total = lying.reduce((sum, one) => sum + weight(one), 0)
  if (total === 0) return true
  const x = lying.reduce((sum, one) => sum + weight(one) * (one.x + one.length / 2), 0) / total / partsInMillimetre
  const y = lying.reduce((sum, one) => sum + weight(one) * (one.y + one.width / 2), 0) / total / partsInMillimetre
  return x >= box.length / 4 && x <= (box.length * 3) / 4 && y >= box.width / 4 && y <= (box.width * 3) / 4
}

function pallet(
  type: PackagingType,
  cartons: readonly Loose[],
  lying: readonly (Lying & { readonly number: number })[],
): BuiltPallet {
  const order = [...lying].sort((a, b) => a.z - b.z || a.y - b.y || a.x - b.x)
  const layers = new Map<number, number>()
  const places = order.map((one): Place => {
    // one layer higher than the highest that it stands on
    const under = order.filter(
      (other) =>
        other.z + other.height === one.z &&
        other.x < one.x + one.length &&
        one.x < other.x + other.length &&
        other.y < one.y + one.width &&
        one.y < other.y + other.width,
    )
    const layer = 1 + Math.max(0, ...under.map((other) => layers.get(other.number) ?? 0))
    layers.set(one.number, layer)
    const mm = (parts: number) => parts / partsInMillimetre
    return {
      number: one.number,
      x: mm(one.x),
      y: mm(one.y),
      z: mm(one.z),
      length: mm(one.length),
      width: mm(one.width),
      height: mm(one.height),
      layer,
    }
  })
  const top = Math.max(...order.map((one) => one.z + one.height)) / partsInMillimetre
  const on = new Set(order.map((one) => one.number))
  return {
    places: [...places].sort((a, b) => a.layer - b.layer || a.z - b.z || a.y - b.y || a.x - b.x),
    outer: {
      length: type.outer.length,
      width: type.outer.width,
      height: type.outer.height.add(top) as Length,
    },
    gross: sumMass([type.tare, ...cartons.filter((one) => on.has(one.number)).map((one) => one.weight)]),
  }
}

/**
 * The outer size of one pallet with all this on it, however high: as `buildPallets` sets them, or for a piece larger than
 * the pallet the footprint of both and the height of the tallest.
 */
export function palletSize(type: PackagingType, load: readonly Loose[]): Size {
  // higher than anybody builds: the clerk measures what he really built
  const boundless = { ...type, maxLoad: mass(1e5, "kg"), inner: { ...type.inner, height: length(15_000, "mm") } }
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

/** The heaviest parcel that any carrier of ours takes; above it a single piece is freight (common practice: 150 lb). */
export const heaviestParcel: Mass = mass(150, "lb")

/** Whether a piece goes on a pallet by itself: marked so in the catalog, or heavier than any parcel. */
export const goesAsFreight = (item: { readonly freightOnly: boolean; readonly unitWeight: Mass }): boolean =>
  item.freightOnly || item.unitWeight.gt(heaviestParcel)
