import { describe, expect, it } from "vitest"
import { onTimeOf } from "./onTime.ts"

const of = (...pairs: [number, number][]) => onTimeOf(pairs.map(([days, packages]) => ({ days, packages })))

describe("measured on time", () => {
  it("tells nothing of fewer than twenty packages", () => expect([of([0, 19]), of()]).toEqual([null, null]))
  it("counts early as in time, and finds the day by which 19 of 20 were in", () => {
    // 20 packages: rank 19 is the last of those a day late
    expect(of([0, 15], [-1, 3], [1, 1], [4, 1])).toEqual({ of: 20, inTime: 18, nineteenOfTwenty: 1 })
    // 19 in time, one very late: rank 19 is in time
    expect(of([0, 19], [9, 1])).toEqual({ of: 20, inTime: 19, nineteenOfTwenty: 0 })
    // 40: rank 38 is two days late
    expect(of([2, 4], [0, 34], [3, 2])).toEqual({ of: 40, inTime: 34, nineteenOfTwenty: 2 })
    // all early: 0, never below
    expect(of([-2, 20])?.nineteenOfTwenty).toBe(0)
  })
})
