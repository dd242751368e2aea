import fc from "fast-check"
import { describe, expect, it } from "vitest"
import {
  type Clock,
  chanceLate,
  type EventKind,
  eventKindNames,
  type Followed,
  follow,
  needsOf,
  type TrackingEvent,
} from "./index.ts"

const start = Date.parse("2026-11-24T16:00:00Z")
const event = (kind: EventKind | null, hours: number, more: Partial<TrackingEvent> = {}): TrackingEvent => ({
  key: `${kind} ${hours}`,
  kind,
  at: new Date(start + hours * 3_600_000),
  place: "",
  estimatedOn: null,
  name: "",
  from: "carrier",
  ...more,
})

describe("what was told of a package", () => {
  it("says where it stands, since when, and who took it", () => {
    const told = [
      event("announced", 0),
      event("accepted", 2, { place: "Duluth, MN" }),
      event("departed", 5, { place: "Duluth, MN" }),
      event("arrived", 30, { place: "Omaha, NE", estimatedOn: "2026-11-27" }),
      event("out-for-delivery", 64, { place: "Omaha, NE" }),
    ]
    expect(follow([])).toMatchObject({ state: "announced", since: null, seenAt: null, delivered: null, troubles: [] })
    expect(follow(told)).toMatchObject({
      state: "out-for-delivery",
      since: told[4]?.at,
      place: "Omaha, NE",
      estimatedOn: "2026-11-27",
    })
    const done = follow([...told, event("delivered", 66, { name: "I. Brook" })])
    expect(done).toMatchObject({ state: "delivered", delivered: { name: "I. Brook" } })
    // departed and arrived are both on the way: it stands so since the first
    expect(follow(told.slice(0, 4)).since).toEqual(told[2]?.at)
  })

  it("is not changed by what is stamped after the delivery, but by a return", () => {
    const told = [event("accepted", 1), event("delivered", 40, { name: "Ida" }), event("arrived", 41)]
    expect(follow(told)).toMatchObject({ state: "delivered", delivered: { name: "Ida" } })
    const back = follow([...told, event("returning", 60)])
    expect(back).toMatchObject({ state: "returning", delivered: null, troubles: [{ kind: "returning" }] })
    expect(follow([...told, event("returning", 60), event("delivered", 80)]).troubles).toEqual([])
  })

  it("stays where our own scanner saw it, whatever a carrier books later", () => {
    const back = [event("accepted", 1), event("returning", 40), event("returned", 60, { from: "own" })]
    for (const kind of ["returning", "in-customs", "delivered", "returned", "arrived"] as const)
      expect(follow([...back, event(kind, 61)])).toMatchObject({ state: "returned", since: event(null, 60).at })
    expect(follow([...back, event("damaged", 61)])).toMatchObject({
      state: "returned",
      troubles: [{ kind: "damaged" }],
    })
    // it goes out once more with our own vehicle; and a person who knows better is believed
    const again = [...back, event("out-for-delivery", 62, { from: "own" })]
    expect(follow(again).state).toBe("out-for-delivery")
    expect(follow([...again, event("delivered", 64, { from: "own", name: "Ida" })]).delivered?.name).toBe("Ida")
    expect(follow([...back, event("delivered", 62, { from: "typed" })]).state).toBe("delivered")
    // a carrier's own word can be taken back by him
    const his = [event("accepted", 1), event("returned", 60), event("delivered", 61, { name: "Ida" })]
    expect(follow(his)).toMatchObject({ state: "delivered", delivered: { name: "Ida" } })
  })

  it("keeps a trouble until an event ends it, and begins it anew after", () => {
    const hold = [event("accepted", 1), event("customs-hold", 20)]
    expect(follow(hold).troubles.map((one) => one.kind)).toEqual(["customs"])
    expect(follow([...hold, event("note", 21), event("delayed", 22)]).troubles).toHaveLength(1)
    expect(follow([...hold, event("customs-cleared", 30)])).toMatchObject({ state: "in-transit", troubles: [] })
    const again = follow([...hold, event("customs-cleared", 30), event("customs-hold", 33)])
    expect(again.troubles).toEqual([{ kind: "customs", since: event(null, 33).at, key: "customs-hold 33" }])
    // what is broken stays broken, also when it is delivered
    expect(follow([event("damaged", 5), event("delivered", 9)]).troubles.map((one) => one.kind)).toEqual(["damaged"])
  })

  it("takes no meaning from a code that nobody knows", () => {
    expect(follow([event("accepted", 1), event(null, 90)])).toEqual(follow([event("accepted", 1)]))
  })

  it("is the same in whatever order and however often it comes", () => {
    const one = fc.record({
      kind: fc.constantFrom(null, ...eventKindNames),
      hours: fc.integer({ min: 0, max: 12 }),
      place: fc.constantFrom("", "Omaha, NE", "Fargo, ND"),
      from: fc.constantFrom("carrier", "typed", "own"),
    })
    fc.assert(
      fc.property(fc.array(one, { maxLength: 12 }), fc.infiniteStream(fc.nat()), (told, shuffle) => {
        const events = told.map(({ kind, hours, ...more }, index) => event(kind, hours, { key: `${index}`, ...more }))
        const doubled = [...events, ...events.filter((_, index) => index % 3 === 0)]
        const mixed = doubled
          .map((item) => ({ item, by: shuffle.next().value as number }))
          .sort((a, b) => a.by - b.by)
          .map(({ item }) => item)
        expect(follow(mixed)).toEqual(follow(events))
      }),
    )
  })
})

describe("the chance to be late", () => {
  // 20 packages: 10 took 2 days, 6 took 3, 3 took 4, 1 took 6
  const took = [
    { days: 2, packages: 10 },
    { days: 3, packages: 6 },
    { days: 4, packages: 3 },
    { days: 6, packages: 1 },
  ]
  it("is the part of those that took as long which took too long", () => {
    // of all 20, four took longer than three days
    expect(chanceLate(took, { over: 0, until: 3 })).toBeCloseTo(4 / 20, 10)
    // two days over and not there by the third: of the ten that took three or more, four took longer
    expect(chanceLate(took, { over: 3, until: 3 })).toBeCloseTo(4 / 10, 10)
    expect(chanceLate(took, { over: 5, until: 5 })).toBe(1)
  })
  it("is not known from few, nor where none took so long", () => {
    expect(chanceLate(took.slice(1), { over: 0, until: 3 })).toBeNull()
    expect(chanceLate(took, { over: 7, until: 9 })).toBeNull()
  })
})

describe("what a person has to see to", () => {
  const at = {
    now: new Date("2026-11-30T16:00:00Z"),
    today: "2026-11-30" as const,
    leftAt: new Date("2026-11-24T22:00:00Z"),
    dueOn: "2026-12-02" as const,
    chance: null,
    businessDaysSince: (from: Date) => Math.floor((Date.parse("2026-11-30T16:00:00Z") - from.getTime()) / 86_400_000),
  }
  const standing = (more: Partial<Followed>): Followed => ({
    ...follow([]),
    state: "in-transit",
    since: new Date("2026-11-29T16:00:00Z"),
    seenAt: new Date("2026-11-29T16:00:00Z"),
    ...more,
  })
  const kinds = (followed: Followed, more: Partial<Clock> = {}) =>
    needsOf(followed, { ...at, ...more }).map((one) => one.kind)

  it("is nothing while it is seen and in time", () => {
    expect(kinds(standing({}))).toEqual([])
    expect(kinds(standing({ state: "delivered" }), { today: "2026-12-09" })).toEqual([])
    expect(kinds(standing({ seenAt: null }), { leftAt: null })).toEqual([])
  })
  it("is being late: by the calendar, by the carrier, or by what others took", () => {
    expect(needsOf(standing({}), { ...at, today: "2026-12-03" })).toEqual([
      { kind: "late", key: "2026-12-02", figures: { due: "2026-12-02" } },
    ])
    expect(needsOf(standing({ estimatedOn: "2026-12-04" }), { ...at, today: "2026-12-03" })[0]?.figures).toEqual({
      due: "2026-12-02",
      estimated: "2026-12-04",
    })
    expect(kinds(standing({}), { today: "2026-12-02" })).toEqual([])
    expect(kinds(standing({ estimatedOn: "2026-12-03" }))).toEqual(["late"])
    expect(kinds(standing({ estimatedOn: "2026-12-02" }))).toEqual([])
    expect(kinds(standing({}), { chance: 0.5 })).toEqual(["likely-late"])
    expect(kinds(standing({}), { chance: 0.49 })).toEqual([])
  })
  it("is silence, told apart from never having been seen and from waiting at a counter", () => {
    expect(kinds(standing({ seenAt: new Date("2026-11-27T15:00:00Z") }))).toEqual(["no-movement"])
    expect(kinds(standing({ seenAt: new Date("2026-11-28T16:00:00Z") }))).toEqual([])
    expect(kinds(standing({ state: "announced", seenAt: null }))).toEqual(["not-seen"])
    expect(kinds(standing({ state: "ready", since: new Date("2026-11-24T16:00:00Z") }))).toEqual(["not-fetched"])
    expect(kinds(standing({ state: "held", seenAt: new Date("2026-11-24T16:00:00Z") }))).toEqual([])
  })
})
