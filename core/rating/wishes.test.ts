import { describe, expect, it } from "vitest"
import type { Settled } from "../rules/settings.ts"
import { accountMatches, askedOf, noWishes, payerOf, settledWishes, wishesSchema } from "./wishes.ts"

const by = { kind: "rule" as const, name: "r" }

describe("what is asked for", () => {
  it("begins with what was settled for the order, a liftgate and options once each", () => {
    const settled: Settled = {
      options: { value: ["signature", "liftgate"], by },
      liftgate: { value: true, by },
    }
    expect(settledWishes(settled)).toEqual({ ...noWishes, options: ["signature", "liftgate"] })
    expect(settledWishes({ liftgate: { value: false, by } })).toEqual(noWishes)
  })
  it("is asked of a service by how it carries", () => {
    const asked = ["signature", "liftgate", "saturday"] as const
    expect([...askedOf("parcel", asked)]).toEqual(["signature", "saturday"])
    expect([...askedOf("pallet", asked)]).toEqual(["liftgate", "saturday"])
    expect([...askedOf("any", asked)]).toEqual([...asked])
  })
  it("is refused with an option that is none, or an amount that is none", () => {
    expect(wishesSchema.safeParse({ options: ["gift-wrap"] }).success).toBe(false)
    expect(wishesSchema.safeParse({ declared: "12,50" }).success).toBe(false)
    expect(wishesSchema.safeParse({ declared: "12.50", dryIceKg: "2" }).success).toBe(true)
  })
  it("names the payer as tariffs do", () =>
    expect((["prepaid", "prepaid-added", "collect", "third-party"] as const).map(payerOf)).toEqual([
      "shipper",
      "shipper",
      "receiver",
      "third-party",
    ]))
})

describe("an account", () => {
  it.each([
    ["LK-999-9999", "LK-558-0042", true],
    ["LK-999-9999", "LK-558-004", false],
    ["LK-999-9999", "MK-558-0042", false],
    ["AA9", "XY7", true],
    ["AA9", "xY7", false],
    ["", "anything", true],
  ])("written %s: %s is right: %s", (form, account, expected) => expect(accountMatches(form, account)).toBe(expected))
})
