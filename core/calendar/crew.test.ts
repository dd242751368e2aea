import { describe, expect, it } from "vitest"
import { crewBackFrom, crewMinutes, crewOn } from "./crew.ts"
import type { LocalDate, LocalTime } from "./index.ts"
import { instantAt, workMinutes } from "./index.ts"

const chicago = "America/Chicago"
const shown = (crew: ReturnType<typeof crewOn>, zone = chicago) =>
  crew.map(
    (one) =>
      `${one.from.toLocaleTimeString("en-GB", { timeZone: zone, timeStyle: "short" })}-${one.to.toLocaleTimeString("en-GB", { timeZone: zone, timeStyle: "short" })} ${one.hands}`,
  )
const day = { kind: "shift", starts: "07:00", ends: "17:30" } as const
const lunch = { kind: "break", starts: "12:00", ends: "12:30" } as const

describe("who works when", () => {
  it("is the shift less its break, with the people of the warehouse", () =>
    expect(shown(crewOn("2026-11-24", chicago, [day, lunch], 3))).toEqual(["07:00-12:00 3", "12:30-17:30 3"]))

  it("adds up shifts that overlap, each with its own people", () => {
    const early = { kind: "shift", starts: "06:00", ends: "14:00", hands: 2 } as const
    const late = { kind: "shift", starts: "11:00", ends: "19:00", hands: 3 } as const
    expect(shown(crewOn("2026-11-24", chicago, [early, late, lunch], 1))).toEqual([
      "06:00-11:00 2",
      "11:00-12:00 5",
      "12:30-14:00 5",
      "14:00-19:00 3",
    ])
    expect(shown(crewOn("2026-11-24", chicago, [early, late], 1, 4))).toEqual(["06:00-19:00 4"])
    expect(crewOn("2026-11-24", chicago, [early, late], 1, 0)).toEqual([])
  })

  it("goes over midnight: last night's end and tonight's beginning", () => {
    const night = { kind: "shift", starts: "22:00", ends: "06:00", hands: 1 } as const
    expect(shown(crewOn("2026-11-24", chicago, [night], 1))).toEqual(["22:00-06:00 1", "22:00-06:00 1"])
  })

  // IANA: Chicago's clocks go from 2:00 to 3:00 on 8 March 2026 and from 2:00 back to 1:00 on 1 November 2026
  it("has an hour less or more on the night of a clock change", () => {
    const night = { kind: "shift", starts: "22:00", ends: "06:00", hands: 2 } as const
    const length = (date: LocalDate) => {
      const tonight = crewOn(date, chicago, [night], 1).at(-1)
      return tonight ? (tonight.to.getTime() - tonight.from.getTime()) / 3_600_000 : 0
    }
    expect([length("2026-03-07"), length("2026-10-31"), length("2026-11-24")]).toEqual([7, 9, 8])
    const shift = crewOn("2026-03-08", chicago, [{ kind: "shift", starts: "00:00", ends: "08:00" }], 1)
    expect(
      workMinutes(shift, instantAt("2026-03-08", "00:00", chicago), instantAt("2026-03-08", "08:00", chicago)),
    ).toBe(420)
  })
})

describe("hand-minutes", () => {
  const at = (time: LocalTime) => instantAt("2026-11-24", time, chicago)
  const crew = [
    { from: at("07:00"), to: at("12:00"), hands: 2 },
    { from: at("12:30"), to: at("17:30"), hands: 4 },
  ]
  it("are laid back over a break by those who are there", () => {
    // 40 hand-minutes by four are 10 minutes after the break; 100 by two are 50 before it
    expect(crewBackFrom(crew, at("12:40"), 140)).toEqual(at("11:10"))
    expect(crewBackFrom(crew, at("07:30"), 100)).toEqual(at("06:40"))
    expect(crewBackFrom([], at("07:30"), 30)).toEqual(at("07:00"))
  })
  it("take the working minutes that they take", () => {
    expect(crewMinutes(crew, at("11:50"), 60)).toBe(10 + 10)
    expect(crewMinutes(crew, at("17:20"), 80)).toBe(20)
    expect(crewMinutes(crew, at("18:00"), 80)).toBe(20)
    expect(crewMinutes([], at("09:00"), 15)).toBe(15)
  })
})
