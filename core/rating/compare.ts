import type { Decimal } from "decimal.js"

/** What a comparison looks at; `arrives` compares as text (`2026-11-27 17:00`). */
export interface Comparable {
  readonly cost: Decimal
  readonly arrives: string
}

/** Whether no other offer is at least as cheap and at least as early, and better in one of the two. */
export const isUnbeaten = (one: Comparable, all: readonly Comparable[]): boolean =>
  !all.some(
    (other) =>
      other.cost.lte(one.cost) &&
      other.arrives <= one.arrives &&
      (other.cost.lt(one.cost) || other.arrives < one.arrives),
  )

const byCost = (a: Comparable, b: Comparable) => a.cost.cmp(b.cost) || a.arrives.localeCompare(b.arrives)
const byArrival = (a: Comparable, b: Comparable) => a.arrives.localeCompare(b.arrives) || a.cost.cmp(b.cost)

/** The cheapest of what is in time, or where nothing is, of all; the earlier of two at one price. */
export function cheapestOf<T extends Comparable>(offers: readonly T[], inTime: (offer: T) => boolean): T | null {
  const some = offers.filter(inTime)
  return [...(some.length > 0 ? some : offers)].sort(byCost)[0] ?? null
}

/** The one that arrives first; the cheaper of two at one time. */
export const fastestOf = <T extends Comparable>(offers: readonly T[]): T | null =>
  [...offers].sort(byArrival)[0] ?? null

/**
 * The offer to preselect: the cheapest that arrives by the promise; when none does, the fastest, since then time is
 * what is short. Null without offers. A promise is a date; null promises nothing.
 */
export function preselect<T extends Comparable>(offers: readonly T[], promised: string | null): T | null {
  const inTime = offers.filter((offer) => promised === null || offer.arrives.slice(0, 10) <= promised)
  return cheapestOf(inTime, () => true) ?? fastestOf(offers)
}
