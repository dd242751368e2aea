import type { CarrierId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { type EventKind, eventKindNames } from "core/tracking/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { refollowing } from "./jobs.ts"

export interface TrackingCode {
  readonly carrierId: CarrierId
  readonly carrier: string
  readonly code: string
  readonly text: string
  readonly kind: EventKind | null
}

/** The codes that carriers use, those without a meaning first. */
export const trackingCodes = async (db: Knex): Promise<TrackingCode[]> =>
  (
    await db("tracking_code as t")
      .join("carrier as k", "k.id", "t.carrier_id")
      .orderByRaw("t.kind IS NOT NULL")
      .orderBy("k.name")
      .orderBy("t.code")
      .limit(1_000)
      .select("t.*", "k.name as carrier")
  ).map((row) => ({
    carrierId: row.carrier_id as CarrierId,
    carrier: row.carrier,
    code: row.code,
    text: row.text,
    kind: row.kind as EventKind | null,
  }))

export const unknownCodes = async (db: Knex): Promise<number> =>
  Number((await db("tracking_code").whereNull("kind").count({ n: "*" }).first())?.n ?? 0)

/** Says what a carrier's code means. What was told by it before is worked out anew. */
export async function setCode(
  context: Context,
  carrierId: CarrierId,
  code: string,
  kind: string,
): Promise<Outcome<{ readonly code: string }>> {
  const { db, actor, now } = context
  authorise(actor, "tariffs.manage")
  const known = eventKindNames.find((one) => one === kind)
  if (!known) return refused(reason("tracking.no-kind", { field: "kind" }))
  if (!/^[\x21-\x7e]{1,40}$/.test(code)) return refused(reason("tracking.no-code", { field: "code" }))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly code: string }>> => {
    const carrier = await trx("carrier").where({ id: carrierId }).first("name")
    if (!carrier) return refused(reason("tariff.no-carrier"))
    const before = await trx("tracking_code").where({ carrier_id: carrierId, code }).forUpdate().first("kind")
    if (before?.kind === known) return accepted({ code })
    await trx("tracking_code")
      .insert({ carrier_id: carrierId, code, kind: known, text: "", first_at: now })
      .onConflict(["carrier_id", "code"])
      .merge(["kind"])
    await trx("tracking_event").where({ carrier_id: carrierId, code }).update({ kind: known, known: true })
    await refollowing.queue(trx, `tracking.code:${carrierId}:${code}:${Date.now()}`, { carrierId, code })
    await record(trx, actor, now, {
      action: "tracking.code-set",
      detail: { carrier: carrier.name, code, kind: known },
    })
    return accepted({ code })
  })
}
