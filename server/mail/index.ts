import type { QuoteId, WarehouseId } from "core/ids/index.ts"
import { coded, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { announce } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { newId, there } from "../db/there.ts"
import { type MailAnswer, type MailMessage, sendMail } from "../gateways/mail.ts"
import { connectionTrouble } from "../gateways/reach.ts"
import { mailing } from "./jobs.ts"

export interface NewMail {
  readonly onceKey: string
  readonly warehouseId: WarehouseId
  readonly to: string
  readonly subject: string
  readonly body: string
  readonly attachment: { readonly name: string; readonly bytes: Buffer } | null
  readonly quoteId: QuoteId | null
  readonly by: string
  readonly at: Date
}

/** Writes a message down, once by its key, and leaves sending it to a job. False where it was written before. */
export async function postMail(trx: Knex, mail: NewMail): Promise<boolean> {
  const inserted = newId(
    await trx("mail")
      .insert({
        once_key: mail.onceKey,
        warehouse_id: mail.warehouseId,
        recipient: mail.to,
        subject: mail.subject,
        body: mail.body,
        attachment_name: mail.attachment?.name ?? null,
        attachment: mail.attachment?.bytes ?? null,
        quote_id: mail.quoteId,
        made_by: mail.by,
        made_at: mail.at,
      })
      .onConflict("once_key")
      .ignore(),
  )
  if (!inserted) return false
  await mailing.queue(trx, `mail:${inserted}`, { mailId: inserted })
  return true
}

/**
 * Sends a message that waits. Its message id is its own, so that a server that took it before and whose answer was lost
 * can tell it is the same. Throws when it is to be tried again.
 */
export async function sendMailJob(
  db: Knex,
  mailId: number,
  send: (url: string, message: MailMessage) => Promise<MailAnswer> = sendMail,
): Promise<void> {
  const mail = await db("mail").where({ id: mailId }).first()
  if (mail?.state !== "waiting") return
  const server = await db("outside_service").where({ kind: "mail" }).first("url")
  const warehouse = there(await db("warehouse").where({ id: mail.warehouse_id }).first("email", "company"))
  try {
    if (!server) throw new Error(coded(reason("mail.no-server")))
    const answer = await send(server.url, {
      messageId: `<varnok-${mail.id}@${new URL(server.url).hostname}>`,
      from: `"${String(warehouse.company).replace(/["\\]/g, "")}" <${warehouse.email || "shipping@localhost"}>`,
      to: mail.recipient,
      subject: mail.subject,
      text: mail.body,
      attachment: mail.attachment ? { name: mail.attachment_name ?? "", bytes: mail.attachment } : null,
    })
    const at = await businessNow(db)
    await db("mail")
      .where({ id: mailId, state: "waiting" })
      .update(
        answer.kind === "sent"
          ? { state: "sent", sent_at: at, trouble: null }
          : { state: "refused", trouble: answer.why },
      )
    await announce(db, { warehouseId: mail.warehouse_id })
  } catch (error) {
    await db("mail")
      .where({ id: mailId })
      .update({ trouble: connectionTrouble(error).slice(0, 280) })
    throw error
  }
}
