import { cheapestOf, fastestOf } from "core/rating/compare.ts"
import { Decimal } from "decimal.js"
import type { RatedOffer } from "./rateView.server.ts"

/** What choosing by a key looks at. */
export type Choosable = Pick<
  RatedOffer,
  "code" | "name" | "contract" | "list" | "payer" | "arrives" | "late" | "down" | "short"
>

/** Services that can be bought now, or where none can, all that have a rate, as a comparison looks at them. */
function eligible<T extends Choosable>(offers: readonly T[]) {
  const rated = offers.flatMap((one) => {
    const cost = one.payer ? one.list : one.contract
    return one.contract && one.arrives && cost
      ? [{ one, cost: new Decimal(cost.amount), arrives: `${one.arrives.date} ${one.arrives.time}` }]
      : []
  })
  const now = rated.filter(({ one }) => !one.down && !one.short)
  return now.length > 0 ? now : rated
}

/** The cheapest service that keeps the promise, or of all where none does. */
export const cheapest = <T extends Choosable>(offers: readonly T[]): T | null =>
  cheapestOf(eligible(offers), ({ one }) => !one.late)?.one ?? null

/** The service that arrives first. */
export const fastest = <T extends Choosable>(offers: readonly T[]): T | null => fastestOf(eligible(offers))?.one ?? null
