import { describe, expect, it } from "vitest"
import { parcelService, rated, refusals, small, tariffOf } from "../../tests/tariffSamples.ts"

const by = (transit: object, options: Parameters<typeof tariffOf>[1] = {}) =>
  tariffOf(parcelService, { ...options, transit: { ...parcelService.transit, ...transit } })
const arrives = (of: ReturnType<typeof tariffOf>, asked: Parameters<typeof rated>[2] = {}) =>
  rated(of, [small], asked).arrival
const day = (...of: Parameters<typeof arrives>) => arrives(...of).date

/** 24 November 2026 is a Tuesday; the sample's carrier keeps Thursday 26 November, 5 U.S.C. 6103. */
describe("arrival", () => {
  it("counts business days past the holiday, and says how", () => {
    // three business days after Tuesday 24: 25, 27, 30 (Thanksgiving and the weekend between)
    const arrival = arrives(tariffOf(parcelService))
    expect(arrival).toMatchObject({ date: "2026-11-30", time: "17:00", businessDays: 3, calendarDays: 6 })
    expect(arrival.why.map((one) => [one.code, one.values.days])).toEqual([
      ["why.days-business", "3"],
      ["why.still", "2026-11-26"],
    ])
  })
  it("counts calendar days, and waits for a day of delivery", () => {
    // four days after the 24th is Saturday 28: Monday 30
    const arrival = arrives(by({ count: "calendar", days: { "5": 4 } }))
    expect(arrival.date).toBe("2026-11-30")
    expect(arrival.why.map((one) => one.code)).toContain("why.next-delivery")
  })
  it("delivers on Saturday where that was bought, or where the service does", () => {
    const next = { days: { "5": 1 } }
    const friday = { shipDate: "2026-11-27" } as const
    expect(day(by(next), friday)).toBe("2026-11-30")
    const offered = by(next, { options: [{ option: "saturday" }] })
    expect(day(offered, friday)).toBe("2026-11-30")
    expect(day(offered, { ...friday, options: new Set(["saturday"]) })).toBe("2026-11-28")
    expect(day(by({ ...next, moves: [1, 2, 3, 4, 5, 6], delivers: [2, 3, 4, 5, 6] }), friday)).toBe("2026-11-28")
  })
  it("leaves with the next departure where they do not leave every day", () => {
    // Tuesday's goods wait for Friday 27; two days on: Sunday, delivered Monday
    const weekly = by({ count: "calendar", days: { "5": 2 }, departs: [5] })
    expect(arrives(weekly)).toMatchObject({ date: "2026-11-30" })
    expect(arrives(weekly).why[0]).toMatchObject({ code: "why.departs", values: { day: "2026-11-27" } })
    // a departure on a holiday is left out: Thursday 26 → 3 December
    expect(day(by({ count: "calendar", days: { "5": 1 }, departs: [4] }))).toBe("2026-12-04")
  })
  it("takes the days of a lane before those of the zone", () => {
    expect(day(by({ lanes: [["US", "802", "804", 1]] }))).toBe("2026-11-25")
    expect(day(by({ lanes: [["US", "810", "812", 1]] }))).toBe("2026-11-30")
  })
  it("may be the same day", () => expect(day(by({ days: { "5": 0 } }))).toBe("2026-11-24"))
  it("stands still where the far end does", () => {
    expect(day(by({ days: { "5": 1 } }), { holidays: new Set(["2026-11-25"]) })).toBe("2026-11-27")
  })
  it("is the same over both changes of daylight saving time", () => {
    // Friday 6 March 2026 and Friday 30 October 2026: three business days on is Wednesday
    expect(day(tariffOf(parcelService), { shipDate: "2026-03-06" })).toBe("2026-03-11")
    expect(day(tariffOf(parcelService), { shipDate: "2026-10-30" })).toBe("2026-11-04")
  })
  it("refuses a label after the cut-off of its day, not one for the next day", () => {
    const early = by({ cutOff: "15:00" })
    const today = { today: "2026-11-24", at: "15:01" } as const
    expect(refusals(early, [small], today)).toEqual(["rate.cut-off"])
    expect(refusals(early, [small], { ...today, at: "15:00" })).toEqual([])
    expect(refusals(early, [small], { ...today, shipDate: "2026-11-25" })).toEqual([])
  })
  it("refuses a day of sending in the past or too far ahead", () => {
    // ten business days after Tuesday 24 November, without the 26th: Wednesday 9 December
    const today = { today: "2026-11-24" } as const
    expect(refusals(tariffOf(parcelService), [small], { ...today, shipDate: "2026-12-09" })).toEqual([])
    expect(refusals(tariffOf(parcelService), [small], { ...today, shipDate: "2026-12-10" })).toEqual([
      "rate.too-far-ahead",
    ])
    expect(refusals(tariffOf(parcelService), [small], { ...today, shipDate: "2026-11-23" })).toEqual(["rate.day-past"])
  })
  it("refuses where the zone has no days, and a calendar that never opens", () => {
    expect(refusals(by({ days: { "2": 1 } }), [small])).toEqual(["rate.no-transit"])
    const holidays = Array.from({ length: 500 }, (_, index) =>
      new Date(Date.UTC(2026, 10, 24) + index * 86_400_000).toISOString().slice(0, 10),
    )
    expect(refusals(tariffOf(parcelService, {}, { holidays }), [small])).toEqual(["rate.no-arrival"])
  })
})
