import { Decimal } from "decimal.js"
import { describe, expect, it } from "vitest"
import type { Address } from "../address/index.ts"
import { moneyText } from "../money/index.ts"
import { mass, size, sumMass } from "../units/index.ts"
import {
  billedWeight,
  isUnbeaten,
  type ParcelTariff,
  parcelTariffSchema,
  preselect,
  rateShipment,
  zoneOf,
} from "./index.ts"

/** A tariff small enough to compute by hand; nothing in it is anybody's price. */
const tariff: ParcelTariff = parcelTariffSchema.parse({
  currency: "USD",
  validFrom: "2026-01-01",
  weightStep: "1",
  dimension: { step: "1", rounding: "up", divisor: "139", thresholdVolume: null },
  limits: { weight: "150", length: "108", lengthAndGirth: "165" },
  suitability: { postBox: false, residential: true, business: true, statesNotServed: ["AK", "HI"] },
  discount: "0.3",
  minimumNet: "7.50",
  surcharges: [
    { code: "residential", amount: "5.95", discount: "0.5", when: { fact: "residential" } },
    { code: "handling", amount: "20.00", discount: "0", when: { fact: "weight-over", figure: "70" } },
    { code: "long", amount: "18.00", discount: "0", when: { fact: "longest-over", figure: "48" } },
    { code: "area", amount: "4.00", discount: "0", when: { fact: "postal-area", zip3: ["821"] } },
  ],
  fuel: { share: "0.15", on: ["base", "residential"] },
  transit: { days: { "2": 1, "5": 3 }, by: "17:00", saturday: false },
  zones: ["2", "5"],
  rows: [
    ["1", "9.00", "11.00"],
    ["10", "14.25", "19.95"],
    ["29", "25.55", "38.05"],
    ["150", "90.00", "140.00"],
  ],
})
const chart = {
  origin: "558",
  ranges: [
    ["553", "558", "2"],
    ["800", "829", "5"],
    ["995", "999", "9"],
  ] as [string, string, string][],
  countries: {} as Record<string, string>,
}
const denver: Address = {
  company: "Elk Run",
  attention: "",
  street: "14 Growler Row",
  street2: "",
  city: "Denver",
  state: "CO",
  postalCode: "80205",
  country: "US",
  phone: "",
  kind: "business",
}
const request = (
  packages: { weight: ReturnType<typeof mass>; size: ReturnType<typeof size> }[],
  shipTo: Partial<Address> = {},
) => ({
  shipTo: { ...denver, ...shipTo },
  packages: packages.map((one, index) => ({ number: index + 1, ...one })),
  shipDate: "2026-11-24",
  holidays: new Set(["2026-11-26"]),
})
const small = { weight: mass("9.5", "lb"), size: size(10, 10, 8, "in") }

function rated(...args: Parameters<typeof request>) {
  const answer = rateShipment(tariff, chart, request(...args))
  if (!answer.ok) throw new Error(JSON.stringify(answer.reasons))
  return answer.rate
}
const refusals = (...args: Parameters<typeof request>) => {
  const answer = rateShipment(tariff, chart, request(...args))
  return answer.ok ? [] : answer.reasons.map((one) => one.code)
}

describe("billed weight", () => {
  // common practice of parcel carriers, no published source
  it("3900 in³ / 139 = 28.06 bills 29 lb", () => {
    const billed = billedWeight(
      sumMass([mass(12, "lb"), mass(7, "oz")]),
      size("19.5", "14.0625", "12.375", "in"),
      tariff,
    )
    expect(billed.edges.map(String)).toEqual(["20", "15", "13"])
    expect([billed.actual, billed.dimensional, billed.billed].map(String)).toEqual(["13", "29", "29"])
  })
  it("is the actual weight where the volume is at or under the threshold", () => {
    const cube = size(12, 12, 12, "in")
    const over = { ...tariff, dimension: { ...tariff.dimension, thresholdVolume: "1728" } }
    expect(billedWeight(mass(2, "lb"), cube, over).billed.toString()).toBe("2")
    // 1728 / 139 = 12.43
    expect(billedWeight(mass(2, "lb"), cube, tariff).billed.toString()).toBe("13")
  })
  it("lies on the whole pound that a converted weight means", () => {
    expect(billedWeight(mass("4.5359237", "kg"), size(1, 1, 1, "in"), tariff).actual.toString()).toBe("10")
  })
})

describe("price", () => {
  it("is table, discount, surcharges and fuel, each rounded, with the total their sum", () => {
    const rate = rated([small], { kind: "residential" })
    // zone 5, 10 lb: 19.95 less 30 % = 13.965 → 13.97; residential 5.95 less half = 2.975 → 2.98;
    // fuel 15 % of 16.95 = 2.5425 → 2.54; total 19.49. List: 19.95 + 5.95 + 3.885 → 3.89 = 29.79
    expect(rate.charges.map((charge) => [charge.code, moneyText(charge.contract).amount])).toEqual([
      ["base", "13.97"],
      ["residential", "2.98"],
      ["fuel", "2.54"],
    ])
    expect([moneyText(rate.contract).amount, moneyText(rate.list).amount]).toEqual(["19.49", "29.79"])
    expect(rate.zone).toBe("5")
  })
  it("is not under the minimum", () => {
    // zone 2, 1 lb: 9.00 less 30 % = 6.30, minimum 7.50; fuel 1.125 → 1.13
    const rate = rated([{ weight: mass("0.4", "lb"), size: size(4, 4, 4, "in") }], { postalCode: "55802", state: "MN" })
    expect(moneyText(rate.contract).amount).toBe("8.63")
    expect(rate.charges[0]?.why.code).toBe("charge.base.minimum")
  })
  it("counts each package by itself", () => {
    // 2 × 13.97 = 27.94, fuel 4.191 → 4.19
    const rate = rated([small, small])
    expect(moneyText(rate.contract).amount).toBe("32.13")
    expect(rate.billed.map((one) => [one.package, one.billed.toString()])).toEqual([
      [1, "10"],
      [2, "10"],
    ])
  })
  it("adds handling and length surcharges just above their limits, not at them", () => {
    const codes = (weight: string, long: string) =>
      rated([{ weight: mass(weight, "lb"), size: size(long, 5, 5, "in") }]).charges.map((charge) => charge.code)
    expect(codes("70", "48")).toEqual(["base", "fuel"])
    expect(codes("70.1", "48.1")).toEqual(["base", "handling", "long", "fuel"])
  })
  it("adds the area surcharge by postal code, without fuel where the tariff names none on it", () => {
    const rate = rated([small], { postalCode: "82190", state: "WY" })
    expect(rate.charges.map((charge) => [charge.code, moneyText(charge.contract).amount])).toEqual([
      ["base", "13.97"],
      ["area", "4.00"],
      ["fuel", "2.10"],
    ])
  })
  it("takes an address that nobody confirmed as residential, and says so", () => {
    const charge = rated([small], { kind: "unknown" }).charges.find((one) => one.code === "residential")
    expect(charge?.why.code).toBe("charge.residential.unconfirmed")
    expect(rated([small], { kind: "business" }).charges.some((one) => one.code === "residential")).toBe(false)
  })
})

describe("arrival", () => {
  it("counts business days past the holiday", () => {
    // zone 5: three business days after Tuesday 24 November: 25, 27, 30 (Thanksgiving and the weekend between)
    expect(rated([small]).arrival).toEqual({ date: "2026-11-30", time: "17:00", days: 3 })
  })
})

describe("what a service can't take", () => {
  it.each<[string, Partial<Address>, string[]]>([
    ["a PO box", { street: "P.O. Box 12" }, ["rate.post-box"]],
    ["a state", { state: "AK", postalCode: "99501" }, ["rate.state", "rate.no-zone"]],
    ["abroad", { country: "CA" }, ["rate.country"]],
    ["an area without a zone", { postalCode: "10001" }, ["rate.no-zone"]],
  ])("%s", (_, shipTo, expected) => expect(refusals([small], shipTo)).toEqual(expected))
  it("too heavy, too long, too large, with the carton's number", () => {
    expect(refusals([small, { weight: mass("150.1", "lb"), size: size(20, 10, 10, "in") }])).toEqual([
      "rate.over-weight",
    ])
    expect(refusals([{ weight: mass(9, "lb"), size: size(109, 5, 5, "in") }])).toEqual(["rate.over-length"])
    // 60 + 2 × (30 + 23) = 166
    expect(refusals([{ weight: mass(9, "lb"), size: size(60, 30, 23, "in") }])).toEqual(["rate.over-girth"])
  })
  it("nothing", () => expect(refusals([])).toEqual(["rate.no-packages"]))
})

it("finds the zone at both ends of a range", () => {
  expect(["800", "829", "830", "552"].map((area) => zoneOf(chart, { country: "US", postalCode: `${area}01` }))).toEqual(
    ["5", "5", null, null],
  )
})

describe("comparison", () => {
  const offer = (cost: number, arrives: string) => ({ cost: new Decimal(cost), arrives })
  const ground = offer(11.2, "2026-11-30 18:00")
  const saver = offer(19.37, "2026-11-30 12:00")
  const worse = offer(25.86, "2026-11-30 17:00")
  const fast = offer(51.17, "2026-11-25 10:30")
  const all = [ground, saver, worse, fast]
  it("leaves unbeaten what nothing else is as cheap and as early as", () => {
    expect(all.map((one) => isUnbeaten(one, all))).toEqual([true, true, false, true])
  })
  it("preselects the cheapest in time, and the earliest when all are late", () => {
    expect(preselect(all, "2026-11-30")).toBe(ground)
    expect(preselect(all, "2026-11-27")).toBe(fast)
    expect(preselect(all, "2026-11-20")).toBe(fast)
    expect(preselect(all, null)).toBe(ground)
    expect(preselect([], null)).toBeNull()
  })
})
