import { gtin14 } from "../barcodes/index.ts"
import { accepted, type Outcome, reason, refused } from "../refusal/index.ts"

export * from "./allocate.ts"
export * from "./runs.ts"
export * from "./walk.ts"

/** One level of an item's packaging with its own GTIN; `count` base units are inside. */
export interface ItemLevel {
  readonly name: string
  readonly gtin: string | null
  readonly count: number
}

/** One stop of the walk: a quantity of an item (and lot) to take from a bin, in base units. */
export interface PickStop {
  readonly allocationId: number
  readonly line: string
  readonly bin: string
  /** The bin's place in the walk through the aisles. */
  readonly binOrder: number
  readonly sku: string
  readonly description: string
  readonly lot: string | null
  readonly levels: readonly ItemLevel[]
  readonly quantity: number
  readonly picked: number
}

/** The stops in the order of the walk: by bin, then by line. */
export const walkOrder = (stops: readonly PickStop[]): PickStop[] =>
  [...stops].sort((a, b) => a.binOrder - b.binOrder || a.bin.localeCompare(b.bin) || a.line.localeCompare(b.line))

/** The stop that comes next, or null when all is picked. */
export const nextStop = (stops: readonly PickStop[]): PickStop | null =>
  walkOrder(stops).find((stop) => stop.picked < stop.quantity) ?? null

/** Codes are compared without case, blanks and separators: `a-03-1` is bin A-03-1. */
export const sameCode = (a: string, b: string): boolean => plain(a) === plain(b)
const plain = (code: string) => code.toUpperCase().replace(/[\s.\-_/]/g, "")

/** Whether a scanned or typed bin code is that of the stop. */
export function confirmBin(stop: PickStop, code: string): Outcome<string> {
  return sameCode(stop.bin, code)
    ? accepted(stop.bin)
    : refused(reason("pick.wrong-bin", { scanned: code, bin: stop.bin }))
}

/**
 * How many base units a scanned or typed item code takes at a stop: a GTIN counts what its level holds, the SKU one.
 * Refuses another item, and more than the stop still needs.
 */
export function confirmItem(stop: PickStop, code: string, times = 1): Outcome<number> {
  const gtin = gtin14(code)
  const level = gtin ? stop.levels.find((one) => one.gtin !== null && gtin14(one.gtin) === gtin) : undefined
  if (!level && !sameCode(stop.sku, code)) {
    return refused(
      reason("pick.wrong-item", { scanned: code, sku: stop.sku, description: stop.description, bin: stop.bin }),
    )
  }
  return confirmQuantity(stop, (level?.count ?? 1) * times)
}

/** Whether a quantity can still be taken at a stop. */
export function confirmQuantity(stop: PickStop, quantity: number): Outcome<number> {
  const left = stop.quantity - stop.picked
  if (!Number.isInteger(quantity) || quantity < 1) return refused(reason("pick.quantity", { quantity }))
  if (quantity > left) return refused(reason("pick.too-many", { quantity, left, sku: stop.sku }))
  return accepted(quantity)
}
