import type { Mass } from "../units/index.ts"
import type { Content } from "./index.ts"

/** Pieces of a line that would explain why a package weighs other than it should. */
export interface Explanation {
  readonly line: string
  readonly sku: string
  readonly pieces: number
  /** Whether these are too many in the package, or missing from it. */
  readonly way: "more" | "fewer"
}

/** Explanations of more pieces than this are guesses. */
const mostPieces = 12

/**
 * The line that would explain a difference between what the scale says and what the contents should weigh: the one whose
 * whole pieces come nearest to it, the fewest pieces where two are as near; null where none comes near. Missing pieces
 * must be in the package; too many can be of any line of the shipment.
 *
 * @example // 2.4 lb too much, and a jar weighs 2.4 lb: one jar more
 */
export function explainWeight(
  difference: { readonly measured: Mass; readonly calculated: Mass },
  inside: readonly Content[],
  lines: readonly Content[],
): Explanation | null {
  const gap = difference.measured.sub(difference.calculated)
  const way = gap.isNegative() ? "fewer" : "more"
  const kilograms = gap.abs().toNumber()
  let best: (Explanation & { error: number }) | null = null
  for (const one of way === "fewer" ? inside : lines) {
    const each = one.item.unitWeight.toNumber()
    if (each <= 0) continue
    const pieces = Math.round(kilograms / each)
    const most = way === "fewer" ? Math.min(one.quantity, mostPieces) : mostPieces
    if (pieces < 1 || pieces > most) continue
    const error = Math.abs(kilograms - pieces * each)
    // near: within a quarter of a piece and a twentieth of the difference (common practice)
    if (error > Math.min(each / 4, Math.max(kilograms / 20, 0.03))) continue
    if (!best || error < best.error - 0.01 || (error < best.error + 0.01 && pieces < best.pieces))
      best = { line: one.line, sku: one.item.sku, pieces, way, error }
  }
  return best ? { line: best.line, sku: best.sku, pieces: best.pieces, way: best.way } : null
}
