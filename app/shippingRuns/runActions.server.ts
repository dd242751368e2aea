import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { printOrders } from "core/shippingRuns/index.ts"
import { mass } from "core/units/index.ts"
import { type GroupResult, undoGroup } from "server/decisions/group.ts"
import type { Work } from "server/http/context.ts"
import { orderNumberOf } from "server/orders/row.ts"
import type { Shipment } from "server/packages/shipment.ts"
import { weigh } from "server/packing/index.ts"
import { weighByScale } from "server/packing/scales.ts"
import { printRun } from "server/shipping/printRun.ts"
import { buyRun, giveUpRun, pauseRun, resumeRun, stopRun } from "server/shipping/runs.ts"
import { addToRun, noteSeen, prepareAgain, putAway, runPrints, saveRun, takeOut } from "server/shippingRuns/make.ts"
import { waitPrepared } from "server/shippingRuns/wait.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { changeMany, groupFields, toldUndone, undoFields } from "../parts/group.server.ts"
import { toldGroup } from "../parts/groupAnswer.ts"
import { printed, shippingRunPaper } from "../parts/printed.server.ts"
import { type Answered, act, field, nothing } from "../shell/acts.server.ts"
import { done, orderOfScan, refusal } from "../shell/scan.server.ts"

/** How long an act waits for the worker to pack and rate again, so that the page usually shows it at once. */
const waitMs = 1_500

export const runActs = (work: Work, id: number) => ({
  ...ordersActs(work, id),
  ...weighActs(work, id),
  ...buyActs(id),
})

/** What is done with the orders of a run. */
const ordersActs = (work: Work, id: number) => ({
  group: act(
    z.looseObject(groupFields),
    async (_, asked, { form }): Promise<Outcome<GroupResult | { readonly removed: number }>> => {
      if (asked.what === "remove") return takeOut(work, id, asked.order)
      const changed = await changeMany(work, asked.order, asked, form)
      if (changed.ok) await prepareAgain(work, id, asked.order)
      await waitPrepared(work.db, id, asked.order, waitMs)
      return changed
    },
    (result) =>
      "removed" in result ? say("shipping-run.removed", { n: result.removed }) : toldGroup("group.done", result),
  ),
  undo: act(
    undoFields,
    async (_, { group }) => {
      const undone = await undoGroup(work, group)
      if (undone.ok) await prepareAgain(work, id, null)
      await waitPrepared(work.db, id, null, waitMs)
      return undone
    },
    toldUndone,
  ),
  prepare: act(z.object({ order: field.many(field.id), pack: field.tick }), async (_, { order, pack }) => {
    const asked = await prepareAgain(work, id, order.length > 0 ? order : null, pack)
    if (asked.ok) await waitPrepared(work.db, id, order, waitMs)
    return asked
  }),
  "put-away": act(nothing, () => putAway(work, id, true)),
  "take-out": act(nothing, () => putAway(work, id, false)),
  save: act(
    z.object({
      name: field.text(60),
      prints: z.enum(runPrints).optional(),
      printOrder: z.enum(printOrders).optional(),
    }),
    (_, fields) => saveRun(work, id, fields),
  ),
})

const ofPackage = { order: field.id, package: field.id }

/** Weights, typed or from the scale, down the list. */
const weighActs = (work: Work, id: number) => ({
  weigh: act(z.object({ ...ofPackage, weight: field.text(12) }), (_, { order, package: number, weight }) =>
    weighed(work, id, order, () => {
      const typed = weight.replace(",", ".")
      if (typed !== "" && !/^\d{1,4}(\.\d{1,4})?$/.test(typed))
        return Promise.resolve(refused(reason("pack.number-wanted")))
      return weigh(work, order, number, typed === "" ? null : mass(typed, "lb"))
    }),
  ),
  scale: act(z.object({ ...ofPackage, scale: field.id }), (_, { order, package: number, scale }) =>
    weighed(work, id, order, () => weighByScale(work, order, number, scale || null)),
  ),
})

async function weighed(work: Work, id: number, order: number, does: () => Promise<Outcome<Shipment>>) {
  const outcome = await does()
  if (!outcome.ok) return outcome
  await prepareAgain(work, id, [order])
  await waitPrepared(work.db, id, [order], waitMs)
  return accepted(null)
}

/** Buying a run, and what goes with it. */
const buyActs = (id: number) => ({
  buy: act(z.object({ shipments: z.coerce.number().int().min(0), cost: field.text(20) }), (work, seen) =>
    buyRun(work, id, seen),
  ),
  pause: act(nothing, (work) => pauseRun(work, id)),
  resume: act(nothing, (work) => resumeRun(work, id)),
  stop: act(
    nothing,
    (work) => stopRun(work, id),
    () => say("shipping-run.stopped"),
  ),
  "give-up": act(
    nothing,
    (work) => giveUpRun(work, id),
    ({ n }) => say("shipping-run.given-up", { n }),
  ),
  print: act(
    z.object({ which: z.enum(["unprinted", "all"]).catch("unprinted"), from: field.id }),
    (work, { which, from }, { key }) => printRun(work, id, from ? { from } : which, key),
    ({ labels }) => say("shipping-run.printing", { n: labels }),
  ),
  "print-paper": act(
    z.object({ paper: z.enum(["pick-lists", "slips"], { error: "wish.unknown" }) }),
    (work, { paper }, { key }) => printed(work, shippingRunPaper(work, paper, id), key),
    (name) => say("packing.printed", { name }),
  ),
  seen: act(nothing, (work) => noteSeen(work, id)),
})

/** A scan adds its order to the run. */
export async function scannedIntoRun(work: Work, id: number, text: string, pack: boolean): Promise<Answered> {
  const found = await orderOfScan(work, text)
  if (typeof found !== "number") return refusal(found)
  const orderNumber = (await orderNumberOf(work.db, work.warehouse.id, found)) ?? ""
  const added = await addToRun(work, id, [found], pack && work.warehouse.packInRuns)
  if (!added.ok) return refusal(sayReasons(added.reasons))
  await waitPrepared(work.db, id, [found], waitMs)
  return done(say(added.value.added > 0 ? "shipping-run.added" : "shipping-run.added-before", { orderNumber }))
}
