import type { LocalDate } from "core/calendar/index.ts"
import { observedOn } from "core/calendar/observed.ts"
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
    .map((day) => ({ date: day.date.slice(0, 10) as LocalDate, name: day.name }))
  // the data name some of the days on which a holiday of the United States is kept, and not all
  const kept = country === "US" ? days.flatMap((day) => observed(day)) : []
  const all = [...new Map([...kept, ...days].map((day) => [day.date, day])).values()]
  const sorted = all.sort((a, b) => a.date.localeCompare(b.date))
  known.set(at, sorted)
  return sorted
}

const observed = (day: Holiday): Holiday[] => {
  const on = observedOn(day.date)
  return on ? [{ date: on, name: `${day.name} (kept)` }] : []
}

/** The days of the public holidays around a date: of its year and the next. */
export function holidaySet(country: string, state: string, date: LocalDate): ReadonlySet<LocalDate> {
  const year = Number(date.slice(0, 4))
  return new Set([year, year + 1].flatMap((one) => publicHolidays(country, state, one).map((day) => day.date)))
}
