import { randomUUID } from "node:crypto"
import type { DocumentId, QuoteId, WarehouseId } from "core/ids/index.ts"
import { coded, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { announce, parsed } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import type { MailRow } from "../db/tables.ts"
import { newId, there } from "../db/there.ts"
import { type MailLine, MailUnreachable, mailLine } from "../gateways/mail.ts"
import { connectionTrouble } from "../gateways/reach.ts"
import { canKeepSecrets, tokenFor } from "../secrets/index.ts"
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
  /** The same as a page, made by us. */
  readonly html?: string
  /** Papers that go with it, read when it is sent. */
  readonly documents?: readonly DocumentId[]
  /** Who is shown as its sender, where that is not the warehouse's company. */
  readonly senderName?: string
  /** Where one press ends such messages. */
  readonly unsubscribe?: string
}

/** Writes a message down, once by its key, and leaves sending it to a job. Its id; null where it was written before. */
export async function postMail(trx: Knex, mail: NewMail): Promise<number | null> {
  const inserted = newId(
    await trx("mail")
      .insert({
        once_key: mail.onceKey,
        warehouse_id: mail.warehouseId,
        recipient: mail.to,
        subject: mail.subject,
        body: mail.body,
        html: mail.html ?? null,
        attachment_name: mail.attachment?.name ?? null,
        attachment: mail.attachment?.bytes ?? null,
        documents: mail.documents?.length ? JSON.stringify(mail.documents) : null,
        sender_name: mail.senderName ?? "",
        unsubscribe_url: mail.unsubscribe ?? "",
        quote_id: mail.quoteId,
        made_by: mail.by,
        made_at: mail.at,
      })
      .onConflict("once_key")
      .ignore(),
  )
  if (!inserted) return null
  await askToSend(trx)
  return inserted
}

/** Asks that what waits be sent, unless somebody has: a hundred thousand messages are one job. */
async function askToSend(trx: Knex): Promise<void> {
  const asked = await trx("job").where({ kind: mailing.name, state: "waiting" }).whereNull("leased_until").first("id")
  if (!asked) await mailing.queue(trx, `${mailing.name}:${randomUUID()}`, {})
}

/** How long a message is one worker's to send (real time); longer than a mail server's time limits. */
const heldMs = 60_000
/** So many that are not taken now, and no more are tried. */
const mostLater = 20
/** Messages that are read at once. */
const atOnce = 100

/**
 * Sends what waits, oldest first, over one line to the mail server. Each message is one worker's while it is sent, and has
 * an id of its own, so that a server that took it before and whose answer was lost can tell that it is the same. Throws
 * where the server does not answer: the rest waits, and is sent by the next try.
 */
export async function sendWaiting(db: Knex, lineTo: (url: string) => MailLine = mailLine): Promise<void> {
  const server = await db("outside_service").where({ kind: "mail" }).first("url")
  let line: MailLine | null = null
  let later = 0
  try {
    for (let after = 0; ; ) {
      const ids: number[] = await db("mail")
        .where({ state: "waiting" })
        .where("id", ">", after)
        .where((free) => free.whereNull("leased_until").orWhere("leased_until", "<", new Date()))
        .orderBy("id")
        .limit(atOnce)
        .pluck("id")
      if (ids.length === 0) break
      for (const id of ids) {
        if (!server) throw new Error(coded(reason("mail.no-server")))
        line ??= lineTo(server.url)
        const why = await sendOne(db, id, line, new URL(server.url).hostname)
        later = why ? later + 1 : later
        // a server that takes nothing just now is left alone for a while
        if (why && later >= mostLater) throw new MailUnreachable(why)
      }
      after = ids.at(-1) ?? after
    }
    if (later > 0) throw new MailUnreachable(coded(reason("mail.later", { n: later })))
  } catch (error) {
    // what waits says why it does
    const trouble = connectionTrouble(error).slice(0, 280)
    if (!(error instanceof MailUnreachable && later > 0))
      await db("mail").where({ state: "waiting" }).orderBy("id").limit(atOnce).update({ trouble })
    throw error
  } finally {
    line?.close()
  }
}

/** Sends one; answers why not, where it is to be tried again later. */
async function sendOne(db: Knex, mailId: number, line: MailLine, host: string): Promise<string | null> {
  const held = await db("mail")
    .where({ id: mailId, state: "waiting" })
    .where((free) => free.whereNull("leased_until").orWhere("leased_until", "<", new Date()))
    .update({ leased_until: new Date(Date.now() + heldMs) })
  if (held === 0) return null
  const mail = there(await db("mail").where({ id: mailId }).first())
  const warehouse = there(await db("warehouse").where({ id: mail.warehouse_id }).first("email", "company"))
  const address = warehouse.email || "shipping@localhost"
  const name = String(mail.sender_name || warehouse.company).replace(/["\\\r\n]/g, "")
  try {
    const answer = await line.send({
      messageId: `<varnok-${mail.id}@${host}>`,
      from: `"${name}" <${address}>`,
      to: mail.recipient,
      subject: mail.subject,
      text: mail.body,
      html: mail.html,
      attachments: await attachmentsOf(db, mail),
      bouncesTo: bounceAddress(mail.id, address),
      unsubscribe: mail.unsubscribe_url,
    })
    const at = await businessNow(db)
    await db("mail")
      .where({ id: mailId, state: "waiting" })
      .update(
        answer.kind === "sent"
          ? { state: "sent", sent_at: at, trouble: null, leased_until: null }
          : {
              ...(answer.kind === "refused" ? { state: "refused" as const } : {}),
              trouble: answer.why,
              leased_until: null,
            },
      )
    await announce(db, { warehouseId: mail.warehouse_id })
    return answer.kind === "later" ? answer.why : null
  } catch (error) {
    await db("mail").where({ id: mailId }).update({ leased_until: null })
    throw error
  }
}

async function attachmentsOf(db: Knex, mail: MailRow): Promise<{ name: string; bytes: Buffer }[]> {
  const own = mail.attachment ? [{ name: mail.attachment_name ?? "", bytes: mail.attachment }] : []
  const ids = mail.documents ? parsed<number[]>(mail.documents) : []
  if (ids.length === 0) return own
  const papers = await db("document").whereIn("id", ids).orderBy("id").select("name", "bytes", "media")
  const end = (media: string) => (media.includes("pdf") ? ".pdf" : "")
  return [...own, ...papers.map((one) => ({ name: `${one.name}${end(one.media ?? "")}`, bytes: one.bytes }))]
}

/**
 * The address to which a message comes back that can't be delivered: it names the message, with a proof that we wrote it.
 * Without a key to prove it by, nothing names it, and it comes back to the sender.
 */
export function bounceAddress(mailId: number, sender: string): string {
  const host = sender.split("@")[1] ?? "localhost"
  if (!canKeepSecrets()) return sender
  const proof = tokenFor("bounce", String(mailId))
    .toLowerCase()
    .replace(/[^a-z0-9]/g, "0")
  return `bounce+${mailId}.${proof.slice(0, 16)}@${host}`
}

/** Notes that a message came back: it was not delivered. Answers whether the address was one of ours. */
export async function noteBounce(db: Knex, to: string, why: string): Promise<boolean> {
  const id = Number(/^bounce\+(\d{1,10})\./.exec(to)?.[1] ?? 0)
  if (!id || bounceAddress(id, to) !== to.toLowerCase()) return false
  const at = await businessNow(db)
  const changed = await db("mail")
    .where({ id, state: "sent" })
    .update({ state: "bounced", bounced_at: at, trouble: why.slice(0, 280) })
  if (changed > 0) {
    const row = there(await db("mail").where({ id }).first("warehouse_id"))
    await announce(db, { warehouseId: row.warehouse_id })
  }
  return true
}
