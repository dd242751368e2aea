import { Decimal } from "decimal.js"
import { type Reason, reason } from "../refusal/index.ts"

/** What is known of cells or batteries in one base unit of an item. */
export interface LithiumFacts {
  readonly unit: "cell" | "battery"
  /** Cells or batteries in one base unit. */
  readonly count: number
  /** Of one cell or battery: watt-hours of an ion one, as text. */
  readonly wattHours: string | null
  /** Of one cell or battery: grams of lithium of a metal one, as text. */
  readonly grams: string | null
  /** Button cells. */
  readonly button: boolean
}

/**
 * The four entries: alone, or in or with equipment (49 CFR 172.101, from memory). The entry of equipment does not tell
 * whether it is in or beside it: cells of an item that is not equipment itself are shipped beside it.
 */
const entries = {
  UN3480: { chemistry: "ion", alone: true },
  UN3481: { chemistry: "ion", alone: false },
  UN3090: { chemistry: "metal", alone: true },
  UN3091: { chemistry: "metal", alone: false },
} as const
export type LithiumEntry = keyof typeof entries
export const isLithium = (unNumber: string): unNumber is LithiumEntry => Object.hasOwn(entries, unNumber)
export const lithiumEntry = (unNumber: LithiumEntry) => entries[unNumber]

/** What must be known of them before a limit can be held against them. */
export function lithiumGaps(
  unNumber: LithiumEntry,
  facts: LithiumFacts | null,
  at: { line: number; sku: string },
): Reason[] {
  const figure = entries[unNumber].chemistry === "ion" ? "wattHours" : "grams"
  const value = facts?.[figure] ?? null
  return facts && facts.count > 0 && value !== null && Number(value) > 0
    ? []
    : [reason(`dangerous.${figure}`, { ...at, unNumber, field: figure })]
}

/**
 * Whether cells or batteries are small enough to be excepted from most rules: ion 20 Wh a cell and 100 Wh a battery,
 * metal 1 g a cell and 2 g a battery, the limit included (49 CFR 173.185(c)(1), from memory).
 */
export function isSmallLithium(unNumber: LithiumEntry, facts: LithiumFacts): boolean {
  const ion = entries[unNumber].chemistry === "ion"
  const most = ion ? (facts.unit === "cell" ? 20 : 100) : facts.unit === "cell" ? 1 : 2
  const value = ion ? facts.wattHours : facts.grams
  return value !== null && new Decimal(value).lte(most)
}

/**
 * Whether a package of small cells needs the lithium battery mark: not for button cells in equipment, nor for up to four
 * cells or two batteries in equipment where the consignment has at most two packages (49 CFR 173.185(c)(3), from memory).
 */
export function needsLithiumMark(
  inside: readonly { readonly unNumber: LithiumEntry; readonly facts: LithiumFacts; readonly pieces: number }[],
  packagesInConsignment: number,
): boolean {
  if (inside.length === 0) return false
  if (inside.some((one) => entries[one.unNumber].alone)) return true
  const counted = inside.filter((one) => !one.facts.button)
  if (counted.length === 0) return false
  const sum = (unit: LithiumFacts["unit"]) =>
    counted.filter((one) => one.facts.unit === unit).reduce((all, one) => all + one.facts.count * one.pieces, 0)
  const [cells, batteries] = [sum("cell"), sum("battery")]
  const few = (batteries === 0 && cells <= 4) || (cells === 0 && batteries <= 2)
  return !(few && packagesInConsignment <= 2)
}
