import * as fc from "fast-check"
import { describe, expect, it } from "vitest"
import { emptyPlan, type FloorPlan, floorDistances } from "../floorPlan/index.ts"
import {
  buildRuns,
  lengthOf,
  plainOrder,
  quickMeasure,
  type RunMeasure,
  type RunOrder,
  totesFor,
  walk,
  walkInParts,
} from "./index.ts"

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
  it("is the shortest in one block and in two, wherever it begins and ends: as Held and Karp have it", () => {
    const anywhere = fc.tuple(fc.integer({ min: 0, max: 24 }), fc.constantFrom(0, 7, 15, 22, 30))
    fc.assert(
      fc.property(places, fc.boolean(), anywhere, anywhere, (bins, middle, desk, bench) => {
        const base = hall(6, bins)
        const floor = floorDistances({
          ...base,
          crossAisles: base.crossAisles.filter((one) => middle || one.y !== 15),
          places: [
            { kind: "desk", code: "DESK", name: "", x: desk[0], y: desk[1] },
            { kind: "bench", code: "BENCH", name: "", x: bench[0], y: bench[1] },
          ],
        })
        const names = bins.map((_, index) => `b${index}`)
        const found = walk(names, floor, "DESK", "BENCH")
        expect(found.proof).toEqual({ is: "shortest" })
        expect([...found.bins].sort()).toEqual([...names].sort())
        expect(found.metres).toBeCloseTo(heldKarp(names, floor.metres), 6)
        expect(lengthOf(found.bins, floor, "DESK", "BENCH")).toBeCloseTo(found.metres as number, 6)
      }),
      { numRuns: 250 },
    )
  })
  it("says how far it may be from the shortest where that is not proved, and is no further", () => {
    // six cross aisles: beyond what is proved by the floor; eleven stops are proved by Held and Karp, thirteen are not
    const many = (bins: readonly (readonly [number, number])[]) => {
      const base = hall(6, bins)
      return floorDistances({
        ...base,
        crossAisles: [0, 6, 12, 18, 24, 30].map((y, i) => ({ code: `X${i}`, y, from: 0, to: 100 })),
      })
    }
    const stops = fc.array(fc.tuple(fc.nat(5), fc.integer({ min: 0, max: 30 })), { minLength: 11, maxLength: 14 })
    fc.assert(
      fc.property(stops, (bins) => {
        const floor = many(bins)
        const names = bins.map((_, index) => `b${index}`)
        const found = walk(names, floor, "DESK", "BENCH")
        const best = heldKarp(names, floor.metres)
        if (found.proof?.is === "shortest") expect(found.metres).toBeCloseTo(best, 6)
        else expect(found.metres).toBeLessThanOrEqual(best * (1 + (found.proof?.percent ?? 0) / 100) + 1e-6)
        if (names.length <= 12) expect(found.proof).toEqual({ is: "shortest" })
      }),
      { numRuns: 12 },
    )
  })
  it("takes what is asked for first, and says what that costs: never less than without the wish", () => {
    fc.assert(
      fc.property(places, fc.nat(8), (bins, at) => {
        const floor = floorDistances(hall(6, bins))
        const names = bins.map((_, index) => `b${index}`)
        const heavy = names.slice(0, 1 + (at % names.length))
        const rest = names.filter((one) => !heavy.includes(one))
        const found = walkInParts([heavy, rest], floor, "DESK", "BENCH")
        expect([...found.bins.slice(0, heavy.length)].sort()).toEqual([...heavy].sort())
        expect([...found.bins].sort()).toEqual([...names].sort())
        expect(lengthOf(found.bins, floor, "DESK", "BENCH")).toBeCloseTo(found.metres as number, 6)
        expect(found.metres).toBeGreaterThanOrEqual((walk(names, floor, "DESK", "BENCH").metres as number) - 1e-6)
      }),
      { numRuns: 60 },
    )
  })
  it("has no length where a bin is not on the plan, and still an order", () => {
    const floor = floorDistances(hall(1, [[0, 5]]))
    expect(walk(["Q-9", "b0", "Q-1"], floor, "DESK", "BENCH")).toEqual({
      bins: ["b0", "Q-1", "Q-9"],
      metres: null,
      plainMetres: null,
      proof: null,
    })
  })
  it("is measured quickly, on one block never shorter than the shortest and seldom much longer", () => {
    let over = 0
    let runs = 0
    fc.assert(
      fc.property(places, fc.array(fc.nat(8), { minLength: 1, maxLength: 8 }), (bins, chosen) => {
        const base = hall(6, bins)
        const floor = floorDistances({ ...base, crossAisles: base.crossAisles.filter((one) => one.y !== 15) })
        const names = bins.map((_, index) => `b${index}`)
        const some = [...new Set(chosen.map((at) => names[at % names.length] as string))]
        const shortest = walk(some, floor, "DESK", "BENCH").metres as number
        const quick = quickMeasure(floor, "DESK", "BENCH")
        const metres = quick.metres(quick.footprint(some))
        expect(metres).toBeGreaterThanOrEqual(shortest - 1e-6)
        // the same in two lists that share a bin
        expect(quick.metres(quick.footprint(some.slice(0, 2)), quick.footprint(some.slice(1)))).toBeCloseTo(metres, 9)
        over += metres / shortest - 1
        runs += 1
      }),
      { numRuns: 200 },
    )
    expect(over / runs).toBeLessThan(0.1)
  })
  it("over nothing is nothing", () =>
    expect(walk([], floorDistances(hall(1, [])), "DESK", "BENCH")).toEqual({
      bins: [],
      metres: 0,
      plainMetres: 0,
      proof: { is: "shortest" },
    }))
})

describe("runs", () => {
  const bins: [number, number][] = [
    [0, 10],
    [0, 12],
    [5, 28],
    [5, 30],
  ]
  const floor = floorDistances(hall(6, bins))
  const measureOf = (of: typeof floor): RunMeasure => ({
    quick: quickMeasure(of, "DESK", "BENCH"),
    real: (bins) => walk(bins, of, "DESK", "BENCH").metres as number,
  })
  const metresOf = measureOf(floor)
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
        const orders = some.map((each, id) => ({
          id,
          bins: each.at.map((n) => `b${n}`),
          litres: each.litres,
          kilograms: 1,
          totes: each.totes,
        }))
        const built = buildRuns(orders, { totes, litres: 150, kilograms: null }, measureOf(wide))
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
