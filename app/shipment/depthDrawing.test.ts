import type { PlacedPiece } from "core/packing/index.ts"
import * as fc from "fast-check"
import { expect, it } from "vitest"
import { depthOrder, onPaper } from "./depthDrawing.ts"

const at = (key: string, x: number, y: number, z: number, length = 10, width = 10, height = 10): PlacedPiece => ({
  key,
  x,
  y,
  z,
  length,
  width,
  height,
})
const keys = (placed: PlacedPiece[]) =>
  depthOrder(placed)
    .map((one) => one.key)
    .join("")

it("draws the depth up to the right, the height up", () => {
  expect(onPaper(0, 0, 10)).toEqual([0, -10])
  const [x, y] = onPaper(0, 10, 0)
  expect(x).toBeGreaterThan(0)
  expect(y).toBeLessThan(0)
})
it("loads what is below and behind first", () => {
  expect(keys([at("f", 0, 0, 0), at("b", 0, 10, 0), at("t", 0, 0, 10)])).toBe("bft")
  // a low one behind a high one, and one on top of the low one
  expect(keys([at("h", 0, 0, 0, 10, 10, 20), at("l", 0, 10, 0), at("o", 0, 10, 10)])).toBe("loh")
})
it("loses nothing, and never puts a piece under one that is in already", () => {
  const grid = fc.uniqueArray(fc.tuple(fc.nat(2), fc.nat(2), fc.nat(2)), {
    selector: (cell) => cell.join(),
    minLength: 1,
    maxLength: 20,
  })
  fc.assert(
    fc.property(grid, (cells) => {
      const placed = cells.map(([x, y, z], index) => at(String(index), x * 10, y * 10, z * 10))
      const order = depthOrder(placed)
      expect(order.map((one) => one.key).sort()).toEqual(placed.map((one) => one.key).sort())
      order.forEach((one, index) => {
        for (const earlier of order.slice(0, index)) {
          const over = earlier.x === one.x && earlier.y === one.y && earlier.z > one.z
          expect(over).toBe(false)
        }
      })
    }),
    { numRuns: 100 },
  )
})
