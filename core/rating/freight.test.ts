import { Decimal } from "decimal.js"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import type { Address } from "../address/index.ts"
import { moneyText } from "../money/index.ts"
import { mass, size } from "../units/index.ts"
import {
  classOfDensity,
  cubicFeet,
  density,
  type FreightTariff,
  freightClasses,
  freightTariffSchema,
  type RatedPackage,
  rateByClass,
  rateShipment,
} from "./index.ts"

describe("density and class", () => {
  // NMFTA density scale of 13 steps, effective July 2025 (from memory): each lower bound, and just under it
  it.each([
    ["0.5", "400"],
    ["1", "300"],
    ["1.999", "300"],
    ["2", "250"],
    ["4", "175"],
    ["6", "125"],
    ["8", "100"],
    ["10", "92.5"],
    ["12", "85"],
    ["15", "70"],
    ["22.5", "65"],
    ["30", "60"],
    ["35", "55"],
    ["49.99", "55"],
    ["50", "50"],
    ["120", "50"],
  ])("%s lb/ft³ is class %s", (figure, expected) => expect(classOfDensity(figure)).toBe(expected))
  it("48 × 40 × 50 in is 55.56 ft³; at 500 lb 9.0 lb/ft³, class 100", () => {
    const pallet = size(48, 40, 50, "in")
    expect(cubicFeet(pallet).toFixed(2)).toBe("55.56")
    expect(density(mass(500, "lb"), pallet).toFixed(6)).toBe("9.000000")
    expect(classOfDensity(density(mass(500, "lb"), pallet))).toBe("100")
  })
  it("knows 18 classes, ascending", () => {
    expect(freightClasses).toHaveLength(18)
    expect([...freightClasses].sort((a, b) => Number(a) - Number(b))).toEqual([...freightClasses])
  })
})

const one = (pounds: number, freightClass: "100" | "70" = "100") => ({ freightClass, pounds: new Decimal(pounds) })
const breaks = ["0", "500", "1000"]
const rates = { "100": ["20.00", "17.00", "14.00"], "70": ["15.00", "12.00", "9.00"] }
const amount = (...weights: ReturnType<typeof one>[]) => {
  const answer = rateByClass(rates, breaks, weights)
  return answer.ok ? answer.value : null
}

describe("as-weight rating", () => {
  // transport textbooks, common practice: 460 lb at 20.00 = 92.00, 500 lb at 17.00 = 85.00
  it("460 lb cost as 500 lb", () => {
    expect(amount(one(460))).toMatchObject({ at: "500", deficit: new Decimal(40) })
    expect(amount(one(460))?.amount.toString()).toBe("85")
  })
  // break-even 500 × 17 / 20 = 425 lb: there both cost 85.00, and the own break holds
  it.each([
    [425, "85", null],
    [426, "85", "74"],
    [424, "84.8", null],
  ])("%d lb cost %s", (pounds, expected, deficit) => {
    expect(amount(one(pounds))?.amount.toString()).toBe(expected)
    expect(amount(one(pounds))?.deficit?.toString() ?? null).toBe(deficit)
  })
  it("pays the missing weight at the lowest class rate", () => {
    // 300 lb class 100 and 160 lb class 70: 60.00 + 24.00 = 84.00; at 500: 51.00 + 19.20 + 40 × 12.00 / 100 = 75.00
    expect(amount(one(300), one(160, "70"))?.amount.toString()).toBe("75")
  })
  it("may reach over a break", () => {
    // 499 lb: 99.80; as 500: 85.00; with 1000 at 5.00 it would be 50.00
    const answer = rateByClass({ "100": ["20.00", "17.00", "5.00"] }, breaks, [one(499)])
    expect(answer.ok && answer.value.amount.toString()).toBe("50")
  })
  it("refuses a class without rates", () => expect(rateByClass({}, breaks, [one(10)]).ok).toBe(false))
  it("never costs more for less: the price does not fall as weight grows", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1500 }), fc.integer({ min: 0, max: 300 }), (pounds, more) => {
        expect(amount(one(pounds + more))?.amount.gte(amount(one(pounds))?.amount ?? 0)).toBe(true)
      }),
    )
  })
})

const tariff: FreightTariff = freightTariffSchema.parse({
  kind: "freight",
  currency: "USD",
  validFrom: "2026-01-01",
  suitability: { postBox: false, residential: true, business: true, statesNotServed: ["AK"] },
  discount: "0.5",
  floor: "60.00",
  breaks,
  rates: { "5": rates },
  minimum: { "5": "110.00" },
  limits: { weight: "12000", pallets: 6, length: "96", height: "84" },
  surcharges: [
    { code: "liftgate", amount: "85.00", discount: "0", when: { fact: "liftgate" } },
    {
      code: "residential",
      amount: "9.00",
      discount: "0",
      when: { fact: "residential" },
      perHundredweight: { least: "40.00", most: "120.00" },
    },
  ],
  fuel: { share: "0.3", on: ["base"] },
  transit: { days: { "5": 3 }, by: "17:00", saturday: false },
  zones: ["5"],
})
const chart = { origin: "558", ranges: [["800", "829", "5"]] as [string, string, string][], countries: {} }
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
const pallet = (pounds: string, more: Partial<RatedPackage> = {}): RatedPackage => ({
  number: 1,
  weight: mass(pounds, "lb"),
  size: size(48, 40, 50, "in"),
  handling: "pallet",
  ...more,
})
const rate = (packages: RatedPackage[], shipTo: Partial<Address> = {}, liftgate = false) =>
  rateShipment(tariff, chart, {
    shipTo: { ...denver, ...shipTo },
    packages,
    shipDate: "2026-11-24",
    holidays: new Set(["2026-11-26"]),
    liftgate,
  })
const charges = (...of: Parameters<typeof rate>) => {
  const answer = rate(...of)
  if (!answer.ok) throw new Error(JSON.stringify(answer.reasons))
  return answer.rate.charges.map((charge) => [charge.code, moneyText(charge.contract).amount, charge.why.code])
}
const refusals = (...of: Parameters<typeof rate>) => {
  const answer = rate(...of)
  return answer.ok ? [] : answer.reasons.map((reason) => reason.code)
}

describe("freight price", () => {
  it("is class and break, discount, accessorials and fuel", () => {
    // 800 lb, 48 × 40 × 50 in: 14.4 lb/ft³, class 85, which has no rate here: so with its own class 100.
    // 800 × 17.00 / 100 = 136.00; as 1000: 140.00, dearer. Less half 68.00; fuel 30 % of 68.00 = 20.40
    expect(charges([pallet("799.2", { freightClass: "100" })])).toEqual([
      ["base", "68.00", "charge.freight"],
      ["fuel", "20.40", "charge.fuel"],
    ])
  })
  it("is at least the lane's minimum before discount and the floor after it", () => {
    // 460 lb as 500: 85.00, minimum 110.00, less half 55.00, floor 60.00; fuel 18.00
    expect(charges([pallet("460", { freightClass: "100" })])).toEqual([
      ["base", "60.00", "charge.freight.floor"],
      ["fuel", "18.00", "charge.fuel"],
    ])
  })
  it("adds what is asked for at the receiver's", () => {
    // 799.2 → 800 lb × 9.00 / 100 = 72.00 within 40 and 120
    expect(charges([pallet("799.2", { freightClass: "100" })], { kind: "residential" }, true)).toEqual([
      ["base", "68.00", "charge.freight"],
      ["liftgate", "85.00", "charge.liftgate"],
      ["residential", "72.00", "charge.residential"],
      ["fuel", "20.40", "charge.fuel"],
    ])
  })
  it("takes the class of the density where the goods have none", () => {
    const answer = rate([pallet("500")])
    expect(answer.ok && answer.rate.billed[0]?.freightClass).toBe("100")
  })
  it.each<[string, Parameters<typeof rate>, string[]]>([
    ["a loose carton", [[pallet("40", { handling: "parcel" })]], ["rate.not-on-pallet"]],
    ["too many", [Array.from({ length: 7 }, () => pallet("500"))], ["rate.too-many-pallets"]],
    ["too heavy", [[pallet("12000.1")]], ["rate.over-total"]],
    ["too high", [[pallet("500", { size: size(48, 40, 85, "in") })]], ["rate.over-height"]],
    ["too long", [[pallet("500", { size: size(97, 40, 50, "in") })]], ["rate.over-length"]],
    ["a box", [[pallet("500")], { street: "PO Box 12" }], ["rate.post-box"]],
    ["a state", [[pallet("500")], { state: "AK" }], ["rate.state"]],
    ["abroad", [[pallet("500")], { country: "DE", state: "" }], ["rate.country"]],
  ])("refuses %s", (_, given, expected) => expect(refusals(...given)).toEqual(expected))
})
