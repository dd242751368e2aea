import { createHash } from "node:crypto"
import { localDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { announce, parsed } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { groundOf } from "../plan/plan.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import {
  type GroupKind,
  hold,
  leave,
  letGo,
  type Moves,
  moves,
  note,
  pattern,
  promise,
  tag,
  untag,
} from "./groupKinds.ts"
import {
  declared,
  instructions,
  message,
  noOption,
  option,
  packaging,
  payer,
  reference,
  returnLabel,
  service,
  shipDate,
  signature,
  signatures,
  weight,
} from "./groupSending.ts"

const text = (most: number) => z.string().trim().max(most).default("")
const row = z.coerce.number().int().min(0).default(0)

/** Orders that one change may touch. */
export const mostAtOnce = 500

/** All that can be done with many orders, by what it is called. */
const kinds = {
  promise,
  tag,
  untag,
  note,
  hold,
  "let-go": letGo,
  pattern,
  leave,
  moves,
  service,
  "ship-date": shipDate,
  packaging,
  payer,
  option,
  "no-option": noOption,
  signature,
  declared,
  "return-label": returnLabel,
  weight,
  reference,
  message,
  instructions,
}

/** What can be done with many orders at once, as a form asks for it. */
export const groupChange = z.discriminatedUnion("what", [
  z.object({ what: z.literal("promise"), day: text(10) }),
  z.object({ what: z.literal("tag"), tag: text(60) }),
  z.object({ what: z.literal("untag"), tag: text(60) }),
  z.object({ what: z.literal("note"), text: text(300) }),
  z.object({ what: z.literal("hold") }),
  z.object({ what: z.literal("let-go") }),
  /** Send with a shipping pattern; 0: as rules say again. */
  z.object({ what: z.literal("pattern"), pattern: row }),
  /** Leave with a collection that a person chose; 0: as planned again. */
  z.object({ what: z.literal("leave"), collection: row }),
  /** Send by a service, whatever rules say; 0: as they say again. */
  z.object({ what: z.literal("service"), service: row }),
  z.object({ what: z.literal("ship-date"), day: text(10) }),
  /** Suggest this packaging where it takes the goods; empty: as rules say again. */
  z.object({ what: z.literal("packaging"), packaging: text(16) }),
  /** Who pays, and on which account; empty: as rules say again. */
  z.object({ what: z.literal("payer"), terms: text(20), account: text(40) }),
  /** Whether a label for the way back goes along; empty: as rules say again. */
  z.object({ what: z.literal("return-label"), label: z.enum(["", "print", "mail"]) }),
  z.object({ what: z.literal("option"), option: text(40) }),
  z.object({ what: z.literal("no-option"), option: text(40) }),
  z.object({ what: z.literal("signature"), signature: z.enum(signatures) }),
  /** What the carrier is told that the goods are worth; empty: it is not told. */
  z.object({ what: z.literal("declared"), amount: text(12) }),
  /** What the scale says of the one package that an order has; empty: as calculated. */
  z.object({ what: z.literal("weight"), weight: text(12) }),
  z.object({ what: z.literal("reference"), name: text(30), value: text(60) }),
  z.object({ what: z.literal("message"), text: text(300) }),
  z.object({ what: z.literal("instructions"), text: text(200) }),
])
export type GroupChange = z.infer<typeof groupChange> | Moves

const kindOf = (what: GroupChange["what"]) => kinds[what] as GroupKind<GroupChange, unknown>

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
  authorise(actor, kindOf(asked.what).right)
  if (orderIds.length === 0) return refused(reason("group.none"))
  if (orderIds.length > mostAtOnce) return refused(reason("group.too-many", { n: orderIds.length, most: mostAtOnce }))
  const kind = kindOf(asked.what)
  const tidy = kind.tidy?.(asked, localDate(now, warehouse.zone)) ?? accepted(asked)
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
  const ground = once(() => groundOf(db, warehouse.id, now))
  for (const id of ids) {
    await inTransaction(db, async (trx) => {
      const order = await trx("sales_order").where({ id, warehouse_id: actor.warehouseId }).forUpdate().first()
      if (!order || (await trx("group_change_order").where({ change_id: key, order_id: id }).first("order_id"))) return
      const outcome = await kind.apply({ trx, context, order, ground }, change)
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

/** Something that is read when it is asked for first, and once. */
function once<T>(read: () => Promise<T>): () => Promise<T> {
  let value: Promise<T> | null = null
  return () => {
    value ??= read()
    return value
  }
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
  const kind = kindOf(change.what)
  authorise(actor, kind.undoRight ?? kind.right)
  const ground = once(() => groundOf(db, actor.warehouseId, now))
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
      const outcome = await kind.takeBack({ trx, context, order, ground }, change, parsed<unknown>(row.before_json))
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
