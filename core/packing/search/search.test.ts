import fc from "fast-check"
import highs from "highs"
import { beforeAll, describe, expect, it } from "vitest"
import { box, load } from "../../../tests/packing/samples.ts"
import { parcelService, requestOf, tariffOf } from "../../../tests/tariffSamples.ts"
import { laneOf } from "../../rating/index.ts"
import {
  checkPacked,
  type PackLoad,
  Suggesting,
  type SuggestionInput,
  suggestPacking,
  type UsableBox,
} from "../index.ts"
import { problemOf } from "./problem.ts"
import { PackingSearch, type Pricer } from "./search.ts"

/** Slices that fill the base of every box: what goes into one is then a matter of their heights alone. */
const slices = (heights: readonly number[], weights: readonly number[]): PackLoad[] =>
  heights.map((height, at) => load(`s${at}`, [100, 100, height], { upright: true, weight: weights[at] ?? 1 }))
const tubes = (heights: readonly number[], maxLoads: readonly number[]): UsableBox[] =>
  heights.map((height, at) => box(`B${at}`, [100, 100, height], { maxLoad: maxLoads[at] ?? 1_000 }))

/** The least cost of all ways to share slices out to boxes: every partition, every box for each part. */
function enumerated(
  heights: readonly number[],
  weights: readonly number[],
  boxes: readonly UsableBox[],
  price: (box: UsableBox, kilograms: number) => number,
): number {
  const partOf = (set: number): number => {
    let [height, kilograms] = [0, 0]
    for (let at = 0; at < heights.length; at += 1)
      if (set & (1 << at)) {
        height += heights[at] as number
        kilograms += weights[at] as number
      }
    return boxes.reduce(
      (least, one) =>
        height <= one.height && kilograms <= one.maxLoad ? Math.min(least, price(one, kilograms)) : least,
      Number.POSITIVE_INFINITY,
    )
  }
  const all = (1 << heights.length) - 1
  const best = new Map<number, number>([[0, 0]])
  const least = (set: number): number => {
    const known = best.get(set)
    if (known !== undefined) return known
    const first = set & -set
    let found = Number.POSITIVE_INFINITY
    // every part that holds the first piece
    for (let part = set; part > 0; part = (part - 1) & set)
      if (part & first) found = Math.min(found, partOf(part) + least(set ^ part))
    best.set(set, found)
    return found
  }
  return least(all)
}

/** A price with steps and a surcharge for heavy ones, as carriers have it. */
const priceOf = ({ outer }: Pick<UsableBox, "outer">, kilograms: number): number => {
  const billed = Math.max(Math.ceil(kilograms), Math.ceil((outer.length * outer.width * outer.height) / 5e6))
  return 6 + 0.9 * billed + (kilograms > 12 ? 9.5 : 0) + (outer.height > 350 ? 4 : 0)
}
const pricer: Pricer = (packages) => packages.reduce((sum, one) => sum + priceOf(one, one.kilograms), 0)

const searched = (loads: readonly PackLoad[], boxes: readonly UsableBox[], price: Pricer = pricer) => {
  const search = new PackingSearch(problemOf(loads, boxes), { price, handling: 0, fixed: [], aim: "price" }, 1)
  search.construct()
  search.improve(600)
  return search.best
}

const instance = fc.record({
  heights: fc.array(fc.integer({ min: 20, max: 200 }), { minLength: 1, maxLength: 7 }),
  weights: fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 7, maxLength: 7 }),
})

describe("the least cost", () => {
  const boxes = tubes([200, 320, 450], [15, 22, 40])
  it("is found of all ways to share up to seven pieces out to three boxes", () => {
    fc.assert(
      fc.property(instance, ({ heights, weights }) => {
        const best = searched(slices(heights, weights), boxes)
        expect(best?.cost).toBeCloseTo(enumerated(heights, weights, boxes, priceOf), 6)
      }),
      { numRuns: 60 },
    )
  })

  let solver: Awaited<ReturnType<typeof highs>>
  beforeAll(async () => {
    solver = await highs()
  })
  it("is that of an integer program, where boxes have a price each", () => {
    const cost = [3, 4.2, 5.1]
    fc.assert(
      fc.property(instance, ({ heights }) => {
        // x: piece in box of a kind, y: box used; as many boxes of each kind as pieces
        const n = heights.length
        const used = [0, 1, 2].flatMap((kind) => heights.map((_, at) => [kind, at] as const))
        const lines = [
          "Minimize",
          ` cost: ${used.map(([kind, at]) => `${cost[kind]} y${kind}_${at}`).join(" + ")}`,
          "Subject To",
          ...heights.map((_, piece) => ` p${piece}: ${used.map(([k, at]) => `x${piece}_${k}_${at}`).join(" + ")} = 1`),
          ...used.map(
            ([k, at]) =>
              ` b${k}_${at}: ${heights.map((height, piece) => `${height} x${piece}_${k}_${at}`).join(" + ")} - ${boxes[k]?.height} y${k}_${at} <= 0`,
          ),
          "Binary",
          ...used.map(([k, at]) => ` y${k}_${at}`),
          ...used.flatMap(([k, at]) => heights.map((_, piece) => ` x${piece}_${k}_${at}`)),
          "End",
        ]
        const solved = solver.solve(lines.join("\n"))
        const price: Pricer = (packages) =>
          packages.reduce((sum, one) => sum + (cost[Number(one.code?.slice(1))] as number), 0)
        const plain = tubes([200, 320, 450], [])
        const best = searched(
          slices(
            heights,
            Array.from({ length: n }, () => 1),
          ),
          plain,
          price,
        )
        expect(best?.cost).toBeCloseTo(solved.ObjectiveValue, 6)
      }),
      { numRuns: 6 },
    )
  }, 60_000)

  it("never grows when a piece is taken away", () => {
    fc.assert(
      fc.property(instance, ({ heights, weights }) => {
        fc.pre(heights.length > 1)
        const whole = searched(slices(heights, weights), boxes)?.cost ?? 0
        const fewer = searched(slices(heights.slice(1), weights.slice(1)), boxes)?.cost ?? 0
        expect(fewer).toBeLessThanOrEqual(whole + 1e-9)
      }),
      { numRuns: 30 },
    )
  })
})

describe("a box that was cut into pieces", () => {
  it("holds them again", () => {
    // guillotine cuts: each takes one piece apart along an axis
    const cuts = fc.array(fc.tuple(fc.nat(6), fc.nat(2), fc.integer({ min: 30, max: 70 })), {
      minLength: 1,
      maxLength: 4,
    })
    fc.assert(
      fc.property(cuts, (all) => {
        const pieces: [number, number, number][] = [[400, 300, 200]]
        for (const [which, axis, percent] of all) {
          const at = which % pieces.length
          const one = pieces[at] as [number, number, number]
          const [a, b] = [[...one], [...one]] as [[number, number, number], [number, number, number]]
          a[axis] = Math.round(((one[axis] as number) * percent) / 100)
          b[axis] = (one[axis] as number) - (a[axis] as number)
          pieces.splice(at, 1, a, b)
        }
        const whole = box("C", [400, 300, 200])
        const loads = pieces.map((edges, at) => load(`p${at}`, edges))
        const found = suggestPacking({ loads, boxes: [whole] })
        if (!found.ok) throw new Error("refused")
        expect(found.value.boxes).toHaveLength(1)
        const [only] = found.value.boxes
        expect(checkPacked(whole, new Map(loads.map((one) => [one.key, one])), only?.placed ?? [])).toEqual([])
      }),
      // this one needs many more tries than most
      {
        numRuns: 60,
        examples: [
          [
            [
              [0, 1, 34],
              [3, 0, 52],
              [0, 0, 30],
              [6, 0, 48],
            ],
          ],
        ],
      },
    )
  })
})

describe("a suggestion by the price of a way", () => {
  const { tariff, service } = tariffOf(parcelService, { surcharges: [], fuel: null, discounts: [], leastNet: "0" })
  const { packages: _, ...request } = requestOf([])
  const lane = laneOf(tariff, service, request)
  if (!lane) throw new Error("no lane")
  const lanes = [{ lane, carrier: "TEST", service: "GRD", name: "Ground" }]
  const inch = 25.4
  const pound = 0.45359237
  const boxes = [box("S", [10 * inch, 10 * inch, 8 * inch]), box("L", [12 * inch, 12 * inch, 12 * inch])]
  const goods = (pounds: number, quantity: number): PackLoad[] => [
    load("a", [5 * inch, 10 * inch, 8 * inch], { weight: pounds * pound, quantity }),
  ]
  const costOf = (input: SuggestionInput) => {
    const found = suggestPacking(input, lanes)
    if (!found.ok) throw new Error("refused")
    return { total: found.value.cost?.total, codes: found.value.boxes.map((one) => one.code) }
  }
  // the sample tariff in zone 5: 10 lb 19.95, 29 lb 38.05, 150 lb 140.00; S bills 800 in³ / 139 = 6 lb, L 13 lb
  it("is one box where that costs less than two", () =>
    expect(costOf({ loads: goods(9, 2), boxes })).toEqual({ total: 38.05, codes: ["S"] }))
  it("is two where one would go over a step: 30 lb 140.00, twice 15 lb 76.10", () =>
    expect(costOf({ loads: goods(15, 2), boxes })).toEqual({ total: 76.1, codes: ["S", "S"] }))
  it("counts handling and the boxes, and what is fixed", () => {
    // 2 × (15 lb 38.05 + 2.00 + 0.50) = 81.10
    const priced = boxes.map((one) => ({ ...one, cost: 0.5 }))
    expect(costOf({ loads: goods(15, 2), boxes: priced, handling: 2 }).total).toBeCloseTo(81.1, 9)
    const fixed = [{ code: null, outer: { length: 100, width: 100, height: 100 }, kilograms: 9 * pound }]
    // and a fixed package of 9 lb: 19.95 + 2.00
    expect(costOf({ loads: goods(15, 2), boxes: priced, handling: 2, fixed }).total).toBeCloseTo(103.05, 9)
  })
  it("uses a carrier's own box with that carrier only", () => {
    const own = box("CB", [10 * inch, 10 * inch, 8 * inch], { carrier: "OTHER" })
    expect(costOf({ loads: goods(9, 1), boxes: [...boxes, own] }).codes).toEqual(["S"])
    expect(costOf({ loads: goods(9, 1), boxes: [{ ...own, carrier: "TEST" }] }).codes).toEqual(["CB"])
  })
  it("counts what is declared and dry ice by package", () => {
    const { tariff: dear, service: own } = tariffOf(parcelService, {
      fuel: null,
      discounts: [],
      leastNet: "0",
      options: [{ option: "dry-ice" }],
      surcharges: [
        { code: "ice", amount: { basis: "dry-ice", figure: "1.50" }, when: { fact: "option", option: "dry-ice" } },
        { code: "cover", amount: { basis: "value", figure: "2.00" }, when: { not: { fact: "residential" } } },
      ],
    })
    const way = laneOf(dear, own, { ...request, options: new Set(["dry-ice"]) })
    if (!way) throw new Error("no lane")
    const found = suggestPacking({ loads: goods(9, 2).map((one) => ({ ...one, declared: 80 })), boxes, dryIce: 2 }, [
      { lane: way, carrier: "TEST", service: "GRD", name: "Ground" },
    ])
    // one box: 38.05, 160 declared is one started 100 over 100: 2.00, two kilograms: 3.00
    // two boxes: 39.90, 80 each are within 100, twice two kilograms: 6.00
    expect(found.ok && found.value.cost?.total).toBe(43.05)
  })
  it("leaves room for filling: half of a box takes one of two", () =>
    expect(costOf({ loads: goods(2, 2), boxes: boxes.slice(0, 1), fill: 0.5 }).codes).toEqual(["S", "S"]))
  it("keeps a line together where it can, whatever that costs", () => {
    const line = (key: string) =>
      load(key, [5 * inch, 10 * inch, 8 * inch], { weight: 12 * pound, together: key, quantity: 2 })
    const codes = (loads: PackLoad[]) => {
      const found = suggestPacking({ loads, boxes }, lanes)
      return found.ok ? found.value.boxes.map((one) => [...new Set(one.placed.map((place) => place.key))].join()) : []
    }
    // 24 lb in one box 38.05, as two of 12 lb 76.10: each line in its own box, none in two
    expect(codes([line("a"), line("b")]).sort()).toEqual(["a", "b"])
  })
  it("never costs more after more rounds", () => {
    const some = fc.array(
      fc.record({
        edges: fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: 2, max: 9 }))) as fc.Arbitrary<
          [number, number, number]
        >,
        pounds: fc.integer({ min: 1, max: 14 }),
        quantity: fc.integer({ min: 1, max: 5 }),
      }),
      { minLength: 1, maxLength: 6 },
    )
    fc.assert(
      fc.property(some, (list) => {
        const loads = list.map(({ edges, pounds, quantity }, at) =>
          load(`p${at}`, edges.map((one) => one * inch) as [number, number, number], {
            weight: pounds * pound,
            quantity,
          }),
        )
        const suggesting = new Suggesting({ loads, boxes }, lanes)
        let before = suggesting.answer.cost?.total ?? Number.POSITIVE_INFINITY
        while (!suggesting.done) {
          suggesting.more()
          const now = suggesting.answer.cost?.total ?? Number.POSITIVE_INFINITY
          expect(now).toBeLessThanOrEqual(before + 1e-9)
          before = now
        }
      }),
      { numRuns: 25 },
    )
  })
  it("is the same for lines and edges in another order, and for centimeters or inches", () => {
    const some = fc.array(
      fc.record({
        edges: fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: 4, max: 18 }))) as fc.Arbitrary<
          [number, number, number]
        >,
        pounds: fc.integer({ min: 1, max: 14 }),
        quantity: fc.integer({ min: 1, max: 4 }),
      }),
      { minLength: 1, maxLength: 5 },
    )
    fc.assert(
      fc.property(some, (list) => {
        const halfInches = (edges: [number, number, number], way: 0 | 1) =>
          // 12.7 mm is half an inch; written as 1.27 cm it comes with another rounding of the double
          edges.map((one) => (way === 0 ? (one / 2) * 25.4 : one * 1.27 * 10)) as [number, number, number]
        const of = (turned: boolean) => {
          const loads = list.map(({ edges, pounds, quantity }, at) => {
            const [a, b, c] = halfInches(edges, turned ? 1 : 0)
            return load(`p${at}`, turned ? [c, a, b] : [a, b, c], { weight: pounds * pound, quantity, sku: `p${at}` })
          })
          return costOf({ loads: turned ? loads.reverse() : loads, boxes: turned ? [...boxes].reverse() : boxes })
        }
        expect(of(true)).toEqual(of(false))
      }),
      { numRuns: 40 },
    )
  })
})

describe("bad input is refused in words, and nothing hangs", () => {
  const good = box("S", [100, 100, 100])
  it.each<[string, Partial<SuggestionInput>]>([
    ["a box without an edge", { boxes: [{ ...good, length: 0 }] }],
    ["a box with an endless edge", { boxes: [{ ...good, width: Number.POSITIVE_INFINITY }] }],
    ["a load limit that is no number", { loads: [load("a", [9, 9, 9], { loadLimit: Number.NaN })] }],
    ["an edge of a million", { loads: [load("a", [1e6, 9, 9])] }],
    ["a negative weight", { loads: [load("a", [9, 9, 9], { weight: -1 })] }],
    ["a price that is none", { boxes: [{ ...good, cost: Number.NaN }] }],
    ["room for nothing but filling", { fill: 1 }],
    ["handling that costs less than nothing", { handling: -1 }],
  ])("%s", (_, change) => {
    const found = suggestPacking({ loads: [load("a", [9, 9, 9])], boxes: [good], ...change })
    expect(found.ok).toBe(false)
  })
  it("without a way, or with none that takes it, goods are packed all the same", () => {
    const found = suggestPacking({ loads: [load("a", [90, 90, 90], { quantity: 3 })], boxes: [good], ways: [] })
    expect(found.ok && found.value.boxes).toHaveLength(3)
    expect(found.ok && found.value.cost).toBeNull()
  })
  it("keeps to its budget of looks, within a tenth", () => {
    const loads = Array.from({ length: 30 }, (_, at) => load(`p${at}`, [40 + at, 30 + (at % 7), 20], { quantity: 8 }))
    const search = new PackingSearch(
      problemOf(loads, [box("L", [300, 300, 300]), box("M", [200, 200, 200])]),
      { price: null, handling: 0, fixed: [], aim: "price" },
      1,
    )
    search.construct()
    const before = search.looks
    search.improve(100_000, 200_000)
    expect(search.looks - before).toBeLessThan(220_000)
  })
})
