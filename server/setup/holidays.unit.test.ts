import { addDays, type LocalDate } from "core/calendar/index.ts"
import { observedOn } from "core/calendar/observed.ts"
import { describe, expect, it } from "vitest"
import { holidaySet, publicHolidays } from "./holidays.ts"

/**
 * The eleven federal days by 5 U.S.C. 6103(a), each on the day on which it is kept (6103(b): Saturday → Friday before,
 * Sunday → Monday after), worked out by hand from the calendars of the years.
 */
const federal: Record<number, string> = {
  2026: "01-01 01-19 02-16 05-25 06-19 07-03 09-07 10-12 11-11 11-26 12-25",
  2027: "01-01 01-18 02-15 05-31 06-18 07-05 09-06 10-11 11-11 11-25 12-24",
  2028: "01-17 02-21 05-29 06-19 07-04 09-04 10-09 11-10 11-23 12-25",
  2029: "01-01 01-15 02-19 05-28 06-19 07-04 09-03 10-08 11-12 11-22 12-25",
  2030: "01-01 01-21 02-18 05-27 06-19 07-04 09-02 10-14 11-11 11-28 12-25",
}

/** Easter Sunday by the anonymous Gregorian computus (Meeus, Astronomical Algorithms, chapter 8). */
function easter(year: number): LocalDate {
  const a = year % 19
  const b = Math.floor(year / 100)
  const c = year % 100
  const d = Math.floor(b / 4)
  const e = b % 4
  const g = Math.floor((8 * b + 13) / 25)
  const h = (19 * a + b - d - g + 15) % 30
  const i = Math.floor(c / 4)
  const k = c % 4
  const l = (32 + 2 * e + 2 * i - h - k) % 7
  const m = Math.floor((a + 11 * h + 19 * l) / 433)
  const month = Math.floor((h + l - 7 * m + 90) / 25)
  const day = (h + l - 7 * m + 33 * month + 19) % 32
  return `${year}-${String(month).padStart(2, "0")}-${String(day).padStart(2, "0")}` as LocalDate
}

describe("public holidays", () => {
  it.each([2026, 2027, 2028, 2029, 2030])(
    "of the United States in %i are the federal days as they are kept",
    (year) => {
      const working = publicHolidays("US", "MN", year).filter((day) => {
        const weekday = new Date(`${day.date}T00:00:00Z`).getUTCDay()
        return weekday !== 0 && weekday !== 6 && day.date.startsWith(String(year))
      })
      const expected = (federal[year] ?? "").split(" ").map((day) => `${year}-${day}`)
      // the New Year's Day of 2028 is a Saturday: it is kept on the last day of 2027
      if (year === 2027) expected.push("2027-12-31")
      expect(working.map((day) => day.date)).toEqual(expected)
    },
  )

  it("Easter by hand: 5 April 2026, 28 March 2027, 16 April 2028, 1 April 2029, 21 April 2030", () => {
    expect([2026, 2027, 2028, 2029, 2030].map(easter)).toEqual([
      "2026-04-05",
      "2027-03-28",
      "2028-04-16",
      "2029-04-01",
      "2030-04-21",
    ])
  })

  it.each(["DE", "CH"])("of %s move with Easter: Good Friday, Easter Monday, Ascension, Whit Monday", (country) => {
    for (const year of [2026, 2027, 2028, 2029, 2030]) {
      const days = new Set(publicHolidays(country, "", year).map((day) => day.date))
      for (const after of [-2, 1, 39, 50]) expect(days.has(addDays(easter(year), after))).toBe(true)
    }
  })

  it("are those of a year and the next around a date, and none where nothing is known", () => {
    const days = holidaySet("US", "MN", "2026-12-30")
    const newYear: LocalDate[] = ["2026-12-25", "2027-01-01"]
    expect(newYear.every((day) => days.has(day))).toBe(true)
    expect(publicHolidays("XX", "", 2026)).toEqual([])
  })
})

it("a holiday on a weekend is kept beside it, one on a working day is not moved", () => {
  expect([observedOn("2026-07-04"), observedOn("2027-07-04"), observedOn("2026-11-26")]).toEqual([
    "2026-07-03",
    "2027-07-05",
    null,
  ])
})
