import { localDate } from "core/calendar/index.ts"
import { reason, refused } from "core/refusal/index.ts"
import { redirect } from "react-router"
import { may } from "server/actors/index.ts"
import { changeGroup, type GroupResult, groupChange, lastGroup } from "server/decisions/group.ts"
import type { Work } from "server/http/context.ts"
import { onceForEachChange } from "server/live/kept.ts"
import { knownTags } from "server/orders/marks.ts"
import { packagingTypes } from "server/packaging/catalog.ts"
import { shipDays } from "server/plan/shipDate.ts"
import { patternRows } from "server/rules/book.ts"
import { openCollections } from "server/setup/collections.ts"
import { servicesByName } from "server/setup/services.ts"
import { makeRun, runRules } from "server/shippingRuns/make.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { field } from "../shell/acts.server.ts"
import type { ChangeChoices } from "./ChangeFields.tsx"
import { type ChangeWhat, changeWhats } from "./changeWords.ts"
import { toldGroup } from "./groupAnswer.ts"

/** Trucks that are offered at once. */
const mostTrucks = 24

/** What can be chosen when orders are changed, one or many. */
export async function changeChoices(work: Work): Promise<ChangeChoices> {
  const { db, warehouse } = work
  const set = await onceForEachChange(work, warehouse.id, "change choices", async () => {
    const [tags, patterns, services, packagings] = await Promise.all([
      knownTags(db),
      patternRows(db),
      servicesByName(db),
      packagingTypes(db),
    ])
    return {
      tags,
      patterns: patterns.map(({ id, name }) => ({ id, name })),
      services: services.map(({ id, name, carrier }) => ({ id, name, carrier })),
      packagings: packagings
        .filter((one) => one.active && one.kind === "carton")
        .map(({ code, name }) => ({ code, name })),
    }
  })
  const collections = (await openCollections(db, warehouse.id, work.now)).filter((one) => one.dropOff === null)
  return {
    ...set,
    packs: warehouse.packInRuns,
    days: shipDays(collections, localDate(work.now, warehouse.zone)).map((day) => ({ day, name: shortDay(day) })),
    collections: collections.slice(0, mostTrucks).map((one) => ({
      id: one.id,
      name: say("group.collection-of", {
        door: one.door,
        carrier: one.carrier,
        at: dayAndClock(one.cutOff, warehouse.zone),
      }),
    })),
  }
}

/** What the actor may do with orders, of what a page offers. */
export const whatsFor = (work: Work, choices: ChangeChoices, not: readonly ChangeWhat[] = []): ChangeWhat[] =>
  changeWhats
    .filter((one) => !not.includes(one))
    .filter((one) => one !== "let-go" || may(work.actor, "orders.release-hold"))
    .filter((one) => one !== "pattern" || choices.patterns.length > 0)
    .filter((one) => one !== "ship" || may(work.actor, "shipping.buy"))

/** The last change of many that the actor can take back, as a page shows it. */
export async function lastOf(work: Work) {
  const last = await lastGroup(work)
  return last ? { id: last.id, what: last.change.what, changed: last.changed } : null
}

/** The fields of a change of many that every page sends. */
export const groupFields = {
  what: field.text(20),
  key: field.text(36),
  order: field.many(field.id),
}

/**
 * Does with orders what a form asks for. A shipping run of them goes on on a page of its own.
 *
 * @param origin what the orders were chosen from, for a run of them
 */
export async function changeMany(
  work: Work,
  ids: readonly number[],
  asked: { readonly what: string; readonly key: string },
  form: FormData,
  origin = "orders",
) {
  if (asked.what === "ship") {
    const run = await makeRun(
      work,
      ids,
      {
        rule: runRules.find((one) => one === form.get("rule")) ?? "settled",
        name: String(form.get("name") ?? ""),
        pack: form.get("pack") === "on" && work.warehouse.packInRuns,
        origin,
      },
      asked.key,
    )
    if (!run.ok) return run
    throw redirect(`/orders/runs/${run.value.id}`)
  }
  const change = groupChange.safeParse(Object.fromEntries(form))
  return change.success
    ? changeGroup(work, work.warehouse, asked.key, ids, change.data)
    : refused(reason("wish.unknown"))
}

/** What taking back a change of many is asked with, and what came of it. */
export const undoFields = z.object({ group: field.text(36) })
export const toldUndone = (result: GroupResult) => toldGroup("group.undone", result)
