import { reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { onPaper } from "words/papers.ts"
import { announce, parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { EdiMessageRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { desadv } from "../formats/desadv.ts"
import { epcisDocument } from "../formats/epcis.ts"
import { readdressed } from "../formats/readdress.ts"
import { type PartnerMessage, postToPartner, putIntoFolder } from "../gateways/partner.ts"
import { postMail } from "../mail/index.ts"
import { noticeOf, referenceOf } from "./facts.ts"
import { sendingEdi } from "./jobs.ts"
import { voidOf } from "./queue.ts"

/** How messages of each kind are named and typed. EDIFACT: RFC 1767; events: GS1 EPCIS 2.0, JSON-LD (from memory). */
export const forms = {
  desadv: { name: "DESADV", end: "edi", media: "application/edifact" },
  iftmin: { name: "IFTMIN", end: "edi", media: "application/edifact" },
  epcis: { name: "EPCIS", end: "json", media: "application/ld+json" },
} as const

export const nameOf = ({ kind, id }: Pick<EdiMessageRow, "kind" | "id">): string =>
  `${forms[kind].name}-${referenceOf(id)}.${forms[kind].end}`

/** The other side's name in an interchange: as its routing instruction says, else the customer's code. */
async function receiverOf(db: Knex, message: EdiMessageRow): Promise<string> {
  if (message.receiver) return message.receiver
  const customer = there(await db("customer").where({ id: message.customer_id }).first("code"))
  return customer.code
}

/** Makes what a message says, from what left or from the bill of lading that was made. */
async function made(db: Knex, message: EdiMessageRow): Promise<Buffer> {
  const reference = referenceOf(message.id)
  if (message.kind === "iftmin") {
    const document = there(
      await db("document")
        .where({ id: there(message.document_id) })
        .first("bytes"),
    )
    return readdressed(document.bytes, {
      receiver: await receiverOf(db, message),
      reference,
      at: message.made_at,
      cancels: !!message.cancels,
    })
  }
  const notice = await noticeOf(db, {
    orderId: message.order_id,
    collectionId: there(message.collection_id),
    ids: parsed<number[]>(message.packages),
    number: reference,
  })
  const warehouse = there(await db("warehouse").where({ id: message.warehouse_id }).first("email"))
  return message.kind === "desadv"
    ? Buffer.from(desadv(notice, { at: message.made_at, reference, receiver: await receiverOf(db, message) }), "latin1")
    : Buffer.from(epcisDocument(notice, { at: message.made_at, domain: domainOf(warehouse.email) }))
}

/** Our own address, for names that no standard gives. */
const domainOf = (email: string): string => /@([a-z0-9.-]+)$/i.exec(email)?.[1]?.toLowerCase() ?? "shipper.invalid"

/** The bytes of a message, made once and the same ever after. */
export async function bytesOf(db: Knex, message: EdiMessageRow): Promise<Buffer> {
  if (message.bytes) return message.bytes
  const bytes = await made(db, message)
  await db("edi_message").where({ id: message.id }).whereNull("bytes").update({ bytes })
  return there(await db("edi_message").where({ id: message.id }).first("bytes")).bytes as Buffer
}

/** Ways out of the house, as they are reached. */
export interface Partners {
  readonly post: typeof postToPartner
  readonly put: typeof putIntoFolder
}

/**
 * Makes a message and hands it over, as its route says: by HTTP under its own key, into a folder as one file of its own
 * name, or by e-mail, so that doing it again is the same message. Throws to be run again.
 */
export async function sendEdi(
  db: Knex,
  messageId: number,
  { post, put }: Partners = { post: postToPartner, put: putIntoFolder },
): Promise<void> {
  const message = await db("edi_message").where({ id: messageId }).first()
  if (message?.state !== "waiting") return
  const bytes = await bytesOf(db, message)
  const out: PartnerMessage = {
    key: message.message_key,
    name: nameOf(message),
    media: forms[message.kind].media,
    bytes,
  }
  const answer =
    message.way === "http"
      ? await post(message.send_to, out)
      : message.way === "folder"
        ? await put(message.send_to, out).then(() => ({ kind: "taken" as const }))
        : ({ kind: "taken" } as const)
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const changed = await trx("edi_message")
      .where({ id: messageId, state: "waiting" })
      .update({
        state: answer.kind === "acknowledged" ? "acknowledged" : answer.kind === "refused" ? "refused" : "sent",
        trouble: answer.kind === "refused" ? JSON.stringify(reason("edi.refused", { status: answer.status })) : null,
        sent_at: now,
        ...(answer.kind === "acknowledged" ? { answered_at: now } : {}),
      })
    if (changed === 0) return
    // a cancellation that came meanwhile goes after what it cancels
    const cancels = await trx("edi_message")
      .where({ once_key: voidOf(message.once_key), state: "waiting" })
      .first("id")
    if (cancels && answer.kind !== "refused")
      await sendingEdi.queue(trx, `edi:${cancels.id}:0`, { messageId: cancels.id })
    if (message.way === "mail") await mailIt(trx, message, out)
    await record(trx, { userId: null, name: "" }, now, {
      action: answer.kind === "refused" ? "edi.refused" : "edi.sent",
      orderId: message.order_id,
      detail: { message: out.name, to: message.send_to },
    })
    await announce(trx, { warehouseId: message.warehouse_id })
  })
}

async function mailIt(trx: Knex, message: EdiMessageRow, { name, bytes }: PartnerMessage): Promise<void> {
  const order = there(await trx("sales_order").where({ id: message.order_id }).first("source_number", "po_number"))
  const values = { name, order: order.po_number || order.source_number }
  await postMail(trx, {
    onceKey: mailKey(message),
    warehouseId: message.warehouse_id,
    to: message.send_to,
    subject: onPaper("edi.mail-subject", values),
    body: onPaper("edi.mail-text", values),
    attachment: { name, bytes },
    quoteId: null,
    by: "",
    at: message.made_at,
  })
}

export const mailKey = ({ id, asked }: Pick<EdiMessageRow, "id" | "asked">): string => `edi:${id}:${asked}`
