import { Decimal } from "decimal.js"
import { type Length, length, lengthIn, type Size } from "../units/index.ts"

/** A pallet as it stands on a trailer's floor, in nanometers. */
export interface Standing {
  readonly long: number
  readonly short: number
  readonly height: number
  readonly stackable: boolean
}
export interface TrailerInside {
  readonly width: number
  readonly height: number
}

interface Spot {
  readonly short: number
  readonly long: number
  readonly height: number
}

/**
 * Length of trailer floor, in inches, that pallets take: see `floorLengthOf`.
 *
 * @example four pallets of 48 × 40 in, not stackable, in 96 in: pairs of 40 in, 80 in in all
 */
export function floorLength(
  pallets: readonly { readonly size: Size; readonly stackable?: boolean }[],
  trailer: { readonly width: Decimal.Value; readonly height: Decimal.Value },
): Decimal {
  const nanometres = floorLengthOf(
    pallets.map(({ size, stackable }) => {
      const [l, w] = [parts(size.length), parts(size.width)]
      return { long: Math.max(l, w), short: Math.min(l, w), height: parts(size.height), stackable: stackable === true }
    }),
    { width: parts(length(trailer.width, "in")), height: parts(length(trailer.height, "in")) },
  )
  return new Decimal(nanometres).div(25_400_000)
}

/** A length in whole nanometers: finer than a pallet is measured, and a double holds 9 000 km of them. */
const parts = (value: Length): number => lengthIn(value, "mm").mul(1_000_000).floor().toNumber()

/**
 * Length of trailer floor that pallets take: two that may be stacked and are low enough share a place; places stand
 * side by side in pairs where the width allows, turned as takes the least length. The order in which they are given
 * changes nothing. Reckoned as dispatchers do, not proved least; common practice, no published source.
 *
 * @returns in nanometers, as the edges are given
 */
export function floorLengthOf(pallets: readonly Standing[], trailer: TrailerInside): number {
  const left = places(pallets, trailer.height)
  let length = 0
  while (left.length > 0) {
    const first = left.shift() as Spot
    let [best, row] = [-1, Number.POSITIVE_INFINITY]
    for (let index = 0; index < left.length; index += 1) {
      const pair = rowOfTwo(first, left[index] as Spot, trailer.width)
      if (pair < row) [best, row] = [index, pair]
    }
    if (best < 0) length += first.long <= trailer.width ? first.short : first.long
    else {
      left.splice(best, 1)
      length += row
    }
  }
  return length
}

/** The shortest row that two places fit in side by side; without end when the trailer is too narrow for any turn. */
function rowOfTwo(a: Spot, b: Spot, width: number): number {
  let shortest = Number.POSITIVE_INFINITY
  const row = (across: number, along: number) => {
    if (across <= width && along < shortest) shortest = along
  }
  row(a.short + b.short, Math.max(a.long, b.long))
  row(a.short + b.long, Math.max(a.long, b.short))
  row(a.long + b.short, Math.max(a.short, b.long))
  row(a.long + b.long, Math.max(a.short, b.short))
  return shortest
}

/** Places on the floor, longest first: pallets, and pairs of stackable ones whose heights the trailer holds. */
function places(pallets: readonly Standing[], height: number): Spot[] {
  const order = (a: Spot, b: Spot) => b.long - a.long || b.short - a.short || b.height - a.height
  const low = pallets.filter((one) => one.stackable).sort(order)
  const stacked: Spot[] = []
  while (low.length > 0) {
    const base = low.shift() as Spot
    const top = low.findIndex(
      (one) => one.short <= base.short && one.long <= base.long && one.height + base.height <= height,
    )
    if (top >= 0) low.splice(top, 1)
    stacked.push(base)
  }
  return [...pallets.filter((one) => !one.stackable), ...stacked].sort(order)
}
