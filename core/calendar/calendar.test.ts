import { describe, expect, it } from "vitest"
import type { LocalDate, LocalTime } from "./index.ts"
import {
  addBusinessDays,
  instantAt,
  isBusinessDay,
  isLocalDate,
  localDate,
  localTime,
  workBackFrom,
  workMinutes,
  workSpans,
} from "./index.ts"

const chicago = "America/Chicago"
const at = (time: LocalTime) => instantAt("2026-11-24", time, chicago)

describe("wall time", () => {
  // IANA: Chicago is UTC−6 in winter and UTC−5 in summer; the change is on 8 March and 1 November 2026, 2:00 local
  it("is an instant of its zone", () => {
    expect(at("14:15").toISOString()).toBe("2026-11-24T20:15:00.000Z")
    expect(instantAt("2026-07-01", "14:15", chicago).toISOString()).toBe("2026-07-01T19:15:00.000Z")
  })
  it("holds on the days on which the clocks change", () => {
    expect(instantAt("2026-03-08", "01:59", chicago).toISOString()).toBe("2026-03-08T07:59:00.000Z")
    expect(instantAt("2026-03-08", "14:15", chicago).toISOString()).toBe("2026-03-08T19:15:00.000Z")
    expect(instantAt("2026-11-01", "14:15", chicago).toISOString()).toBe("2026-11-01T20:15:00.000Z")
  })
  it("takes the first of a time that comes twice, and moves a time that is skipped past the gap", () => {
    expect(instantAt("2026-11-01", "01:30", chicago).toISOString()).toBe("2026-11-01T06:30:00.000Z")
    expect(instantAt("2026-03-08", "02:30", chicago).toISOString()).toBe("2026-03-08T08:30:00.000Z")
  })
  it("is read back in the warehouse's zone, wherever the reader is", () => {
    const late = new Date("2026-11-25T05:30:00Z")
    expect([localDate(late, chicago), localTime(late, chicago)]).toEqual(["2026-11-24", "23:30"])
    expect(localDate(late, "Asia/Tokyo")).toBe("2026-11-25")
  })
  it("refuses a zone that does not exist", () =>
    expect(() => instantAt("2026-11-24", "10:00", "Mars/Olympus")).toThrow(/Mars/))
})

describe("business days", () => {
  // 5 U.S.C. 6103: Thanksgiving is the fourth Thursday of November, in 2026 the 26th; Christmas 2026 is a Friday
  const days = { holidays: new Set<LocalDate>(["2026-11-26", "2026-12-25"]), saturday: false }
  it.each<[LocalDate, number, LocalDate]>([
    ["2026-11-24", 1, "2026-11-25"],
    ["2026-11-24", 2, "2026-11-27"],
    ["2026-11-24", 3, "2026-11-30"],
    ["2026-11-26", 0, "2026-11-27"],
    ["2026-12-24", 1, "2026-12-28"],
  ])("%s and %i business days is %s", (from, count, expected) =>
    expect(addBusinessDays(from, count, days)).toBe(expected),
  )
  it("counts Saturday only where it is worked", () => {
    expect(isBusinessDay("2026-11-28", days)).toBe(false)
    expect(isBusinessDay("2026-11-28", { ...days, saturday: true })).toBe(true)
    expect(isBusinessDay("2026-11-29", { ...days, saturday: true })).toBe(false)
  })
})

describe("working time", () => {
  const spans = workSpans("2026-11-24", chicago, [
    { kind: "shift", starts: "07:00", ends: "17:30" },
    { kind: "break", starts: "12:00", ends: "12:30" },
  ])
  it("leaves out breaks and what lies outside the shift", () => {
    // 10:42 to 14:15 is 213 minutes, less half an hour's break
    expect(workMinutes(spans, at("10:42"), at("14:15"))).toBe(183)
    expect(workMinutes(spans, at("06:00"), at("07:10"))).toBe(10)
    expect(workMinutes(spans, at("17:00"), at("19:00"))).toBe(30)
    expect(workMinutes(spans, at("15:00"), at("14:00"))).toBe(0)
  })
  it("is counted back over a break", () => {
    expect(workBackFrom(spans, at("13:00"), 60)).toEqual(at("11:30"))
    expect(workBackFrom(spans, at("13:00"), 20)).toEqual(at("12:40"))
  })
  it("goes on before the shift where it does not reach", () =>
    expect(workBackFrom(spans, at("07:30"), 45)).toEqual(at("06:45")))
})

it("knows which text is a day that the calendar has", () => {
  // 2028 is a leap year, 2026 is none
  for (const day of ["2026-11-24", "2028-02-29"]) expect(isLocalDate(day)).toBe(true)
  for (const text of [
    "2026-02-29",
    "2026-13-01",
    "2026-00-10",
    "2026-11-31",
    "26-11-24",
    "2026-11-24T00:00",
    " 2026-11-24",
    "",
    "today",
  ])
    expect(isLocalDate(text)).toBe(false)
})
