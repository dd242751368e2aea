import { Decimal } from "decimal.js"
import type { Size } from "../units/index.ts"
import { lengthIn } from "../units/index.ts"

/** A pallet as it stands on a trailer's floor. */
export interface Standing {
  readonly size: Size
  readonly stackable?: boolean
}

interface Spot {
  readonly short: Decimal
  readonly long: Decimal
  readonly height: Decimal
}

/**
 * Length of trailer floor, in inches, that pallets take: two that may be stacked and are low enough share a place;
 * places stand side by side in pairs where the width allows, turned as takes the least length. The order in which
 * they are given changes nothing. Reckoned as dispatchers do, not proved least; common practice, no published source.
 *
 * @example four pallets of 48 × 40 in, not stackable, in 96 in: pairs of 40 in, 80 in in all
 */
export function floorLength(
  pallets: readonly Standing[],
  trailer: { readonly width: Decimal.Value; readonly height: Decimal.Value },
): Decimal {
  const spots = places(pallets, new Decimal(trailer.height))
  let length = new Decimal(0)
  const left = [...spots]
  while (left.length > 0) {
    const first = left.shift() as Spot
    const pairs = left.map((other, index) => ({ index, length: rowOfTwo(first, other, trailer.width) }))
    const alone = new Decimal(
      first.short.lte(trailer.width) && first.long.lte(trailer.width) ? first.short : first.long,
    )
    const best = pairs.reduce<{ index: number; length: Decimal | null }>(
      (least, one) => (one.length !== null && (least.length === null || one.length.lt(least.length)) ? one : least),
      { index: -1, length: null },
    )
    if (best.length === null) length = length.add(alone)
    else {
      left.splice(best.index, 1)
      length = length.add(best.length)
    }
  }
  return length
}

/** The shortest row that two places fit in side by side, or null when the trailer is too narrow for any turn. */
function rowOfTwo(a: Spot, b: Spot, width: Decimal.Value): Decimal | null {
  const turns = (one: Spot) => [
    { across: one.short, along: one.long },
    { across: one.long, along: one.short },
  ]
  const rows = turns(a)
    .flatMap((x) => turns(b).map((y) => ({ across: x.across.add(y.across), along: Decimal.max(x.along, y.along) })))
    .filter((row) => row.across.lte(width))
    .map((row) => row.along)
  return rows.length === 0 ? null : Decimal.min(...rows)
}

/** Places on the floor, longest first: pallets, and pairs of stackable ones whose heights the trailer holds. */
function places(pallets: readonly Standing[], height: Decimal): Spot[] {
  const spot = ({ size }: Standing): Spot => {
    const [l, w] = [lengthIn(size.length, "in"), lengthIn(size.width, "in")]
    return { short: Decimal.min(l, w), long: Decimal.max(l, w), height: lengthIn(size.height, "in") }
  }
  const order = (a: Spot, b: Spot) => b.long.cmp(a.long) || b.short.cmp(a.short) || b.height.cmp(a.height)
  const single = pallets.filter((one) => !one.stackable).map(spot)
  const low = pallets
    .filter((one) => one.stackable)
    .map(spot)
    .sort(order)
  const stacked: Spot[] = []
  while (low.length > 0) {
    const base = low.shift() as Spot
    const top = low.findIndex(
      (one) => one.short.lte(base.short) && one.long.lte(base.long) && one.height.add(base.height).lte(height),
    )
    if (top >= 0) low.splice(top, 1)
    stacked.push(base)
  }
  return [...single, ...stacked].sort(order)
}
