import type { Decimal } from "decimal.js"

/** What a comparison looks at; `arrives` compares as text (`2026-11-27 17:00`). */
export interface Comparable {
  readonly cost: Decimal
  readonly arrives: string
}

/** Those of all that no other is at least as cheap and as early as, and better in one of the two; in their order. */
export function unbeatenOf<T extends Comparable>(all: readonly T[]): T[] {
  const kept = new Set<T>()
  let earliest: T | null = null
  // from the cheapest on, only one that arrives earlier than all cheaper ones is unbeaten
  for (const one of [...all].sort(byCost))
    if (
      earliest === null ||
      one.arrives < earliest.arrives ||
      (one.arrives === earliest.arrives && one.cost.eq(earliest.cost))
    ) {
      kept.add(one)
      earliest = one
    }
  return all.filter((one) => kept.has(one))
}

const earlier = (a: Comparable, b: Comparable) => (a.arrives < b.arrives ? -1 : a.arrives > b.arrives ? 1 : 0)
const byCost = (a: Comparable, b: Comparable) => a.cost.cmp(b.cost) || earlier(a, b)
const byArrival = (a: Comparable, b: Comparable) => earlier(a, b) || a.cost.cmp(b.cost)

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
