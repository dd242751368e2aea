import type { OrderId, PickRunId } from "core/ids/index.ts"
import { shortReasons, shortWays } from "core/picking/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { recordShort } from "server/decisions/short.ts"
import type { Work } from "server/http/context.ts"
import { confirmStop, type OrderStop, pick, skipStop, undoTake } from "server/picking/index.ts"
import { say } from "words/index.ts"
import { sayPieces, sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { type Answered, act, field } from "../shell/acts.server.ts"
import { onceKey } from "../shell/once.server.ts"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { type PickHand, pickInWords, pickMeaning } from "./pickMeaning.ts"

export interface PickAnswer extends Answered {
  readonly hand?: PickHand
}

const handFields = z.object({
  allocation: field.id,
  bin: field.text(),
  tote: field.text(),
  lot: field.text(),
  item: field.text(),
})
type Scope = { readonly orderId: OrderId } | { readonly runId: PickRunId }
type Stops = () => Promise<readonly OrderStop[]>

/** What people do at a stop beside scanning, of an order picked alone or of a run: a quantity by hand, skipping, shorts, undoing. */
export const pickActs = (scope: Scope, stops: Stops) => ({
  undo: act(
    z.object({ take: field.text() }),
    (work, { take }) => undoTake(work, scope, take),
    ({ quantity, sku, bin }) =>
      quantity === 0 ? say("pick.undone-before") : say("pick.undone", { n: quantity, sku, bin }),
  ),
  "by-hand": act(
    handFields.extend({ quantity: field.count }),
    async (work, { quantity, ...hand }, { key }) => {
      const stop = (await stops()).find((one) => one.allocationId === hand.allocation)
      if (!stop) return refused(reason("pick.no-such-stop"))
      const attempt = { ...hand, scanId: key, allocationId: stop.allocationId, bin: stop.bin, item: null }
      return accepted(answer(stop, hand, await pick(work, stop.orderId, { ...attempt, times: quantity })))
    },
    (answered) => answered,
  ),
  skip: act(z.object({ allocation: field.id }), (work, { allocation }) => skipStop(work, allocation)),
  short: act(
    z.object({
      allocation: field.id,
      why: z.enum(shortReasons, { error: "short.none" }),
      way: z.enum(shortWays, { error: "short.none" }),
    }),
    (work, { allocation, why, way }, { key }) => recordShort(work, { scanId: key, allocationId: allocation, why, way }),
    ({ missing, part, bins }, { way }) => {
      const done = part ? "part" : way === "back-order" || way === "warehouse" ? "wait" : way
      return say(`short.done.${done}`, { missing, part: part ?? "", bins: bins.join(", ") })
    },
  ),
})

/** A scan at a stop: a step of it, or pieces. What means nothing there leads where its code belongs. */
export async function pickScan(
  work: Work,
  text: string,
  form: FormData,
  stops: readonly OrderStop[],
): Promise<PickAnswer> {
  const hand: PickHand = handFields.parse(Object.fromEntries(form))
  const scanId = onceKey(form)
  const stop = stops.find((one) => one.allocationId === hand.allocation)
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
