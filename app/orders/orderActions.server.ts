import { localDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { type Reason, reasonOf, refused } from "core/refusal/index.ts"
import { redirect } from "react-router"
import { bookForm, saveAddress } from "server/addresses/book.ts"
import { addressForm, changeAddress } from "server/decisions/address.ts"
import { cancelByHand, type PutBack } from "server/decisions/cancel.ts"
import { confirmAddress, proposeFor } from "server/decisions/checkAddress.ts"
import { checkAgain, holdOrder } from "server/decisions/hold.ts"
import { joinOrders, partOrder } from "server/decisions/join.ts"
import { changeLines, linesChange } from "server/decisions/lines.ts"
import { removeOwnPaper } from "server/decisions/ownPapers.ts"
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
import { recordElsewhere } from "server/outside/elsewhere.ts"
import { handedForm, handOver } from "server/outside/handed.ts"
import { recallOutside, sendOutside } from "server/outside/index.ts"
import { voidAndCancel, waitForCancel } from "server/shipping/cancel.ts"
import { freightLineForm, setFreightLine } from "server/shipping/freightLine.ts"
import { orderTellingForm, saveOrderTelling, tellReady } from "server/telling/manage.ts"
import { byHandForm, noteByHand } from "server/tracking/own.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { claimActs } from "../parts/claimActs.server.ts"
import { returnActs } from "../parts/returns.server.ts"
import { act, always, field, nothing, onlyChanged } from "../shell/acts.server.ts"
import { done, refusal } from "../shell/scan.server.ts"

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

/** What the forms on an order's page ask for. */
export function orderActs(work: Work, order: OrderSummary) {
  const saved = () => say("order.saved")
  const hold = (held: boolean) => act(nothing, () => always(holdOrder(work, order.id, held)))
  const decide = (how: "take" | "keep") =>
    act(z.object({ change: field.id }), (_, { change }) => decideChange(work, order.id, change, how), decidedInWords)
  const ended = (reasons: readonly Reason[]) =>
    reasons.length === 0 ? say("story.order.stop-ended") : refusal(sayReasons(reasons))
  const warehouse = z.object({ warehouse: field.id })
  const tag = z.object({ tag: field.text() })
  return {
    address: act(addressForm, (_, fields) => changeAddress(work, order.id, fields), saved),
    hold: hold(true),
    release: hold(false),
    party: act(partyForm, (_, fields) => saveParty(work, order.id, fields), saved),
    propose: act(
      nothing,
      () => proposeFor(work, order.id),
      (proposal) => ({ ...done(""), proposal }),
    ),
    confirm: act(
      z.object({ version: field.version }),
      (_, { version }) => confirmAddress(work, order.id, version),
      () => say("ship-to.confirmed"),
    ),
    "to-book": act(
      z.object({ code: field.text(24) }),
      async (_, { code }) => {
        const row = await orderRow(work.db, work.warehouse.id, order.id)
        const fields = bookForm.safeParse({ ...row, customer: order.customer, code })
        return fields.success
          ? saveAddress(work, fields.data, null)
          : refused(...fields.error.issues.map((issue) => reasonOf(issue.message)))
      },
      () => say("ship-to.in-book"),
    ),
    "take-change": decide("take"),
    "keep-change": decide("keep"),
    "void-cancel": act(
      nothing,
      () => voidAndCancel(work, order.id),
      async () => {
        const back = await waitForCancel(work, order.id, 3_000)
        return back === null ? say("order.void-asked") : withCarrying(say("order.void-cancelled"), back)
      },
    ),
    pass: act(z.object({ code: field.text() }), (_, { code }) => waive(work, order.id, code), ended),
    promise: act(
      z.object({ promised_on: field.text(10) }),
      (_, { promised_on }) =>
        changePromise(work, order.id, promised_on || null, localDate(work.now, work.warehouse.zone)),
      () => say("order.promise-saved"),
      { at: { "order.promise-day": "promised_on", "order.promise-gone": "promised_on" } },
    ),
    tag: act(
      tag,
      (_, { tag }) => mark(work, order.id, { what: "tag", tag }),
      () => "",
      { at: { "tag.empty": "tag" } },
    ),
    untag: act(tag, (_, { tag }) => mark(work, order.id, { what: "untag", tag })),
    note: act(
      z.object({ note: z.string().max(2_000).default("") }),
      (_, { note }) => mark(work, order.id, { what: "note", text: note }),
      () => "",
      { at: { "note.empty": "note" } },
    ),
    "drop-note": act(z.object({ note: field.id }), (_, { note }) =>
      mark(work, order.id, { what: "drop-note", id: note }),
    ),
    reroute: act(
      warehouse,
      (_, to) => reroute(work, order.id, to.warehouse),
      () => {
        throw redirect("/orders")
      },
    ),
    split: act(
      warehouse,
      (_, to) => splitOver(work, order.id, to.warehouse),
      (split) => say("split.done", split),
    ),
    whole: act(
      nothing,
      () => makeWhole(work, order.id),
      ({ orderNumber }) => {
        if (orderNumber !== order.orderNumber) throw redirect(`/orders/${orderNumber}`)
        return say("split.whole")
      },
    ),
    outside: act(
      warehouse,
      (_, to) => sendOutside(work, order.id, to.warehouse),
      () => say("outside.sent"),
    ),
    "hand-over": act(
      handedForm.omit({ onPaper: true }).extend({ onPaper: field.tick }),
      (_, said) => handOver(work, order.id, said),
      ({ packages }) => say("handed.saved", { order: order.orderNumber, packages }),
    ),
    telling: act(
      orderTellingForm,
      (_, said, { changed }) => saveOrderTelling(work, order.id, onlyChanged(said, changed)),
      () => say("tell.saved", { order: order.orderNumber }),
    ),
    "tell-ready": act(
      nothing,
      () => tellReady(work, order.id),
      ({ told, before }) => say(told === 0 && before > 0 ? "tell.was-ready" : "tell.is-ready", { n: told || before }),
    ),
    tracked: act(
      byHandForm.extend({ unit: field.id }),
      (_, { unit, ...said }) => noteByHand(work, unit, said),
      ({ name }) => say("tracking.is-marked", { package: name }),
    ),
    elsewhere: act(
      z.object({
        carrier: field.text(60),
        service: field.text(60),
        tracking: field.text(1000),
        shippedOn: field.text(10),
        cost: field.text(12),
        currency: field.text(3),
      }),
      (_, text) => recordElsewhere(work, order.id, text),
      () => say("elsewhere.saved", { order: order.orderNumber }),
    ),
    recall: act(
      nothing,
      () => recallOutside(work, order.id),
      () => say("outside.recalled"),
    ),
    join: act(
      z.object({ order: field.many(field.id) }),
      (_, orders) => joinOrders(work, orders.order),
      ({ lead }) => say("combine.done-led", { lead }),
    ),
    part: act(
      nothing,
      () => partOrder(work, order.id),
      () => say("combine.parted"),
    ),
    pattern: act(
      z.object({ pattern: field.id }),
      (_, { pattern }) => choosePattern(work, order.id, pattern || null),
      () => say("order.pattern-done"),
    ),
    priority: act(
      z.object({ priority: field.count }),
      (_, { priority }) => setPriority(work, order.id, priority),
      () => say("order.priority-saved"),
    ),
    cancel: act(
      nothing,
      () => cancelByHand(work, order.id),
      ({ back }) => withCarrying(say("change.cancelled-now"), back),
    ),
    "drop-paper": act(
      z.object({ paper: field.id }),
      (_, { paper }) => removeOwnPaper(work, { owner: "order", id: order.id }, paper),
      ({ name }) => say("own-paper.removed", { name }),
    ),
    lines: act(
      z.looseObject({}),
      (_, __, { form }) => changedLines(work, order.id, form),
      ({ changed, back }) => withCarrying(say(changed === 0 ? "lines.same" : "lines.changed"), back),
      { at: { "lines.no-such-item": "sku", "lines.why-needed": "why", "lines.why-long": "why" } },
    ),
    ...returnActs(work, order.id),
    ...claimActs,
    "freight-line": act(
      freightLineForm,
      (work, said, { key }) => setFreightLine(work, order.id, said, key),
      ({ amount }) => say("freight.set", { amount }),
    ),
    check: act(nothing, () => always(checkAgain(work, order.id)), ended),
  }
}
