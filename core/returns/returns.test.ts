import fc from "fast-check"
import { expect, it } from "vitest"
import { difference, isLate, movedOn, type Onward, onwards, waits } from "./index.ts"

it.each([
  // announced, sent, before, sound, damaged: missing, surplus
  ["all of it", [4, 10, 0, 4, 0], [0, 0]],
  ["one is missing", [4, 10, 0, 2, 1], [1, 0]],
  ["more than announced, but no more than went out", [4, 10, 0, 6, 0], [0, 0]],
  ["more than went out", [4, 4, 0, 5, 1], [0, 2]],
  ["what others brought back counts", [4, 10, 8, 4, 0], [0, 2]],
  ["more had come before: no more than what is here is too many", [0, 4, 6, 1, 0], [0, 1]],
  ["nothing came", [4, 10, 0, 0, 0], [4, 0]],
] as const)("%s", (_, [announced, sent, before, sound, damaged], [missing, surplus]) =>
  expect(difference({ announced, sent, before, sound, damaged })).toEqual({ missing, surplus }),
)

it("is late from the day after the last one", () => {
  expect(isLate("2026-12-01", "2026-12-01")).toBe(false)
  expect(isLate("2026-12-02", "2026-12-01")).toBe(true)
  expect(isLate("2026-12-02", null)).toBe(false)
})

const from = { inInspection: 5, inRepair: 2, putBack: 0, thrownAway: 0 }
it.each([
  ["inspection", "back", 3, { inInspection: 2, inRepair: 2, putBack: 3, thrownAway: 0 }],
  ["inspection", "repair", 5, { inInspection: 0, inRepair: 7, putBack: 0, thrownAway: 0 }],
  ["repair", "away", 2, { inInspection: 5, inRepair: 0, putBack: 0, thrownAway: 2 }],
  ["repair", "repair", 1, null],
  ["repair", "back", 3, null],
  ["inspection", "back", 6, null],
  ["inspection", "back", 0, null],
  ["inspection", "back", 1.5, null],
] as const)("from %s %s %d", (place, to, pieces, then) => expect(movedOn(from, place, to, pieces)).toEqual(then))

it("loses no piece, whatever is moved where", () => {
  const move = fc.record({
    place: fc.constantFrom("inspection" as const, "repair" as const),
    to: fc.constantFrom(...onwards),
    pieces: fc.integer({ min: -1, max: 12 }),
  })
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 10 }), fc.array(move, { maxLength: 12 }), (quantity, moves) => {
      let at = { inInspection: quantity, inRepair: 0, putBack: 0, thrownAway: 0 }
      for (const { place, to, pieces } of moves) at = movedOn(at, place, to as Onward, pieces) ?? at
      expect(Math.min(...Object.values(at))).toBeGreaterThanOrEqual(0)
      expect(at.inInspection + at.inRepair + at.putBack + at.thrownAway).toBe(quantity)
      expect(waits(at)).toBe(at.putBack + at.thrownAway < quantity)
    }),
  )
})
