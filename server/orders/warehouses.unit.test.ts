import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { canSplit, lackingThere, type WarehouseFit } from "./warehouses.ts"

/** A warehouse with so much free of each line of an order. */
function stocked(id: number, ordered: readonly number[], free: readonly number[]): WarehouseFit {
  const missing = ordered.flatMap((wanted, line) =>
    (free[line] as number) >= wanted
      ? []
      : [{ sku: `SKU-${line}`, lineId: line, ordered: wanted, free: free[line] as number }],
  )
  return { id, name: `W${id}`, lines: ordered.length, has: ordered.length - missing.length, missing, km: null }
}

describe("two warehouses", () => {
  it("can ship together what one has in part and the other has the rest of", () => {
    expect(canSplit(stocked(1, [30], [9]), stocked(2, [30], [40]))).toBe(true)
    expect(canSplit(stocked(1, [30], [9]), stocked(2, [30], [21]))).toBe(true)
    expect(canSplit(stocked(1, [30], [9]), stocked(2, [30], [20]))).toBe(false)
    expect(lackingThere(stocked(1, [30], [9]), stocked(2, [30], [20]))).toBe("SKU-0")
  })
  it("need not split what one has whole, and can't split what one has nothing of", () => {
    expect(canSplit(stocked(1, [4, 2], [4, 2]), stocked(2, [4, 2], [9, 9]))).toBe(false)
    expect(canSplit(stocked(1, [4], [0]), stocked(2, [4], [9]))).toBe(false)
    expect(canSplit(stocked(1, [4, 2], [0, 2]), stocked(2, [4, 2], [4, 0]))).toBe(true)
  })

  it("can split exactly when there is enough of every line together, some here and not all of it", () => {
    const line = fc.record({
      ordered: fc.integer({ min: 1, max: 9 }),
      here: fc.integer({ min: 0, max: 9 }),
      there: fc.integer({ min: 0, max: 9 }),
    })
    fc.assert(
      fc.property(fc.array(line, { minLength: 1, maxLength: 5 }), (lines) => {
        const ordered = lines.map((one) => one.ordered)
        const here = stocked(
          1,
          ordered,
          lines.map((one) => one.here),
        )
        const there = stocked(
          2,
          ordered,
          lines.map((one) => one.there),
        )
        const enough = lines.every((one) => Math.min(one.here, one.ordered) + one.there >= one.ordered)
        const some = lines.some((one) => one.here > 0)
        const all = lines.every((one) => one.here >= one.ordered)
        expect(canSplit(here, there)).toBe(enough && some && !all)
      }),
    )
  })
})
