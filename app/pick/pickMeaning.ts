import {
  confirmBin,
  confirmItem,
  confirmLot,
  confirmQuantity,
  confirmTote,
  type PickStop,
  type ScanStep,
  stepsLeft,
  toteNames,
} from "core/picking/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { readings } from "core/scanning/index.ts"
import { say } from "words/index.ts"
import { sayPieces } from "words/reasons.ts"

/** What is confirmed of the stop in hand: travels with each scan, so that the server keeps no state of the walk. */
export interface PickHand {
  readonly allocation: number
  readonly bin: string
  readonly tote: string
  readonly lot: string
  readonly item: string
}

export const emptyHand: PickHand = { allocation: 0, bin: "", tote: "", lot: "", item: "" }

/** What is still good at a stop of what was scanned at the one before: the same bin, one of the order's totes. */
export const handAt = (stop: PickStop | null, before: PickHand): PickHand => {
  if (!stop) return emptyHand
  if (before.allocation === stop.allocationId) return before
  return {
    allocation: stop.allocationId,
    bin: before.bin && confirmBin(stop, before.bin).ok ? before.bin : "",
    tote: before.tote && confirmTote(stop, before.tote).ok ? before.tote : "",
    lot: "",
    item: "",
  }
}

/** What a text means at a stop. */
export type PickMeaning =
  | { readonly kind: "step"; readonly step: Exclude<ScanStep, "item">; readonly value: string }
  | { readonly kind: "take"; readonly item: string; readonly times: number; readonly lot: string }
  | { readonly kind: "refused"; readonly why: Reason }

/** Whether a text is an order, a door or a package, so that the clerk means to go there. */
const leadsAway = (text: string): boolean =>
  readings(text).some((reading) => ["order", "door", "sscc", "package", "run"].includes(reading.kind))

/** Bare digits of up to four places are how many were taken at this bin in all. */
const quantityOf = (text: string): number | null => (/^\d{1,4}$/.test(text) ? Number(text) : null)

/**
 * What a text means at a stop, for the screen before Enter and for the server after it. Bin, tote and lot are known
 * whenever they are scanned; pieces count when all that the stop asks for was scanned. Null: nothing of ours.
 */
export function pickMeaning(stop: PickStop, hand: PickHand, text: string): PickMeaning | null {
  const left = stepsLeft(stop, hand)
  const refuse = (why: Reason): PickMeaning => ({ kind: "refused", why })
  const wait = (step: ScanStep) =>
    refuse(
      reason(`pick.${step}-first`, { bin: stop.bin, tote: toteNames(stop.totes), lot: stop.lot ?? "", sku: stop.sku }),
    )
  const [bin, tote, lot] = [confirmBin(stop, text), confirmTote(stop, text), confirmLot(stop, text)]
  if (bin.ok) return { kind: "step", step: "bin", value: bin.value }
  if (tote.ok) return { kind: "step", step: "tote", value: tote.value }
  if (lot.ok) return { kind: "step", step: "lot", value: lot.value }
  const total = quantityOf(text)
  const code = readings(text).find((reading) => reading.kind === "gtin")
  const item = code?.kind === "gtin" ? code.gtin : text
  const taken = confirmItem(stop, item)
  const isItem = taken.ok || taken.reasons[0]?.code !== "pick.wrong-item"
  if (left[0] === "bin") {
    if (total !== null || isItem) return wait("bin")
    return leadsAway(text) ? null : refuse(bin.reasons[0] as Reason)
  }
  if (total !== null) {
    if (left[0]) return wait(left[0])
    if (stop.steps.item && !hand.item) return wait("item")
    const more = confirmQuantity(stop, total - stop.picked)
    return more.ok
      ? { kind: "take", item: stop.sku, times: more.value, lot: hand.lot }
      : refuse(more.reasons[0] as Reason)
  }
  if (isItem) {
    // the code of an item may carry its lot
    const scannedLot = code?.kind === "gtin" && code.lot && stop.lot !== null ? code.lot : ""
    if (scannedLot) {
      const right = confirmLot(stop, scannedLot)
      if (!right.ok) return refuse(right.reasons[0] as Reason)
    }
    const first = left.find((step) => !(step === "lot" && scannedLot))
    if (first) return wait(first)
    return taken.ok ? { kind: "take", item, times: 1, lot: scannedLot || hand.lot } : refuse(taken.reasons[0] as Reason)
  }
  if (leadsAway(text)) return null
  if (left[0] === "tote") return refuse(tote.reasons[0] as Reason)
  if (left[0] === "lot") return refuse(lot.reasons[0] as Reason)
  return refuse(taken.ok ? reason("pick.no-such-stop") : (taken.reasons[0] as Reason))
}

/** A meaning in words, shown before Enter: what is right, and what is to be scanned next, as the plate will say. */
export function pickInWords(stop: PickStop, hand: PickHand, meant: Exclude<PickMeaning, { kind: "refused" }>): string {
  if (meant.kind === "take") {
    const taken = confirmItem(stop, meant.item, meant.times)
    const pieces = taken.ok ? taken.value : meant.times
    return say("pick.taken", { n: sayPieces(stop.levels, meant.item, pieces), sku: stop.sku, bin: stop.bin })
  }
  const next = stepsLeft(stop, { ...hand, [meant.step]: meant.value })[0] ?? "item"
  const right = say(`pick.right.${meant.step}`, { value: meant.step === "bin" ? stop.bin : meant.value })
  const then = say(`pick.next.${next}`, {
    bin: stop.bin,
    tote: toteNames(stop.totes),
    lot: stop.lot ?? "",
    description: stop.description,
  })
  return `${right} ${then}`
}
