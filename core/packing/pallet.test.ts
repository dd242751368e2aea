import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { lengthIn, mass, massIn, size } from "../units/index.ts"
import { type BuiltPallet, buildPallets, goesAsFreight, type PackagingType } from "./index.ts"

/** A common pallet of 48 × 40 in: deck 6 in, 44 lb, takes 2000 lb up to 72 in high. */
const type: PackagingType = {
  code: "P48",
  name: "Pallet 48 × 40",
  kind: "pallet",
  inner: size(48, 40, 66, "in"),
  outer: size(48, 40, 6, "in"),
  tare: mass(44, "lb"),
  maxLoad: mass(2000, "lb"),
}
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
    expect(built(Array.from({ length: 3 }, (_, index) => carton(index + 1, [40, 30, 20], 900)))).toHaveLength(2)
    expect(built(Array.from({ length: 3 }, (_, index) => carton(index + 1, [48, 40, 30], 100)))).toHaveLength(2)
  })
  it("refuses a carton larger than the pallet", () => {
    expect(buildPallets(type, [carton(1, [60, 20, 20], 10)])).toMatchObject({
      ok: false,
      reasons: [{ code: "pallet.carton-too-large" }],
    })
  })
  it("has every carton once, none over the edge, none in another", () => {
    const edge = fc.integer({ min: 3, max: 40 })
    fc.assert(
      fc.property(fc.array(fc.tuple(edge, edge, edge), { minLength: 1, maxLength: 24 }), (sizes) => {
        const pallets = built(sizes.map((one, index) => carton(index + 1, one, 20)))
        expect(pallets.flatMap((one) => one.places.map((place) => place.number)).sort((a, b) => a - b)).toEqual(
          sizes.map((_, index) => index + 1),
        )
        for (const { places, outer } of pallets) {
          for (const one of places) {
            expect(one.x + one.length).toBeLessThanOrEqual(outer.length.toNumber())
            expect(one.y + one.width).toBeLessThanOrEqual(outer.width.toNumber())
            for (const other of places) {
              if (other === one) continue
              const apart =
                one.x + one.length <= other.x ||
                other.x + other.length <= one.x ||
                one.y + one.width <= other.y ||
                other.y + other.width <= one.y ||
                one.z + one.height <= other.z ||
                other.z + other.height <= one.z
              expect(apart).toBe(true)
            }
          }
        }
      }),
    )
  })
  it("is where a piece goes that no parcel takes", () => {
    expect(goesAsFreight({ freightOnly: false, unitWeight: mass(150, "lb") })).toBe(false)
    expect(goesAsFreight({ freightOnly: false, unitWeight: mass("150.1", "lb") })).toBe(true)
    expect(goesAsFreight({ freightOnly: true, unitWeight: mass(20, "lb") })).toBe(true)
  })
})
