import { type Reason, reason } from "../refusal/index.ts"

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

interface Group {
  readonly orders: number[]
  readonly bins: readonly string[]
  readonly totes: number
  readonly litres: number
  readonly kilograms: number
  readonly metres: number
  readonly apart: number
}

/** How many liters an order needs before it is counted as another tote (common practice: four fifths filled). */
export const totesFor = (litres: number, toteLitres: number): number =>
  Math.max(1, Math.ceil(litres / (toteLitres * 0.8) - 1e-9))

/**
 * Orders put together into runs so that the walks are short: Clarke and Wright's savings method ("Scheduling of
 * Vehicles from a Central Depot to a Number of Delivery Points", Operations Research 12, 1964), combining the two groups
 * whose common walk saves the most meters as long as the cart takes both. Not proved to be the best.
 *
 * @param metresOf the walk over these bins, and over those of a second list with them, from the desk to the bench
 * @param atMost how many orders go into a run
 */
export function buildRuns(
  orders: readonly RunOrder[],
  cart: Cart,
  metresOf: (bins: readonly string[], more?: readonly string[]) => number,
  atMost = 60,
): BuiltRuns {
  const left: { order: number; why: Reason }[] = []
  const groups: Group[] = []
  for (const one of orders) {
    const why = tooMuch(one, cart)
    if (why) {
      left.push({ order: one.id, why: reason(why, { totes: one.totes, litres: Math.ceil(one.litres) }) })
      continue
    }
    const metres = metresOf(one.bins)
    groups.push({ ...one, orders: [one.id], metres, apart: metres })
  }
  const saving = (a: Group, b: Group): number => {
    if (a.orders.length + b.orders.length > atMost) return Number.NEGATIVE_INFINITY
    const both = { totes: a.totes + b.totes, litres: a.litres + b.litres, kilograms: a.kilograms + b.kilograms }
    if (tooMuch(both, cart)) return Number.NEGATIVE_INFINITY
    return a.metres + b.metres - metresOf(a.bins, b.bins)
  }
  // the best partner of each group; only what was joined is worked out again
  type Best = { with: number; saved: number }
  const alive = groups.map((group, index) => ({ group: group as Group | null, index }))
  const best: Best[] = alive.map(() => ({ with: -1, saved: Number.NEGATIVE_INFINITY }))
  const look = (index: number) => {
    const own = alive[index]?.group as Group
    let found: Best = { with: -1, saved: Number.NEGATIVE_INFINITY }
    for (const other of alive) {
      if (!other.group || other.index === index) continue
      const saved = saving(own, other.group)
      if (saved > found.saved) found = { with: other.index, saved }
      if (saved > (best[other.index] as Best).saved) best[other.index] = { with: index, saved }
    }
    best[index] = found
  }
  for (let index = 0; index < alive.length; index += 1)
    for (let other = 0; other < index; other += 1) {
      const saved = saving(alive[index]?.group as Group, alive[other]?.group as Group)
      if (saved > (best[index] as Best).saved) best[index] = { with: other, saved }
      if (saved > (best[other] as Best).saved) best[other] = { with: index, saved }
    }
  for (;;) {
    let top = -1
    for (let index = 0; index < alive.length; index += 1)
      if (alive[index]?.group && (top < 0 || (best[index] as Best).saved > (best[top] as Best).saved)) top = index
    // orders that share no meter still share the way there and back; nothing saved: they stay apart
    if (top < 0 || (best[top] as Best).saved <= 1e-9) break
    const partner = (best[top] as Best).with
    const [a, b] = [alive[top]?.group as Group, alive[partner]?.group as Group]
    const bins = union(a.bins, b.bins)
    const joined: Group = {
      orders: [...a.orders, ...b.orders],
      bins,
      totes: a.totes + b.totes,
      litres: a.litres + b.litres,
      kilograms: a.kilograms + b.kilograms,
      metres: metresOf(bins),
      apart: a.apart + b.apart,
    }
    ;(alive[top] as { group: Group | null }).group = joined
    ;(alive[partner] as { group: Group | null }).group = null
    best[partner] = { with: -1, saved: Number.NEGATIVE_INFINITY }
    for (let index = 0; index < alive.length; index += 1)
      if (alive[index]?.group && index !== top && [top, partner].includes((best[index] as Best).with)) look(index)
    look(top)
  }
  const rank = new Map(orders.map((order, index) => [order.id, index]))
  const runs = alive.flatMap(({ group }) =>
    group
      ? [
          {
            orders: [...group.orders].sort((a, b) => (rank.get(a) ?? 0) - (rank.get(b) ?? 0)),
            metres: group.metres,
            apartMetres: group.apart,
          },
        ]
      : [],
  )
  return {
    runs: runs.sort((a, b) => (rank.get(a.orders[0] as number) ?? 0) - (rank.get(b.orders[0] as number) ?? 0)),
    left,
  }
}

const tooMuch = (
  load: { readonly totes: number; readonly litres: number; readonly kilograms: number },
  cart: Cart,
): "run.too-many-totes" | "run.too-large" | "run.too-heavy" | null =>
  cart.totes !== null && load.totes > cart.totes
    ? "run.too-many-totes"
    : cart.litres !== null && load.litres > cart.litres
      ? "run.too-large"
      : cart.kilograms !== null && load.kilograms > cart.kilograms
        ? "run.too-heavy"
        : null

const union = (a: readonly string[], b: readonly string[]): string[] => [...new Set([...a, ...b])]
