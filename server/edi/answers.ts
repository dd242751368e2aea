import { Readable } from "node:stream"
import type { EdiMessageId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { EdiMessageRow } from "../db/tables.ts"
import { type Acknowledgment, readContrl } from "../formats/contrl.ts"
import { FileRefused } from "../formats/orderRow.ts"
import { answersIn } from "../gateways/partner.ts"
import { referenceOf } from "./facts.ts"
import { sendingEdi } from "./jobs.ts"
import { nameOf } from "./send.ts"

/**
 * Notes what the other side says of a message that it was sent; once it acknowledged one, no later answer changes that.
 * Answers whether it was the answer to one.
 */
async function noteAnswer(
  trx: Knex,
  of: { readonly warehouseId: WarehouseId } | { readonly folder: string },
  { reference, accepted: taken }: Acknowledgment,
  by: { readonly userId: number | null; readonly name: string },
  now: Date,
): Promise<boolean> {
  if (!/^\d{8,10}$/.test(reference)) return false
  const query = trx("edi_message").where({ id: Number(reference) })
  const message = await ("folder" in of
    ? query.where({ way: "folder", send_to: of.folder })
    : query.where({ warehouse_id: of.warehouseId })
  )
    .forUpdate()
    .first()
  // one that was never made can't have come; one that waits may have, where what happened then was not written down
  if (!message?.bytes) return false
  const state = taken ? "acknowledged" : "refused"
  if (message.state === "acknowledged" || message.state === state) return true
  await trx("edi_message")
    .where({ id: message.id })
    .update({
      state,
      trouble: taken ? null : JSON.stringify(reason("edi.rejected")),
      answered_at: now,
      answered_by: by.name,
    })
  await record(trx, by, now, {
    action: taken ? "edi.acknowledged" : "edi.refused",
    orderId: message.order_id,
    detail: { message: nameOf(message), to: message.send_to },
  })
  await announce(trx, { warehouseId: message.warehouse_id })
  return true
}

/** Reads the acknowledgments that lie in the folders messages were put in, and puts each aside. */
export async function readAnswers(db: Knex, now = Date.now()): Promise<void> {
  const folders: string[] = await db("edi_message")
    .where({ way: "folder" })
    .whereIn("state", ["waiting", "sent"])
    .distinct("send_to")
    .orderBy("send_to")
    .pluck("send_to")
  for (const folder of folders)
    for (const file of await answersIn(folder, now)) {
      try {
        const answers = await readContrl(Readable.from([file.bytes]))
        const at = await businessNow(db)
        await inTransaction(db, async (trx) => {
          for (const one of answers) await noteAnswer(trx, { folder }, one, { userId: null, name: "" }, at)
        })
        await file.aside(true)
      } catch (error) {
        if (!(error instanceof FileRefused)) throw error
        await file.aside(false)
      }
    }
}

/** Takes a file of acknowledgments that came by another way. Answers how many it had, and of how many we know nothing. */
export async function takeAnswers(
  { db, actor, now }: Context,
  file: Readable,
): Promise<Outcome<{ readonly known: number; readonly unknown: number }>> {
  authorise(actor, "dock.work")
  const answers = await readContrl(file)
  return inTransaction(db, async (trx): Promise<Outcome<{ known: number; unknown: number }>> => {
    let known = 0
    for (const one of answers)
      if (await noteAnswer(trx, { warehouseId: actor.warehouseId }, one, actor, now)) known += 1
    return accepted({ known, unknown: answers.length - known })
  })
}

/** Does something with a message of the own warehouse, which is held meanwhile; answers its name. */
async function withMessage(
  { db, actor }: Context,
  messageId: EdiMessageId,
  does: (trx: Knex, message: EdiMessageRow, name: string) => Promise<Reason | null>,
): Promise<Outcome<{ name: string }>> {
  authorise(actor, "dock.work")
  return inTransaction(db, async (trx): Promise<Outcome<{ name: string }>> => {
    const message = await trx("edi_message")
      .where({ id: messageId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first()
    if (!message) return refused(reason("edi.unknown"))
    const name = nameOf(message)
    const why = await does(trx, message, name)
    return why ? refused(why) : accepted({ name })
  })
}

/** Notes by hand that a message was acknowledged, such as on the phone. Safe to repeat. */
export const acknowledgeByHand = (context: Context, messageId: EdiMessageId): Promise<Outcome<{ name: string }>> =>
  withMessage(context, messageId, async (trx, message, name) => {
    if (message.state === "waiting") return reason("edi.not-sent", { message: name })
    const { actor, now } = context
    const answer = { reference: referenceOf(message.id), accepted: true }
    await noteAnswer(trx, { warehouseId: actor.warehouseId }, answer, actor, now)
    return null
  })

/**
 * Sends a message again that was refused, or was sent and never acknowledged. It stays the same message. Refused for an
 * instruction whose booking is void.
 */
export const sendAgain = (context: Context, messageId: EdiMessageId): Promise<Outcome<{ name: string }>> =>
  withMessage(context, messageId, async (trx, message, name) => {
    if (message.state === "acknowledged") return reason("edi.had", { message: name })
    // pressed twice, it waits already
    if (message.state === "waiting") return null
    const of = message.document_id ? await trx("document").where({ id: message.document_id }).first("void_at") : null
    if (of?.void_at && !message.cancels) return reason("edi.void", { message: name })
    const asked = message.asked + 1
    await trx("edi_message")
      .where({ id: messageId })
      .update({ state: "waiting", asked, trouble: null, answered_at: null, answered_by: "" })
    await sendingEdi.queue(trx, `edi:${messageId}:${asked}`, { messageId })
    await record(trx, context.actor, context.now, {
      action: "edi.again",
      orderId: message.order_id,
      detail: { message: name },
    })
    return null
  })
