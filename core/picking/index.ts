import { gtin14 } from "../barcodes/index.ts"
import { identifier } from "../identifier/index.ts"
import type { AllocationId, UserId } from "../ids/index.ts"
import { accepted, type Outcome, reason, refused } from "../refusal/index.ts"

export * from "./allocate.ts"
export { exactMetres } from "./exact.ts"
export * from "./measure.ts"
export * from "./runs.ts"
export * from "./walk.ts"

/** One level of an item's packaging with its own GTIN; `count` base units are inside. */
export interface ItemLevel {
  readonly name: string
  readonly gtin: string | null
  readonly count: number
}

/** What is scanned at a stop; each can be switched off for a warehouse or an item. */
export const scanSteps = ["bin", "item", "lot", "tote"] as const
export type ScanStep = (typeof scanSteps)[number]
export type ScanSteps = Readonly<Record<ScanStep, boolean>>

/** What is scanned where it is not set otherwise. */
export const usualSteps: ScanSteps = { bin: true, item: true, lot: false, tote: true }

/** The steps of an item: what it says itself, then what its warehouse says, then the usual. */
export const stepsOf = (warehouse: Partial<ScanSteps>, item: Partial<ScanSteps>): ScanSteps => ({
  ...usualSteps,
  ...warehouse,
  ...item,
})

/** Why pieces are not at a stop. */
export const shortReasons = ["empty", "too-few", "damaged", "wrong-goods", "lot-bad"] as const
export type ShortReason = (typeof shortReasons)[number]

/** What becomes of pieces that are not where they should be. */
export const shortWays = ["elsewhere", "warehouse", "back-order", "wait", "cancel"] as const
export type ShortWay = (typeof shortWays)[number]

/** One stop of the walk: a quantity of an item (and lot) to take from a bin for one order, in base units. */
export interface PickStop {
  readonly allocationId: AllocationId
  readonly line: string
  readonly bin: string
  /** The bin's place in the plain order of the aisles. */
  readonly binOrder: number
  readonly sku: string
  readonly description: string
  readonly lot: string | null
  readonly levels: readonly ItemLevel[]
  readonly quantity: number
  readonly picked: number
  /** What must be scanned here. */
  readonly steps: ScanSteps
  /** Codes of the totes that the order's goods go into; none where it is picked without. */
  readonly totes: readonly string[]
  /** When it was passed over to come back to; null: it was not. */
  readonly skippedAt: Date | null
  /** Who works at it just now, by user's id. */
  readonly claimedBy: number | null
}

/** Stops in the order in which bins are visited, those of one bin by their line; bins that are not named come last. */
export function walkOrder<S extends PickStop>(stops: readonly S[], bins: readonly string[] = []): S[] {
  const at = new Map(bins.map((bin, index) => [bin, index]))
  const place = (stop: PickStop) => at.get(stop.bin) ?? bins.length
  return [...stops].sort(
    (a, b) =>
      place(a) - place(b) ||
      a.binOrder - b.binOrder ||
      a.bin.localeCompare(b.bin) ||
      (a.totes[0] ?? "").localeCompare(b.totes[0] ?? "", "en", { numeric: true }) ||
      a.line.localeCompare(b.line),
  )
}

/**
 * The stop that comes next for a person, or null when all is picked: the one that he has, else the first in the walk that
 * was not passed over and that nobody else has; then what was passed over, the longest ago first; at last what others have.
 *
 * @param stops in the order of the walk
 */
export function nextStop<S extends PickStop>(stops: readonly S[], userId: UserId | null = null): S | null {
  const open = stops.filter((stop) => stop.picked < stop.quantity)
  const mine = open.filter((stop) => stop.claimedBy === null || stop.claimedBy === userId)
  const passed = mine
    .filter((stop) => stop.skippedAt !== null)
    .sort((a, b) => (a.skippedAt?.getTime() ?? 0) - (b.skippedAt?.getTime() ?? 0))
  const ahead = mine.filter((stop) => stop.skippedAt === null)
  const own = userId === null ? undefined : ahead.find((stop) => stop.claimedBy === userId)
  return own ?? ahead[0] ?? passed[0] ?? open[0] ?? null
}

/** Codes of our own are compared without case, blanks and separators: `a-03-1` is bin A-03-1. */
export const sameCode = (a: string, b: string): boolean => plain(a) === plain(b)
const plain = (code: string) => code.toUpperCase().replace(/[\s.\-_/]/g, "")

/** A lot is its maker's number and compares byte by byte: A1, a1 and A-1 may be three. */
export const sameLot = (a: string, b: string): boolean => identifier(a) === identifier(b)

/** Whether a scanned or typed bin code is that of the stop. */
export function confirmBin(stop: PickStop, code: string): Outcome<string> {
  return sameCode(stop.bin, code)
    ? accepted(stop.bin)
    : refused(reason("pick.wrong-bin", { scanned: code, bin: stop.bin }))
}

/** Whether a scanned or typed lot is that of the stop. */
export function confirmLot(stop: PickStop, code: string): Outcome<string> {
  if (stop.lot === null) return refused(reason("pick.no-lot", { sku: stop.sku }))
  return sameLot(stop.lot, code)
    ? accepted(stop.lot)
    : refused(reason("pick.wrong-lot", { scanned: code, lot: stop.lot, sku: stop.sku }))
}

/** Whether a scanned or typed tote is one of the order's. */
export function confirmTote(stop: PickStop, code: string): Outcome<string> {
  const tote = stop.totes.find((one) => sameCode(one, code))
  return tote ? accepted(tote) : refused(reason("pick.wrong-tote", { scanned: code, tote: toteNames(stop.totes) }))
}

/** Tote codes for reading: those that follow one another as a range, `T101–T105 T108`. */
export function toteNames(totes: readonly string[]): string {
  const parts: { first: string; last: string; at: number }[] = []
  for (const tote of totes) {
    const [, head = "", digits = ""] = /^(.*?)(\d*)$/.exec(tote) ?? []
    const before = parts.at(-1)
    const follows = before && digits !== "" && `${head}${before.at + 1}` === tote
    if (follows) {
      before.last = tote
      before.at += 1
    } else parts.push({ first: tote, last: tote, at: digits === "" ? Number.NaN : Number(digits) })
  }
  return parts.map((part) => (part.first === part.last ? part.first : `${part.first}–${part.last}`)).join(" ")
}

/** What was scanned at a stop so far. */
export interface Scanned {
  readonly bin: string
  readonly lot: string
  readonly tote: string
}

/** The steps that are still to be scanned before pieces count, in the order in which they are asked for. */
export function stepsLeft(stop: PickStop, scanned: Scanned): ScanStep[] {
  const left: ScanStep[] = []
  if (stop.steps.bin && !scanned.bin) left.push("bin")
  if (stop.steps.tote && stop.totes.length > 0 && !scanned.tote) left.push("tote")
  if (stop.steps.lot && stop.lot !== null && !scanned.lot) left.push("lot")
  return left
}

/** The packaging level that a scanned GTIN (in any of its lengths) names; undefined where it names none of these. */
export function levelOf(levels: readonly ItemLevel[], code: string): ItemLevel | undefined {
  const gtin = gtin14(code)
  return gtin ? levels.find((one) => one.gtin !== null && gtin14(one.gtin) === gtin) : undefined
}

/** Pieces as the level of a scanned code counts them: so many of that level; null where it is the piece, or no level's. */
export function asLevel(
  levels: readonly ItemLevel[],
  code: string,
  pieces: number,
): { name: string; n: number } | null {
  const level = levelOf(levels, code)
  if (!level || level.count < 2 || pieces % level.count !== 0) return null
  const n = pieces / level.count
  return { name: n === 1 ? level.name : `${level.name}${/(?:s|x|ch|sh)$/.test(level.name) ? "es" : "s"}`, n }
}

/** GTIN of one piece in 14 digits, for papers; null where there is none, or not a right one. */
export function pieceGtin(levels: readonly ItemLevel[]): string | null {
  const gtin = levels.find((level) => level.count === 1)?.gtin
  return gtin ? gtin14(gtin) : null
}

/**
 * How many base units a scanned or typed item code takes at a stop: a GTIN counts what its level holds, the SKU one.
 * Refuses another item, and more than the stop still needs.
 */
export function confirmItem(stop: PickStop, code: string, times = 1): Outcome<number> {
  const level = levelOf(stop.levels, code)
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

/** Pieces as they are scanned or typed at a stop, with what was scanned before them. */
export interface PickAttempt extends Scanned {
  /** The item as scanned or typed; null when only the quantity was confirmed by click. */
  readonly item: string | null
  /** How many times that code, or how many pieces without one. */
  readonly times: number
}

/**
 * How many pieces an attempt takes: every step that the stop asks for must have been scanned and be right. A click in
 * place of the item confirms bin, lot and tote too; it is for the caller to mark it.
 */
export function confirmTake(stop: PickStop, attempt: PickAttempt): Outcome<number> {
  if (attempt.item === null) return confirmQuantity(stop, attempt.times)
  for (const step of ["bin", "tote", "lot"] as const) {
    const code = attempt[step]
    if (code) {
      const right = { bin: confirmBin, tote: confirmTote, lot: confirmLot }[step](stop, code)
      if (!right.ok) return right
    } else if (stepsLeft(stop, attempt).includes(step))
      return refused(reason(`pick.${step}-first`, { bin: stop.bin, tote: toteNames(stop.totes), lot: stop.lot ?? "" }))
  }
  return confirmItem(stop, attempt.item, attempt.times)
}
