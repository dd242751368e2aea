import type { AllocationId, OrderId } from "core/ids/index.ts"
import { type ShortReason, type ShortWay, shortReasons, shortWays } from "core/picking/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { recordShort } from "server/decisions/short.ts"
import type { Work } from "server/http/context.ts"
import { confirmStop, type OrderStop, pick, skipStop, undoTake } from "server/picking/index.ts"
import { say } from "words/index.ts"
import { sayPieces, sayReasons } from "words/reasons.ts"
import { onceKey } from "../shell/once.server.ts"
import type { Answer } from "../shell/Sill.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { type PickHand, pickInWords, pickMeaning } from "./pickMeaning.ts"

export interface PickAnswer {
  readonly answer: Answer
  readonly hand?: PickHand
}

/** What people do at a stop, of an order picked alone or of a run: scans, a quantity by hand, skipping, shorts, undoing. */
export async function pickAction(
  work: Work,
  form: FormData,
  scope: { readonly orderId: OrderId } | { readonly runId: number },
  stops: readonly OrderStop[],
): Promise<PickAnswer> {
  const word = (name: string) =>
    String(form.get(name) ?? "")
      .trim()
      .slice(0, 120)
  const hand: PickHand = {
    allocation: Number(word("allocation")) || 0,
    bin: word("bin"),
    tote: word("tote"),
    lot: word("lot"),
    item: word("item"),
  }
  const scanId = onceKey(form)
  if (word("intent") === "undo") {
    const outcome = await undoTake(work, scope, word("take"))
    if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
    const { quantity, sku, bin } = outcome.value
    return done(quantity === 0 ? say("pick.undone-before") : say("pick.undone", { n: quantity, sku, bin }))
  }
  const stop = stops.find((one) => one.allocationId === hand.allocation)
  if (word("intent") === "by-hand") {
    if (!stop) return refusal(say("pick.no-such-stop"))
    const attempt = { ...hand, scanId, allocationId: stop.allocationId, bin: stop.bin, item: null }
    return answer(stop, hand, await pick(work, stop.orderId, { ...attempt, times: Number(word("quantity")) }))
  }
  if (word("intent") === "skip") {
    const outcome = await skipStop(work, hand.allocation)
    return outcome.ok ? done("") : refusal(sayReasons(outcome.reasons))
  }
  if (word("intent") === "short") return short(work, form, hand.allocation, scanId)
  const text = word("text")
  if (!stop) return followScan(work, text)
  const meant = pickMeaning(stop, hand, text)
  if (!meant) return followScan(work, text)
  if (meant.kind === "refused") {
    // a wrong bin is noted on the order's story
    if (meant.why.code === "pick.wrong-bin") await confirmStop(work, stop.orderId, stop.allocationId, text)
    return { ...refusal(sayReasons([meant.why])), hand }
  }
  if (meant.kind === "step") {
    if (meant.step === "bin") {
      const outcome = await confirmStop(work, stop.orderId, stop.allocationId, text)
      if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
    }
    return { ...done(pickInWords(stop, hand, meant)), hand: { ...hand, [meant.step]: meant.value } }
  }
  const attempt = {
    ...hand,
    scanId,
    allocationId: stop.allocationId,
    item: meant.item,
    times: meant.times,
    lot: meant.lot,
  }
  return answer(stop, { ...hand, lot: meant.lot, item: meant.item }, await pick(work, stop.orderId, attempt))
}

function answer(stop: OrderStop, hand: PickHand, outcome: Outcome<{ taken: number }>): PickAnswer {
  if (!outcome.ok) return { ...refusal(sayReasons(outcome.reasons)), hand }
  const n = sayPieces(stop.levels, hand.item, outcome.value.taken)
  return { ...done(say("pick.taken", { n, sku: stop.sku, bin: stop.bin })), hand }
}

async function short(work: Work, form: FormData, allocationId: AllocationId, scanId: string): Promise<PickAnswer> {
  const why = String(form.get("why")) as ShortReason
  const way = String(form.get("way")) as ShortWay
  if (!shortReasons.includes(why) || !shortWays.includes(way)) return refusal(say("short.none"))
  const outcome = await recordShort(work, { scanId, allocationId, why, way })
  if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
  const { missing, part, bins } = outcome.value
  const key = part ? "part" : way === "back-order" || way === "warehouse" ? "wait" : way
  return done(say(`short.done.${key}`, { missing, part: part ?? "", bins: bins.join(", ") }))
}
