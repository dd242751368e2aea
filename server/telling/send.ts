import type { DocumentId } from "core/ids/index.ts"
import { coded, reason } from "core/refusal/index.ts"
import type { Topic } from "core/telling/index.ts"
import type { Knex } from "knex"
import { sayIn } from "words/index.ts"
import { announce, parsed } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { CustomerMessageRow } from "../db/tables.ts"
import { shipNoticeFor } from "../edi/attached.ts"
import { connectionTrouble } from "../gateways/reach.ts"
import { sendText, type TextAnswer } from "../gateways/textMessage.ts"
import { postMail } from "../mail/index.ts"
import { leadOf } from "../orders/joined.ts"
import { languageOf, messageFacts, senderOf, type ToldFacts } from "./facts.ts"
import { receiverLink, unsubscribeLink } from "./links.ts"
import { htmlOf } from "./render.ts"
import { wordsOn } from "./words.ts"

/** How long a message is one worker's (real time). */
const heldMs = 60_000
const atOnce = 100
/** So many text messages that are not taken now, and no more are tried. */
const mostLater = 20

/** Messages that are due: not in quiet hours any more, and nobody's just now. */
export const dueMessages = (db: Knex, now: Date) =>
  db("customer_message")
    .where({ state: "waiting" })
    .where("send_after", "<=", now)
    .where((free) => free.whereNull("leased_until").orWhere("leased_until", "<", new Date()))

/** How long a message is left alone whose words or papers could not be made. */
const againMs = 10 * 60_000

/**
 * Hands on what is due: e-mail is put with the mail that waits, a text message goes to its service by its own key. A
 * message that fails, or a text service that does not answer, holds up no other. Throws at the end where something waits.
 */
export async function sendMessages(db: Knex, text: typeof sendText = sendText): Promise<void> {
  const service = await db("outside_service").where({ kind: "text" }).first("url")
  let later = 0
  let trouble: unknown = null
  let textsWait = false
  for (let after = 0; ; ) {
    const now = await businessNow(db)
    const rows = await dueMessages(db, now).where("id", ">", after).orderBy("id").limit(atOnce)
    if (rows.length === 0) break
    for (const row of rows) {
      if (row.way === "text" && textsWait) continue
      const held = await dueMessages(db, now)
        .where({ id: row.id })
        .update({ leased_until: new Date(Date.now() + heldMs) })
      if (held === 0) continue
      try {
        if (row.way === "mail") await handOn(db, row, now)
        else if (!(await sendAsText(db, row, service?.url ?? "", text, now))) later += 1
        textsWait ||= later >= mostLater
      } catch (error) {
        trouble ??= error
        if (error instanceof NoTextService) textsWait = true
        else await setAside(db, row, error, now)
      } finally {
        await db("customer_message").where({ id: row.id, state: "waiting" }).update({ leased_until: null })
      }
    }
    after = rows.at(-1)?.id ?? after
  }
  if (trouble) throw trouble
  if (later > 0) throw new Error(coded(reason("tell.later", { n: later })))
}

/** The text service does not answer: no other message need be tried. */
class NoTextService extends Error {}

/** Leaves one message alone for a while, with the reason, so that it does not hold up the others. */
async function setAside(db: Knex, row: CustomerMessageRow, error: unknown, now: Date): Promise<void> {
  await db("customer_message")
    .where({ id: row.id, state: "waiting" })
    .update({
      trouble: (error instanceof Error ? error.message : String(error)).slice(0, 280),
      send_after: new Date(now.getTime() + againMs),
    })
}

/** The words of a message as it is sent now. */
async function worded(db: Knex, row: CustomerMessageRow, now: Date) {
  const language = languageOf(row.language)
  const link = await receiverLink(db, row.order_id, language, now)
  const told = parsed<ToldFacts>(row.facts)
  const facts = await messageFacts(db, row.order_id, { language, name: row.name, link, told })
  return { ...(await wordsOn(db, row.topic as Topic, row.way, language, facts)), link, language }
}

async function handOn(db: Knex, row: CustomerMessageRow, now: Date): Promise<void> {
  const { subject, body, link, language } = await worded(db, row, now)
  const sender = await senderOf(db, row.order_id)
  const unsubscribe = unsubscribeLink(row.id)
  const say = sayIn(language)
  const end = unsubscribe ? `\n\n--\n${say("follow.unsubscribe")}: ${unsubscribe}` : ""
  const documents = await attachedTo(db, row)
  const notice = await noticeTo(db, row, now)
  await inTransaction(db, async (trx) => {
    const changed = await trx("customer_message")
      .where({ id: row.id, state: "waiting" })
      .update({ state: "handed-on", subject, body })
    if (changed === 0) return
    const mailId = await postMail(trx, {
      onceKey: `tell ${row.id}`,
      warehouseId: row.warehouse_id,
      to: row.address,
      subject,
      body: `${body}${end}`,
      html: htmlOf(body, {
        sender: sender.name,
        address: sender.address,
        link,
        language,
        footer: unsubscribe ? [{ text: say("follow.unsubscribe"), url: unsubscribe }] : [],
      }),
      attachment: notice,
      documents,
      senderName: sender.name,
      unsubscribe,
      quoteId: null,
      by: "",
      at: now,
    })
    await trx("customer_message").where({ id: row.id }).update({ mail_id: mailId })
    await announce(trx, { orderId: row.order_id })
  })
}

/** False where the service takes it later. */
async function sendAsText(
  db: Knex,
  row: CustomerMessageRow,
  url: string,
  send: typeof sendText,
  now: Date,
): Promise<boolean> {
  const { body } = await worded(db, row, now)
  let answer: TextAnswer
  try {
    if (url === "") throw new Error(coded(reason("tell.no-text-service")))
    answer = await send(url, `varnok-${row.id}`, { to: row.address, text: body })
  } catch (error) {
    await db("customer_message")
      .where({ state: "waiting", way: "text" })
      .where("send_after", "<=", now)
      .orderBy("id")
      .limit(atOnce)
      .update({ trouble: connectionTrouble(error).slice(0, 280) })
    throw new NoTextService(connectionTrouble(error))
  }
  await db("customer_message")
    .where({ id: row.id, state: "waiting" })
    .update(
      answer.kind === "sent"
        ? { state: "sent", body, sent_at: now, trouble: null }
        : answer.kind === "refused"
          ? { state: "refused", body, trouble: answer.why }
          : { trouble: answer.why },
    )
  await announce(db, { orderId: row.order_id })
  return answer.kind !== "later"
}

/** The ship notice that goes with a message, where its order says so and it has left with a truck. */
async function noticeTo(db: Knex, row: CustomerMessageRow, now: Date) {
  if (row.topic !== "left") return null
  const lead = await leadOf(db, row.order_id)
  const telling = await db("order_telling").where({ order_id: lead }).first("attach")
  if (!telling || !parsed<string[]>(telling.attach).includes("desadv")) return null
  return shipNoticeFor(db, lead, { reference: `M${String(row.id).padStart(8, "0")}`, at: now })
}

/** Papers that go with a message: as its order says, when it leaves; the label for the way back. */
async function attachedTo(db: Knex, row: CustomerMessageRow): Promise<DocumentId[]> {
  const lead = await leadOf(db, row.order_id)
  if (row.topic === "return-label") {
    const { return_id: returnId } = parsed<ToldFacts>(row.facts)
    return returnId
      ? db("document").where({ return_intent_id: returnId }).whereNull("void_at").orderBy("id").pluck("id")
      : []
  }
  if (row.topic !== "shipped" && row.topic !== "left") return []
  const telling = await db("order_telling").where({ order_id: lead }).first("attach")
  const kinds = telling ? parsed<string[]>(telling.attach) : []
  if (kinds.length === 0) return []
  return db("document")
    .where({ order_id: lead })
    .whereIn("kind", kinds)
    .whereNull("void_at")
    .orderBy("id")
    .limit(10)
    .pluck("id")
}
