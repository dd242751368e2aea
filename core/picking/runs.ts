import { type Reason, reason } from "../refusal/index.ts"
import type { Footprint, QuickMeasure } from "./measure.ts"

/** An order as runs are built from it. */
export interface RunOrder {
  readonly id: number
  readonly bins: readonly string[]
  /** Litres and kilograms of its pieces. */
  readonly litres: number
  readonly kilograms: number
  /** Totes that it needs on a cart. */
  readonly totes: number
}

/** What goes on one cart; null: no limit. */
export interface Cart {
  readonly totes: number | null
  readonly litres: number | null
  readonly kilograms: number | null
}

export interface BuiltRun {
  readonly orders: readonly number[]
  /** Meters of the walk for all of them together, and of each order's walk by itself summed. */
  readonly metres: number
  readonly apartMetres: number
}

export interface BuiltRuns {
  readonly runs: readonly BuiltRun[]
  /** Orders that go on no cart, with why. */
  readonly left: readonly { readonly order: number; readonly why: Reason }[]
}

/** What runs are measured by: quickly while they are compared, and by the real walk over bins. */
export interface RunMeasure {
  readonly quick: QuickMeasure
  readonly real: (bins: readonly string[]) => number
}

interface Load {
  readonly totes: number
  readonly litres: number
  readonly kilograms: number
}

interface Group extends Load {
  /** Places in the list of orders. */
  readonly members: readonly number[]
  readonly foot: Footprint
  readonly metres: number
}

/** What is left of a group without one of its members. */
interface Rest {
  readonly foot: Footprint
  readonly metres: number
}

/** How many liters an order needs before it is counted as another tote (common practice: four fifths filled). */
export const totesFor = (litres: number, toteLitres: number): number =>
  Math.max(1, Math.ceil(litres / (toteLitres * 0.8) - 1e-9))

/** Passes in which orders are moved and changed before nothing shorter is looked for. */
const mostPasses = 6
/** Moves that are measured by their real walks in the end. */
const mostReal = 60

/**
 * Orders put together into runs so that the walks are short: Clarke and Wright's savings method ("Scheduling of
 * Vehicles from a Central Depot to a Number of Delivery Points", Operations Research 12, 1964), combining the two groups
 * whose common walk saves the most meters as long as the cart takes both; then orders are moved from run to run, and
 * changed for one another, as long as that saves meters, at last by their real walks. Not proved to be the best.
 *
 * @param atMost how many orders go into a run
 */
export function buildRuns(orders: readonly RunOrder[], cart: Cart, measure: RunMeasure, atMost = 60): BuiltRuns {
  const left: { order: number; why: Reason }[] = []
  const fitting: RunOrder[] = []
  for (const one of orders) {
    const why = tooMuch(one, cart)
    if (why) left.push({ order: one.id, why: reason(why, { totes: one.totes, litres: Math.ceil(one.litres) }) })
    else fitting.push(one)
  }
  const building = new Building(fitting, cart, measure, atMost)
  building.combine()
  building.exchange()
  building.byRealWalks()
  const apart = new Map<number, number>()
  const runs = building.groups.map(({ members }): BuiltRun => {
    const own = [...members].sort((a, b) => a - b)
    const alone = (at: number) => {
      const known = apart.get(at) ?? measure.real((fitting[at] as RunOrder).bins)
      apart.set(at, known)
      return known
    }
    return {
      orders: own.map((at) => (fitting[at] as RunOrder).id),
      metres: measure.real(own.flatMap((at) => [...(fitting[at] as RunOrder).bins])),
      apartMetres: own.reduce((sum, at) => sum + alone(at), 0),
    }
  })
  const rank = new Map(orders.map((order, index) => [order.id, index]))
  return {
    runs: runs.sort((a, b) => (rank.get(a.orders[0] as number) ?? 0) - (rank.get(b.orders[0] as number) ?? 0)),
    left,
  }
}

/** Runs while they are put together. */
class Building {
  groups: Group[]
  readonly #feet: readonly Footprint[]

  constructor(
    readonly orders: readonly RunOrder[],
    readonly cart: Cart,
    readonly measure: RunMeasure,
    readonly atMost: number,
  ) {
    this.#feet = orders.map((one) => measure.quick.footprint(one.bins))
    this.groups = orders.map((_, index) => this.#groupOf([index]))
  }

  #groupOf(members: readonly number[]): Group {
    const { quick } = this.measure
    const sum = (of: (one: RunOrder) => number) =>
      members.reduce((total, at) => total + of(this.orders[at] as RunOrder), 0)
    const [first = 0, ...others] = members
    const foot = others.reduce(
      (all, at) => quick.union(all, this.#feet[at] as Footprint),
      this.#feet[first] as Footprint,
    )
    return {
      members,
      foot,
      metres: members.length === 0 ? 0 : quick.metres(foot),
      totes: sum((one) => one.totes),
      litres: sum((one) => one.litres),
      kilograms: sum((one) => one.kilograms),
    }
  }

  /** The footprints of a group without each of its members, worked out once for each group. */
  readonly #without = new WeakMap<Group, readonly Rest[]>()
  #restsOf(group: Group): readonly Rest[] {
    const known = this.#without.get(group)
    if (known) return known
    const { quick } = this.measure
    const feet = group.members.map((at) => this.#feet[at] as Footprint)
    const none = quick.footprint([])
    // what comes before each, and what comes after it
    const before = [none]
    for (const foot of feet) before.push(quick.union(before.at(-1) as Footprint, foot))
    let after = none
    const made: Rest[] = []
    for (let at = feet.length - 1; at >= 0; at -= 1) {
      const foot = quick.union(before[at] as Footprint, after)
      made[at] = { foot, metres: quick.metres(foot) }
      after = quick.union(after, feet[at] as Footprint)
    }
    this.#without.set(group, made)
    return made
  }

  #takes(load: Load, count: number): boolean {
    return count <= this.atMost && tooMuch(load, this.cart) === null
  }

  /** Combines the two groups that save most, again and again. */
  combine(): void {
    const { quick } = this.measure
    type Best = { with: number; saved: number }
    const alive: (Group | null)[] = [...this.groups]
    const best: Best[] = alive.map(() => ({ with: -1, saved: Number.NEGATIVE_INFINITY }))
    const saving = (a: Group, b: Group): number =>
      this.#takes(added(a, b), a.members.length + b.members.length)
        ? a.metres + b.metres - quick.metres(a.foot, b.foot)
        : Number.NEGATIVE_INFINITY
    const look = (index: number) => {
      const own = alive[index] as Group
      let found: Best = { with: -1, saved: Number.NEGATIVE_INFINITY }
      for (let other = 0; other < alive.length; other += 1) {
        const group = alive[other]
        if (!group || other === index) continue
        const saved = saving(own, group)
        if (saved > found.saved) found = { with: other, saved }
        if (saved > (best[other] as Best).saved) best[other] = { with: index, saved }
      }
      best[index] = found
    }
    for (let index = 0; index < alive.length; index += 1)
      for (let other = 0; other < index; other += 1) {
        const saved = saving(alive[index] as Group, alive[other] as Group)
        if (saved > (best[index] as Best).saved) best[index] = { with: other, saved }
        if (saved > (best[other] as Best).saved) best[other] = { with: index, saved }
      }
    for (;;) {
      let top = -1
      for (let index = 0; index < alive.length; index += 1)
        if (alive[index] && (top < 0 || (best[index] as Best).saved > (best[top] as Best).saved)) top = index
      // orders that share no meter still share the way there and back; nothing saved: they stay apart
      if (top < 0 || (best[top] as Best).saved <= 1e-9) break
      const partner = (best[top] as Best).with
      const [a, b] = [alive[top] as Group, alive[partner] as Group]
      alive[top] = this.#groupOf([...a.members, ...b.members])
      alive[partner] = null
      best[partner] = { with: -1, saved: Number.NEGATIVE_INFINITY }
      for (let index = 0; index < alive.length; index += 1)
        if (alive[index] && index !== top && [top, partner].includes((best[index] as Best).with)) look(index)
      look(top)
    }
    this.groups = alive.flatMap((group) => group ?? [])
  }

  /** Moves orders to other runs, and changes two of different runs, as long as that saves meters. */
  exchange(): void {
    const { quick } = this.measure
    const { groups } = this
    for (let pass = 0, better = true; better && pass < mostPasses; pass += 1) {
      better = false
      for (let from = 0; from < groups.length; from += 1)
        for (const at of groups[from]?.members ?? []) {
          const giving = groups[from] as Group
          if (!giving.members.includes(at)) continue
          const without = this.#restsOf(giving)[giving.members.indexOf(at)] as Rest
          const freed = giving.metres - without.metres
          const own = this.orders[at] as RunOrder
          const lighter = less(giving, own)
          const foot = this.#feet[at] as Footprint
          let found: { to: number; back: number | null; saved: number } | null = null
          for (let to = 0; to < groups.length; to += 1) {
            const taking = groups[to] as Group
            if (to === from || taking.members.length === 0) continue
            const more = added(taking, own)
            if (this.#takes(more, taking.members.length + 1)) {
              const saved = freed - (quick.metres(taking.foot, foot) - taking.metres)
              if (saved > (found?.saved ?? 1e-6)) found = { to, back: null, saved }
            }
            const rests = this.#restsOf(taking)
            for (let index = 0; index < rests.length; index += 1) {
              const rest = rests[index] as Rest
              // no change saves more than what is freed on both sides
              if (freed + taking.metres - rest.metres <= (found?.saved ?? 1e-6)) continue
              const back = taking.members[index] as number
              const other = this.orders[back] as RunOrder
              if (!this.#takes(less(more, other), taking.members.length)) continue
              if (!this.#takes(added(lighter, other), giving.members.length)) continue
              const saved =
                giving.metres +
                taking.metres -
                quick.metres(without.foot, this.#feet[back] as Footprint) -
                quick.metres(rest.foot, foot)
              if (saved > (found?.saved ?? 1e-6)) found = { to, back, saved }
            }
          }
          if (!found) continue
          this.#move(from, found.to, at, found.back)
          better = true
        }
    }
    this.groups = groups.filter((group) => group.members.length > 0)
  }

  #move(from: number, to: number, at: number, back: number | null): void {
    const [giving, taking] = [this.groups[from] as Group, this.groups[to] as Group]
    this.groups[from] = this.#groupOf([...giving.members.filter((one) => one !== at), ...(back === null ? [] : [back])])
    this.groups[to] = this.#groupOf([...taking.members.filter((one) => one !== back), at])
  }

  /** The most promising moves by their real walks: the quick measure does not know every short cut. */
  byRealWalks(): void {
    const { quick, real } = this.measure
    const walks = new Map<Group, number>()
    const walkOf = (group: Group): number => {
      const known = walks.get(group) ?? this.#walk(group.members, real)
      walks.set(group, known)
      return known
    }
    const tried: { from: number; at: number; to: number; promise: number }[] = []
    this.groups.forEach((giving, from) => {
      for (const at of giving.members) {
        const freed = giving.metres - (this.#restsOf(giving)[giving.members.indexOf(at)] as Rest).metres
        this.groups.forEach((taking, to) => {
          const more = added(taking, this.orders[at] as RunOrder)
          if (to === from || !this.#takes(more, taking.members.length + 1)) return
          const promise = freed - (quick.metres(taking.foot, this.#feet[at] as Footprint) - taking.metres)
          tried.push({ from, at, to, promise })
        })
      }
    })
    tried.sort((a, b) => b.promise - a.promise || a.at - b.at || a.to - b.to)
    for (const { from, at, to } of tried.slice(0, mostReal)) {
      const [giving, taking] = [this.groups[from] as Group, this.groups[to] as Group]
      if (!giving.members.includes(at)) continue
      if (!this.#takes(added(taking, this.orders[at] as RunOrder), taking.members.length + 1)) continue
      const [less, more] = [
        this.#groupOf(giving.members.filter((one) => one !== at)),
        this.#groupOf([...taking.members, at]),
      ]
      if (walkOf(less) + walkOf(more) >= walkOf(giving) + walkOf(taking) - 1e-6) continue
      this.groups[from] = less
      this.groups[to] = more
    }
    this.groups = this.groups.filter((group) => group.members.length > 0)
  }

  #walk(members: readonly number[], real: RunMeasure["real"]): number {
    return members.length === 0 ? 0 : real(members.flatMap((at) => [...(this.orders[at] as RunOrder).bins]))
  }
}

const added = (a: Load, b: Load): Load => ({
  totes: a.totes + b.totes,
  litres: a.litres + b.litres,
  kilograms: a.kilograms + b.kilograms,
})
const less = (a: Load, b: Load): Load => ({
  totes: a.totes - b.totes,
  litres: a.litres - b.litres,
  kilograms: a.kilograms - b.kilograms,
})

const tooMuch = (load: Load, cart: Cart): "run.too-many-totes" | "run.too-large" | "run.too-heavy" | null =>
  cart.totes !== null && load.totes > cart.totes
    ? "run.too-many-totes"
    : cart.litres !== null && load.litres > cart.litres
      ? "run.too-large"
      : cart.kilograms !== null && load.kilograms > cart.kilograms
        ? "run.too-heavy"
        : null
