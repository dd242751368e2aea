import { type Reason, reason } from "../refusal/index.ts"

/** What is known of how much of an item is ordered and kept, in base units. */
export interface KnownQuantities {
  /** The largest line of other orders that nobody doubted; null while there are too few to go by. */
  readonly mostOrdered: number | null
  /** The most that ever lay in all warehouses together; 0 where none ever did. */
  readonly mostOnHand: number
}

/** A line so many times the largest one before it is asked about (common practice, no published source). */
export const unusualTimes = 10
/** Fewer pieces than this are never asked about for the item's history. */
export const noticedFrom = 50
/** Lines of an item below which its history says nothing. */
export const historyFrom = 20

/**
 * Whether a quantity is so unusual that somebody is asked: more than there ever was, or many times the largest line so
 * far. A slip of the finger (20000 for 20.000) is found where it costs a click, and not at the dock.
 *
 * @example unusualQuantity(at, 20_000, { mostOrdered: 48, mostOnHand: 1_200 })?.code // "stop.quantity-stock"
 */
export function unusualQuantity(
  at: { readonly line: number; readonly sku: string },
  pieces: number,
  { mostOrdered, mostOnHand }: KnownQuantities,
): Reason | null {
  if (mostOnHand > 0 && pieces > mostOnHand)
    return reason("stop.quantity-stock", { ...at, ordered: pieces, most: mostOnHand })
  if (mostOrdered !== null && pieces >= noticedFrom && pieces > unusualTimes * mostOrdered)
    return reason("stop.quantity-history", { ...at, ordered: pieces, most: mostOrdered })
  return null
}
