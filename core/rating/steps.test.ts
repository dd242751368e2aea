import { describe, expect, it } from "vitest"
import { freightService, parcelService, requestOf, tariffOf } from "../../tests/tariffSamples.ts"
import { mass, size } from "../units/index.ts"
import { type CountedPackage, countedPackage, justOver, laneOf } from "./index.ts"

const { tariff, service } = tariffOf(parcelService, {
  fuel: null,
  discounts: [],
  leastNet: "0",
  surcharges: [
    {
      code: "heavy",
      amount: { basis: "package", figure: "12.00" },
      when: { fact: "weight-over", figure: "50" },
    },
    { code: "round", amount: { basis: "package", figure: "9.00" }, when: { fact: "girth-over", figure: "80" } },
    { code: "long", amount: { basis: "package", figure: "8.00" }, when: { fact: "longest-over", figure: "30" } },
  ],
})
const over = (pounds: string, edges: [number, number, number]) => {
  const request = requestOf([{ number: 1, weight: mass(pounds, "lb"), size: size(...edges, "in") }])
  const lane = laneOf(tariff, service, request)
  if (!lane) throw new Error("no lane")
  return justOver(
    service,
    lane,
    request.packages.map((one) => countedPackage(one) as CountedPackage),
  ).map(({ by, figure, saves }) => [by, figure, Number(saves.toFixed(2))])
}

// zone 5 of the sample: 10 lb 19.95, 29 lb 38.05, 150 lb 140.00
describe("a package just over a step", () => {
  it("of a surcharge: 50.4 lb pay 12.00 more than 50 lb", () =>
    expect(over("50.4", [12, 12, 12])).toEqual([["weight", 50, 12]]))
  it("of the table: 10.3 lb pay 38.05, 10 lb pay 19.95", () =>
    expect(over("10.3", [8, 8, 8])).toEqual([["weight", 10, 18.1]]))
  it("of an edge: 30.5 in pay 8.00 more than 30 in", () => expect(over("60", [30.5, 6, 6])).toEqual([["edge", 30, 8]]))
  it("of length and girth: 24 + 2 × (14.25 + 14) = 80.5 in pay 9.00 more than 80 in", () =>
    expect(over("60", [24, 14.25, 14])).toEqual([["girth", 80, 9]]))
  it("of weight by size: 16.2 × 15 × 10 in are 17 × 15 × 10 / 139 = 19 lb: no carton is cut down for that", () =>
    expect(over("5", [16.2, 15, 10])).toEqual([]))
  it("is not told where it is far over, or nothing is saved", () => {
    expect(over("58", [12, 12, 12])).toEqual([])
    expect(over("20.3", [8, 8, 8])).toEqual([])
  })
})

describe("a pallet just too high for a denser class", () => {
  const { tariff, service } = tariffOf(freightService, {
    leastNet: "0",
    price: {
      by: "class",
      breaks: ["0", "500", "1000"],
      rates: { "5": { "85": ["16.00", "13.00", "10.00"], "70": ["15.00", "12.00", "9.00"] } },
      minimum: { "5": "0" },
      classFrom: "item",
      fak: [],
    },
  })
  const over = (height: number, freightClass: "85" | null = null) => {
    const one = { number: 1, weight: mass("1000", "lb"), size: size(48, 40, height, "in") }
    const request = requestOf([{ ...one, handling: "pallet" as const, freightClass }])
    const lane = laneOf(tariff, service, request)
    if (!lane) throw new Error("no lane")
    const packages = request.packages.map((each) => countedPackage(each) as CountedPackage)
    return justOver(service, lane, packages).map((each) => [
      each.by,
      each.figure,
      Number(each.over.toFixed(2)),
      each.freightClass,
      Number(each.saves.toFixed(2)),
    ])
  }
  // 1000 lb × 1728 / (48 × 40 × 60) = 15 lb/ft³, from which class 70 holds; 10.00 against 9.00 per 100 lb, half of it
  // off and 30 % fuel on it: 65.00 against 58.50
  it("costs less two inches lower: 62 in are 14.5 lb/ft³ and class 85", () =>
    expect(over(62)).toEqual([["height", 60, 2, "70", 6.5]]))
  it("is not told where it is more than half a layer, or the goods have a class of their own", () => {
    expect(over(67)).toEqual([])
    expect(over(62, "85")).toEqual([])
    expect(over(60)).toEqual([])
  })
})
