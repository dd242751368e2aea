import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { crewOn } from "../calendar/crew.ts"
import type { CollectionId } from "../ids/index.ts"
import { handsNeeded, planDay } from "./index.ts"

const at = (time: string) => new Date(`2026-11-24T${time}:00Z`)
const crew = (hands: number) => [
  { from: at("07:00"), to: at("12:00"), hands },
  { from: at("12:30"), to: at("17:30"), hands },
]
const order = (id: number, collectionId: CollectionId, minutes: number) => ({ id, collectionId, minutes })
const trucks = [
  { id: 1, cutOff: at("10:00") },
  { id: 2, cutOff: at("14:00") },
]

describe("the day laid backwards", () => {
  it("needs the minutes of this and all earlier trucks over the hands, has working time to the cut-off", () => {
    const [first, second] = planDay(trucks, [order(11, 1, 60), order(21, 2, 40)], at("09:00"), crew(2))
    expect(first).toMatchObject({ needs: 30, has: 60, margin: 30, startBy: at("09:30") })
    // 9:00 to 14:00 is five hours less the break; 30 + 20 minutes of work
    expect(second).toMatchObject({ needs: 50, has: 270, margin: 220, startBy: at("13:10") })
  })

  it("ends each truck's orders at its post, the first worked first, the break left out", () => {
    const [, second] = planDay(trucks, [order(21, 2, 60), order(22, 2, 60)], at("09:00"), crew(1))
    expect(second?.bars).toEqual([
      { orderId: 21, from: at("11:30"), to: at("13:00") },
      { orderId: 22, from: at("13:00"), to: at("14:00") },
    ])
  })

  it("pushes an earlier truck's work back where the later one's does not fit behind it", () => {
    const near = [
      { id: 1, cutOff: at("10:00") },
      { id: 2, cutOff: at("10:30") },
    ]
    const [first] = planDay(near, [order(11, 1, 20), order(21, 2, 50)], at("09:00"), crew(1))
    // 50 minutes before 10:30 begin at 9:40, so the first truck's work must end there
    expect(first?.bars).toEqual([{ orderId: 11, from: at("09:20"), to: at("09:40") }])
  })

  it("is short by what does not fit, and names the orders that miss", () => {
    const [first] = planDay(trucks, [order(11, 1, 30), order(12, 1, 20), order(13, 1, 25)], at("09:15"), crew(1))
    expect(first).toMatchObject({ needs: 75, has: 45, margin: -30, willMiss: [12, 13] })
    expect(first?.bars[0]?.from).toEqual(at("08:45"))
  })

  it("has no work and no bars on an empty day", () => {
    expect(
      planDay(trucks, [], at("09:00"), crew(1)).map((one) => [one.needs, one.bars.length, one.willMiss.length]),
    ).toEqual([
      [0, 0, 0],
      [0, 0, 0],
    ])
  })

  it("misses an order exactly when the margin at its place is negative", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 40 }),
        fc.integer({ min: 1, max: 4 }),
        (minutes, hands) => {
          const [first] = planDay(
            [trucks[0] as (typeof trucks)[0]],
            minutes.map((one, id) => order(id, 1, one)),
            at("09:00"),
            crew(hands),
          )
          expect((first?.willMiss.length ?? 0) > 0).toBe((first?.margin ?? 0) < -1e-9)
          const bars = first?.bars ?? []
          expect(bars.at(-1)?.to).toEqual(at("10:00"))
          bars.slice(1).forEach((bar, index) => expect(bar.from).toEqual(bars[index]?.to))
        },
      ),
    )
  })

  it("lays every order back once, over breaks and shifts, none over another, each as wide as its work", () => {
    // two shifts that overlap, a break for all; hand-minutes between two instants are counted minute by minute
    const people = crewOn(
      "2026-11-24",
      "UTC",
      [
        { kind: "shift", starts: "06:00", ends: "14:00", hands: 2 },
        { kind: "shift", starts: "11:00", ends: "18:00", hands: 3 },
        { kind: "break", starts: "12:00", ends: "12:30" },
      ],
      1,
    )
    const handMinutes = (from: Date, to: Date) =>
      people.reduce((sum, span) => {
        const [a, b] = [Math.max(span.from.getTime(), from.getTime()), Math.min(span.to.getTime(), to.getTime())]
        return sum + Math.max(0, b - a) * span.hands
      }, 0) / 60_000
    const three = [
      { id: 1, cutOff: at("10:00") },
      { id: 2, cutOff: at("13:15") },
      { id: 3, cutOff: at("17:00") },
    ]
    const work = fc.record({ collection: fc.integer({ min: 1, max: 3 }), minutes: fc.integer({ min: 1, max: 45 }) })
    fc.assert(
      fc.property(fc.array(work, { minLength: 1, maxLength: 25 }), (drawn) => {
        const columns = planDay(
          three,
          drawn.map((one, id) => order(id, one.collection, one.minutes)),
          at("06:00"),
          people,
        )
        const bars = columns.flatMap((column) => column.bars)
        expect(bars.map((bar) => bar.orderId).sort((a, b) => a - b)).toEqual(drawn.map((_, id) => id))
        const inTime = [...bars].sort((a, b) => a.from.getTime() - b.from.getTime())
        inTime.slice(1).forEach((bar, index) => {
          expect(bar.from.getTime()).toBeGreaterThanOrEqual((inTime[index]?.to.getTime() ?? 0) - 1)
        })
        for (const bar of bars.filter((one) => one.from >= at("06:00")))
          expect(handMinutes(bar.from, bar.to)).toBeCloseTo(drawn[bar.orderId]?.minutes ?? 0, 3)
        for (const [index, column] of columns.entries())
          for (const bar of column.bars) expect(bar.to <= (three[index]?.cutOff as Date)).toBe(true)
      }),
    )
  })

  it("takes more people from the hour at which they come", () => {
    // one person from 7:00, a second from 9:30: 60 hand-minutes from 9:00 on are 30 alone and 15 by two
    const two = [
      { from: at("07:00"), to: at("09:30"), hands: 1 },
      { from: at("09:30"), to: at("17:30"), hands: 2 },
    ]
    const [first] = planDay(trucks, [order(11, 1, 60)], at("09:00"), two)
    expect(first).toMatchObject({ needs: 45, has: 60, margin: 15 })
    // laid back from 10:00: 30 minutes by two end the work, nothing is left for the one before
    expect(first?.bars).toEqual([{ orderId: 11, from: at("09:30"), to: at("10:00") }])
  })

  it("says how many hands more would do, or that none would", () => {
    const work = [order(11, 1, 90), order(12, 1, 90)]
    // 180 hand-minutes in 60 minutes: three people
    const plan = (of: ReturnType<typeof crew>) => planDay(trucks, work, at("09:00"), of)
    expect(handsNeeded(1, (of) => plan([...of]), crew(1))).toBe(2)
    expect(handsNeeded(1, (of) => plan([...of]), crew(1), 1)).toBeNull()
  })
})
