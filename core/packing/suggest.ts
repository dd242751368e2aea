import { type FreightClass, laneOfPlain, type PlainWay, sharedClass } from "../rating/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"
import type { PackBox, PackLoad, PlacedPiece, UsableBox } from "./place.ts"
import { Fitting } from "./search/fit.ts"
import { type Kind, partsInMillimetre } from "./search/goods.ts"
import { cheapest, type PricedLane, pricerOf } from "./search/price.ts"
import { type BoxKind, type PricedBox, problemOf } from "./search/problem.ts"
import type { Lying } from "./search/room.ts"
import { type Aim, type Packing, PackingSearch, pricedBox } from "./search/search.ts"
import type { FreightInput } from "./standing.ts"
import { type BoxWhy, whyBox } from "./why.ts"

/** A package that is there whatever is suggested, as carriers see it. Millimetres and kilograms, box and contents. */
export interface FixedPackage {
  readonly code: string | null
  readonly outer: UsableBox["outer"]
  readonly kilograms: number
  readonly declared?: number
  readonly freightClass?: FreightClass | null
}

/** What a suggestion is made from: plain data, as it goes to a thread of the server or of the browser. */
export interface SuggestionInput {
  readonly loads: readonly PackLoad[]
  readonly boxes: readonly UsableBox[]
  /** The ways that would be chosen among; none: boxes are chosen by their number and volume. */
  readonly ways?: readonly PlainWay[]
  /** What it costs to handle a package. */
  readonly handling?: number
  /** The share of a box's inside that is left for filling material. */
  readonly fill?: number
  readonly fixed?: readonly FixedPackage[]
  /** Kilograms of dry ice that go into each package. */
  readonly dryIce?: number
  readonly aim?: Aim
  /** By what the goods could go on pallets; nothing: that is not looked at. */
  readonly freight?: FreightInput | null
}

/** A way that prices packages, by the service that it goes. */
export interface ServiceLane extends PricedLane {
  readonly service: string
  readonly name: string
}

/** The lanes of ways that came as plain data. */
export const lanesOf = ({ ways = [] }: { readonly ways?: readonly PlainWay[] }): ServiceLane[] =>
  ways.flatMap((way) => {
    const lane = laneOfPlain(way)
    return lane ? [{ lane, carrier: way.carrier, service: way.service, name: way.tariff.services[0]?.name ?? "" }] : []
  })

export interface SuggestedBox {
  /** Code of the packaging; null: the piece's own carton, or a whole case as it is. */
  readonly code: string | null
  readonly placed: readonly PlacedPiece[]
  /** Why this box; nothing where the goods are sent as they are. */
  readonly why?: BoxWhy
}

/** What a packing comes to, in the currency of its ways; all packages of the shipment, those that are fixed too. */
export interface PackingCost {
  readonly sent: number
  readonly handling: number
  readonly boxes: number
  readonly total: number
  /** The way that it goes: code and name of the service, and the currency. */
  readonly service: string
  readonly name: string
  readonly currency: string
}

export interface Suggestion {
  readonly boxes: readonly SuggestedBox[]
  /** Pieces that go into no carton, such as one that is larger than all of them. */
  readonly left: readonly { readonly key: string; readonly quantity: number; readonly why: Reason }[]
  /** Null where no way prices it. */
  readonly cost: PackingCost | null
}

/** Pieces above which no suggestion is made, so that nobody waits for one. */
export const mostPieces = 1_200

/** Rounds of improvement, the steps of each, and the spaces that may be looked at in one: the same on any machine. */
const rounds = 10
const roundSteps = 50
const roundLooks = 60_000
/** Rounds without anything better after which nothing better is looked for. */
const idleRounds = 4

/**
 * A suggestion that is there at once and gets better while one looks: construction first, then a round of improvement
 * at a time. After all rounds it is the suggestion, the same wherever it is worked out.
 */
export class Suggesting {
  readonly #input: SuggestionInput
  readonly #search: PackingSearch | null
  readonly #own: readonly SuggestedBox[]
  readonly #left: Suggestion["left"]
  readonly #lanes: readonly ServiceLane[]
  readonly #fixed: readonly PricedBox[]
  #round = 0
  #idle = 0

  /** Works out the first answer; the input is one that `badInput` finds nothing in. */
  constructor(input: SuggestionInput, lanes: readonly ServiceLane[] = lanesOf(input), seed = 1) {
    this.#input = input
    const { loads, boxes, handling = 0, fill = 0, fixed = [], dryIce = 0, aim = "price" } = input
    this.#lanes = lanes
    const own = loads.filter((one) => one.ownCarton)
    this.#own = own.flatMap((one) => Array.from({ length: one.quantity }, () => ({ code: null, placed: [alone(one)] })))
    const problem = problemOf(
      loads.filter((one) => !one.ownCarton),
      boxes,
      fill,
    )
    const nowhere = new Set(
      problem.kinds.flatMap((kind, index) =>
        problem.boxes.some((box) => box.takes[index]) ? [] : kind.of.map((one) => one.key),
      ),
    )
    this.#fixed = [...fixed.map(fixedBox), ...own.flatMap(ownBoxes)].map((one) => ({ ...one, dryIce }))
    const packable = loads.filter((one) => !one.ownCarton && one.quantity > 0 && !nowhere.has(one.key))
    const left = loads
      .filter((one) => nowhere.has(one.key))
      .map((one) => ({ ...leftOf(one), why: tooMuch(one, boxes) }))
    const price = lanes.length > 0 ? pricerOf(lanes) : null
    this.#search =
      packable.length === 0
        ? null
        : new PackingSearch(
            nowhere.size === 0 ? problem : problemOf(packable, boxes, fill),
            { price, handling, fixed: this.#fixed, dryIce, aim },
            seed,
          )
    this.#search?.construct(roundLooks * rounds)
    const none = this.#search !== null && this.#search.best === null
    this.#left = none
      ? [...left, ...packable.map((one) => ({ ...leftOf(one), why: reason("packing.no-cartons", { sku: one.sku }) }))]
      : left
  }

  /** Whether there is nothing more to be done. */
  get done(): boolean {
    return !this.#search?.best || this.#round >= rounds || this.#idle >= idleRounds
  }

  /** One more round; whether the answer became better. */
  more(): boolean {
    if (!this.#search || this.done) return false
    this.#round += 1
    const better = this.#search.improve(roundSteps, roundLooks)
    this.#idle = better ? 0 : this.#idle + 1
    return better
  }

  /** The best so far. */
  get answer(): Suggestion {
    const best = this.#search?.best ?? null
    return {
      boxes: [...this.#own, ...(best && this.#search ? this.#placedIn(this.#search, best) : [])],
      left: this.#left,
      cost: this.#costOf(best),
    }
  }

  /** The packing's boxes with their pieces, heavy ones low, each piece of a line. */
  #placedIn(search: PackingSearch, { fillings }: Packing): SuggestedBox[] {
    const order = [...fillings].sort(
      (a, b) => b.box - a.box || b.kilograms - a.kilograms || (a.counts.join() < b.counts.join() ? 1 : -1),
    )
    const lying = order.map(
      (one) => search.fitting.all(search.problem.boxes[one.box] as BoxKind, one.counts)[0] ?? one.lying,
    )
    const placed = keyed(search.problem.kinds, lying)
    return order.map(({ box: index }, at) => {
      const { box } = search.problem.boxes[index] as BoxKind
      const known = { lanes: this.#lanes, fixed: this.#fixed, dryIce: this.#input.dryIce ?? 0 }
      return box.asIs
        ? { code: null, placed: placed[at] as PlacedPiece[] }
        : { code: box.code, placed: placed[at] as PlacedPiece[], why: whyBox(search, order, at, known) }
    })
  }

  #boxAt(index: number): UsableBox {
    return (this.#search as PackingSearch).problem.boxes[index]?.box as UsableBox
  }

  #costOf(packing: Packing | null): PackingCost | null {
    const boxes = (packing?.fillings ?? []).map((one) => pricedBox(this.#boxAt(one.box), one, this.#input.dryIce ?? 0))
    const cartons = (packing?.fillings ?? []).reduce((sum, { box }) => sum + this.#boxAt(box).cost, 0)
    const all = [...this.#fixed, ...boxes]
    if (this.#lanes.length === 0 || all.length === 0) return null
    const found = cheapest(this.#lanes, all)
    if (!found) return null
    const handling = all.length * (this.#input.handling ?? 0)
    const way = this.#lanes[found.at] as ServiceLane
    return {
      sent: found.cost,
      handling,
      boxes: cartons,
      total: found.cost + handling + cartons,
      service: way.service,
      name: way.name,
      currency: way.lane.currency,
    }
  }
}

/**
 * Packages for goods so that sending them costs least: the price of the cheapest way, handling and the boxes. Within
 * load limits, this side up, what may stand on what, four fifths of every base supported, and what may not lie together
 * kept apart. Good, not proved to be the best. Refuses bad sizes and more pieces than it handles.
 */
export function suggestPacking(input: SuggestionInput, lanes?: readonly ServiceLane[]): Outcome<Suggestion> {
  const bad = badInput(input)
  if (bad.length > 0) return refused(...bad)
  const suggesting = new Suggesting(input, lanes)
  while (!suggesting.done) suggesting.more()
  return accepted(suggesting.answer)
}

/** All packages of a packing as carriers see them, those that are fixed too. */
export function packagesOf({ fixed = [], boxes, loads, dryIce = 0 }: SuggestionInput, { boxes: made }: Suggestion) {
  const types = new Map(boxes.map((box) => [box.code, box]))
  const goods = new Map(loads.map((load) => [load.key, load]))
  return [
    ...fixed.map(fixedBox),
    ...made.map(({ code, placed }): PricedBox => {
      const inside = placed.flatMap(({ key }) => goods.get(key) ?? [])
      const type = code === null ? undefined : types.get(code)
      const [only] = inside
      return {
        code,
        outer: type?.outer ?? { length: only?.length ?? 0, width: only?.width ?? 0, height: only?.height ?? 0 },
        kilograms: inside.reduce((sum, one) => sum + one.weight, type?.tare ?? 0),
        carrier: type?.carrier ?? null,
        declared: inside.reduce((sum, one) => sum + (one.declared ?? 0), 0),
        freightClass: sharedClass(inside),
      }
    }),
  ].map((one): PricedBox => ({ ...one, dryIce }))
}

/** A packing by another aim, beside the suggestion. */
export interface OtherSuggestion {
  readonly aim: Exclude<Aim, "price">
  readonly suggestion: Suggestion
}

/** The same goods in fewest packages, and in the least volume: those that are not packed as the suggestion is. */
export function otherSuggestions(input: SuggestionInput, than: Suggestion): OtherSuggestion[] {
  const codes = (one: Suggestion) =>
    one.boxes
      .map((box) => box.code ?? "")
      .sort()
      .join()
  const seen = new Set([codes(than)])
  return (["fewest", "volume"] as const).flatMap((aim): OtherSuggestion[] => {
    const found = suggestPacking({ ...input, aim })
    if (!found.ok || seen.has(codes(found.value)) || (than.cost && !found.value.cost)) return []
    seen.add(codes(found.value))
    return [{ aim, suggestion: found.value }]
  })
}

const edge = (value: number): boolean => Number.isFinite(value) && value > 0 && value <= 20_000
const amount = (value: number): boolean => Number.isFinite(value) && value >= 0 && value <= 1e6

/** What nothing can be suggested for: sizes, weights and counts that are none, and more pieces than are handled. */
export function badInput({ loads, boxes, handling = 0, fill = 0, dryIce = 0 }: SuggestionInput): Reason[] {
  const bad = loads.find(
    (one) =>
      ![one.length, one.width, one.height].every(edge) ||
      !amount(one.weight) ||
      (one.loadLimit !== null && !amount(one.loadLimit)) ||
      !amount(one.declared ?? 0) ||
      !Number.isInteger(one.quantity) ||
      one.quantity < 0,
  )
  if (bad) return [reason("packing.bad-piece", { sku: bad.sku })]
  const box = boxes.find(
    (one) =>
      ![one.length, one.width, one.height, one.outer.length, one.outer.width, one.outer.height].every(edge) ||
      ![one.maxLoad, one.tare, one.cost].every(amount) ||
      (one.stock !== null && !amount(one.stock)),
  )
  if (box) return [reason("packing.bad-box", { code: box.code })]
  if (!amount(handling) || !amount(dryIce) || !(fill >= 0 && fill < 1)) return [reason("packing.bad-rules")]
  const pieces = loads.reduce((sum, one) => sum + one.quantity, 0)
  return pieces > mostPieces ? [reason("packing.too-many", { pieces, limit: mostPieces })] : []
}

/** One carton's contents placed in it, or null where no way is found. */
export function packInto(box: PackBox, loads: readonly PackLoad[]): PlacedPiece[] | null {
  const usable = { ...box, outer: box, tare: 0, stock: null, cost: 0, carrier: null }
  if (badInput({ loads, boxes: [usable] }).length > 0) return null
  const problem = problemOf(loads, [usable])
  const lying = new Fitting(problem).fit(
    problem.boxes[0] as BoxKind,
    problem.kinds.map((kind) => kind.quantity),
  )
  return lying && (keyed(problem.kinds, [lying])[0] as PlacedPiece[])
}

/** Pieces that lie in boxes, each named by the line that it is of: lines one after another, so that they stay together. */
function keyed(kinds: readonly Kind[], boxes: readonly (readonly Lying[])[]): PlacedPiece[][] {
  const keys = kinds.map(({ of }) => of.map((one) => ({ ...one })))
  return boxes.map((lying) =>
    lying.map(({ shape, ...at }) => {
      const own = keys[shape] as { key: string; quantity: number }[]
      const next = own.find((one) => one.quantity > 0) as { key: string; quantity: number }
      next.quantity -= 1
      return {
        key: next.key,
        x: at.x / partsInMillimetre,
        y: at.y / partsInMillimetre,
        z: at.z / partsInMillimetre,
        length: at.length / partsInMillimetre,
        width: at.width / partsInMillimetre,
        height: at.height / partsInMillimetre,
      }
    }),
  )
}

const alone = (one: PackLoad): PlacedPiece => ({
  key: one.key,
  x: 0,
  y: 0,
  z: 0,
  length: one.length,
  width: one.width,
  height: one.height,
})

const leftOf = ({ key, quantity }: PackLoad) => ({ key, quantity })

function tooMuch(one: PackLoad, boxes: readonly UsableBox[]): Reason {
  const light = boxes.some((box) => one.weight <= box.maxLoad)
  return reason(light || boxes.length === 0 ? "packing.too-large" : "packing.too-heavy", { sku: one.sku })
}

/** A package that is fixed, as it is priced. */
const fixedBox = (one: FixedPackage): PricedBox => ({ ...one, carrier: null })

const ownBoxes = (one: PackLoad): PricedBox[] => {
  const outer = { length: one.length, width: one.width, height: one.height }
  return Array.from({ length: one.quantity }, () => ({
    code: null,
    outer,
    kilograms: one.weight,
    carrier: null,
    declared: one.declared,
  }))
}
