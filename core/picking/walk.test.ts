import * as fc from "fast-check"
import { describe, expect, it } from "vitest"
import { emptyPlan, type FloorPlan, floorDistances } from "../floorPlan/index.ts"
import { buildRuns, lengthOf, plainMeasure, plainOrder, type RunOrder, totesFor, walk } from "./index.ts"

const hall = (aisles: number, bins: readonly (readonly [aisle: number, y: number])[]): FloorPlan => ({
  ...emptyPlan,
  width: 100,
  depth: 40,
  places: [
    { kind: "desk", code: "DESK", name: "", x: 2, y: 0 },
    { kind: "bench", code: "BENCH", name: "", x: 10, y: 0 },
  ],
  aisles: Array.from({ length: aisles }, (_, i) => ({ code: `A${i}`, x: 2 + i * 4, from: 0, to: 30 })),
  crossAisles: [0, 15, 30].map((y, i) => ({ code: `X${i}`, y, from: 0, to: 100 })),
  bins: bins.map(([aisle, y], i) => ({ code: `b${i}`, aisle: `A${aisle}`, x: 2 + aisle * 4, y, level: 0 })),
})

/** The exact optimum by Held and Karp's dynamic programme (Journal of SIAM 10, 1962), over all subsets of the bins. */
function heldKarp(bins: readonly string[], d: (a: string, b: string) => number): number {
  const n = bins.length
  const cost = new Map<string, number>()
  for (let last = 0; last < n; last += 1) cost.set(`${1 << last},${last}`, d("DESK", bins[last] as string))
  for (let set = 1; set < 1 << n; set += 1)
    for (let last = 0; last < n; last += 1) {
      if (!(set & (1 << last)) || set === 1 << last) continue
      let best = Number.POSITIVE_INFINITY
      for (let before = 0; before < n; before += 1) {
        if (before === last || !(set & (1 << before))) continue
        best = Math.min(
          best,
          (cost.get(`${set ^ (1 << last)},${before}`) as number) + d(bins[before] as string, bins[last] as string),
        )
      }
      cost.set(`${set},${last}`, best)
    }
  const all = (1 << n) - 1
  return Math.min(...bins.map((bin, last) => (cost.get(`${all},${last}`) as number) + d(bin, "BENCH")))
}

const places = fc.array(fc.tuple(fc.nat(5), fc.integer({ min: 0, max: 30 })), { minLength: 1, maxLength: 9 })

describe("the walk", () => {
  it("goes up one aisle and down the next in the plain order", () => {
    const floor = floorDistances(
      hall(3, [
        [0, 20],
        [0, 10],
        [1, 5],
        [1, 25],
        [2, 10],
      ]),
    )
    // up A0 (10, 20), down A1 (25, 5), up A2 (10): 10 + 10 + (10 + 4 + 5) + 20 + (5 + 4 + 10) + 10 back down, bench below A2
    expect(plainOrder(["b0", "b1", "b2", "b3", "b4"], floor, "DESK", "BENCH")).toEqual(["b1", "b0", "b3", "b2", "b4"])
    expect(lengthOf(["b1", "b0", "b3", "b2", "b4"], floor, "DESK", "BENCH")).toBeCloseTo(88, 9)
  })
  it("takes the middle cross aisle where that is shorter", () => {
    // one bin just below the middle of A0, one just above the middle of A1, one at the top of A0
    const floor = floorDistances(
      hall(2, [
        [0, 14],
        [1, 16],
        [0, 29],
      ]),
    )
    const found = walk(["b0", "b1", "b2"], floor, "DESK", "BENCH")
    // plain: up A0 14, 29, over the top to A1 16, down: 14 + 15 + (1 + 4 + 14) + (16 + 4) = 68; nothing is shorter
    expect(found.plainMetres).toBeCloseTo(68, 9)
    expect(found.metres).toBeCloseTo(68, 9)
  })
  it("is never longer than the plain order, never shorter than the optimum, and visits each bin once", () => {
    let excess = 0
    let runs = 0
    fc.assert(
      fc.property(places, (bins) => {
        const floor = floorDistances(hall(6, bins))
        const names = bins.map((_, index) => `b${index}`)
        const found = walk(names, floor, "DESK", "BENCH")
        const best = heldKarp(names, floor.metres)
        expect([...found.bins].sort()).toEqual([...names].sort())
        expect(found.metres).toBeLessThanOrEqual((found.plainMetres as number) + 1e-9)
        expect(found.metres).toBeGreaterThanOrEqual(best - 1e-9)
        excess += (found.metres as number) / best - 1
        runs += 1
      }),
      { numRuns: 150 },
    )
    // a local search that did nothing would be far above: the plain order is about a fifth longer than the optimum
    expect(excess / runs).toBeLessThan(0.03)
  })
  it("has no length where a bin is not on the plan, and still an order", () => {
    const floor = floorDistances(hall(1, [[0, 5]]))
    expect(walk(["Q-9", "b0", "Q-1"], floor, "DESK", "BENCH")).toEqual({
      bins: ["b0", "Q-1", "Q-9"],
      metres: null,
      plainMetres: null,
    })
  })
  it("in plain order is measured alike the quick way", () => {
    fc.assert(
      fc.property(places, fc.array(fc.nat(8), { minLength: 1, maxLength: 8 }), (bins, chosen) => {
        const floor = floorDistances(hall(6, bins))
        const names = bins.map((_, index) => `b${index}`)
        const some = [...new Set(chosen.map((at) => names[at % names.length] as string))]
        const slow = lengthOf(plainOrder(some, floor, "DESK", "BENCH"), floor, "DESK", "BENCH")
        const measure = plainMeasure(names, floor, "DESK", "BENCH")
        expect(measure(some)).toBeCloseTo(slow, 6)
        // the same in two lists that share a bin
        expect(measure(some.slice(0, 2), some.slice(1))).toBeCloseTo(slow, 6)
      }),
      { numRuns: 200 },
    )
  })
  it("over nothing is nothing", () =>
    expect(walk([], floorDistances(hall(1, [])), "DESK", "BENCH")).toEqual({ bins: [], metres: 0, plainMetres: 0 }))
})

describe("runs", () => {
  const bins: [number, number][] = [
    [0, 10],
    [0, 12],
    [5, 28],
    [5, 30],
  ]
  const floor = floorDistances(hall(6, bins))
  const metresOf = (one: readonly string[], more: readonly string[] = []) =>
    lengthOf(plainOrder([...one, ...more], floor, "DESK", "BENCH"), floor, "DESK", "BENCH")
  const order = (id: number, ...of: string[]): RunOrder => ({ id, bins: of, litres: 10, kilograms: 5, totes: 1 })
  it("puts neighbours together when the cart takes two", () => {
    const built = buildRuns(
      [order(1, "b0"), order(2, "b2"), order(3, "b1"), order(4, "b3")],
      { totes: 2, litres: null, kilograms: null },
      metresOf,
    )
    expect(built.runs.map((run) => run.orders)).toEqual([
      [1, 3],
      [2, 4],
    ])
    // 1 and 3: up to 12 and back, bench 8 m along: 12 + 12 + 8 = 32 against 28 + 32 apart
    expect(built.runs[0]).toMatchObject({ metres: 32, apartMetres: 60 })
  })
  it("puts all of them together when the cart takes all", () =>
    expect(
      buildRuns(
        [1, 2, 3, 4].map((id) => order(id, `b${id - 1}`)),
        { totes: null, litres: null, kilograms: null },
        metresOf,
      ).runs,
    ).toHaveLength(1))
  it("leaves an order that no cart takes, and says why", () => {
    const heavy = { ...order(2, "b1"), kilograms: 900 }
    const built = buildRuns([order(1, "b0"), heavy], { totes: null, litres: null, kilograms: 400 }, metresOf)
    expect(built.left.map((one) => [one.order, one.why.code])).toEqual([[2, "run.too-heavy"]])
    expect(built.runs.map((run) => run.orders)).toEqual([[1]])
  })
  it("never loses or doubles an order, never overloads a cart, never walks further than apart", () => {
    const one = fc.record({
      at: fc.uniqueArray(fc.nat(11), { minLength: 1, maxLength: 4 }),
      litres: fc.integer({ min: 1, max: 90 }),
      totes: fc.integer({ min: 1, max: 5 }),
    })
    fc.assert(
      fc.property(fc.array(one, { minLength: 1, maxLength: 14 }), fc.integer({ min: 1, max: 8 }), (some, totes) => {
        const wide = floorDistances(
          hall(
            6,
            Array.from({ length: 12 }, (_, i) => [i % 6, (i * 7) % 31] as [number, number]),
          ),
        )
        const length = (one: readonly string[], more: readonly string[] = []) =>
          lengthOf(plainOrder([...one, ...more], wide, "DESK", "BENCH"), wide, "DESK", "BENCH")
        const orders = some.map((each, id) => ({
          id,
          bins: each.at.map((n) => `b${n}`),
          litres: each.litres,
          kilograms: 1,
          totes: each.totes,
        }))
        const built = buildRuns(orders, { totes, litres: 150, kilograms: null }, length)
        expect(
          [...built.runs.flatMap((run) => run.orders), ...built.left.map((left) => left.order)].sort((a, b) => a - b),
        ).toEqual(orders.map((each) => each.id))
        for (const run of built.runs) {
          const own = orders.filter((each) => run.orders.includes(each.id))
          expect(own.reduce((sum, each) => sum + each.totes, 0)).toBeLessThanOrEqual(totes)
          expect(own.reduce((sum, each) => sum + each.litres, 0)).toBeLessThanOrEqual(150)
          expect(run.metres).toBeLessThanOrEqual(run.apartMetres + 1e-9)
        }
      }),
      { numRuns: 100 },
    )
  })
  it.each([
    [1, 1],
    [16, 1],
    [16.1, 2],
    [40, 3],
  ])("%s litres need %s totes of 20", (litres, totes) => expect(totesFor(litres, 20)).toBe(totes))
})
