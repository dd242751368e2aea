import { describe, expect, it } from "vitest"
import { minorUnit, money, moneyFrom, moneyText, roundMoney, showMoney, sumMoney, unitAmount } from "./index.ts"

// ISO 4217: JPY has no decimals, USD 2, KWD 3; HUF and IDR 2, where Intl shows none
it.each([
  ["JPY", 0],
  ["USD", 2],
  ["KWD", 3],
  ["HUF", 2],
  ["IDR", 2],
])("minor unit of %s has %i digits", (currency, digits) => {
  expect(minorUnit(currency)).toBe(digits)
})

it("rounds half up to the minor unit, once", () => {
  expect(moneyText(roundMoney(money("1.005", "USD"))).amount).toBe("1.01")
  expect(moneyText(roundMoney(money("1.00499", "USD"))).amount).toBe("1.00")
  expect(moneyText(roundMoney(money("10.5", "JPY"))).amount).toBe("11")
})

it("adds exactly, and never two currencies", () => {
  const tenths = Array.from({ length: 10 }, () => money("0.1", "USD"))
  expect(moneyText(sumMoney(tenths, "USD")).amount).toBe("1.00")
  expect(() => sumMoney([money(1, "USD"), money(1, "CAD")], "USD")).toThrow(/CAD/)
})

it("crosses JSON as text", () => {
  const text = JSON.parse(JSON.stringify(moneyText(money("9007199254740993.07", "USD"))))
  expect(moneyFrom(text).amount.toString()).toBe("9007199254740993.07")
})

it("reads as people write it", () => {
  expect(showMoney({ amount: "1234567.80", currency: "USD" })).toBe("$1,234,567.80")
  expect(showMoney({ amount: "84.65", currency: "CAD" })).toBe("84.65 CAD")
  expect(showMoney({ amount: "1250", currency: "JPY" })).toBe("1,250 JPY")
})

describe("the price of one piece", () => {
  it("keeps its four decimals, and has those of its currency otherwise", () => {
    // a thousandth of a carton at 12.50 is 0.0125
    expect(unitAmount(money("0.0125", "USD"))).toBe("0.0125")
    expect(unitAmount(money("12.5000", "USD"))).toBe("12.50")
    expect(unitAmount(money("12.505", "USD"))).toBe("12.5050")
    expect([unitAmount(money("150", "JPY")), unitAmount(money("1.2345", "KWD"))]).toEqual(["150", "1.2345"])
  })
})
