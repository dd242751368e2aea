import { randomBytes } from "node:crypto"
import type { CarrierId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { Webhook, WebhookVerificationError } from "standardwebhooks"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { readCarrierEvents } from "../formats/carrierEvents.ts"
import { canKeepSecrets, seal, unseal } from "../secrets/index.ts"
import { noteUnreadable, takeEvents } from "./take.ts"

const purpose = "carrier events"

export type PushAnswer = "taken" | "unknown" | "unsigned" | "unreadable"

/** Events in one message, at most. */
const mostEvents = 500

/**
 * Takes a message that a carrier sent by himself, where its signature is his: by the secret in force, or the one before
 * it, which counts until the next is made. The clock may be off by five minutes (standard webhooks, its reference code).
 */
export async function takePush(
  db: Knex,
  code: string,
  body: Buffer,
  headers: Readonly<Record<string, string>>,
): Promise<PushAnswer> {
  const carrier = await db("carrier").where({ code }).first("id", "pushes", "pushes_before")
  if (!carrier?.pushes) return "unknown"
  const secrets = [carrier.pushes, carrier.pushes_before].flatMap((one) => (one ? [unseal(purpose, one)] : []))
  if (!secrets.some((secret) => isSigned(secret, body, headers))) return "unsigned"
  let value: unknown
  try {
    value = JSON.parse(body.toString("utf8"))
  } catch {
    return "unreadable"
  }
  const { events } = (value ?? {}) as { events?: unknown }
  if (!Array.isArray(events) || events.length > mostEvents) return "unreadable"
  const now = await businessNow(db)
  const read = readCarrierEvents(events, now)
  await takeEvents(db, carrier.id, read.events, "pushed", now)
  await noteUnreadable(db, carrier.id, read.unreadable, now)
  return "taken"
}

function isSigned(secret: string, body: Buffer, headers: Readonly<Record<string, string>>): boolean {
  try {
    new Webhook(secret).verify(body.toString("utf8"), { ...headers })
    return true
  } catch (error) {
    if (error instanceof WebhookVerificationError) return false
    // signed, and no JSON: its reader says so
    if (error instanceof SyntaxError) return true
    throw error
  }
}

export interface MadeSecret {
  readonly secret: string
  readonly carrier: string
}

/**
 * Makes a secret for a carrier's messages. What he signs with the one before counts until the next is made, so that he
 * can change it when he likes. It is shown once.
 */
export async function makePushSecret(context: Context, carrierId: CarrierId): Promise<Outcome<MadeSecret>> {
  const { db, actor, now } = context
  authorise(actor, "tariffs.manage")
  if (!canKeepSecrets()) return refused(reason("secrets.no-key"))
  return inTransaction(db, async (trx): Promise<Outcome<MadeSecret>> => {
    const carrier = await trx("carrier").where({ id: carrierId }).forUpdate().first("name", "pushes")
    if (!carrier) return refused(reason("tariff.no-carrier"))
    const secret = `whsec_${randomBytes(24).toString("base64")}`
    await trx("carrier")
      .where({ id: carrierId })
      .update({ pushes: seal(purpose, secret), pushes_before: carrier.pushes })
    await record(trx, actor, now, { action: "tracking.secret-made", detail: { carrier: carrier.name } })
    return accepted({ secret, carrier: carrier.name })
  })
}

/** How each carrier's events come in. */
export const feeds = async (
  db: Knex,
): Promise<
  {
    readonly id: CarrierId
    readonly code: string
    readonly name: string
    readonly askedAt: Date | null
    readonly trouble: string | null
    readonly pushes: boolean
  }[]
> =>
  (await db("carrier").orderBy("name").select("id", "code", "name", "events_at", "events_trouble", "pushes")).map(
    (row) => ({
      id: row.id,
      code: row.code,
      name: row.name,
      askedAt: row.events_at,
      trouble: row.events_trouble,
      pushes: row.pushes !== null,
    }),
  )

/** Takes nothing more that a carrier sends by himself. */
export async function endPushes(
  context: Context,
  carrierId: CarrierId,
): Promise<Outcome<{ readonly carrier: string }>> {
  const { db, actor, now } = context
  authorise(actor, "tariffs.manage")
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly carrier: string }>> => {
    const carrier = await trx("carrier").where({ id: carrierId }).forUpdate().first("name", "pushes")
    if (!carrier) return refused(reason("tariff.no-carrier"))
    if (!carrier.pushes) return accepted({ carrier: carrier.name })
    await trx("carrier").where({ id: carrierId }).update({ pushes: null, pushes_before: null })
    await record(trx, actor, now, { action: "tracking.secret-ended", detail: { carrier: carrier.name } })
    return accepted({ carrier: carrier.name })
  })
}
