import { describe, expect, it } from "vitest"
import type { BookedTerms } from "../tariff/index.ts"
import { bookingFlaws, type CollectionAsk, placeNamed, usualTime } from "./index.ts"

// invented terms; 24 November 2026 is a Tuesday
const terms: BookedTerms = {
  fee: "12.50",
  until: "15:00",
  from: "08:00",
  to: "18:00",
  weekdays: [1, 2, 3, 4, 5],
  window: 90,
}
const ask: CollectionAsk = { day: "2026-11-24", ready: "14:00", latest: "16:00", pieces: 3 }
const flaws = (
  change: Partial<CollectionAsk> = {},
  own: BookedTerms | null = terms,
  now: "10:42" | "15:01" | "15:00" = "10:42",
) => bookingFlaws(own, { ...ask, ...change }, "2026-11-24", now, "2026-12-08").map((one) => one.code)

describe("a collection that is asked for", () => {
  it("can be booked by the carrier's terms, up to the last minute of each", () => {
    expect(flaws()).toEqual([])
    expect(flaws({}, terms, "15:00")).toEqual([])
    expect(flaws({ ready: "08:00", latest: "18:00" })).toEqual([])
    expect(flaws({ ready: "14:00", latest: "15:30" })).toEqual([])
    expect(flaws({ day: "2026-12-08" })).toEqual([])
  })
  it("can't be on a day or at a time that the carrier does not come", () => {
    expect(flaws({}, null)).toEqual(["collect.none"])
    expect(flaws({ day: "2026-11-23" })).toEqual(["collect.day-over"])
    expect(flaws({ day: "2026-12-09" })).toEqual(["collect.day-far"])
    expect(flaws({ day: "2026-11-28" })).toEqual(["collect.weekday"])
    expect(flaws({}, terms, "15:01")).toEqual(["collect.too-late"])
    expect(flaws({ day: "2026-11-25" }, terms, "15:01")).toEqual([])
    expect(flaws({}, { ...terms, until: null })).toEqual(["collect.not-today"])
    expect(flaws({ ready: "08:00", latest: "10:00" })).toEqual(["collect.time-over"])
    expect(flaws({ ready: "07:59" })).toEqual(["collect.outside"])
    expect(flaws({ latest: "18:01" })).toEqual(["collect.outside"])
    expect(flaws({ latest: "15:29" })).toEqual(["collect.window"])
    expect(flaws({ ready: "16:00", latest: "14:00" })).toEqual(["collect.window"])
    expect(flaws({ pieces: 0 })).toEqual(["collect.pieces"])
    expect(flaws({ ready: "15:00", latest: "15:00" }, { ...terms, window: 0 })).toEqual(["collect.window"])
  })
})

describe("the usual time of a truck", () => {
  it("is the median of when it came, once it has come three times", () => {
    expect(usualTime([])).toBeNull()
    expect(usualTime(["14:05", "14:09"])).toBeNull()
    expect(usualTime(["14:05", "14:30", "14:09"])).toBe("14:09")
    // four: half way between 14:09 and 14:12 is 14:10:30, rounded up
    expect(usualTime(["14:05", "14:30", "14:09", "14:12"])).toBe("14:11")
    // one that was hours late does not move it
    expect(usualTime(["09:00", "09:01", "09:02", "09:03", "17:00"])).toBe("09:02")
  })
  it("forgets what was long ago", () => {
    const lately = Array.from({ length: 20 }, () => "10:00" as const)
    expect(usualTime([...lately, ...Array.from({ length: 40 }, () => "12:00" as const)])).toBe("10:00")
  })
})

it("a place where packages wait is a lane or a door by its number", () => {
  expect(placeNamed("lane 3")).toEqual({ kind: "lane", name: "3" })
  expect(placeNamed(" LANE b2 ")).toEqual({ kind: "lane", name: "B2" })
  expect(placeNamed("Door12")).toEqual({ kind: "door", name: "12" })
  for (const none of ["lane", "lane 123", "door x", "48219-1", "lane 3 4", "a lane 3"])
    expect(placeNamed(none)).toBeNull()
})
