import { addDays, type LocalDate, weekday } from "./index.ts"

/**
 * The day on which a federal holiday of the United States is kept that falls on a weekend: the Friday before a Saturday,
 * the Monday after a Sunday. Null on a working day. Source: 5 U.S.C. 6103(b) and Executive Order 11582.
 *
 * @example observedOn("2026-07-04") // "2026-07-03"
 */
export function observedOn(date: LocalDate): LocalDate | null {
  const day = weekday(date)
  return day === 6 ? addDays(date, -1) : day === 0 ? addDays(date, 1) : null
}
