import { localDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { reasonOf, refused } from "core/refusal/index.ts"
import { redirect } from "react-router"
import { bookForm, saveAddress } from "server/addresses/book.ts"
import { addressForm, changeAddress } from "server/decisions/address.ts"
import { cancelByHand, type PutBack } from "server/decisions/cancel.ts"
import { confirmAddress, proposeFor } from "server/decisions/checkAddress.ts"
import { checkAgain, holdOrder } from "server/decisions/hold.ts"
import { joinOrders, partOrder } from "server/decisions/join.ts"
import { changeLines, linesChange } from "server/decisions/lines.ts"
import { choosePattern } from "server/decisions/pattern.ts"
import { setPriority } from "server/decisions/priority.ts"
import { changePromise } from "server/decisions/promise.ts"
import { makeWhole, reroute, splitOver } from "server/decisions/reroute.ts"
import { waive } from "server/decisions/waive.ts"
import type { Work } from "server/http/context.ts"
import { type Decided, decideChange } from "server/intake/change.ts"
import type { OrderSummary } from "server/orders/facts.ts"
import { mark } from "server/orders/marks.ts"
import { partyForm, saveParty } from "server/orders/parties.ts"
import { orderRow } from "server/orders/row.ts"
import { recallOutside, sendOutside } from "server/outside/index.ts"
import { voidAndCancel, waitForCancel } from "server/shipping/cancel.ts"
import { say } from "words/index.ts"
import { sayIssues, sayReasons, wordFor } from "words/reasons.ts"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { withRights } from "../shell/work.ts"

/** The lines of an order as the lead typed them, read and changed. */
async function changedLines(work: Work, orderId: OrderId, form: FormData) {
  const text = (name: string) => String(form.get(name) ?? "").trim()
  const whole = (typed: string) => (/^\d{1,6}$/.test(typed) ? Number(typed) : Number.NaN)
  const read = linesChange.safeParse({
    version: text("version"),
    why: text("why"),
    pieces: [...form.keys()].flatMap((name) => {
      const line = /^pieces-(\d{1,10})$/.exec(name)?.[1]
      return line ? [[Number(line), whole(text(name))]] : []
    }),
    added: text("sku") === "" ? null : { sku: text("sku"), pieces: whole(text("added")) },
  })
  if (read.success) return changeLines(work, orderId, read.data)
  const codes = read.error.issues.map((issue) => (issue.message.startsWith("lines.") ? issue.message : "lines.pieces"))
  return refused(...[...new Set(codes)].map((code) => reasonOf(code)))
}

/** A sentence, and what has to be carried back to its bin after it. */
const withCarrying = (words: string, back: readonly PutBack[]): string =>
  back.length === 0
    ? words
    : `${words} ${say("change.carry", { back: back.map((one) => `${one.quantity} × ${one.sku} → ${one.bin}`).join(", ") })}`

/** What became of a change, whoever decided it. */
function decidedInWords({ kind, decision, by, before, back }: Decided): string {
  const what = decision === "keep" ? "kept" : kind === "cancelled" ? "cancelled" : "taken"
  if (before) return say(`change.${what}-by`, { by })
  return withCarrying(say(what === "cancelled" ? "change.cancelled-now" : `change.${what}`), back)
}

/** Does what a form on an order's page asks for, and says what came of it. */
export function orderAction(work: Work, order: OrderSummary, form: FormData) {
  return withRights(async () => {
    switch (form.get("intent")) {
      case "address": {
        const fields = addressForm.safeParse(Object.fromEntries(form))
        if (!fields.success)
          return refusal(
            fields.error.issues
              .map((issue) => `${wordFor("order", String(issue.path[0]))}: ${issue.message}`)
              .join("; "),
          )
        const outcome = await changeAddress(work, order.id, fields.data)
        return outcome.ok ? done(say("order.saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "hold":
      case "release":
        await holdOrder(work, order.id, form.get("intent") === "hold")
        return done("")
      case "party": {
        const fields = partyForm.safeParse(Object.fromEntries(form))
        if (!fields.success) return refusal(sayIssues(fields.error.issues))
        const outcome = await saveParty(work, order.id, fields.data)
        return outcome.ok ? done(say("order.saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "propose": {
        const outcome = await proposeFor(work, order.id)
        return outcome.ok ? { ...done(""), proposal: outcome.value } : refusal(sayReasons(outcome.reasons))
      }
      case "confirm": {
        const outcome = await confirmAddress(work, order.id, Number(form.get("version")))
        return outcome.ok ? done(say("ship-to.confirmed")) : refusal(sayReasons(outcome.reasons))
      }
      case "to-book": {
        const row = await orderRow(work.db, work.warehouse.id, order.id)
        const fields = bookForm.safeParse({ ...row, customer: order.customer, code: String(form.get("code") ?? "") })
        if (!fields.success) return refusal(sayIssues(fields.error.issues))
        const outcome = await saveAddress(work, fields.data, null)
        return outcome.ok ? done(say("ship-to.in-book")) : refusal(sayReasons(outcome.reasons))
      }
      case "take-change":
      case "keep-change": {
        const take = form.get("intent") === "take-change"
        const outcome = await decideChange(work, order.id, Number(form.get("change")) || 0, take ? "take" : "keep")
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        return done(decidedInWords(outcome.value))
      }
      case "void-cancel": {
        const outcome = await voidAndCancel(work, order.id)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        const back = await waitForCancel(work, order.id, 3_000)
        return done(back === null ? say("order.void-asked") : withCarrying(say("order.void-cancelled"), back))
      }
      case "pass": {
        const outcome = await waive(work, order.id, String(form.get("code") ?? ""))
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        return outcome.value.length === 0 ? done(say("story.order.stop-ended")) : refusal(sayReasons(outcome.value))
      }
      case "promise": {
        const day = String(form.get("promised_on") ?? "")
        const outcome = await changePromise(work, order.id, day || null, localDate(work.now, work.warehouse.zone))
        return outcome.ok ? done(say("order.promise-saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "tag":
      case "untag":
      case "note":
      case "drop-note": {
        const what = form.get("intent") as "tag" | "untag" | "note" | "drop-note"
        const outcome = await mark(
          work,
          order.id,
          what === "note"
            ? { what, text: String(form.get("note") ?? "") }
            : what === "drop-note"
              ? { what, id: Number(form.get("note")) || 0 }
              : { what, tag: String(form.get("tag") ?? "") },
        )
        return outcome.ok ? done("") : refusal(sayReasons(outcome.reasons))
      }
      case "reroute": {
        const outcome = await reroute(work, order.id, Number(form.get("warehouse")) || 0)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        throw redirect("/orders")
      }
      case "split": {
        const outcome = await splitOver(work, order.id, Number(form.get("warehouse")) || 0)
        return outcome.ok ? done(say("split.done", outcome.value)) : refusal(sayReasons(outcome.reasons))
      }
      case "whole": {
        const outcome = await makeWhole(work, order.id)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        if (outcome.value.orderNumber !== order.orderNumber) throw redirect(`/orders/${outcome.value.orderNumber}`)
        return done(say("split.whole"))
      }
      case "outside": {
        const outcome = await sendOutside(work, order.id, Number(form.get("warehouse")) || 0)
        return outcome.ok ? done(say("outside.sent")) : refusal(sayReasons(outcome.reasons))
      }
      case "recall": {
        const outcome = await recallOutside(work, order.id)
        return outcome.ok ? done(say("outside.recalled")) : refusal(sayReasons(outcome.reasons))
      }
      case "join": {
        const outcome = await joinOrders(work, form.getAll("order").map(Number).filter(Number.isInteger))
        return outcome.ok
          ? done(say("combine.done-led", { lead: outcome.value.lead }))
          : refusal(sayReasons(outcome.reasons))
      }
      case "part": {
        const outcome = await partOrder(work, order.id)
        return outcome.ok ? done(say("combine.parted")) : refusal(sayReasons(outcome.reasons))
      }
      case "pattern": {
        const outcome = await choosePattern(work, order.id, Number(form.get("pattern")) || null)
        return outcome.ok ? done(say("order.pattern-done")) : refusal(sayReasons(outcome.reasons))
      }
      case "priority": {
        const outcome = await setPriority(work, order.id, Number(form.get("priority")))
        return outcome.ok ? done(say("order.priority-saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "cancel": {
        const outcome = await cancelByHand(work, order.id)
        return outcome.ok
          ? done(withCarrying(say("change.cancelled-now"), outcome.value.back))
          : refusal(sayReasons(outcome.reasons))
      }
      case "lines": {
        const outcome = await changedLines(work, order.id, form)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        const { changed, back } = outcome.value
        return done(withCarrying(say(changed === 0 ? "lines.same" : "lines.changed"), back))
      }
      case "check": {
        const reasons = await checkAgain(work, order.id)
        return reasons.length === 0 ? done(say("story.order.stop-ended")) : refusal(sayReasons(reasons))
      }
      default:
        return followScan(work, String(form.get("text") ?? "").slice(0, 120))
    }
  })
}
