import { type Lateness, leastMeasured } from "../rating/index.ts"

/**
 * The chance that a package comes in after its day, from how long others took, given that it has taken so long already:
 * of those that took at least as long as this one has, the part that took longer than is left to it.
 *
 * @param took how many days others took from where this one stands, or after the day on which they were expected
 * @param so how many of those days are over, and how many there are in all until it is late
 * @returns 0 to 1; null where too few were measured, or none of them took so long
 */
export function chanceLate(took: Lateness, so: { readonly over: number; readonly until: number }): number | null {
  let all = 0
  let still = 0
  let late = 0
  for (const { days, packages } of took) {
    all += packages
    if (days < so.over) continue
    still += packages
    if (days > so.until) late += packages
  }
  return all < leastMeasured || still === 0 ? null : late / still
}
