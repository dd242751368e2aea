import { Decimal } from "decimal.js"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { type Comparable, cheapestOf, fastestOf, preselect, unbeatenOf } from "./compare.ts"

const offer = (code: string, cost: string, arrives: string) => ({ code, cost: new Decimal(cost), arrives })
const ground = offer("ground", "9.00", "2026-12-01 18:00")
const slow = offer("slow", "8.50", "2026-12-03 18:00")
const noon = offer("noon", "31.00", "2026-11-25 12:00")
const morning = offer("morning", "54.00", "2026-11-25 09:00")
const all = [noon, slow, morning, ground]

/** By the words themselves: no other is at least as cheap and as early, and better in one of the two. */
const isUnbeaten = (one: Comparable, some: readonly Comparable[]): boolean =>
  !some.some(
    (other) =>
      other.cost.lte(one.cost) &&
      other.arrives <= one.arrives &&
      (other.cost.lt(one.cost) || other.arrives < one.arrives),
  )

describe("an offer is unbeaten", () => {
  it("when nothing is as cheap and as early", () => {
    // more expensive than noon and later: beaten by it
    const beaten = offer("beaten", "31.01", "2026-11-25 12:01")
    expect(unbeatenOf([...all, beaten])).toEqual(all)
  })
  it("by its twin, but not by one that costs the same and is earlier, or is there at the same time for less", () => {
    expect(unbeatenOf([noon, { ...noon, code: "twin" }])).toHaveLength(2)
    expect(unbeatenOf([noon, offer("earlier", "31.00", "2026-11-25 11:59")])).not.toContain(noon)
    expect(unbeatenOf([noon, offer("cheaper", "30.99", "2026-11-25 12:00")])).not.toContain(noon)
  })
})

describe("the offer that is proposed", () => {
  it.each([
    ["the cheapest without a promise", null, "slow"],
    ["the cheapest that is there on the day", "2026-12-01", "ground"],
    ["dearer where the day is sooner", "2026-11-30", "noon"],
    ["the fastest where none keeps the promise", "2026-11-24", "morning"],
  ])("is %s", (_, promised, expected) => expect(preselect(all, promised)?.code).toBe(expected))
  it("is the earlier of two at one price, and nothing of nothing", () => {
    expect(preselect([ground, offer("sooner", "9.00", "2026-12-01 17:00")], null)?.code).toBe("sooner")
    expect(preselect([], null)).toBeNull()
  })
})

it("the cheapest of what is in time is of all where nothing is; the fastest is the cheaper of two at one time", () => {
  expect(cheapestOf(all, (one) => one.arrives < "2026-12-02")?.code).toBe("ground")
  expect(cheapestOf(all, () => false)?.code).toBe("slow")
  expect(fastestOf([morning, offer("same", "53.99", morning.arrives)])?.code).toBe("same")
  expect([cheapestOf([], () => true), fastestOf([])]).toEqual([null, null])
})

it("what is cheapest, fastest or proposed is unbeaten, in whatever order the offers come", () => {
  const some = fc.array(
    fc.record({
      cost: fc.integer({ min: 1, max: 30 }).map((cents) => new Decimal(cents).div(100)),
      arrives: fc.integer({ min: 10, max: 28 }).map((day) => `2026-12-${day} 12:00`),
    }),
    { minLength: 1, maxLength: 12 },
  )
  fc.assert(
    fc.property(some, fc.integer({ min: 10, max: 28 }), (offers, day) => {
      const promised = `2026-12-${day}`
      const found = [cheapestOf(offers, () => true), fastestOf(offers), preselect(offers, promised)]
      for (const one of found) expect(one && isUnbeaten(one, offers)).toBe(true)
      expect(unbeatenOf(offers)).toEqual(offers.filter((one) => isUnbeaten(one, offers)))
      const told = (list: typeof offers) => {
        const one = preselect(list, promised)
        return [one?.cost.toFixed(2), one?.arrives]
      }
      expect(told([...offers].reverse())).toEqual(told(offers))
    }),
  )
})
