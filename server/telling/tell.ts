import { createHash } from "node:crypto"
import type { LocalTime } from "core/calendar/index.ts"
import type { OrderId, ReturnId } from "core/ids/index.ts"
import { afterQuiet, phoneNumber, type Topic, usualTopics, type Way } from "core/telling/index.ts"
import type { Knex } from "knex"
import { locate } from "../addresses/places.ts"
import { parsed } from "../audit/index.ts"
import { there } from "../db/there.ts"
import { leadOf, membersOf } from "../orders/joined.ts"
import { blockedFor } from "./blocks.ts"
import { languageOf, type ToldFacts } from "./facts.ts"
import { askToTell } from "./jobs.ts"
import { moreRecipients } from "./named.ts"

export interface Recipient {
  readonly way: Way
  readonly address: string
  readonly name: string
  readonly language: string
}

/** Whether the house tells of something. */
export async function isTold(db: Knex, topic: Topic): Promise<boolean> {
  const row = await db("telling_topic").where({ topic }).first("is_on")
  return row ? !!row.is_on : usualTopics.includes(topic)
}

/** Who is told of an order: its customer's contacts for the topic, the party of the order that is to be told, and those named with it. */
export async function recipientsOf(trx: Knex, orderId: OrderId, topic: Topic): Promise<Recipient[]> {
  const order = there(await trx("sales_order").where({ id: orderId }).first("customer_id", "country"))
  const customer = order.customer_id
    ? await trx("customer").where({ id: order.customer_id }).first("language")
    : undefined
  const language = customer?.language ?? "en"
  const contacts = order.customer_id
    ? await trx("customer_contact").where({ customer_id: order.customer_id }).orderBy("id")
    : []
  const party = await trx("order_party").where({ order_id: orderId, role: "notify" }).first()
  const telling = await trx("order_telling")
    .where({ order_id: await leadOf(trx, orderId) })
    .first("more")
  const named: Recipient[] = []
  if (party?.email) named.push({ way: "mail", address: party.email, name: party.attention || party.company, language })
  const phone = party && !party.email ? phoneNumber(party.phone, order.country) : null
  if (phone) named.push({ way: "text", address: phone, name: party?.attention ?? "", language })
  const all = [
    ...contacts
      .filter((one) => parsed<string[]>(one.topics).includes(topic))
      .map((one) => ({ way: one.way, address: one.address, name: one.name, language: one.language || language })),
    ...named,
    ...(telling ? moreRecipients.parse(parsed(telling.more)) : []).map((one) => ({
      ...one,
      language: one.language || language,
    })),
  ]
  return [...new Map(all.map((one) => [`${one.way} ${one.address.toLowerCase()}`, one])).values()]
}

/** An address that somebody named for one message about an order: it is written to in the language of its customer. */
export async function namedFor(trx: Knex, orderId: OrderId, address: string): Promise<Recipient> {
  const customer = await trx("sales_order as o")
    .join("customer as c", "c.id", "o.customer_id")
    .where("o.id", orderId)
    .first("c.language")
  return { way: "mail", address, name: "", language: customer?.language ?? "en" }
}

/** Takes back what waits to be sent of a topic and what it is of, since that is no more. */
export const withdrawReturn = (trx: Knex, orderId: OrderId, returnId: ReturnId) =>
  trx("customer_message")
    .where({ order_id: orderId, topic: "return-label", state: "waiting" })
    .whereRaw("JSON_VALUE(facts, '$.return_id') = ?", [returnId])
    .update({ state: "blocked" })

/**
 * Tells the customer of an order that something happened, in the transaction in which it did: a message to each who is to
 * be told, once for what it is of. The words are made when it is sent; in quiet hours it waits.
 *
 * @param of what makes it another message of the same topic, such as the day that is expected now
 */
export async function tell(
  trx: Knex,
  orderId: OrderId,
  topic: Topic,
  now: Date,
  {
    of = "",
    told = {},
    to,
  }: { readonly of?: string; readonly told?: ToldFacts; readonly to?: readonly Recipient[] } = {},
): Promise<number> {
  if (!to && !(await isTold(trx, topic))) return 0
  const lead = await leadOf(trx, orderId)
  const telling = await trx("order_telling").where({ order_id: lead }).first("is_off")
  if (!to && telling?.is_off) return 0
  const recipients = to ?? (await recipientsOf(trx, orderId, topic))
  if (recipients.length === 0) return 0
  const order = there(await trx("sales_order").where({ id: orderId }).first("warehouse_id", "country", "postal_code"))
  const warehouse = there(
    await trx("warehouse").where({ id: order.warehouse_id }).first("zone", "quiet_from", "quiet_to", "quiet_mail"),
  )
  const zone = locate(order.country, order.postal_code).zone ?? warehouse.zone
  const quiet = afterQuiet(now, zone, warehouse.quiet_from as LocalTime, warehouse.quiet_to as LocalTime)
  let written = 0
  for (const one of recipients) {
    const blocked = await blockedFor(trx, one.address)
    const [id] = await trx("customer_message")
      .insert({
        warehouse_id: order.warehouse_id,
        order_id: orderId,
        topic,
        once_key: createHash("sha256")
          .update(JSON.stringify([orderId, topic, of, one.way, one.address.toLowerCase()]))
          .digest("hex"),
        way: one.way,
        address: blocked === "erased" ? "" : one.address,
        name: one.name,
        language: languageOf(one.language),
        facts: JSON.stringify(told),
        state: blocked ? "blocked" : "waiting",
        made_at: now,
        // a person who asks for it wants it now
        send_after: !to && (one.way === "text" || warehouse.quiet_mail) ? quiet : now,
      })
      .onConflict("once_key")
      .ignore()
    if (id && !blocked) written += 1
  }
  if (written > 0) await askToTell(trx)
  return written
}

/** Tells of all orders of a shipment. */
export async function tellAll(
  trx: Knex,
  lead: OrderId,
  topic: Topic,
  now: Date,
  more: Parameters<typeof tell>[4] = {},
): Promise<void> {
  for (const orderId of await membersOf(trx, lead)) await tell(trx, orderId, topic, now, more)
}
