import { createHash } from "node:crypto"
import { isLocalDate, type LocalDate, localDate } from "core/calendar/index.ts"
import type { NoteId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context, type Right } from "../actors/index.ts"
import { announce, parsed } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { dropNote, putNote, putTag, tidyTag } from "../orders/marks.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { type Choice, chooseCollection } from "./choose.ts"
import { putHold } from "./hold.ts"
import { putPattern } from "./pattern.ts"
import { promiseDay, putPromise } from "./promise.ts"

/** What can be done with many orders at once. */
export const groupChange = z.discriminatedUnion("what", [
  z.object({ what: z.literal("promise"), day: z.string().max(10).default("") }),
  z.object({ what: z.literal("tag"), tag: z.string().max(60).default("") }),
  z.object({ what: z.literal("untag"), tag: z.string().max(60).default("") }),
  z.object({ what: z.literal("note"), text: z.string().max(300).default("") }),
  z.object({ what: z.literal("hold") }),
  z.object({ what: z.literal("let-go") }),
  /** Send with a shipping pattern; 0: as rules say again. */
  z.object({ what: z.literal("pattern"), pattern: z.coerce.number().int().min(0).default(0) }),
  /** Leave with a collection that a person chose; 0: as planned again. */
  z.object({ what: z.literal("leave"), collection: z.coerce.number().int().min(0).default(0) }),
])
/** `moves`: each order with a collection and service of its own, as advice has it. */
export type GroupChange =
  | z.infer<typeof groupChange>
  | {
      readonly what: "moves"
      readonly moves: readonly { readonly order: number; readonly collection: number; readonly service: number }[]
    }

/** Orders that one change may touch. */
export const mostAtOnce = 500

const right: Record<GroupChange["what"], Right> = {
  promise: "orders.work",
  tag: "orders.work",
  untag: "orders.work",
  note: "orders.work",
  hold: "orders.hold",
  "let-go": "orders.release-hold",
  pattern: "orders.work",
  leave: "orders.work",
  moves: "orders.work",
}

/** What became of a change of many. */
export interface GroupResult {
  readonly changed: number
  /** Orders on which it was so already. */
  readonly same: number
  readonly refused: readonly { readonly orderNumber: string; readonly reasons: readonly Reason[] }[]
}

/**
 * Changes many orders of the actor's warehouse, each in a transaction of its own, and keeps what they were, so that all
 * can be taken back by `undoGroup`. An order that can't be changed is named with its reason and the others go on. The
 * same key again goes on where it broke off and answers the same.
 */
export async function changeGroup(
  context: Context,
  warehouse: Warehouse,
  key: string,
  orderIds: readonly OrderId[],
  asked: GroupChange,
): Promise<Outcome<GroupResult>> {
  const { db, actor, now } = context
  authorise(actor, right[asked.what])
  if (orderIds.length === 0) return refused(reason("group.none"))
  if (orderIds.length > mostAtOnce) return refused(reason("group.too-many", { n: orderIds.length, most: mostAtOnce }))
  const tidy = tidied(asked, localDate(now, warehouse.zone))
  if (!tidy.ok) return tidy
  const change = tidy.value
  const ids = [...new Set(orderIds)].sort((a, b) => a - b)
  const hash = createHash("sha256")
    .update(JSON.stringify([actor.userId, ids, change]))
    .digest("hex")
  await db("group_change")
    .insert({
      id: key,
      warehouse_id: warehouse.id,
      user_id: actor.userId,
      actor: actor.name,
      at: now,
      change_json: JSON.stringify(change),
      content_hash: hash,
    })
    .onConflict("id")
    .ignore()
  const group = there(await db("group_change").where({ id: key }).first())
  if (group.content_hash !== hash || group.undone_at) return refused(reason("group.key-used"))
  for (const id of ids) {
    await inTransaction(db, async (trx) => {
      const order = await trx("sales_order").where({ id, warehouse_id: actor.warehouseId }).forUpdate().first()
      if (!order || (await trx("group_change_order").where({ change_id: key, order_id: id }).first("order_id"))) return
      const outcome = await apply(trx, context, order, change)
      await trx("group_change_order").insert({
        change_id: key,
        order_id: id,
        before_json: outcome.ok && outcome.value ? JSON.stringify(outcome.value) : null,
        refusals: JSON.stringify(outcome.ok ? [] : outcome.reasons),
      })
    })
  }
  await announce(db, { warehouseId: warehouse.id })
  return accepted(await resultOf(db, key))
}

/** What is kept of an order to take a change back; null where it was so already. */
type Before =
  | { readonly promisedOn: LocalDate | null }
  | { readonly noteId: NoteId }
  | { readonly changed: true }
  | { readonly pattern: number | null }
  | { readonly collection: number | null; readonly service: number | null }

function tidied(change: GroupChange, today: LocalDate): Outcome<GroupChange> {
  if (change.what === "promise") {
    const day = promiseDay(change.day || null, today)
    return day.ok ? accepted(change) : day
  }
  if (change.what === "tag" || change.what === "untag") {
    const tag = tidyTag(change.tag)
    return tag.ok ? accepted({ what: change.what, tag: tag.value }) : tag
  }
  if (change.what === "note") {
    const text = change.text.trim()
    return text ? accepted({ what: "note", text }) : refused(reason("note.empty"))
  }
  return accepted(change)
}

async function apply(
  trx: Knex,
  context: Context,
  order: {
    id: number
    promised_on: LocalDate | null
    cancelled_at: Date | null
    chosen_collection_id: number | null
    chosen_service_id: number | null
    pattern_id: number | null
  },
  change: GroupChange,
): Promise<Outcome<Before | null>> {
  const done = (did: boolean): Outcome<Before | null> => accepted(did ? { changed: true } : null)
  switch (change.what) {
    case "promise": {
      const outcome = await putPromise(trx, context, order.id, isLocalDate(change.day) ? change.day : null)
      if (!outcome.ok) return outcome
      return accepted(order.promised_on === (change.day || null) ? null : { promisedOn: order.promised_on })
    }
    case "tag":
    case "untag":
      return done(await putTag(trx, context, order.id, change.tag, change.what === "tag"))
    case "note": {
      const noteId = await putNote(trx, context, order.id, change.text)
      return accepted(noteId === null ? null : { noteId })
    }
    case "hold":
    case "let-go":
      if (order.cancelled_at) return refused(reason("order.is-cancelled"))
      return done(await putHold(trx, context.actor, context.now, order.id, change.what === "hold"))
    case "pattern": {
      if (order.pattern_id === (change.pattern || null)) return accepted(null)
      const outcome = await putPattern(trx, context, order.id, change.pattern || null)
      return outcome.ok ? accepted({ pattern: order.pattern_id }) : outcome
    }
    case "leave":
    case "moves": {
      const to = wanted(change, order.id)
      const was = { collection: order.chosen_collection_id, service: order.chosen_service_id }
      if (was.collection === to.collection && was.service === to.service) return accepted(null)
      const outcome = await chooseCollection(trx, context, order.id, to)
      return outcome.ok ? accepted(was) : outcome
    }
  }
}

/** What a change wants chosen for an order. */
function wanted(change: GroupChange, orderId: OrderId): Choice {
  if (change.what === "leave") return { collection: change.collection || null, service: null }
  const move = change.what === "moves" ? change.moves.find((one) => one.order === orderId) : null
  return { collection: move?.collection ?? null, service: move?.service ?? null }
}

/** What became of a change of many, by its key. */
export async function resultOf(db: Knex, key: string): Promise<GroupResult> {
  const rows = await db("group_change_order as g")
    .join("sales_order as o", "o.id", "g.order_id")
    .where("g.change_id", key)
    .orderBy("g.order_id")
    .select("o.order_number", "g.before_json", "g.refusals")
  const entries = rows.map((row) => ({
    orderNumber: row.order_number,
    before: row.before_json,
    reasons: parsed<Reason[]>(row.refusals),
  }))
  return {
    changed: entries.filter((one) => one.before !== null).length,
    same: entries.filter((one) => one.before === null && one.reasons.length === 0).length,
    refused: entries
      .filter((one) => one.reasons.length > 0)
      .map(({ orderNumber, reasons }) => ({ orderNumber, reasons })),
  }
}

/** The actor's last change of many in the last hour that was not taken back yet. */
export async function lastGroup(
  context: Context,
): Promise<{ readonly id: string; readonly change: GroupChange; readonly changed: number; readonly at: Date } | null> {
  const { db, actor, now } = context
  const row = await db("group_change")
    .where({ user_id: actor.userId, warehouse_id: actor.warehouseId })
    .where("at", ">", new Date(now.getTime() - 3_600_000))
    .orderBy("at", "desc")
    .first()
  if (!row || row.undone_at) return null
  const { changed } = await resultOf(db, row.id)
  return changed > 0 ? { id: row.id, change: parsed<GroupChange>(row.change_json), changed, at: row.at } : null
}

/**
 * Takes a change of many back, on every order that still is as the change left it; one that somebody changed since, or
 * that can't go back, is named with the reason and stays. Safe to repeat.
 */
export async function undoGroup(context: Context, key: string): Promise<Outcome<GroupResult>> {
  const { db, actor, now } = context
  const group = await db("group_change").where({ id: key, warehouse_id: actor.warehouseId }).first()
  if (!group || group.user_id !== actor.userId) return refused(reason("group.unknown"))
  const change = parsed<GroupChange>(group.change_json)
  // to hold is to be let go by a lead; the one who held many a moment ago may take that back
  authorise(actor, change.what === "let-go" ? "orders.hold" : right[change.what])
  const rows = await db("group_change_order").where({ change_id: key }).whereNotNull("before_json").orderBy("order_id")
  const result: { changed: number; same: number; refused: { orderNumber: string; reasons: readonly Reason[] }[] } = {
    changed: 0,
    same: 0,
    refused: [],
  }
  for (const { order_id } of rows) {
    await inTransaction(db, async (trx) => {
      const order = await trx("sales_order")
        .where({ id: order_id, warehouse_id: actor.warehouseId })
        .forUpdate()
        .first()
      // it may have gone to another warehouse meanwhile
      if (!order) return
      const row = there(await trx("group_change_order").where({ change_id: key, order_id }).forUpdate().first())
      if (row.undone_at) return
      const outcome = await takeBack(trx, context, order, change, parsed<Before>(row.before_json))
      if (outcome.ok) {
        await trx("group_change_order").where({ change_id: key, order_id }).update({ undone_at: now })
        if (outcome.value) result.changed += 1
        else result.same += 1
      } else result.refused.push({ orderNumber: order.order_number, reasons: outcome.reasons })
    })
  }
  await db("group_change").where({ id: key }).whereNull("undone_at").update({ undone_at: now })
  await announce(db, { warehouseId: actor.warehouseId })
  return accepted(result)
}

/** Takes a change back on one order; answers false when it is gone already. */
async function takeBack(
  trx: Knex,
  context: Context,
  order: { id: number; promised_on: LocalDate | null; chosen_collection_id: number | null; pattern_id: number | null },
  change: GroupChange,
  before: Before,
): Promise<Outcome<boolean>> {
  switch (change.what) {
    case "promise": {
      if (!("promisedOn" in before)) return accepted(false)
      if (order.promised_on !== (change.day || null)) return refused(reason("order.changed-meanwhile"))
      const outcome = await putPromise(trx, context, order.id, before.promisedOn)
      return outcome.ok ? accepted(true) : outcome
    }
    case "tag":
    case "untag":
      return accepted(await putTag(trx, context, order.id, change.tag, change.what === "untag"))
    case "note":
      return accepted("noteId" in before ? await dropNote(trx, context, order.id, before.noteId) : false)
    case "hold":
    case "let-go":
      return accepted(await putHold(trx, context.actor, context.now, order.id, change.what === "let-go"))
    case "pattern": {
      if (!("pattern" in before)) return accepted(false)
      if (order.pattern_id !== (change.pattern || null)) return refused(reason("order.changed-meanwhile"))
      const outcome = await putPattern(trx, context, order.id, before.pattern)
      return outcome.ok ? accepted(true) : outcome
    }
    case "leave":
    case "moves": {
      if (!("collection" in before)) return accepted(false)
      if (order.chosen_collection_id !== wanted(change, order.id).collection)
        return refused(reason("order.changed-meanwhile"))
      const outcome = await chooseCollection(trx, context, order.id, before)
      return outcome.ok ? accepted(true) : outcome
    }
  }
}
