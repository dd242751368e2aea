import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { money, sumMoney } from "./index.ts"
import { shareOut } from "./share.ts"

const shares = (amount: string, weights: readonly (number | string)[], currency = "USD") =>
  shareOut(money(amount, currency), weights).map((one) => one.amount.toFixed())

describe("shares of an amount", () => {
  it("go by weight and add up to it", () => {
    // 14.20 over 3 lb and 1 lb: 14.20 × 3 / 4 = 10.65, and what is left
    expect(shares("14.20", [3, 1])).toEqual(["10.65", "3.55"])
    // 10.00 / 3 = 3.333…, then 6.666… → 6.67, then 10.00
    expect(shares("10.00", [1, 1, 1])).toEqual(["3.33", "3.34", "3.33"])
  })
  it("are alike where nothing has a weight, and nothing for what weighs nothing", () => {
    expect(shares("5.00", [0, 0])).toEqual(["2.5", "2.5"])
    expect(shares("5.00", [2, 0])).toEqual(["5", "0"])
  })
  it("are whole minor units: none of yen, three of dinars (ISO 4217)", () => {
    expect(shares("100", [1, 2], "JPY")).toEqual(["33", "67"])
    expect(shares("1.000", [1, 2], "KWD")).toEqual(["0.333", "0.667"])
  })
  it("refuse a weight below nothing", () => expect(() => shares("1.00", [1, -1])).toThrow(RangeError))

  it("always add up to the cent, are never below nothing and never a cent off their due", () => {
    const weights = fc.array(fc.integer({ min: 0, max: 10_000 }), { minLength: 1, maxLength: 12 })
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1_000_000 }), weights, (cents, drawn) => {
        const total = money((cents / 100).toFixed(2), "USD")
        const out = shareOut(total, drawn)
        expect(sumMoney(out, "USD").amount.toFixed(2)).toBe(total.amount.toFixed(2))
        const sum = drawn.reduce((all, one) => all + one, 0)
        out.forEach((one, index) => {
          expect(one.amount.gte(0)).toBe(true)
          if (sum > 0) {
            const due = (cents * (drawn[index] as number)) / sum / 100
            expect(Math.abs(one.amount.toNumber() - due)).toBeLessThan(0.0101)
          }
        })
      }),
    )
  })
})
