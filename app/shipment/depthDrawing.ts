import type { PlacedPiece } from "core/packing/index.ts"

/**
 * Where a corner of a box is drawn: its front as it is, its depth going up to the right. `x` goes to the right, `y` into
 * the box, `z` up.
 */
export const onPaper = (x: number, y: number, z: number): [number, number] => [x + y * 0.42, -z - y * 0.3]

/** Whether a piece must be in the box before another: it lies under it, or behind it where both reach as low. */
const before = (a: PlacedPiece, b: PlacedPiece): boolean => {
  if (a.z + a.height <= b.z + 1e-6) return true
  if (b.z + b.height <= a.z + 1e-6) return false
  if (a.y >= b.y + b.width - 1e-6) return true
  if (b.y >= a.y + a.width - 1e-6) return false
  // side by side: seen from the left, what stands to the right covers
  return a.x + a.length <= b.x + 1e-6
}

/**
 * Pieces in an order in which they can be loaded from the front and from above, which is also the order to draw them in:
 * what is below and behind comes first.
 */
export function depthOrder(placed: readonly PlacedPiece[]): PlacedPiece[] {
  const left = [...placed].sort((a, b) => a.z - b.z || b.y - a.y || a.x - b.x)
  const order: PlacedPiece[] = []
  while (left.length > 0) {
    const at = left.findIndex((one) => left.every((other) => other === one || !before(other, one)))
    order.push(...left.splice(Math.max(0, at), 1))
  }
  return order
}
