import { describe, expect, it } from "vitest"
import { hamburg, lines, parcelService, rated, refusals, small, tariffOf, whyOf } from "../../tests/tariffSamples.ts"
import { mass, size } from "../units/index.ts"

const abroad = {
  chart: "abroad",
  zones: ["E"],
  lengthUnit: "cm" as const,
  weighing: { unit: "kg" as const, steps: [{ upTo: null, step: "0.5" }] },
  limits: {},
  discounts: [],
  leastNet: "0",
  surcharges: [],
  fuel: null,
  reach: { ...parcelService.reach, countries: ["DE"] },
  transit: { count: "business" as const, days: { E: 4 }, by: "17:00" },
}
const box = (kilograms: string, ...edges: [number, number, number]) => ({
  ...small,
  weight: mass(kilograms, "kg"),
  size: size(...edges, "cm"),
})
const to = { shipTo: hamburg }

describe("air freight", () => {
  const air = tariffOf(parcelService, {
    ...abroad,
    mode: "air",
    dimensional: { step: "1", rounding: "up", divisor: "6000" },
    price: {
      by: "unit",
      minimum: { E: "100.00" },
      breaks: ["0", "45", "100"],
      rates: { E: ["5.00", "4.00", "3.00"] },
      asWeight: true,
    },
  })
  const weight = (...boxes: ReturnType<typeof box>[]) => rated(air, boxes, to).paid[0]?.weight.toString()
  it("is chargeable by 6000 cm³ a kilogram, to the next half kilogram", () => {
    // IATA, from memory: 300 000 / 6000 = 50.0 kg; 101 × 60 × 50 = 303 000 / 6000 = 50.5 kg
    expect(weight(box("20", 100, 60, 50))).toBe("50")
    expect(weight(box("20", 101, 60, 50))).toBe("50.5")
    expect(weight(box("61.2", 100, 60, 50))).toBe("61.5")
  })
  it("weighs the whole shipment: a heavy box makes up for a light one", () => {
    // 20 + 70 = 90 kg against 50 + 2.67 (40 × 20 × 20 = 16 000 cm³) = 52.67 kg
    expect(weight(box("20", 100, 60, 50), box("70", 40, 20, 20))).toBe("90")
  })
  it("costs so much for a kilogram, as the next break where less, at least the minimum", () => {
    // 50 kg × 4.00 = 200.00; 90 kg × 4.00 = 360.00, as 100 × 3.00 = 300.00; 10 kg × 5.00 = 50.00, minimum 100.00
    expect(lines(rated(air, [box("50", 40, 40, 40)], to))).toEqual([["base", "200.00"]])
    const as = rated(air, [box("90", 40, 40, 40)], to)
    expect(lines(as)).toEqual([["base", "300.00"]])
    expect(whyOf(as, "base")).toContain("why.per-unit-as")
    const least = rated(air, [box("10", 40, 20, 20)], to)
    expect(lines(least)).toEqual([["base", "100.00"]])
    expect(whyOf(least, "base")).toContain("why.minimum")
  })
  it("adds what goes by chargeable weight, and refuses a zone without a rate", () => {
    const secured = tariffOf(parcelService, {
      ...abroad,
      dimensional: { step: "1", rounding: "up", divisor: "6000" },
      price: { by: "unit", minimum: "0", breaks: ["0"], rates: { E: ["5.00"] }, asWeight: false },
      surcharges: [
        {
          code: "security",
          amount: { basis: "weight-unit", figure: "0.15", least: "12.00" },
          when: { fact: "country", countries: ["DE"] },
        },
      ],
    })
    // 50 kg × 0.15 = 7.50, at least 12.00; 100 kg: 15.00
    expect(lines(rated(secured, [box("50", 40, 40, 40)], to))[1]).toEqual(["security", "12.00"])
    expect(lines(rated(secured, [box("100", 40, 40, 40)], to))[1]).toEqual(["security", "15.00"])
    const gap = tariffOf(parcelService, {
      ...abroad,
      price: { by: "unit", minimum: "0", breaks: ["0"], rates: { X: ["5.00"] }, asWeight: false },
    })
    expect(refusals(gap, [box("50", 40, 40, 40)], to)).toEqual(["rate.no-zone-rate"])
  })
})

describe("groupage by sea", () => {
  // weight or measure, common practice: a revenue ton is 1000 kg or 1 m³, at least one
  const sea = tariffOf(parcelService, {
    ...abroad,
    mode: "groupage",
    dimensional: null,
    price: { by: "measure", perTon: { E: "118.00" }, least: "1", step: "0.001" },
  })
  it.each([
    // 120 × 80 × 100 cm = 0.96 m³, 400 kg: at least 1
    ["the least", [box("400", 120, 80, 100)], "118.00"],
    // twice that: 1.92 m³ against 0.8 t
    ["measure", [box("400", 120, 80, 100), box("400", 120, 80, 100)], "226.56"],
    // 1.5 t in 0.96 m³
    ["weight", [box("1500", 120, 80, 100)], "177.00"],
  ])("pays for %s", (_, boxes, expected) => {
    const rate = rated(sea, boxes, to)
    expect(lines(rate)).toEqual([["base", expected]])
    expect(whyOf(rate, "base")).toContain("why.measure")
  })
})

describe("a vehicle of one's own", () => {
  const van = tariffOf(parcelService, {
    mode: "own",
    chart: "round",
    zones: ["near"],
    price: { by: "way", stop: "9.50", perUnit: "0.60", unit: "mi", minimum: "14.00" },
    discounts: [],
    leastNet: "0",
    surcharges: [],
    fuel: null,
    transit: { count: "business", days: { near: 0 }, by: "16:00", departs: [2, 4] },
  })
  const metres = (figure: number) => size(figure * 1000, 0, 0, "mm").length
  it("costs the stop and each started mile, at least the minimum", () => {
    // 20 km = 12.43 mi → 13: 9.50 + 7.80 = 17.30; 5 km = 3.1 mi → 4: 11.90, minimum 14.00
    expect(lines(rated(van, [small], { distance: metres(20_000) }))).toEqual([["base", "17.30"]])
    expect(lines(rated(van, [small], { distance: metres(5_000) }))).toEqual([["base", "14.00"]])
  })
  it("goes only as far as its bands, and only where the way is known", () => {
    // 50 mi = 80.47 km
    expect(refusals(van, [small], { distance: metres(80_467) })).toEqual([])
    expect(refusals(van, [small], { distance: metres(80_470) })).toEqual(["rate.no-zone"])
    expect(refusals(van, [small])).toEqual(["rate.no-distance"])
  })
})
