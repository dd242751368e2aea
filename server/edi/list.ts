import type { EdiMessageId, OrderId, WarehouseId } from "core/ids/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { MessageKind, MessageState, MessageWay } from "core/shipNotice/routing.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { likeInAnyCase } from "../db/words.ts"
import { leadOf } from "../orders/joined.ts"
import { bytesOf, forms, nameOf } from "./send.ts"

export interface EdiMessage {
  readonly id: EdiMessageId
  readonly name: string
  readonly kind: MessageKind
  readonly cancels: boolean
  readonly way: MessageWay
  readonly to: string
  readonly orderNumber: string
  readonly customer: string
  readonly packages: number
  readonly state: MessageState
  readonly trouble: Reason | null
  readonly madeAt: Date
  readonly sentAt: Date | null
  readonly answeredAt: Date | null
  readonly answeredBy: string
}

/** How a message stands: one by e-mail is on its way until the mail server has it. */
const stateOf = `CASE WHEN m.state = 'sent' AND w.state = 'waiting' THEN 'waiting'
  WHEN m.state = 'sent' AND w.state = 'refused' THEN 'refused' ELSE m.state END`

const listed = (db: Knex, warehouseId: WarehouseId) =>
  db("edi_message as m")
    .join("sales_order as o", "o.id", "m.order_id")
    .join("customer as c", "c.id", "m.customer_id")
    .leftJoin("mail as w", (on) =>
      on.on("w.once_key", db.raw("CONCAT('edi:', m.id, ':', m.asked) COLLATE utf8mb4_bin")).onVal("m.way", "mail"),
    )
    .where("m.warehouse_id", warehouseId)
    .orderBy("m.id", "desc")
    .select(
      "m.id",
      "m.kind",
      "m.cancels",
      "m.way",
      "m.send_to",
      "m.packages",
      db.raw(`${stateOf} AS state`),
      "m.trouble",
      "m.made_at",
      "m.sent_at",
      "m.answered_at",
      "m.answered_by",
      "o.order_number",
      "c.name as customer",
      "w.state as mail_state",
    )

function fromRow(row: Awaited<ReturnType<typeof listed>>[number]): EdiMessage {
  const { state } = row as unknown as { state: MessageState }
  return {
    id: row.id,
    name: nameOf(row),
    kind: row.kind,
    cancels: !!row.cancels,
    way: row.way,
    to: row.send_to,
    orderNumber: row.order_number,
    customer: row.customer,
    packages: parsed<number[]>(row.packages).length,
    state,
    trouble:
      state === "refused" && row.mail_state === "refused"
        ? reason("edi.mail-refused")
        : parsed<Reason | null>(row.trouble),
    madeAt: row.made_at,
    sentAt: row.sent_at,
    answeredAt: row.answered_at,
    answeredBy: row.answered_by,
  }
}

export interface MessageSearch {
  readonly text: string
  readonly kind: MessageKind | ""
  readonly state: MessageState | "open" | ""
  readonly page: number
}

/** Messages on a page. */
export const messagesAtOnce = 50

/** Messages of a warehouse, the newest first; one more than a page where there are more. `open`: not acknowledged. */
export async function searchMessages(db: Knex, warehouseId: WarehouseId, search: MessageSearch): Promise<EdiMessage[]> {
  const query = listed(db, warehouseId)
    .limit(messagesAtOnce + 1)
    .offset((search.page - 1) * messagesAtOnce)
  if (search.kind) query.where("m.kind", search.kind)
  if (search.state === "open") query.whereRaw(`${stateOf} <> 'acknowledged'`)
  else if (search.state) query.whereRaw(`${stateOf} = ?`, [search.state])
  const text = search.text.trim()
  if (text) {
    const like = `%${text.replace(/[\\%_]/g, "\\$&")}%`
    query.where((either) => {
      either.where("o.order_number", text).orWhere("o.source_number", text).orWhere("o.po_number", text)
      const reference = /^(?:[a-z]+-)?(\d{1,10})(?:\.\w+)?$/i.exec(text)?.[1]
      if (reference) either.orWhere("m.id", Number(reference))
      for (const column of ["c.name", "m.send_to"]) either.orWhereRaw(likeInAnyCase(db, column, like))
    })
  }
  return (await query).map(fromRow)
}

/** How many messages an order's shipment has made, and how they stand; null where it made none. */
export async function messageStatesOf(
  db: Knex,
  warehouseId: WarehouseId,
  orderId: OrderId,
): Promise<{
  readonly order: string
  readonly all: number
  readonly acknowledged: number
  readonly refused: number
} | null> {
  const all = await messagesOf(db, warehouseId, await leadOf(db, orderId))
  const count = (state: MessageState) => all.filter((one) => one.state === state).length
  return all[0]
    ? {
        order: all[0].orderNumber,
        all: all.length,
        acknowledged: count("acknowledged"),
        refused: count("refused"),
      }
    : null
}

/** The messages of an order's shipment, the newest first. */
export const messagesOf = async (db: Knex, warehouseId: WarehouseId, leadId: OrderId): Promise<EdiMessage[]> =>
  (await listed(db, warehouseId).where("m.order_id", leadId).limit(messagesAtOnce)).map(fromRow)

/** A message of a warehouse as it is, or will be, handed over; null where there is none. */
export async function messageFile(
  db: Knex,
  warehouseId: WarehouseId,
  id: EdiMessageId,
): Promise<{ readonly name: string; readonly media: string; readonly bytes: Buffer } | null> {
  const row = await db("edi_message").where({ id, warehouse_id: warehouseId }).first()
  return row ? { name: nameOf(row), media: forms[row.kind].media, bytes: await bytesOf(db, row) } : null
}
