import { randomBytes } from "node:crypto"
import { addDays, instantAt, localDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { there } from "../db/there.ts"
import { leadOf } from "../orders/joined.ts"
import { canKeepSecrets, isTokenFor, tokenFor } from "../secrets/index.ts"

/** How long a receiver's page is there, in days after it was made. */
const linkDays = 90

/** Where we are reached from outside, by the setting VARNOK_PUBLIC_URL; empty: messages have no links. */
export const publicUrl = (): string => (process.env.VARNOK_PUBLIC_URL ?? "").replace(/\/+$/, "")

/** The address of the receiver's page of an order's shipment, unguessable and the same each time; empty: none can be had. */
export async function receiverLink(trx: Knex, orderId: OrderId, language: string, now: Date): Promise<string> {
  const base = publicUrl()
  if (base === "") return ""
  return `${base}/follow/${await receiverToken(trx, orderId, language, now)}`
}

/** The token of a receiver's page, made when it is first asked for: 128 bits that nobody can guess. */
export async function receiverToken(trx: Knex, orderId: OrderId, language: string, now: Date): Promise<string> {
  const lead = await leadOf(trx, orderId)
  const order = there(
    await trx("sales_order as o")
      .join("warehouse as w", "w.id", "o.warehouse_id")
      .where("o.id", lead)
      .first("o.warehouse_id", "w.zone"),
  )
  const expires = instantAt(addDays(localDate(now, order.zone), linkDays), "00:00", order.zone)
  await trx("receiver_link")
    .insert({
      token: randomBytes(16).toString("base64url"),
      order_id: lead,
      warehouse_id: order.warehouse_id,
      language,
      made_at: now,
      expires_at: expires,
    })
    .onConflict("order_id")
    .merge({ expires_at: expires })
  return there(await trx("receiver_link").where({ order_id: lead }).first("token")).token
}

/** The path of the receiver's page of an order's shipment, where it was told of it; empty where it was not. */
export async function receiverPath(db: Knex, orderId: OrderId): Promise<string> {
  const link = await db("receiver_link")
    .where({ order_id: await leadOf(db, orderId) })
    .first("token")
  return link ? `/follow/${link.token}` : ""
}

const shape = /^[A-Za-z0-9_-]{22}$/

/** What a token stands for; null where there is none, or it has expired. */
export async function linkOf(db: Knex, token: string, now: Date) {
  if (!shape.test(token)) return null
  const link = await db("receiver_link").where({ token }).first()
  return link && link.expires_at > now ? link : null
}

/** The address by which one press ends messages to whoever this one is for; empty: none can be had. */
export function unsubscribeLink(messageId: number): string {
  const base = publicUrl()
  return base === "" || !canKeepSecrets()
    ? ""
    : `${base}/unsubscribe/${messageId}.${tokenFor("unsubscribe", String(messageId))}`
}

/** The message that such an address names; null where it was not made by us. */
export function unsubscribed(text: string): number | null {
  const [, id = "", token = ""] = /^(\d{1,15})\.([A-Za-z0-9_-]{22})$/.exec(text) ?? []
  return id !== "" && canKeepSecrets() && isTokenFor("unsubscribe", id, token) ? Number(id) : null
}
