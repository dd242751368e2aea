import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { dayScale } from "./dayScale.ts"

const minute = 60_000
const now = Date.UTC(2026, 10, 24, 16, 42)

describe("the day's scale", () => {
  it("is even where every column has room", () => {
    const scale = dayScale(now, [now + 120 * minute, now + 240 * minute], 250, 1250, 200)
    expect(scale.columns).toEqual([
      { left: 250, width: 500 },
      { left: 750, width: 500 },
    ])
    expect([scale.x(now), scale.x(now + 60 * minute), scale.x(now + 240 * minute)]).toEqual([250, 500, 1250])
    expect(scale.stretched).toBe(false)
  })
  it("widens a short column to the least, and says that it is stretched", () => {
    const scale = dayScale(now, [now + 10 * minute, now + 400 * minute], 250, 1250, 200)
    expect(scale.columns.map((one) => Math.round(one.width))).toEqual([200, 800])
    expect(scale.stretched).toBe(true)
  })
  it("ends the night exactly at now, and has no columns without trucks", () => {
    const scale = dayScale(now, [], 250, 1250, 200)
    expect(scale.columns).toEqual([])
    expect(scale.x(now)).toBe(250)
    expect(scale.x(now - 30 * minute)).toBeLessThan(250)
  })
  it("fills the width, in order, whatever the trucks", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 300 }), { minLength: 1, maxLength: 6 }), (gaps) => {
        let at = now
        const posts = gaps.map((gap) => {
          at += gap * minute
          return at
        })
        const { columns, x } = dayScale(now, posts, 250, 1266, 214)
        expect(columns.reduce((sum, one) => sum + one.width, 0)).toBeCloseTo(1016)
        posts.forEach((post, index) =>
          expect(x(post)).toBeCloseTo((columns[index]?.left ?? 0) + (columns[index]?.width ?? 0)),
        )
      }),
    )
  })
})
