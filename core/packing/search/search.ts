import type { UsableBox } from "../place.ts"
import { type Counts, Fitting, wayCount } from "./fit.ts"
import type { Kind } from "./goods.ts"
import type { BoxKind, PricedBox, Problem } from "./problem.ts"
import { randomFrom } from "./random.ts"
import type { Lying } from "./room.ts"

/** A box with what is in it. */
export interface Filling {
  /** The box's place in the problem. */
  readonly box: number
  readonly counts: Counts
  readonly lying: readonly Lying[]
  readonly kilograms: number
  /** Value of the goods in it that the carrier is told. */
  readonly declared: number
}

/** What packages cost to send, besides handling and boxes; null where nothing takes them. */
export type Pricer = (packages: readonly PricedBox[]) => number | null

export const aims = ["price", "fewest", "volume"] as const
/** What is made least: the whole cost, or the number of packages, or their outer volume; cost decides between equals. */
export type Aim = (typeof aims)[number]

export interface Costing {
  readonly price: Pricer | null
  /** What it costs to handle a package. */
  readonly handling: number
  /** Kilograms of dry ice in each package. */
  readonly dryIce?: number
  /** Packages that are there anyway: fixed by hand, or pieces in their own cartons. */
  readonly fixed: readonly PricedBox[]
  readonly aim: Aim
}

/** A packing with what it comes to; `null` cost where nothing takes it. */
export interface Packing {
  readonly fillings: readonly Filling[]
  /** Sending, handling and boxes; null where nothing takes the packages, or nothing prices them. */
  readonly cost: number | null
  /** What is compared, the first first. */
  readonly value: readonly [number, number, number]
}

/** Ways to take part of the goods above which not every way to share them out is looked at. */
const mostParts = 128

/** How often in vain the pieces of a package that is to go are offered to others: longer where that is the aim. */
const emptyTries = { price: 60, volume: 60, fewest: 1_500 } as const

/** What a group that is to stay together costs for each package more than one that it lies in. */
const apartCost = 1_000

/**
 * Looks for the packing of least cost: a construction in every size of box, then changes one after another that are kept
 * where they cost no more, or only a little more while there is time (record to record, Dueck 1993). The same seed and
 * the same number of steps give the same answer on any machine.
 */
export class PackingSearch {
  readonly fitting: Fitting
  readonly #random: () => number
  #best: Packing | null = null
  #now: Packing | null = null
  #steps = 0
  /** Where the round that is under way ends. */
  #until = Number.POSITIVE_INFINITY

  constructor(
    readonly problem: Problem,
    readonly costing: Costing,
    seed: number,
  ) {
    this.fitting = new Fitting(problem)
    this.#random = randomFrom(seed)
  }

  get best(): Packing | null {
    return this.#best
  }
  get steps(): number {
    return this.#steps
  }
  /** Spaces looked at so far: the work done, whatever the machine. */
  get looks(): number {
    return this.fitting.looks
  }

  /** A first packing: the best of those that begin with each size of box. Null where stock or boxes do not do. */
  construct(looks = Number.POSITIVE_INFINITY): Packing | null {
    const all = this.problem.kinds.map((kind) => kind.quantity)
    const { boxes } = this.problem
    const until = this.looks + looks
    // the largest first: it holds most, and what is too large for the others goes into it
    for (let box = boxes.length - 1; box >= 0; box -= 1) {
      for (const way of [0, 1]) {
        if (this.#best && this.looks > until) break
        const fillings = this.#fillAll(all, box, this.fitting.order(way), way, [])
        if (fillings) this.#keep(this.#valued(fillings))
      }
    }
    return this.#best
  }

  /**
   * Every way to share few goods out, each part in the box by which it costs least alone: exact where prices add up, and
   * a good beginning where they do not. Given up where that are too many ways.
   */
  #everyWay(): void {
    const { kinds, boxes } = this.problem
    // a part is a number: how many of each kind, kind after kind
    const base: number[] = []
    let parts = 1
    for (const kind of kinds) {
      base.push(parts)
      parts *= kind.quantity + 1
      if (parts > mostParts) return
    }
    if (kinds.length === 0 || boxes.some(({ box }) => box.stock !== null && box.stock < this.problem.pieces)) return
    const countsOf = (part: number): number[] =>
      kinds.map((kind, at) => Math.floor(part / (base[at] as number)) % (kind.quantity + 1))
    // what is fixed is in every price: it counts once
    const anyway = this.costing.fixed.length > 0 ? this.#valued([]).value[0] : 0
    const alone: (Filling | null)[] = [null]
    const cost = new Float64Array(parts).fill(Number.POSITIVE_INFINITY)
    for (let part = 1; part < parts; part += 1) {
      if (this.looks > this.#until) return
      const counts = countsOf(part)
      let best: Filling | null = null
      for (let box = 0; box < boxes.length; box += 1) {
        const lying = this.fitting.fit(boxes[box] as BoxKind, counts)
        if (!lying) continue
        const filling = this.#filling(box, counts, lying)
        const value = this.#valued([filling]).value[0] - anyway
        if (value < (cost[part] as number) - 1e-9) {
          cost[part] = value
          best = filling
        }
      }
      alone.push(best)
    }
    const least = new Float64Array(parts).fill(Number.POSITIVE_INFINITY)
    const first = new Int32Array(parts)
    least[0] = 0
    for (let whole = 1; whole < parts; whole += 1) {
      const counts = countsOf(whole)
      const leading = counts.findIndex((count) => count > 0)
      // every part of it that holds one of its first kind
      for (let part = 1; part <= whole; part += 1) {
        const own = countsOf(part)
        if (own[leading] === 0 || own.some((count, kind) => count > (counts[kind] as number))) continue
        const sum = (cost[part] as number) + (least[whole - part] as number)
        if (sum < (least[whole] as number) - 1e-9) {
          least[whole] = sum
          first[whole] = part
        }
      }
    }
    if (least[parts - 1] === Number.POSITIVE_INFINITY) return
    const fillings: Filling[] = []
    for (let left = parts - 1; left > 0; left -= first[left] as number)
      fillings.push(alone[first[left] as number] as Filling)
    this.#keep(this.#valued(fillings))
  }

  /** Takes so many steps more, or until so many spaces were looked at; whether a better packing was found. */
  improve(steps: number, looks = Number.POSITIVE_INFINITY): boolean {
    const before = this.#best
    this.#until = this.looks + looks
    if (this.#steps === 0) this.#everyWay()
    for (let step = 0; step < steps && this.#now && this.looks < this.#until; step += 1) {
      this.#steps += 1
      const changed = this.#change(this.#now.fillings)
      if (!changed) continue
      const found = this.#valued(changed)
      const best = this.#best as Packing
      // a little more than the best is let through, so that the search gets out of where it stands
      const slack = 0.02 * (1 - step / steps)
      if (compareValues(found.value, this.#now.value) <= 0 || found.value[0] <= best.value[0] * (1 + slack))
        this.#now = found
      if (compareValues(found.value, best.value) < 0) this.#best = found
    }
    this.#now = this.#best
    return this.#best !== before
  }

  #keep(found: Packing): void {
    if (this.#best && compareValues(found.value, this.#best.value) >= 0) return
    this.#best = found
    this.#now = found
  }

  #valued(fillings: readonly Filling[]): Packing {
    const { price, handling, fixed, aim, dryIce = 0 } = this.costing
    const { boxes } = this.problem
    const priced = fillings.map((one) => pricedBox((boxes[one.box] as BoxKind).box, one, dryIce))
    const sent = price ? price([...fixed, ...priced]) : null
    let [cartons, volume] = [0, 0]
    for (const { box } of fillings) {
      const kind = boxes[box] as BoxKind
      cartons += kind.box.cost
      volume += kind.outerVolume
    }
    const count = fixed.length + fillings.length
    const cost = sent === null ? null : sent + count * handling + cartons
    const apart = this.#apart(fillings) * apartCost
    // where nothing prices them the fewest and smallest are best; where nothing takes them, they are worst
    const compared = cost ?? (price ? 1e9 + volume / 1e6 : count * 1e3 + volume / 1e9)
    // what nothing takes is worse than any that goes
    const refused = price && sent === null ? 1e15 : 0
    const value: Packing["value"] =
      aim === "fewest"
        ? [refused + apart + count, compared, volume]
        : aim === "volume"
          ? [refused + apart * 1e9 + volume, compared, count]
          : [apart + compared, count, volume]
    return { fillings, cost, value }
  }

  /** Packages more than one that groups lie in which are to stay together. */
  #apart(fillings: readonly Filling[]): number {
    const { kinds } = this.problem
    if (kinds.every((one) => one.together === null)) return 0
    let more = 0
    const groups = new Map<string, number>()
    for (const { counts } of fillings) {
      const here = new Set<string>()
      counts.forEach((count, kind) => {
        const group = kinds[kind]?.together
        if (count > 0 && group) here.add(group)
      })
      for (const group of here) groups.set(group, (groups.get(group) ?? 0) + 1)
    }
    for (const packages of groups.values()) more += packages - 1
    return more
  }

  /** Whether one more of a box may be used beside those that are. */
  #has(box: number, used: readonly Filling[]): boolean {
    const { stock } = (this.problem.boxes[box] as BoxKind).box
    return stock === null || used.reduce((sum, one) => sum + Number(one.box === box), 0) < stock
  }

  #filling(box: number, counts: Counts, lying: readonly Lying[]): Filling {
    const { kinds } = this.problem
    const kilograms = counts.reduce((sum, count, kind) => sum + count * (kinds[kind] as Kind).weight, 0)
    const declared = counts.reduce((sum, count, kind) => sum + count * (kinds[kind] as Kind).declared, 0)
    return { box, counts, lying, kilograms, declared }
  }

  /** The smallest box that holds all of it, beside those that are used; null where none does. */
  #smallest(counts: Counts, used: readonly Filling[], from = 0): Filling | null {
    const { boxes } = this.problem
    for (let box = from; box < boxes.length; box += 1) {
      if (!this.#has(box, used)) continue
      const lying = this.fitting.fit(boxes[box] as BoxKind, counts)
      if (lying) return this.#filling(box, counts, lying)
    }
    return null
  }

  /**
   * All of the goods in boxes of one size as long as there are, others where it does not do, and the last in the
   * smallest that holds what is left. Null where that leaves something.
   */
  #fillAll(
    counts: Counts,
    first: number,
    order: readonly number[],
    way: number,
    others: readonly Filling[],
  ): Filling[] | null {
    const { boxes } = this.problem
    const fillings: Filling[] = []
    let left = counts
    while (left.some((count) => count > 0)) {
      const used = [...others, ...fillings]
      const last = this.#smallest(left, used)
      if (last) {
        fillings.push(last)
        break
      }
      let next: Filling | null = null
      for (let box = first, tried = 0; tried < boxes.length; tried += 1, box = box > 0 ? box - 1 : boxes.length - 1) {
        if (!this.#has(box, used)) continue
        const filled = this.fitting.fill(boxes[box] as BoxKind, left, order, way)
        if (filled.lying.length === 0) continue
        next = this.#filling(box, filled.counts, filled.lying)
        break
      }
      if (!next) return null
      const { counts: gone } = next
      left = left.map((count, kind) => count - (gone[kind] as number))
      fillings.push(next)
    }
    return fillings.map((one, index) => this.#shrunk(one, [...others, ...fillings.filter((_, at) => at !== index)]))
  }

  /** The same in the smallest box that holds it. */
  #shrunk(one: Filling, others: readonly Filling[]): Filling {
    const smaller = this.#smallest(one.counts, others)
    return smaller && smaller.box < one.box ? smaller : one
  }

  #pick(below: number): number {
    return Math.floor(this.#random() * below)
  }

  /** One change; null where it came to nothing. */
  #change(fillings: readonly Filling[]): readonly Filling[] | null {
    const what = this.#random()
    const several = fillings.length > 1
    if (fillings.length > 2 && this.#random() < (this.costing.aim === "fewest" ? 0.9 : 0.05))
      return this.#emptied(fillings)
    if (what < 0.2) return this.#otherBox(fillings)
    if (what < 0.35) return several ? this.#merge(fillings) : this.#otherBox(fillings)
    if (what < 0.6) return several ? this.#shift(fillings) : this.#split(fillings)
    if (what < 0.7) return this.#split(fillings)
    return several ? this.#anew(fillings) : this.#split(fillings)
  }

  #without(fillings: readonly Filling[], gone: readonly number[]): Filling[] {
    return fillings.filter((_, index) => !gone.includes(index))
  }

  #otherBox(fillings: readonly Filling[]): readonly Filling[] | null {
    const at = this.#pick(fillings.length)
    const box = this.#pick(this.problem.boxes.length)
    const one = fillings[at] as Filling
    const others = this.#without(fillings, [at])
    if (box === one.box || !this.#has(box, others)) return null
    const lying = this.fitting.fit(this.problem.boxes[box] as BoxKind, one.counts)
    return lying && [...others, this.#filling(box, one.counts, lying)]
  }

  #merge(fillings: readonly Filling[]): readonly Filling[] | null {
    const [a, b] = this.#two(fillings.length)
    const others = this.#without(fillings, [a, b])
    const both = sumOf(fillings[a] as Filling, fillings[b] as Filling)
    const one = this.#smallest(both, others)
    return one && [...others, one]
  }

  #two(count: number): [number, number] {
    const a = this.#pick(count)
    const b = this.#pick(count - 1)
    return [a, b >= a ? b + 1 : b]
  }

  /** Some pieces of one package into another, each then in the smallest box that holds it. */
  #shift(fillings: readonly Filling[]): readonly Filling[] | null {
    const [from, to] = this.#two(fillings.length)
    const [giving, taking] = [fillings[from] as Filling, fillings[to] as Filling]
    const moved = this.#some(giving.counts)
    const others = this.#without(fillings, [from, to])
    const more = taking.counts.map((count, kind) => count + (moved[kind] as number))
    const less = giving.counts.map((count, kind) => count - (moved[kind] as number))
    const lying = this.fitting.fit(this.problem.boxes[taking.box] as BoxKind, more)
    const taken = lying ? this.#filling(taking.box, more, lying) : this.#smallest(more, others)
    if (!taken) return null
    if (less.every((count) => count === 0)) return [...others, this.#shrunk(taken, others)]
    const given = this.#smallest(less, [...others, taken])
    return given && [...others, given, taken]
  }

  /** A part of the pieces of a package: of one kind one, half or all, or half of the kinds. */
  #some(counts: Counts): number[] {
    const kinds = counts.flatMap((count, kind) => (count > 0 ? [kind] : []))
    const part = counts.map(() => 0)
    if (kinds.length > 2 && this.#random() < 0.2) {
      for (const kind of kinds) if (this.#random() < 0.5) part[kind] = counts[kind] as number
      return part
    }
    const kind = kinds[this.#pick(kinds.length)] as number
    const all = counts[kind] as number
    const much = this.#random()
    part[kind] = much < 0.5 ? 1 : much < 0.75 ? Math.ceil(all / 2) : all
    return part
  }

  #split(fillings: readonly Filling[]): readonly Filling[] | null {
    const at = this.#pick(fillings.length)
    const one = fillings[at] as Filling
    const moved = this.#some(one.counts)
    const less = one.counts.map((count, kind) => count - (moved[kind] as number))
    if (less.every((count) => count === 0) || moved.every((count) => count === 0)) return null
    const others = this.#without(fillings, [at])
    const first = this.#smallest(less, others)
    const second = first && this.#smallest(moved, [...others, first])
    return first && second && [...others, first, second]
  }

  /**
   * One package fewer: the pieces of one are offered to others, a few at a time, which are packed anew with them; what
   * finds no room is offered on, as long as it becomes no more. Null where something is left in the end.
   */
  #emptied(fillings: readonly Filling[]): readonly Filling[] | null {
    const { kinds, boxes } = this.problem
    const volumeOf = (counts: Counts) =>
      counts.reduce((sum, count, kind) => sum + count * (kinds[kind] as Kind).volume, 0)
    const order = fillings.map((one, at) => ({ at, volume: volumeOf(one.counts) })).sort((a, b) => a.volume - b.volume)
    const least = order[
      Math.min(order.length - 1, Math.floor(this.#random() * this.#random() * 4))
    ] as (typeof order)[number]
    const others = this.#without(fillings, [least.at])
    let pool = (fillings[least.at] as Filling).counts
    let [left, fewest, since] = [least.volume, least.volume, 0]
    for (; since < emptyTries[this.costing.aim] && left > 0 && this.looks < this.#until; since += 1) {
      const some = new Set<number>()
      const much = 1 + this.#pick(Math.min(3, others.length))
      while (some.size < much) some.add(this.#pick(others.length))
      let counts = pool
      for (const at of some) counts = addCounts(counts, (others[at] as Filling).counts)
      const noise = this.#random() < 0.3 ? 0.5 : 0.15
      const way = this.#pick(4)
      const keys = new Map<number, number>()
      for (const kind of this.fitting.order(way))
        if ((counts[kind] as number) > 0)
          keys.set(kind, keyOf(way, kinds[kind] as Kind) * (1 + noise * (2 * this.#random() - 1)))
      const sorted = [...keys.keys()].sort((a, b) => (keys.get(b) as number) - (keys.get(a) as number))
      const anew: [number, Filling][] = []
      for (const at of some) {
        const { box } = others[at] as Filling
        const filled = this.fitting.fill(boxes[box] as BoxKind, counts, sorted, way)
        anew.push([at, this.#filling(box, filled.counts, filled.lying)])
        const { counts: gone } = filled
        counts = counts.map((count, kind) => count - (gone[kind] as number))
      }
      const over = volumeOf(counts)
      // a little more is let through now and then, so that pieces change places
      if (over > left && this.#random() > 0.02 * (left / over) ** 4) continue
      for (const [at, one] of anew) others[at] = one
      pool = counts
      left = over
      if (left < fewest) [fewest, since] = [left, 0]
    }
    if (left > 0) return null
    const kept = others.filter((one) => one.lying.length > 0)
    return kept.map((one, at) => this.#shrunk(one, this.#without(kept, [at])))
  }

  /** Some packages taken apart and packed anew, in another size of box and another order. */
  #anew(fillings: readonly Filling[]): readonly Filling[] | null {
    const gone = [...this.#two(fillings.length)]
    if (fillings.length > 2 && this.#random() < 0.4) {
      const third = this.#pick(fillings.length)
      if (!gone.includes(third)) gone.push(third)
    }
    const others = this.#without(fillings, gone)
    const counts = gone
      .map((at) => fillings[at] as Filling)
      .reduce<Counts>(
        (sum, one) => addCounts(sum, one.counts),
        this.problem.kinds.map(() => 0),
      )
    const way = this.#pick(wayCount)
    const order = [...this.fitting.order(way)]
    // neighbors change places now and then
    for (let at = 0; at + 1 < order.length; at += 1)
      if (this.#random() < 0.3) [order[at], order[at + 1]] = [order[at + 1] as number, order[at] as number]
    const anew = this.#fillAll(counts, this.#pick(this.problem.boxes.length), order, way, others)
    return anew && [...others, ...anew]
  }
}

/** A box with what is in it, as it is priced. */
export const pricedBox = (
  { code, outer, tare, carrier, asIs }: UsableBox,
  { kilograms, declared }: Pick<Filling, "kilograms" | "declared">,
  dryIce: number,
): PricedBox => ({ code: asIs ? null : code, outer, kilograms: kilograms + tare, carrier, declared, dryIce })

/** What pieces are sorted by for a way, changed a little by chance. */
const keyOf = (way: number, { volume, base, longest }: Kind): number =>
  way === 1 ? base : way === 2 ? longest : volume

const addCounts = (a: Counts, b: Counts): Counts => a.map((count, kind) => count + (b[kind] as number))
const sumOf = (a: Filling, b: Filling): Counts => addCounts(a.counts, b.counts)

/** Which of two is less, the first figures first. */
export function compareValues(a: Packing["value"], b: Packing["value"]): number {
  for (let at = 0; at < a.length; at += 1) {
    const [one, other] = [a[at] as number, b[at] as number]
    if (Math.abs(one - other) > 1e-7 * Math.max(1, Math.abs(one))) return one - other
  }
  return 0
}
