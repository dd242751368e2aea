import type { Knex } from "knex"
import type { Actor } from "../accounts/index.ts"

export interface Change {
  readonly action: string
  readonly orderId?: number | null
  readonly collectionId?: number | null
  readonly detail?: Record<string, unknown>
}

/** Writes who did what and when, in the transaction of the change itself. The table is only ever added to. */
export async function record(
  trx: Knex,
  actor: Pick<Actor, "userId" | "name">,
  at: Date,
  change: Change,
): Promise<void> {
  await trx("audit").insert({
    at,
    user_id: actor.userId,
    actor: actor.name,
    order_id: change.orderId ?? null,
    collection_id: change.collectionId ?? null,
    action: change.action,
    detail: JSON.stringify(change.detail ?? {}),
  })
}

export interface TimelineEntry {
  readonly id: number
  readonly at: Date
  readonly actor: string
  readonly action: string
  readonly detail: Record<string, unknown>
}

/** The story of an order, oldest first. */
export async function timeline(db: Knex, orderId: number): Promise<TimelineEntry[]> {
  const rows = await db("audit")
    .where({ order_id: orderId })
    .orderBy("id")
    .select("id", "at", "actor", "action", "detail")
  return rows.map((row) => ({ ...row, detail: parsed(row.detail) }))
}

/** A JSON column, which the driver gives parsed or as text. */
export const parsed = <T = Record<string, unknown>>(value: unknown): T =>
  (typeof value === "string" ? JSON.parse(value) : value) as T
