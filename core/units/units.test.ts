import convert from "convert"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import {
  girth,
  length,
  lengthIn,
  mass,
  massIn,
  roundToStep,
  showMass,
  showSize,
  size,
  sumMass,
  volumeIn,
} from "./index.ts"

// NIST Handbook 44, Appendix C; international yard and pound agreement, 1959: all exact
describe("factors", () => {
  it.each([
    [mass(1, "lb").toString(), "0.45359237"],
    [mass(1, "oz").mul(1000).toString(), "28.349523125"],
    [length(1, "in").toString(), "25.4"],
    [massIn(mass(16, "oz"), "lb").toString(), "1"],
    // 1 ft³ = 1728 in³ = 0.028316846592 m³
    [volumeIn(size(12, 12, 12, "in"), "in").toString(), "1728"],
    [
      volumeIn(size(12, 12, 12, "in"), "mm")
        .div(1e9)
        .toString(),
      "0.028316846592",
    ],
  ])("%s is %s", (got, expected) => expect(got).toBe(expected))

  it("agree with an independent library (package convert)", () => {
    expect(massIn(mass(7, "lb"), "kg").toNumber()).toBeCloseTo(convert(7, "lb").to("kg"), 12)
    expect(lengthIn(length(33, "cm"), "in").toNumber()).toBeCloseTo(convert(33, "cm").to("in"), 12)
  })

  it("come back exactly", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 5_000_000 }), (hundredths) => {
        expect(massIn(mass(hundredths, "lb").div(100) as ReturnType<typeof mass>, "lb").toNumber()).toBe(
          hundredths / 100,
        )
      }),
    )
  })
})

describe("rounding", () => {
  // common practice of parcel carriers, no published source
  it("12 lb 7 oz bills 13 lb", () => {
    const weight = sumMass([mass(12, "lb"), mass(7, "oz")])
    expect(roundToStep(massIn(weight, "lb"), "1", "up").toString()).toBe("13")
  })
  it("19 1/2 × 14 1/16 × 12 3/8 in becomes 20 × 15 × 13 in", () => {
    expect(["19.5", "14.0625", "12.375"].map((edge) => roundToStep(edge, "1", "up").toString())).toEqual([
      "20",
      "15",
      "13",
    ])
  })
  it("leaves what is already on a step, to the last digit", () => {
    expect(roundToStep(massIn(mass(13, "lb"), "lb"), "1", "up").toString()).toBe("13")
    expect(roundToStep("12.5", "0.5", "up").toString()).toBe("12.5")
  })
  it("to the nearest sends halves up", () => expect(roundToStep("14.5", "1", "nearest").toString()).toBe("15"))
})

it("girth is twice the two shorter edges, whichever way the box lies", () => {
  // 2 × (10 + 8) = 36
  for (const box of [size(20, 10, 8, "in"), size(8, 20, 10, "in")])
    expect(lengthIn(girth(box), "in").toString()).toBe("36")
})

it("shows one decimal of pounds, two of kilograms", () => {
  expect(showMass(mass("12.449", "lb"), "lb")).toBe("12.4 lb")
  expect(showMass(mass("12.449", "lb"), "kg")).toBe("5.65 kg")
  expect(showSize(size("12.4", "12.4", "12.8", "in"), "in")).toBe("12.4 × 12.4 × 12.8 in")
})

it("refuses what is no measure", () => {
  expect(() => mass(-1, "lb")).toThrow(/-1/)
  expect(() => length(Number.NaN, "in")).toThrow()
})
