import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Topic, Way } from "core/telling/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { likeInAnyCase } from "../db/words.ts"
import { blockedFor } from "./blocks.ts"
import { askToTell } from "./jobs.ts"

export const messageStates = ["waiting", "sent", "refused", "bounced", "blocked"] as const
export type MessageState = (typeof messageStates)[number]

export interface CustomerMessage {
  readonly id: number
  readonly orderNumber: string
  readonly topic: Topic
  readonly way: Way
  readonly address: string
  readonly subject: string
  readonly state: MessageState
  readonly trouble: string | null
  readonly madeAt: Date
  readonly sentAt: Date | null
  readonly waitsUntil: Date | null
}

/** How a message stands: an e-mail stands as the mail does that it was put with. */
const stateOf = `CASE WHEN m.state = 'handed-on' THEN COALESCE(w.state, 'waiting') ELSE m.state END`

const listed = (db: Knex, warehouseId: WarehouseId) =>
  db("customer_message as m")
    .join("sales_order as o", "o.id", "m.order_id")
    .leftJoin("mail as w", "w.id", "m.mail_id")
    .where("m.warehouse_id", warehouseId)
    .orderBy("m.id", "desc")
    .select(
      "m.id",
      "m.topic",
      "m.way",
      "m.address",
      "m.subject",
      "m.trouble",
      "m.made_at",
      "m.sent_at",
      "m.send_after",
      "o.order_number",
      "w.trouble as mail_trouble",
      "w.sent_at as mail_sent",
      db.raw(`${stateOf} AS state`),
    )

const fromRow = (row: Awaited<ReturnType<typeof listed>>[number]): CustomerMessage => {
  const { state } = row as unknown as { state: MessageState }
  return {
    id: row.id,
    orderNumber: row.order_number,
    topic: row.topic as Topic,
    way: row.way,
    address: row.address,
    subject: row.subject,
    state,
    trouble: row.mail_trouble ?? row.trouble,
    madeAt: row.made_at,
    sentAt: row.mail_sent ?? row.sent_at,
    waitsUntil: state === "waiting" && row.send_after > row.made_at ? row.send_after : null,
  }
}

export interface MessageSearch {
  readonly text: string
  readonly topic: Topic | ""
  readonly state: MessageState | ""
  readonly page: number
}

/** Messages on a page. */
export const messagesAtOnce = 50

/** Messages to customers, the newest first; one more than a page where there are more. */
export async function searchMessages(
  db: Knex,
  warehouseId: WarehouseId,
  search: MessageSearch,
): Promise<CustomerMessage[]> {
  const query = listed(db, warehouseId)
    .limit(messagesAtOnce + 1)
    .offset((search.page - 1) * messagesAtOnce)
  if (search.topic) query.where("m.topic", search.topic)
  if (search.state) query.whereRaw(`${stateOf} = ?`, [search.state])
  const text = search.text.trim()
  if (text)
    query.where((any) =>
      any
        .where("o.order_number", text)
        .orWhere("o.source_number", text)
        .orWhereRaw(likeInAnyCase(db, "m.address", `%${text.replace(/[\\%_]/g, "\\$&")}%`)),
    )
  return (await query).map(fromRow)
}

/** What was sent of an order, the newest first. */
export const messagesOf = async (db: Knex, warehouseId: WarehouseId, orderId: OrderId): Promise<CustomerMessage[]> =>
  (await listed(db, warehouseId).where("m.order_id", orderId).limit(30)).map(fromRow)

/** How much waits just now, by where it waits. */
export async function waitingCounts(
  db: Knex,
  warehouseId: WarehouseId,
): Promise<{ readonly messages: number; readonly mail: number }> {
  const count = async (query: Knex.QueryBuilder) => Number((await query.count({ n: "*" }).first())?.n ?? 0)
  return {
    messages: await count(db("customer_message").where({ warehouse_id: warehouseId, state: "waiting" })),
    mail: await count(db("mail").where({ warehouse_id: warehouseId, state: "waiting" })),
  }
}

/** Sends a message again that was refused or came back, such as after its address was mended. */
export async function tellAgain(context: Context, messageId: number): Promise<Outcome<{ readonly address: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly address: string }>> => {
    const row = await trx("customer_message")
      .where({ id: messageId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first()
    if (!row) return refused(reason("tell.unknown"))
    if (row.address === "") return refused(reason("tell.erased"))
    if (await blockedFor(trx, row.address)) return refused(reason("tell.blocked", { address: row.address }))
    const mail = row.mail_id ? await trx("mail").where({ id: row.mail_id }).first("state") : undefined
    const failed =
      row.state === "refused" || row.state === "blocked" || mail?.state === "refused" || mail?.state === "bounced"
    // pressed twice, it waits again
    if (!failed) return accepted({ address: row.address })
    if (row.mail_id)
      await trx("mail")
        .where({ id: row.mail_id })
        .update({ once_key: `tell ${row.id} ${row.mail_id}` })
    await trx("customer_message")
      .where({ id: messageId })
      .update({ state: "waiting", mail_id: null, trouble: null, send_after: now })
    await askToTell(trx)
    await record(trx, actor, now, { action: "tell.again", orderId: row.order_id, detail: { to: row.address } })
    return accepted({ address: row.address })
  })
}
