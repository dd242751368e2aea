import type { NoteId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Actor, authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { putWords } from "./words.ts"

/** What people at work marked an order with; seen again wherever it is picked and packed. */
export interface Marks {
  readonly tags: readonly string[]
  readonly notes: readonly { readonly id: number; readonly text: string; readonly actor: string; readonly at: Date }[]
}

export async function marksOf(db: Knex, orderId: OrderId): Promise<Marks> {
  return {
    tags: await db("order_tag").where({ order_id: orderId }).orderBy("tag").pluck("tag"),
    notes: await db("order_note")
      .where({ order_id: orderId })
      .whereNull("dropped_at")
      .orderBy("id")
      .select("id", "text", "actor", "at"),
  }
}

/** The tags of many orders. */
export async function tagsOf(db: Knex, orderIds: readonly OrderId[]): Promise<Map<number, string[]>> {
  const rows = await db("order_tag")
    .whereIn("order_id", [...orderIds])
    .orderBy("tag")
  const tags = new Map<number, string[]>()
  for (const row of rows) tags.set(row.order_id, [...(tags.get(row.order_id) ?? []), row.tag])
  return tags
}

/** Tags in use, by name. */
export const knownTags = (db: Knex): Promise<string[]> =>
  db("order_tag").distinct("tag").orderBy("tag").limit(200).pluck("tag") as unknown as Promise<string[]>

/** A tag as it is kept: one short text without commas. Refused when nothing is left of it. */
export function tidyTag(typed: string): Outcome<string> {
  const tag = typed
    .normalize("NFC")
    .replace(/[,\s]+/g, " ")
    .trim()
    .slice(0, 24)
  return tag ? accepted(tag) : refused(reason("tag.empty"))
}

/** Sets or takes off a tag, in the caller's transaction; false when it was so already. */
export async function putTag(
  trx: Knex,
  { actor, now }: { readonly actor: Pick<Actor, "userId" | "name">; readonly now: Date },
  orderId: OrderId,
  tag: string,
  on: boolean,
): Promise<boolean> {
  const at = { order_id: orderId, tag }
  if (on === ((await trx("order_tag").where(at).first("tag")) !== undefined)) return false
  if (on) await trx("order_tag").insert(at).onConflict(["order_id", "tag"]).ignore()
  else await trx("order_tag").where(at).delete()
  await record(trx, actor, now, { action: on ? "order.tagged" : "order.untagged", orderId, detail: { tag } })
  await putWords(trx, orderId)
  return true
}

/** Writes a note on an order, in the caller's transaction; its id, or null when that text stands there already. */
export async function putNote(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  text: string,
): Promise<number | null> {
  if (await trx("order_note").where({ order_id: orderId, text }).whereNull("dropped_at").first("id")) return null
  const id = newId(await trx("order_note").insert({ order_id: orderId, text, at: now, actor: actor.name }))
  await record(trx, actor, now, { action: "order.noted", orderId, detail: { text } })
  await putWords(trx, orderId)
  return id
}

/** Takes a note off, in the caller's transaction. It stays on the order's story. */
export async function dropNote(trx: Knex, { actor, now }: Context, orderId: OrderId, noteId: NoteId): Promise<boolean> {
  const note = await trx("order_note").where({ id: noteId, order_id: orderId }).whereNull("dropped_at").first("text")
  if (!note) return false
  await trx("order_note").where({ id: noteId }).update({ dropped_at: now })
  await record(trx, actor, now, { action: "order.note-dropped", orderId, detail: { text: note.text } })
  await putWords(trx, orderId)
  return true
}

/** What a person may do with the marks of one order. */
export type MarkChange =
  | { readonly what: "tag" | "untag"; readonly tag: string }
  | { readonly what: "note"; readonly text: string }
  | { readonly what: "drop-note"; readonly id: number }

/** Changes the marks of one order. Refused for an order of another warehouse and for an empty text. Safe to repeat. */
export async function mark(context: Context, orderId: OrderId, change: MarkChange): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const tag = "tag" in change ? tidyTag(change.tag) : null
  if (tag && !tag.ok) return tag
  const text = "text" in change ? change.text.trim().slice(0, 300) : null
  if (text === "") return refused(reason("note.empty"))
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    if (tag?.ok) await putTag(trx, context, orderId, tag.value, change.what === "tag")
    if (text) await putNote(trx, context, orderId, text)
    if (change.what === "drop-note") await dropNote(trx, context, orderId, change.id)
    return accepted(null)
  })
}
