import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { pallet48, wrongOnPallet } from "../../tests/packing/samples.ts"
import { lengthIn, mass, massIn, size } from "../units/index.ts"
import { type BuiltPallet, buildPallets, goesAsFreight } from "./index.ts"

const type = pallet48
const carton = (number: number, [l, w, h]: [number, number, number], pounds: number) => ({
  number,
  size: size(l, w, h, "in"),
  weight: mass(pounds, "lb"),
})
const built = (cartons: ReturnType<typeof carton>[]): BuiltPallet[] => {
  const answer = buildPallets(type, cartons)
  if (!answer.ok) throw new Error(answer.reasons[0]?.code)
  return answer.value
}
const inches = (one: BuiltPallet) =>
  [one.outer.length, one.outer.width, one.outer.height].map((edge) => lengthIn(edge, "in").toNumber())

describe("a pallet from cartons", () => {
  it("stands in layers: eight cartons of 24 × 20 × 15 in are two layers of four", () => {
    const [one, ...more] = built(Array.from({ length: 8 }, (_, index) => carton(index + 1, [24, 20, 15], 30)))
    expect(more).toEqual([])
    // 48 × 40 in holds 2 × 2; two layers of 15 in on a deck of 6 in; 8 × 30 + 44 lb
    expect(inches(one as BuiltPallet)).toEqual([48, 40, 36])
    expect(massIn((one as BuiltPallet).gross, "lb").toNumber()).toBeCloseTo(284, 9)
  })
  it("takes another pallet where load or height is used up", () => {
    expect(built(Array.from({ length: 3 }, (_, index) => carton(index + 1, [40, 24, 20], 900)))).toHaveLength(2)
    expect(built(Array.from({ length: 3 }, (_, index) => carton(index + 1, [48, 40, 30], 100)))).toHaveLength(2)
  })
  it("refuses a carton larger than the pallet", () => {
    expect(buildPallets(type, [carton(1, [60, 20, 20], 10)])).toMatchObject({
      ok: false,
      reasons: [{ code: "pallet.carton-too-large" }],
    })
  })
  it("has every carton once; the checker finds nothing wrong, and each layer stands on the one below", () => {
    const edge = fc.integer({ min: 3, max: 40 })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.tuple(edge, edge, edge), fc.integer({ min: 1, max: 90 })), {
          minLength: 1,
          maxLength: 24,
        }),
        (sizes) => {
          const cartons = sizes.map(([one, pounds], index) => carton(index + 1, one, pounds))
          const pallets = built(cartons)
          expect(pallets.flatMap((one) => one.places.map((place) => place.number)).sort((a, b) => a - b)).toEqual(
            sizes.map((_, index) => index + 1),
          )
          for (const { places } of pallets) {
            expect(wrongOnPallet(cartons, places)).toEqual([])
            expect(places.map((one) => one.layer)).toEqual([...places.map((one) => one.layer)].sort((a, b) => a - b))
            for (const one of places) expect(one.layer === 1).toBe(one.z === 0)
          }
        },
      ),
      { numRuns: 60 },
    )
  })
  it("is the same whatever the order of the cartons, and pounds or kilograms", () => {
    const sizes: [[number, number, number], number][] = [
      [[24, 20, 15], 30],
      [[12, 12, 12], 12],
      [[18, 14, 9], 44],
      [[16, 12, 10], 21],
      [[24, 20, 15], 35],
    ]
    const all = sizes.map(([edges, pounds], index) => carton(index + 1, edges, pounds))
    const metric = all.map((one) => ({ ...one, weight: mass(massIn(one.weight, "kg"), "kg") }))
    expect(built([...all].reverse())).toEqual(built(all))
    expect(built(metric)).toEqual(built(all))
  })
  it("sets no heavy carton on boards that do not bear it", () => {
    // McKee: 5.87 × 32 × √(2 × (12 + 12) × 0.16) = 520.6 lb, a fourth in use 130 lb: one of 100 lb is borne, two are not
    const stacked = built(
      Array.from({ length: 3 }, (_, index) => carton(index + 1, [12, 12, 20], 100)).map((one) => one),
    )
    expect(stacked).toHaveLength(1)
    const narrow = { ...type, inner: size(12, 12, 66, "in") }
    const answer = buildPallets(
      narrow,
      Array.from({ length: 3 }, (_, index) => carton(index + 1, [12, 12, 20], 100)),
    )
    expect(answer.ok && answer.value.map((one) => one.places.length)).toEqual([2, 1])
  })
  it("is exact for equal boxes: as many as stand in whole layers", () => {
    // 48 × 40 by 24 × 20: four to a layer; 66 / 16.5 = four layers: sixteen on one, seventeen on two
    const of = (count: number) =>
      built(Array.from({ length: count }, (_, index) => carton(index + 1, [24, 20, 16.5], 5)))
    expect(of(16)).toHaveLength(1)
    expect(of(17)).toHaveLength(2)
  })
  it("is where a piece goes that no parcel takes", () => {
    expect(goesAsFreight({ freightOnly: false, unitWeight: mass(150, "lb") })).toBe(false)
    expect(goesAsFreight({ freightOnly: false, unitWeight: mass("150.1", "lb") })).toBe(true)
    expect(goesAsFreight({ freightOnly: true, unitWeight: mass(20, "lb") })).toBe(true)
  })
})
