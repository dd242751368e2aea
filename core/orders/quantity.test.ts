import { describe, expect, it } from "vitest"
import { unusualQuantity } from "./quantity.ts"

describe("an unusual quantity is asked about", () => {
  const at = { line: 2, sku: "ELD-FLW-100" }
  const known = { mostOrdered: 48, mostOnHand: 1_200 }
  it("when it is more than ever lay in all warehouses", () => {
    expect(unusualQuantity(at, 1_200, known)?.code).toBe("stop.quantity-history")
    expect(unusualQuantity(at, 1_201, known)).toEqual({
      code: "stop.quantity-stock",
      values: { line: "2", sku: "ELD-FLW-100", ordered: "1201", most: "1200" },
    })
  })
  it("when it is more than ten times the largest line so far", () => {
    expect(unusualQuantity(at, 480, known)).toBeNull()
    expect(unusualQuantity(at, 481, known)?.values).toEqual({
      line: "2",
      sku: "ELD-FLW-100",
      ordered: "481",
      most: "48",
    })
  })
  it("never for a handful, nor by a history that is too short, nor of goods that never lay here", () => {
    expect(unusualQuantity(at, 49, { mostOrdered: 1, mostOnHand: 0 })).toBeNull()
    expect(unusualQuantity(at, 50, { mostOrdered: 1, mostOnHand: 0 })?.code).toBe("stop.quantity-history")
    expect(unusualQuantity(at, 9_999, { mostOrdered: null, mostOnHand: 0 })).toBeNull()
  })
})
