import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { money } from "../money/index.ts"
import { type ChargingBody, type ChargingFacts, chargedByHand, chargedFor, chargingSchema } from "./index.ts"

const usd = (figure: string) => money(figure, "USD")
const facts: ChargingFacts = {
  customer: "HALV",
  mode: "parcel",
  country: "US",
  contract: usd("84.65"),
  list: usd("131.20"),
  packages: 4,
  worth: usd("1914.00"),
  theirs: false,
}
const rule = (body: Partial<ChargingBody>, name = "r") => ({
  name,
  body: chargingSchema.parse({ from: "contract", ...body }),
})
const charged = (body: Partial<ChargingBody>, more: Partial<ChargingFacts> = {}) => {
  const { amount, margin, why } = chargedFor([rule(body)], { ...facts, ...more })
  return [amount.amount.toFixed(2), margin.amount.toFixed(2), why.map((one) => one.code.replace("charged.", ""))]
}

describe("what the customer is charged", () => {
  it("follows the freight terms of the order", () => {
    const rules = [
      rule({ terms: ["prepaid-added"], percent: "10" }, "added"),
      rule({ terms: ["prepaid"], from: "free" }, "ours"),
    ]
    const by = (terms: ChargingFacts["terms"]) => chargedFor(rules, { ...facts, terms }).amount.amount.toFixed(2)
    // 84.65 × 1.1 = 93.115, half up; prepaid is the seller's own
    expect([by("prepaid-added"), by("prepaid"), by(undefined)]).toEqual(["93.12", "0.00", "0.00"])
    // no rule for it: our cost is passed through
    expect(by("collect")).toBe("84.65")
  })
  it.each([
    // 84.65 passed through
    [{}, "84.65", "0.00", ["rule", "contract"]],
    // 84.65 × 1.15 = 97.3475 → 97.35, half up
    [{ percent: "15" }, "97.35", "12.70", ["rule", "contract", "percent"]],
    // 131.20 × 0.75 = 98.40
    [{ from: "list", percent: "-25" }, "98.40", "13.75", ["rule", "list", "percent"]],
    // 84.65 + 3.50 + 4 × 1.25 = 93.15
    [{ amount: "3.50", perPackage: "1.25" }, "93.15", "8.50", ["rule", "contract", "amount", "per-package"]],
    [{ from: "flat", flat: "19.90" }, "19.90", "-64.75", ["rule", "flat"]],
    [{ from: "free" }, "0.00", "-84.65", ["rule", "free"]],
    // worth 1,914.00: free from 1,914.00 on, not from 1,914.01
    [{ freeFrom: "1914.00" }, "0.00", "-84.65", ["rule", "free-from"]],
    [{ freeFrom: "1914.01" }, "84.65", "0.00", ["rule", "contract"]],
    // 84.65 − 90 is below nothing; the least holds
    [{ amount: "-90" }, "0.00", "-84.65", ["rule", "contract", "amount", "least"]],
    // an allowance of 20.00 and 1 % of 1,914.00 = 19.14: 84.65 − 39.14 = 45.51
    [{ allowance: "20", allowancePercent: "1" }, "45.51", "-39.14", ["rule", "contract", "allowance"]],
    // no more than is charged, and the least all the same
    [{ allowance: "500", least: "5" }, "5.00", "-79.65", ["rule", "contract", "allowance", "least"]],
    [{ amount: "-90", least: "5" }, "5.00", "-79.65", ["rule", "contract", "amount", "least"]],
  ] as const)("by %j is %s, with a margin of %s", (body, amount, margin, why) =>
    expect(charged(body)).toEqual([amount, margin, why]),
  )

  it("is nothing where another pays the carrier, and has no margin", () =>
    expect(charged({ percent: "15" }, { theirs: true })).toEqual(["0.00", "0.00", ["theirs"]]))
  it("is not free where nobody knows what the goods are worth", () =>
    expect(charged({ freeFrom: "1" }, { worth: null })[0]).toBe("84.65"))
  describe("for orders that go together", () => {
    // 84.65 by weights 30 and 10: 63.4875 → 63.49, the rest 21.16
    const two = (a: string | null, b: string | null) => ({
      worth: a && b ? usd((Number(a) + Number(b)).toFixed(2)) : null,
      orders: [
        { worth: a === null ? null : usd(a), weight: 30 },
        { worth: b === null ? null : usd(b), weight: 10 },
      ],
    })
    const both = (body: Partial<ChargingBody>, a: string | null, b: string | null) => {
      const found = chargedFor([rule(body)], { ...facts, ...two(a, b) })
      return [found.amount.amount.toFixed(2), (found.shares ?? []).map((one) => one.amount.toFixed(2))]
    }
    it("none is free because both together are worth enough", () =>
      expect(both({ freeFrom: "1000" }, "900.00", "200.00")).toEqual(["84.65", ["63.49", "21.16"]]))
    it("one that is worth enough by itself goes free, and the other pays its share", () => {
      expect(both({ freeFrom: "1000" }, "1000.00", "200.00")).toEqual(["21.16", ["0.00", "21.16"]])
      expect(both({ freeFrom: "1000" }, null, "1000.00")).toEqual(["63.49", ["63.49", "0.00"]])
    })
    it("all are free where each is worth enough, or the rule counts the shipment", () => {
      expect(both({ freeFrom: "200" }, "900.00", "200.00")[0]).toBe("0.00")
      expect(both({ freeFrom: "1100", freePer: "shipment" }, "900.00", "200.00")[0]).toBe("0.00")
      expect(both({ freeFrom: "1100.01", freePer: "shipment" }, "900.00", "200.00")[0]).toBe("84.65")
    })
  })
  it("is by the first rule that holds, and our cost where none does", () => {
    const rules = [
      rule({ customers: ["OTHER"], from: "free" }, "other"),
      rule({ modes: ["freight"], from: "free" }, "freight"),
      rule({ countries: ["CA"], from: "free" }, "canada"),
      rule({ customers: ["HALV"], percent: "10" }, "ours"),
      rule({ from: "free" }, "all"),
    ]
    // 84.65 × 1.1 = 93.115 → 93.12
    expect(chargedFor(rules, facts).amount.amount.toFixed(2)).toBe("93.12")
    expect(chargedFor(rules.slice(0, 3), facts).why.map((one) => one.code)).toEqual(["charged.contract"])
  })
  it("by hand has its margin too", () =>
    expect(chargedByHand(usd("50"), facts, { code: "charged.by-hand", values: {} }).margin.amount.toFixed(2)).toBe(
      "-34.65",
    ))
  it("is never below nothing, and amount less margin is our cost", () => {
    const figure = fc.integer({ min: 0, max: 99_999 }).map((cents) => (cents / 100).toFixed(2))
    const signed = fc.integer({ min: -99_999, max: 99_999 }).map((cents) => (cents / 100).toFixed(2))
    fc.assert(
      fc.property(
        fc.record({
          from: fc.constantFrom("contract" as const, "list" as const, "flat" as const, "free" as const),
          flat: figure,
          percent: signed,
          amount: signed,
          perPackage: figure,
          freeFrom: fc.option(figure),
          least: figure,
        }),
        (body) => {
          const { amount, margin, why } = chargedFor([rule(body)], facts)
          expect(amount.amount.gte(0)).toBe(true)
          expect(amount.amount.sub(margin.amount).toFixed(2)).toBe("84.65")
          expect(why.length).toBeGreaterThan(1)
        },
      ),
    )
  })
})
