import { createHash } from "node:crypto"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { likeInAnyCase } from "../db/words.ts"
import { moreRecipients } from "./named.ts"

/** By what an address is known that is not written to: its hash, in whatever case it was typed. */
export const addressHash = (address: string): string =>
  createHash("sha256").update(address.trim().toLowerCase()).digest("hex")

/** Why an address is not written to; null where it is. */
export async function blockedFor(db: Knex, address: string): Promise<"unsubscribed" | "bounced" | "erased" | null> {
  const row = await db("telling_block")
    .where({ address_hash: addressHash(address) })
    .first("why")
  return row?.why ?? null
}

/** Writes to an address no more, nor what waits to be sent to it; erased stays erased. */
export async function block(
  trx: Knex,
  address: string,
  why: "unsubscribed" | "bounced" | "erased",
  now: Date,
): Promise<void> {
  await trx("telling_block")
    .insert({ address_hash: addressHash(address), why, at: now })
    .onConflict("address_hash")
    .merge(why === "erased" ? { why, at: now } : { at: now })
  await withdraw(trx, address)
}

/** Takes back what waits to be sent to an address: messages, and their mail that no worker is just sending. */
async function withdraw(trx: Knex, address: string): Promise<void> {
  const same = (query: Knex.QueryBuilder, column: string) =>
    query.whereRaw("LOWER(??) = ?", [column, address.trim().toLowerCase()])
  await same(trx("customer_message").where({ state: "waiting" }), "address").update({ state: "blocked" })
  const unsent: number[] = await same(trx("mail").where({ state: "waiting" }), "recipient")
    .where((free: Knex.QueryBuilder) => free.whereNull("leased_until").orWhere("leased_until", "<", new Date()))
    .whereIn("id", trx("customer_message").where({ state: "handed-on" }).whereNotNull("mail_id").select("mail_id"))
    .pluck("id")
  await trx("customer_message").whereIn("mail_id", unsent).update({ state: "blocked", mail_id: null })
  await trx("mail").whereIn("id", unsent).delete()
}

/** Whom a message was for, as far as his own page shows it: not all of his address. */
export async function messageOf(
  db: Knex,
  messageId: number,
): Promise<{ readonly address: string; readonly language: string } | null> {
  const row = await db("customer_message").where({ id: messageId }).first("address", "language")
  return row ? { address: row.address.replace(/^(..).*?(?=@|....$)/, "$1…"), language: row.language } : null
}

/** Ends messages to whoever a message was for. */
export async function unsubscribe(
  db: Knex,
  messageId: number,
  now: Date,
): Promise<{ readonly address: string } | null> {
  return inTransaction(db, async (trx) => {
    const message = await trx("customer_message").where({ id: messageId }).first("address", "order_id", "warehouse_id")
    if (!message || message.address === "") return null
    if ((await blockedFor(trx, message.address)) === null) {
      await block(trx, message.address, "unsubscribed", now)
      await record(trx, { userId: null, name: "" }, now, {
        action: "tell.unsubscribed",
        orderId: message.order_id,
        detail: {},
      })
    }
    return { address: message.address }
  })
}

/** Allows an address again that had unsubscribed or could not be reached, such as on the telephone. */
export async function allowAgain(context: Context, address: string): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  const why = await blockedFor(db, address)
  if (why === "erased") return refused(reason("tell.erased", { field: "address" }))
  if (why === null) return refused(reason("tell.not-blocked", { field: "address" }))
  await inTransaction(db, async (trx) => {
    await trx("telling_block")
      .where({ address_hash: addressHash(address) })
      .delete()
    await record(trx, actor, now, { action: "tell.allowed", detail: {} })
  })
  return accepted(null)
}

/** What the audit says with the address that it went to. */
const namesAddress = ["return.mailed", "paper.mailed", "quote.mailed", "tell.again"]

/**
 * Erases an address wherever messages keep it: contacts, orders' parties, messages and stories forget it, and it is not
 * written to again. What was sent stays as a fact, without whom it went to.
 */
export async function eraseAddress(context: Context, address: string): Promise<Outcome<{ readonly messages: number }>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  const plain = address.trim()
  if (plain.length < 5) return refused(reason("tell.no-address", { field: "address" }))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly messages: number }>> => {
    await block(trx, plain, "erased", now)
    const same = (query: Knex.QueryBuilder, column: string) =>
      query.whereRaw("LOWER(??) = ?", [column, plain.toLowerCase()])
    await same(trx("customer_contact"), "address").delete()
    await same(trx("order_party"), "email").update({ email: "" })
    await same(trx("mail").whereNot({ state: "waiting" }), "recipient").update({
      recipient: "",
      body: "",
      html: null,
      attachment: null,
    })
    await same(trx("return_intent"), "mail_to").update({ mail_to: "" })
    const named = await trx("order_telling").whereRaw(
      likeInAnyCase(trx, "more", `%${plain.replace(/[\\%_]/g, "\\$&")}%`),
    )
    for (const one of named) {
      const more = moreRecipients
        .parse(parsed(one.more))
        .filter((each) => each.address.toLowerCase() !== plain.toLowerCase())
      await trx("order_telling")
        .where({ order_id: one.order_id })
        .update({ more: JSON.stringify(more) })
    }
    const unsent: number[] = await same(trx("mail").where({ state: "waiting" }), "recipient").pluck("id")
    await trx("mail").whereIn("id", unsent).delete()
    // the one thing that is changed in the audit; read first, so that nobody's deeds wait for it
    const said: number[] = await trx("audit")
      .whereIn("action", namesAddress)
      .whereRaw("LOWER(JSON_VALUE(detail, '$.to')) = ?", [plain.toLowerCase()])
      .pluck("id")
    await trx("audit")
      .whereIn("id", said)
      .update({ detail: trx.raw("JSON_SET(detail, '$.to', '…')") })
    const messages = await same(trx("customer_message"), "address").update({
      address: "",
      name: "",
      subject: "",
      body: null,
      state: trx.raw(
        `IF(state = 'waiting' OR (state = 'handed-on' AND mail_id IN (${unsent.map(() => "?").join(", ") || "NULL"})), 'blocked', state)`,
        unsent,
      ),
    })
    await record(trx, actor, now, { action: "tell.address-erased", detail: { messages } })
    return accepted({ messages })
  })
}
