import type { LocalDate } from "core/calendar/index.ts"
import Holidays from "date-holidays"

export interface Holiday {
  readonly date: LocalDate
  readonly name: string
}

const known = new Map<string, readonly Holiday[]>()

/**
 * The public holidays of a country in a year, with those of a state where the data know it, and the days on which they
 * are kept when they fall on a weekend. None for a country that the data do not know. Source: date-holidays.
 *
 * @param country ISO 3166-1 alpha-2
 * @param state ISO 3166-2 without the country, or ""
 */
export function publicHolidays(country: string, state: string, year: number): readonly Holiday[] {
  const at = `${country} ${state} ${year}`
  const found = known.get(at)
  if (found) return found
  const calendar = new Holidays()
  const states = calendar.getStates(country) ?? {}
  const there = state in states ? calendar.init(country, state) : calendar.init(country)
  void there
  const days = (calendar.getHolidays(year) || [])
    .filter((day) => day.type === "public")
    .map((day) => ({ date: day.date.slice(0, 10), name: day.name }))
  known.set(at, days)
  return days
}

/** The days of the public holidays around a date: of its year and the next. */
export function holidaySet(country: string, state: string, date: LocalDate): ReadonlySet<LocalDate> {
  const year = Number(date.slice(0, 4))
  return new Set([year, year + 1].flatMap((one) => publicHolidays(country, state, one).map((day) => day.date)))
}
