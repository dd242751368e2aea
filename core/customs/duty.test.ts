import { Decimal } from "decimal.js"
import { describe, expect, it } from "vitest"
import { exchangeTable } from "../exchange/index.ts"
import { money } from "../money/index.ts"
import { mass } from "../units/index.ts"
import {
  type DutyRate,
  dutyEstimate,
  dutyRatesOn,
  findHs,
  hsTitle,
  type ImportRule,
  isDocuments,
  shareOfPart,
} from "./index.ts"

const rule: ImportRule = {
  country: "DE",
  from: "2021-07-01",
  currency: "EUR",
  dutyFree: "150.00",
  taxFree: null,
  tax: "0.19",
  basis: "cif",
  oneStop: "150.00",
}
const rates: DutyRate[] = [
  { country: "DE", from: "2026-01-01", prefix: "2102", origin: "", share: "0.08" },
  { country: "DE", from: "2026-01-01", prefix: "210210", origin: "BE", share: "0" },
  { country: "DE", from: "2025-01-01", prefix: "2102", origin: "", share: "0.5" },
]
// one euro is 1.25 dollars
const exchange = exchangeTable([{ from: "EUR", to: "USD", on: "2026-11-16", rate: "1.25" }])
const estimate = (value: string, more: Partial<ImportRule> = {}, origin = "US") =>
  dutyEstimate(
    { rules: [{ ...rule, ...more }], rates, exchange },
    {
      country: "DE",
      day: "2026-11-24",
      lines: [{ hsCode: "2102.10", origin, value: money(value, "USD") }],
      freight: money("25.00", "USD"),
      insurance: money("0", "USD"),
    },
  )
const sums = (one: ReturnType<typeof estimate>) =>
  one && [one.duty, one.tax, one.total].map((each) => each.amount.toFixed(2))

describe("an estimate of duty and tax", () => {
  // 250 dollars are 200.00 EUR, 25 are 20.00; duty on 220.00 × 8 % = 17.60; tax on 200 + 20 + 17.60 = 237.60 × 19 % = 45.14
  it("has its arithmetic", () => expect(sums(estimate("250.00"))).toEqual(["17.60", "45.14", "62.74"]))
  // 187.50 dollars are 150.00 EUR, which is free; a cent more in euros is not
  it.each([
    ["187.49", "0.00"],
    ["187.50", "0.00"],
    ["187.52", "13.60"],
  ])("of %s dollars takes %s of duty", (value, duty) => expect(estimate(value)?.duty.amount.toFixed(2)).toBe(duty))
  it("takes duty on the goods alone where the country does so: 200.00 × 8 %", () =>
    expect(estimate("250.00", { basis: "fob" })?.duty.amount.toFixed(2)).toBe("16.00"))
  it("takes no tax up to the limit", () =>
    expect(sums(estimate("250.00", { taxFree: "200.00" }))).toEqual(["17.60", "0.00", "17.60"]))
  it("is none without a table or a rate of exchange", () => {
    expect(estimate("250.00", { from: "2027-01-01" })).toBeNull()
    expect(estimate("250.00", { currency: "CHF" })).toBeNull()
  })
  it("goes by the longest code, then the origin, then the latest day", () => {
    const share = (hsCode: string, origin: string) => dutyRatesOn(rates, "DE", "2026-11-24")({ hsCode, origin })?.share
    expect([share("2102.10", "US"), share("2102.10", "BE"), share("2102.20", "BE"), share("9025.19", "US")]).toEqual([
      "0.08",
      "0",
      "0.08",
      undefined,
    ])
    expect(dutyRatesOn(rates, "DE", "2025-06-01")({ hsCode: "2102.10", origin: "US" })?.share).toBe("0.5")
    expect(estimate("250.00")?.lines[0]?.known).toBe(true)
  })
})

it("parts of an order share an amount by what they are worth, the last takes what is left", () => {
  // 10.00 by 1 : 1 : 1
  const shares = [0, 1, 2].map((part) =>
    shareOfPart(money("10.00", "USD"), [new Decimal(1), new Decimal(1), new Decimal(1)], part).amount.toFixed(2),
  )
  expect(shares).toEqual(["3.33", "3.34", "3.33"])
})

describe("a code is found", () => {
  it.each([
    ["dry lager yeast", "2102.10"],
    ["hop pellets", "1210.20"],
    ["agglomerated corks", "4504.10"],
    ["lithium battery rechargeable", "8507.60"],
    ["9025", "9025.19"],
  ])("for “%s”: %s", (words, code) => expect(findHs(words)[0]?.code).toBe(code))
  it("in the item's own history first, and told once", () => {
    const found = findHs("dry lager yeast", ["2102.10.31", "2102.10"])
    expect(found.map((one) => [one.code, one.from]).slice(0, 2)).toEqual([
      ["2102.10.31", "history"],
      ["2102.10", "history"],
    ])
    expect(found.filter((one) => one.code === "2102.10")).toHaveLength(1)
  })
  it("by its chapter where there is no heading", () => {
    expect(findHs("umbrella")[0]).toMatchObject({ code: "66", from: "chapter" })
    expect([hsTitle("6601.10"), hsTitle("2102.10.90"), hsTitle("")]).toEqual(["Umbrellas", "Active yeasts", ""])
  })
})

it("documents are goods over half a kilogram in Switzerland (common practice), elsewhere never", () => {
  const is = (country: string, kg: string) => isDocuments("documents", country, mass(kg, "kg"))
  expect([is("CH", "0.5"), is("CH", "0.51"), is("DE", "5"), isDocuments("gift", "DE", mass(1, "kg"))]).toEqual([
    true,
    false,
    true,
    false,
  ])
})
