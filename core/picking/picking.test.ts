import { describe, expect, it } from "vitest"
import { confirmBin, confirmItem, confirmQuantity, nextStop, walkOrder } from "./index.ts"

const stop = {
  allocationId: 1,
  line: "a",
  bin: "A-03-1",
  binOrder: 10031,
  sku: "CLA-15-EPDM",
  description: "Clamp",
  lot: null,
  levels: [
    { name: "each", gtin: "6291041500213", count: 1 },
    { name: "case", gtin: "106141412345678", count: 24 },
  ],
  quantity: 30,
  picked: 2,
}
const code = (outcome: { ok: boolean; reasons?: readonly { code: string }[] }) =>
  outcome.ok ? "ok" : outcome.reasons?.[0]?.code

it("confirms the bin however its separators are typed, and refuses another", () => {
  expect(["A-03-1", "a031", "a 03 1"].map((typed) => code(confirmBin(stop, typed)))).toEqual(["ok", "ok", "ok"])
  expect(confirmBin(stop, "A-03-2")).toEqual({
    ok: false,
    reasons: [{ code: "pick.wrong-bin", values: { scanned: "A-03-2", bin: "A-03-1" } }],
  })
})

describe("an item", () => {
  const gtinCase = {
    ...stop,
    levels: [stop.levels[0] as (typeof stop.levels)[0], { name: "case", gtin: "16291041500210", count: 24 }],
  }
  it("counts what the scanned level holds", () => {
    expect(confirmItem(gtinCase, "06291041500213")).toEqual({ ok: true, value: 1 })
    expect(confirmItem(gtinCase, "16291041500210")).toEqual({ ok: true, value: 24 })
    expect(confirmItem(gtinCase, "cla-15-epdm", 3)).toEqual({ ok: true, value: 3 })
  })
  it("is refused when it is another, or more than is needed", () => {
    expect(code(confirmItem(gtinCase, "HOP-CAS-1"))).toBe("pick.wrong-item")
    expect(code(confirmItem(gtinCase, "16291041500210", 2))).toBe("pick.too-many")
    expect(code(confirmQuantity(stop, 29))).toBe("pick.too-many")
    expect(code(confirmQuantity(stop, 28))).toBe("ok")
    expect(code(confirmQuantity(stop, 0))).toBe("pick.quantity")
    expect(code(confirmQuantity(stop, 1.5))).toBe("pick.quantity")
  })
})

it("walks by bin and stops at what is not done", () => {
  const far = { ...stop, allocationId: 2, bin: "K-08-1", binOrder: 110081 }
  const done = { ...stop, allocationId: 3, bin: "A-01-1", binOrder: 10011, picked: 30 }
  expect(walkOrder([far, stop, done]).map((one) => one.allocationId)).toEqual([3, 1, 2])
  expect(nextStop([far, stop, done])?.allocationId).toBe(1)
  expect(nextStop([done])).toBeNull()
})
