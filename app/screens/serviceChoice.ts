import type { RatedOffer } from "./rateView.server.ts"

/** What choosing by a key looks at. */
export type Choosable = Pick<
  RatedOffer,
  "code" | "name" | "contract" | "list" | "payer" | "arrives" | "late" | "down" | "short"
>

const cost = (one: Choosable): number => Number((one.payer ? one.list : one.contract)?.amount)
const arrival = (one: Choosable): string => `${one.arrives?.date} ${one.arrives?.time}`

/** Services that can be bought now, or where none can, all that have a rate. */
function eligible<T extends Choosable>(offers: readonly T[]): T[] {
  const rated = offers.filter((one) => one.contract && one.arrives)
  const now = rated.filter((one) => !one.down && !one.short)
  return now.length > 0 ? now : rated
}

/** The cheapest service that keeps the promise, or of all where none does; the earlier of two at one price. */
export function cheapest<T extends Choosable>(offers: readonly T[]): T | null {
  const some = eligible(offers)
  const inTime = some.filter((one) => !one.late)
  return (
    [...(inTime.length > 0 ? inTime : some)].sort(
      (a, b) => cost(a) - cost(b) || arrival(a).localeCompare(arrival(b)),
    )[0] ?? null
  )
}

/** The service that arrives first; the cheaper of two at one time. */
export function fastest<T extends Choosable>(offers: readonly T[]): T | null {
  return eligible(offers).sort((a, b) => arrival(a).localeCompare(arrival(b)) || cost(a) - cost(b))[0] ?? null
}
