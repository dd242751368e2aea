import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { addBusinessDays, addDays, instantAt, type LocalDate, type LocalTime } from "../calendar/index.ts"
import { leaveWith } from "./index.ts"

const zone = "America/Chicago"
const departure = (onDate: LocalDate, time: LocalTime, id: number) => ({
  id,
  onDate,
  cutOff: instantAt(onDate, time, zone),
})
// the service leaves twice a day, not on Thursday 26 November 2026 (Thanksgiving, 5 U.S.C. 6103) and not at weekends
const days: LocalDate[] = ["2026-11-24", "2026-11-25", "2026-11-27", "2026-11-30", "2026-12-01"]
const departures = days.flatMap((day) => [departure(day, "09:30", 1), departure(day, "14:15", 2)])
const holidays = new Set<LocalDate>(["2026-11-26"])
/** Two business days on the way. */
const arrives = (shipDate: LocalDate) => addBusinessDays(shipDate, 2, { holidays, saturday: false })
const shown = (one: { onDate: string; cutOff: Date } | null) =>
  one ? `${one.onDate} ${one.cutOff.toISOString().slice(11, 16)}` : null

describe("the collection to leave with", () => {
  it("is the last one of the first day; the one it must make is the latest that keeps the promise", () => {
    // Tuesday arrives on Friday 27th, Wednesday on Monday 30th, Friday on Tuesday 1 December, Monday on the 2nd
    const leaving = leaveWith(departures, arrives, "2026-12-01", "soonest")
    expect([shown(leaving.planned), shown(leaving.must)]).toEqual(["2026-11-24 20:15", "2026-11-27 20:15"])
  })
  it("is the one it must make where goods leave as late as their promise allows", () => {
    const leaving = leaveWith(departures, arrives, "2026-11-30", "latest")
    expect([shown(leaving.planned), shown(leaving.must)]).toEqual(["2026-11-25 20:15", "2026-11-25 20:15"])
  })
  it("must make none when nothing is promised, when all are too late, or when there is time beyond what is known", () => {
    expect(leaveWith(departures, arrives, null, "latest")).toMatchObject({
      must: null,
      planned: { onDate: "2026-11-24" },
    })
    expect(leaveWith(departures, arrives, "2026-11-26", "latest")).toMatchObject({
      must: null,
      planned: { onDate: "2026-11-24" },
    })
    expect(leaveWith(departures, arrives, "2026-12-24", "soonest").must).toBeNull()
  })
  it("is none without collections", () =>
    expect(leaveWith([], arrives, "2026-12-01", "soonest")).toEqual({ planned: null, must: null }))

  it("keeps the promise, and the next collection of the service would not", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 12 }), fc.integer({ min: 0, max: 5 }), (ahead, transit) => {
        const promised = addDays("2026-11-24", ahead)
        const on = (date: LocalDate) => addBusinessDays(date, transit, { holidays, saturday: false })
        const { must } = leaveWith(departures, on, promised, "soonest")
        if (must === null) return
        expect(on(must.onDate) <= promised).toBe(true)
        const next = departures[departures.indexOf(must) + 1]
        expect(next !== undefined && on(next.onDate) > promised).toBe(true)
      }),
    )
  })
})
