import type { Kind } from "./goods.ts"
import type { BoxKind, Problem } from "./problem.ts"
import { type Lying, Room, type Rule } from "./room.ts"

/** How many pieces of each kind, by the kind's place in the problem. */
export type Counts = readonly number[]

/** What found room of what was offered, and where it lies. */
export interface Filled {
  readonly counts: Counts
  readonly lying: readonly Lying[]
}

/** Ways in which pieces are put in one after another: by what they are sorted, and where each goes. */
const ways: readonly { readonly by: (kind: Kind) => number; readonly rule: Rule }[] = [
  { by: (kind) => kind.volume, rule: "corner" },
  { by: (kind) => kind.base * 1e9 + kind.volume, rule: "low" },
  { by: (kind) => kind.longest * 1e18 + kind.volume, rule: "low" },
  { by: (kind) => kind.volume, rule: "low" },
  { by: (kind) => kind.longest * 1e18 + kind.volume, rule: "corner" },
  { by: (kind) => kind.weight, rule: "low" },
]
export const wayCount = ways.length
/** Ways for loads that are to stand in the middle: the heaviest there and the others around it, or on one another. */
const allWays: typeof ways = [
  ...ways,
  { by: (kind) => kind.weight, rule: "middle" },
  { by: (kind) => kind.base, rule: "middle" },
  { by: (kind) => kind.base, rule: "column" },
]

/** Pieces above which fewer ways are tried. */
const many = 120
/** Up to so many pieces are looked at closely, in so many tries, with so many corners left empty. */
const fewPieces = 12
const mostTries = 400
const mostEmpty = 3
/** Up to so many pieces that fill a box to the last are looked for until they are found or all ways were tried. */
const wholePieces = 6

/** Puts goods into boxes, and knows what it found before. */
export class Fitting {
  readonly room: Room
  readonly #orders: readonly (readonly number[])[]
  readonly #known = new Map<string, readonly Lying[] | null>()

  constructor(readonly problem: Problem) {
    this.room = new Room(problem.kinds, { support: problem.support, limited: problem.limited })
    const all = problem.kinds.map((_, index) => index)
    this.#orders = allWays.map(({ by }) =>
      [...all].sort((a, b) => {
        const [one, other] = [problem.kinds[a] as Kind, problem.kinds[b] as Kind]
        // what bears nothing comes last, so that it lies on top
        return Number(one.limit === 0) - Number(other.limit === 0) || by(other) - by(one) || a - b
      }),
    )
  }

  get looks(): number {
    return this.room.looks
  }

  /** The order of a way, for changing it. */
  order(way: number): readonly number[] {
    return this.#orders[way] as readonly number[]
  }

  /** Whether a box could hold so many by weight, volume, edges and company: whether to try at all. */
  couldHold(box: BoxKind, counts: Counts): boolean {
    const { kinds, apart } = this.problem
    let [weight, volume] = [0, 0]
    const companies: number[] = []
    for (let kind = 0; kind < counts.length; kind += 1) {
      const count = counts[kind] as number
      if (count === 0) continue
      const { weight: each, volume: room, company } = kinds[kind] as Kind
      if (!box.takes[kind]) return false
      weight += each * count
      volume += room * count
      if (!companies.includes(company)) companies.push(company)
    }
    if (weight > box.box.maxLoad + 1e-9 || volume > box.volume + 0.5) return false
    return companies.every((one) => companies.every((other) => !apart[one]?.[other]))
  }

  /** Where all of the pieces lie in a box, or null where no way was found. */
  fit(box: BoxKind, counts: Counts): readonly Lying[] | null {
    if (!this.couldHold(box, counts)) return null
    let key = box.box.code
    for (let kind = 0; kind < counts.length; kind += 1) if (counts[kind]) key += ` ${kind}:${counts[kind]}`
    const known = this.#known.get(key)
    if (known !== undefined) return known
    const found = this.#search(box, counts)
    if (this.#known.size >= 50_000) this.#known.clear()
    this.#known.set(key, found)
    return found
  }

  #search(box: BoxKind, counts: Counts): readonly Lying[] | null {
    const pieces = counts.reduce((sum, one) => sum + one, 0)
    const most = pieces > many ? 2 : ways.length
    for (let way = 0; way < most; way += 1) {
      let order = this.order(way).filter((kind) => (counts[kind] as number) > 0)
      const { rule } = ways[way] as (typeof ways)[number]
      // the kind that finds no room comes first the next time
      for (let again = 0; again < (pieces > many ? 1 : 3); again += 1) {
        const failed = this.#putAll(box, order, counts, rule)
        if (failed < 0) return this.room.lying()
        if (order[0] === failed) break
        order = [failed, ...order.filter((kind) => kind !== failed)]
      }
    }
    return pieces <= fewPieces ? this.#branch(box, counts, pieces) : null
  }

  /**
   * Looks further where few pieces found no room in any order: from the lowest corner up every kind and turn is tried in
   * each, and the corner left empty, until so many were.
   */
  #branch(box: BoxKind, counts: Counts, pieces: number): readonly Lying[] | null {
    const { kinds } = this.problem
    const { room } = this
    const order = this.order(0).filter((kind) => (counts[kind] as number) > 0)
    const left = [...counts]
    const [edge, least] = this.#least(order)
    const volume = order.reduce((sum, kind) => sum + (kinds[kind] as Kind).volume * (counts[kind] as number), 0)
    const slack = box.volume - volume
    if (slack < -0.5 || slack > box.volume * 0.35) return null
    // where hardly anything stays empty few ways lead on, and more of them are followed; where nothing does, more yet
    const whole = slack < least && pieces <= wholePieces
    let tries = mostTries * (whole ? 200 : slack < box.volume * 0.05 ? 10 : 1)
    const down = (still: number, empty: number): boolean => {
      if (still === 0) return true
      const space = room.lowest()
      if (space < 0 || tries <= 0) return false
      const saved = room.save()
      for (const kind of order) {
        if (left[kind] === 0) continue
        const { turns } = kinds[kind] as Kind
        for (let turn = 0; turn < turns.length; turn += 1) {
          tries -= 1
          if (tries <= 0) return false
          if (!room.putAt(space, kind, turn, edge, least)) continue
          left[kind] = (left[kind] as number) - 1
          if (down(still - 1, empty)) return true
          left[kind] = (left[kind] as number) + 1
          room.restore(saved)
        }
      }
      if (empty === 0) return false
      room.leave(space)
      const found = down(still, empty - 1)
      if (!found) room.restore(saved)
      return found
    }
    room.open(box.inside)
    return down(pieces, slack < least ? 0 : mostEmpty) ? room.lying() : null
  }

  /** The least edge and the least volume of some kinds: smaller spaces are of no use to them. */
  #least(some: readonly number[]): [edge: number, volume: number] {
    let [edge, volume] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY]
    for (const kind of some) {
      edge = Math.min(edge, (this.problem.kinds[kind] as Kind).leastEdge)
      volume = Math.min(volume, (this.problem.kinds[kind] as Kind).volume)
    }
    return [edge, volume]
  }

  /** Puts all pieces in by an order of kinds; the kind that found no room, or -1. */
  #putAll(box: BoxKind, order: readonly number[], counts: Counts, rule: Rule): number {
    const { room } = this
    room.open(box.inside)
    const [edge, volume] = this.#least(order)
    for (const kind of order)
      for (let left = counts[kind] as number; left > 0; left -= 1) if (!room.put(kind, rule, edge, volume)) return kind
    return -1
  }

  /** The ways in which all lie in a box, that whose weight lies lowest first; none where none was found. */
  all(box: BoxKind, counts: Counts): (readonly Lying[])[] {
    if (!this.couldHold(box, counts)) return []
    const { kinds } = this.problem
    const pieces = counts.reduce((sum, one) => sum + one, 0)
    const found: { readonly lying: readonly Lying[]; readonly height: number }[] = []
    for (let way = 0; way < (pieces > many ? 1 : allWays.length); way += 1) {
      const order = this.order(way).filter((kind) => (counts[kind] as number) > 0)
      if (this.#putAll(box, order, counts, (allWays[way] as (typeof ways)[number]).rule) >= 0) continue
      const lying = this.room.lying()
      const height = lying.reduce((sum, one) => sum + (kinds[one.shape] as Kind).weight * (one.z + one.height / 2), 0)
      found.push({ lying, height })
    }
    return found.sort((a, b) => a.height - b.height).map((one) => one.lying)
  }

  /** Puts in as many as find room, by an order of kinds. */
  fill(box: BoxKind, counts: Counts, order: readonly number[], way: number): Filled {
    const { kinds, apart } = this.problem
    const { room } = this
    const { rule } = ways[way] as (typeof ways)[number]
    room.open(box.inside)
    const some = order.filter((kind) => (counts[kind] as number) > 0 && box.takes[kind])
    const [edge, volume] = this.#least(some)
    const inside = counts.map(() => 0)
    const companies: number[] = []
    for (const kind of some) {
      const { weight, volume: each, company } = kinds[kind] as Kind
      if (companies.some((other) => apart[company]?.[other])) continue
      for (let left = counts[kind] as number; left > 0; left -= 1) {
        if (room.weight + weight > box.box.maxLoad + 1e-9 || room.volume + each > box.volume + 0.5) break
        if (!room.put(kind, rule, edge, volume)) break
        inside[kind] = (inside[kind] as number) + 1
        if (!companies.includes(company)) companies.push(company)
      }
    }
    return { counts: inside, lying: room.lying() }
  }
}
