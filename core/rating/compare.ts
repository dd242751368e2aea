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

/**
 * The offer to preselect: the cheapest that arrives by the promise, the earlier of two at one price; when none does,
 * the earliest, since then time is what is short. Null without offers. A promise is a date; null promises nothing.
 */
export function preselect<T extends Comparable>(offers: readonly T[], promised: string | null): T | null {
  const byCost = [...offers].sort((a, b) => a.cost.cmp(b.cost) || a.arrives.localeCompare(b.arrives))
  const inTime = byCost.find((offer) => promised === null || offer.arrives.slice(0, 10) <= promised)
  return inTime ?? byCost.sort((a, b) => a.arrives.localeCompare(b.arrives) || a.cost.cmp(b.cost))[0] ?? null
}
