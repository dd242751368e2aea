import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { kilometres, type Place } from "../address/index.ts"
import { planRound, roadFactor } from "./index.ts"

const duluth = { latitude: 46.78, longitude: -92.11 }
const place = fc.record({
  latitude: fc.double({ min: 45, max: 48, noNaN: true }),
  longitude: fc.double({ min: -94, max: -90, noNaN: true }),
})
const lengthOf = (places: readonly Place[]) =>
  [duluth, ...places, duluth].reduce(
    (sum, one, at, all) => (at === 0 ? 0 : sum + kilometres(all[at - 1] as Place, one) * roadFactor),
    0,
  )
function* permutations<T>(all: readonly T[]): Generator<T[]> {
  if (all.length < 2) yield [...all]
  for (const [at, one] of all.entries())
    if (all.length > 1) for (const rest of permutations(all.filter((_, other) => other !== at))) yield [one, ...rest]
}

describe("a delivery round", () => {
  it("is the shortest of all orders of few stops, found by trying each of them", () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 6 }), (stops) => {
        const { order, km, percent } = planRound(duluth, stops)
        const least = Math.min(...[...permutations(stops)].map(lengthOf))
        expect(percent).toBe(0)
        expect(km).toBeCloseTo(least, 6)
        expect(lengthOf(order.map((at) => stops[at] as Place))).toBeCloseTo(km, 6)
      }),
      { numRuns: 60 },
    )
  })

  it("visits each of many stops once, and no shorter one is further away than it says", () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 13, maxLength: 60 }), (stops) => {
        const { order, km, percent } = planRound(duluth, stops)
        expect([...order].sort((a, b) => a - b)).toEqual(stops.map((_, at) => at))
        expect(lengthOf(order.map((at) => stops[at] as Place))).toBeCloseTo(km, 6)
        // from stop to the nearest one that is left is an order too
        const left = new Set(stops.keys())
        const greedy: Place[] = []
        for (let at: Place = duluth; left.size > 0; ) {
          const from = at
          const next = [...left].reduce((best, one) =>
            kilometres(from, stops[one] as Place) < kilometres(from, stops[best] as Place) ? one : best,
          )
          left.delete(next)
          at = stops[next] as Place
          greedy.push(at)
        }
        expect(km).toBeLessThanOrEqual(lengthOf(greedy) * (1 + percent / 100) + 1e-6)
      }),
      { numRuns: 10 },
    )
  })

  it("goes along a line out and back, and puts places that nobody knows last", () => {
    const at = (longitude: number) => ({ latitude: 46.78, longitude })
    const { order } = planRound(duluth, [at(-92.5), null, at(-92.2), at(-92.4), null])
    expect([...order.slice(0, 3)].sort()).toEqual([0, 2, 3])
    expect(order.slice(0, 3)).toSatisfy((one: number[]) => one.join() === "2,3,0" || one.join() === "0,3,2")
    expect(order.slice(3)).toEqual([1, 4])
    expect(planRound(null, [at(-92), at(-93)])).toEqual({ order: [0, 1], km: 0, percent: 0 })
    expect(planRound(duluth, [])).toEqual({ order: [], km: 0, percent: 0 })
  })
})
