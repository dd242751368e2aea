import * as fc from "fast-check"
import { describe, expect, it } from "vitest"
import { emptyPlan, type FloorPlan, floorDistances, planFlaws, planSchema, zoneAt } from "./index.ts"

/** Two aisles four meters apart, ten long, with a cross aisle at both ends; the desk in the lower left corner. */
const small: FloorPlan = {
  ...emptyPlan,
  width: 12,
  depth: 14,
  places: [
    { kind: "desk", code: "DESK", name: "", x: 2, y: 1 },
    { kind: "bench", code: "BENCH", name: "", x: 6, y: 1 },
  ],
  aisles: [
    { code: "A", x: 2, from: 2, to: 12 },
    { code: "B", x: 6, from: 2, to: 12 },
  ],
  crossAisles: [
    { code: "S", y: 2, from: 0, to: 12 },
    { code: "N", y: 12, from: 0, to: 12 },
  ],
  bins: [
    { code: "A-1", aisle: "A", x: 1, y: 4, level: 1 },
    { code: "A-2", aisle: "A", x: 3, y: 9, level: 1 },
    { code: "B-1", aisle: "B", x: 5, y: 4, level: 1 },
    { code: "B-2", aisle: "B", x: 7, y: 10, level: 2 },
  ],
}
const codes = (plan: FloorPlan) =>
  planFlaws(plan).map(
    (flaw) => `${flaw.code} ${flaw.values.code ?? flaw.values.bin ?? flaw.values.aisle ?? flaw.values.kind}`,
  )

describe("metres on foot", () => {
  const floor = floorDistances(small)
  it.each([
    // along one aisle: 9 − 4
    ["A-1", "A-2", 5],
    // down to the south cross aisle 4 − 2, over 6 − 2, up 4 − 2
    ["A-1", "B-1", 8],
    // by the north: (12 − 9) + 4 + (12 − 10) = 9; by the south it would be 7 + 4 + 8 = 19
    ["A-2", "B-2", 9],
    // the desk stands one meter beside the south cross aisle, in line with aisle A: 1 + (4 − 2)
    ["DESK", "A-1", 3],
    // 1 beside, 4 over, 1 beside
    ["DESK", "BENCH", 6],
    ["B-2", "BENCH", 9],
    ["A-1", "A-1", 0],
  ])("from %s to %s: %s m", (from, to, metres) => {
    expect(floor.metres(from, to)).toBeCloseTo(metres, 9)
    expect(floor.metres(to, from)).toBeCloseTo(metres, 9)
  })
  it("are the length of the way that is drawn", () => {
    const { metres, way } = floor
    expect(way("A-2", "B-2")).toEqual([
      { x: 2, y: 9 },
      { x: 2, y: 12 },
      { x: 6, y: 12 },
      { x: 6, y: 10 },
    ])
    const codes = ["A-1", "A-2", "B-1", "B-2"]
    for (const a of codes)
      for (const b of codes) {
        const corners = way(a, b)
        const length = corners
          .slice(1)
          .reduce(
            (sum, at, i) => sum + Math.abs(at.x - (corners[i]?.x ?? 0)) + Math.abs(at.y - (corners[i]?.y ?? 0)),
            0,
          )
        expect(length).toBeCloseTo(metres(a, b), 9)
      }
    expect(way("A-1", "Z-9")).toEqual([])
  })
  it("of a place that nobody drew are none", () => {
    expect(floor.metres("A-1", "Z-9")).toBe(Number.POSITIVE_INFINITY)
    expect([floor.knows("a-1"), floor.knows("Z-9")]).toEqual([true, false])
  })
  it("hold as distances do: the same both ways, and never shorter by a detour", () => {
    const grid = fc.record({
      aisles: fc.integer({ min: 1, max: 5 }),
      cross: fc.integer({ min: 1, max: 4 }),
      seed: fc.array(fc.tuple(fc.nat(99), fc.nat(99)), { minLength: 3, maxLength: 3 }),
    })
    fc.assert(
      fc.property(grid, ({ aisles, cross, seed }) => {
        const plan: FloorPlan = {
          ...emptyPlan,
          width: 40,
          depth: 40,
          aisles: Array.from({ length: aisles }, (_, i) => ({ code: `A${i}`, x: 2 + i * 4, from: 0, to: 30 })),
          crossAisles: Array.from({ length: cross }, (_, i) => ({ code: `X${i}`, y: i * 9, from: 0, to: 40 })),
          bins: seed.map(([a, y], i) => ({
            code: `b${i}`,
            aisle: `A${a % aisles}`,
            x: 2 + (a % aisles) * 4,
            y: (y * 30) / 99,
            level: 0,
          })),
        }
        const { metres } = floorDistances(plan)
        expect(metres("b0", "b1")).toBeCloseTo(metres("b1", "b0"), 9)
        expect(metres("b0", "b2")).toBeLessThanOrEqual(metres("b0", "b1") + metres("b1", "b2") + 1e-9)
        // on foot is never shorter than the crow's rectilinear way
        const [p, q] = [plan.bins[0], plan.bins[1]] as [FloorPlan["bins"][number], FloorPlan["bins"][number]]
        expect(metres("b0", "b1")).toBeGreaterThanOrEqual(Math.abs(p.x - q.x) + Math.abs(p.y - q.y) - 1e-9)
      }),
      { numRuns: 200 },
    )
  })
})

describe("a plan", () => {
  it("that is whole has no flaw, and none has the empty one", () =>
    expect([planFlaws(small), planFlaws(emptyPlan)]).toEqual([[], []]))
  it.each<[string, Partial<FloorPlan>, string]>([
    [
      "a bin called twice",
      { bins: [...small.bins, { ...(small.bins[0] as FloorPlan["bins"][number]), code: "a-1" }] },
      "floor-plan.twice a-1",
    ],
    ["a bin off the floor", { width: 6.5 }, "floor-plan.off-floor B-2"],
    [
      "an aisle that nobody drew",
      { bins: [{ code: "C-1", aisle: "C", x: 1, y: 1, level: 1 }] },
      "floor-plan.bin-no-aisle C-1",
    ],
    [
      "a bin beyond its aisle",
      { bins: [{ code: "A-9", aisle: "A", x: 2, y: 13, level: 1 }] },
      "floor-plan.bin-off-aisle A-9",
    ],
    [
      "a bin that no hand reaches from its aisle",
      { bins: [{ code: "A-9", aisle: "A", x: 6, y: 5, level: 1 }] },
      "floor-plan.bin-off-aisle A-9",
    ],
    [
      "an aisle that no cross aisle meets",
      {
        crossAisles: [
          { code: "S", y: 2, from: 0, to: 3 },
          { code: "N", y: 12, from: 0, to: 3 },
        ],
      },
      "floor-plan.aisle-apart B",
    ],
    [
      "an aisle of no length",
      { aisles: [...small.aisles, { code: "C", x: 9, from: 5, to: 5 }] },
      "floor-plan.no-length C",
    ],
    ["no bench", { places: small.places.slice(0, 1) }, "floor-plan.no-place bench"],
  ])("names %s", (_, more, flaw) => expect(codes({ ...small, ...more })).toContain(flaw))
  it("refuses figures that are no metres", () => {
    expect(planSchema.safeParse(small).success).toBe(true)
    for (const width of [0, -1, 1e6, Number.NaN]) expect(planSchema.safeParse({ ...small, width }).success).toBe(false)
    expect(planSchema.safeParse({ ...small, colour: "red" }).success).toBe(false)
  })
  it("knows the innermost zone of a place", () => {
    const zone = (code: string, kind: "cold" | "cage", x: number, width: number) => ({
      code,
      name: "",
      kind,
      x,
      y: 0,
      width,
      depth: 5,
    })
    const zones = [zone("COLD", "cold", 0, 10), zone("CAGE", "cage", 2, 2)]
    expect([zoneAt(zones, 3, 1)?.code, zoneAt(zones, 7, 1)?.code, zoneAt(zones, 3, 6)]).toEqual(["CAGE", "COLD", null])
  })
})
