import { describe, expect, it } from "vitest"
import { type ElsewhereText, readElsewhere } from "./index.ts"

const text: ElsewhereText = {
  carrier: "Harbor Couriers",
  service: "",
  tracking: "HC-2040-118",
  shippedOn: "2026-11-23",
  cost: "12.5",
  currency: "",
}
const read = (change: Partial<ElsewhereText> = {}) =>
  readElsewhere({ ...text, ...change }, "2026-11-24", "2026-11-20", "USD")
const flaws = (change: Partial<ElsewhereText>) => {
  const outcome = read(change)
  return outcome.ok ? [] : outcome.reasons.map((one) => [one.code, one.values.field])
}

describe("goods that somebody else carried", () => {
  it("are read as they were typed, the cost in the warehouse's currency where none is said", () => {
    expect(read()).toEqual({
      ok: true,
      value: {
        carrier: "Harbor Couriers",
        service: "",
        tracking: ["HC-2040-118"],
        shippedOn: "2026-11-23",
        cost: { amount: "12.50", currency: "USD" },
      },
    })
    const several = read({ tracking: " HC-2040-118, HC-2040-119\nHC-2040-118 ", cost: "", shippedOn: "" })
    expect(several.ok && several.value).toMatchObject({
      tracking: ["HC-2040-118", "HC-2040-119"],
      cost: null,
      shippedOn: "2026-11-24",
    })
  })
  it("can't go without a carrier, a number that can be one, or on a day to come", () => {
    expect(flaws({ carrier: " " })).toEqual([["elsewhere.carrier", "carrier"]])
    expect(flaws({ tracking: "" })).toEqual([["elsewhere.no-tracking", "tracking"]])
    for (const bad of ["12345", "ABCDEFGH", "AB12", "-1234567", "1".repeat(35), "12 34", "<b>12345</b>", "=1+12345"])
      expect([bad, flaws({ tracking: bad })]).toEqual([bad, [["elsewhere.tracking", "tracking"]]])
    // UPU S10: RR 47312482 has the check digit 9
    expect(flaws({ tracking: "RR473124829GB" })).toEqual([])
    expect(flaws({ tracking: "RR473124828GB" })).toEqual([["elsewhere.tracking", "tracking"]])
    expect(flaws({ tracking: Array.from({ length: 51 }, (_, at) => `HC-2040-${at}`).join(" ") })).toEqual([
      ["elsewhere.too-many", "tracking"],
    ])
    expect(flaws({ shippedOn: "2026-11-25" })).toEqual([["elsewhere.future", "shippedOn"]])
    expect(flaws({ shippedOn: "2026-11-19" })).toEqual([["elsewhere.before", "shippedOn"]])
    expect(flaws({ shippedOn: "2026-02-30" })).toEqual([["elsewhere.day", "shippedOn"]])
    expect(flaws({ cost: "-1" })).toEqual([["elsewhere.cost", "cost"]])
    expect(flaws({ cost: "1e3" })).toEqual([["elsewhere.cost", "cost"]])
    expect(flaws({ currency: "XYZ" })).toEqual([["elsewhere.currency", "currency"]])
  })
})
