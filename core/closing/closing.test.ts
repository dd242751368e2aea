import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { mass, sumMass } from "../units/index.ts"
import { formsFor, ginc } from "./index.ts"

const terms = (
  way: "one-barcode" | "manifest" | "bill-of-lading" | "electronic" | "none",
  by: "account" | "service",
) => ({
  way,
  by,
  told: false,
  copies: 1,
})
const packages = fc.array(
  fc.record({
    account: fc.constantFrom("LK-1", "LK-2", ""),
    service: fc.constantFrom("Ground", "Express"),
    lb: fc.integer({ min: 1, max: 150 }),
  }),
  { maxLength: 60 },
)

describe("forms of a truck", () => {
  it("hold every package once, and weigh what their packages weigh", () => {
    fc.assert(
      fc.property(
        packages,
        fc.constantFrom("one-barcode", "manifest", "bill-of-lading", "electronic", "none"),
        fc.constantFrom("account", "service"),
        (rows, way, by) => {
          const all = rows.map(({ lb, ...row }, id) => ({ ...row, id, weight: mass(lb, "lb") }))
          const forms = formsFor(terms(way, by), all)
          expect(forms.flatMap((form) => form.packages.map((one) => one.id)).sort((a, b) => a - b)).toEqual(
            all.map((one) => one.id),
          )
          expect(sumMass(forms.map((form) => form.weight)).toString()).toBe(
            sumMass(all.map((one) => one.weight)).toString(),
          )
          for (const form of forms) {
            if (by === "service") expect(new Set(form.packages.map((one) => one.service)).size).toBe(1)
            if (way !== "bill-of-lading") expect(new Set(form.packages.map((one) => one.account)).size).toBe(1)
          }
        },
      ),
    )
  })
  it("are one for each account, or for each account and service; a bill is one whoever pays", () => {
    const all = [
      { id: 1, account: "B", service: "Ground", weight: mass(1, "lb") },
      { id: 2, account: "A", service: "Ground", weight: mass(2, "lb") },
      { id: 3, account: "B", service: "Express", weight: mass(4, "lb") },
    ]
    const drawn = (way: "manifest" | "bill-of-lading", by: "account" | "service") =>
      formsFor(terms(way, by), all).map((form) => [form.account, form.service, form.packages.map((one) => one.id)])
    expect(drawn("manifest", "account")).toEqual([
      ["A", null, [2]],
      ["B", null, [1, 3]],
    ])
    expect(drawn("manifest", "service")).toEqual([
      ["A", "Ground", [2]],
      ["B", "Express", [3]],
      ["B", "Ground", [1]],
    ])
    expect(drawn("bill-of-lading", "account")).toEqual([["B", null, [1, 2, 3]]])
    expect(formsFor(terms("manifest", "account"), [])).toEqual([])
  })
})

it("a consignment number is the prefix and a reference, 30 signs of character set 82 at most (GS1 General Specifications, AI 401)", () => {
  expect(ginc("9521234", "DLH-261124-4-1415")).toBe("9521234DLH-261124-4-1415")
  expect(() => ginc("9521234", "")).toThrow(RangeError)
  expect(() => ginc("9521234", "24 characters and blanks")).toThrow(RangeError)
  expect(() => ginc("9521234", "x".repeat(24))).toThrow(RangeError)
  expect(ginc("9521234", "x".repeat(23))).toHaveLength(30)
  expect(() => ginc("952", "1")).toThrow(RangeError)
})
