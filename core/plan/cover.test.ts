import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { cover, type Freeing } from "./cover.ts"

const item = (minutes: number, cost: number): Freeing => ({ minutes, cost })

describe("the cheapest that free so many minutes", () => {
  it("are not the cheapest by the minute", () => {
    // 0.50, 1.00 and 0.90 a minute; 12 minutes: the first two cost 7, the third alone 18, first and third 23
    expect(cover([item(10, 5), item(2, 2), item(20, 18)], 12)).toEqual([0, 1])
    expect(cover([item(10, 5), item(20, 18)], 12)).toEqual([1])
  })
  it("are none for nothing, all when all are needed, and null when even they are not enough", () => {
    expect(cover([item(10, 5)], 0)).toEqual([])
    expect(cover([item(10, 5), item(5, 1)], 15)).toEqual([0, 1])
    expect(cover([item(10, 5), item(5, 1)], 15.1)).toBeNull()
    expect(cover([], 1)).toBeNull()
    expect(cover([item(0, 0)], 1)).toBeNull()
  })

  it("cost as little as the best of all choices, tried one by one", () => {
    const items = fc.array(fc.tuple(fc.integer({ min: 0, max: 80 }), fc.integer({ min: 0, max: 50 })), { maxLength: 9 })
    fc.assert(
      fc.property(items, fc.integer({ min: 1, max: 200 }), (drawn, tenths) => {
        const list = drawn.map(([minutes, cost]) => item(minutes / 10, cost))
        const need = tenths / 10
        let best: number | null = null
        for (let mask = 0; mask < 1 << list.length; mask += 1) {
          const some = list.filter((_, index) => mask & (1 << index))
          const frees = some.reduce((sum, one) => sum + Math.round(one.minutes * 10), 0)
          const cost = some.reduce((sum, one) => sum + one.cost, 0)
          if (frees >= tenths && (best === null || cost < best)) best = cost
        }
        const chosen = cover(list, need)
        expect(chosen?.reduce((sum, index) => sum + (list[index] as Freeing).cost, 0) ?? null).toBe(best)
        if (chosen) {
          const frees = chosen.reduce((sum, index) => sum + Math.round((list[index] as Freeing).minutes * 10), 0)
          expect(frees).toBeGreaterThanOrEqual(tenths)
        }
      }),
    )
  })
})
