import type { OrderId, TrackedUnitId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { followAll } from "./follow.ts"

interface OwnEvent {
  readonly kind: "out-for-delivery" | "attempted" | "delivered" | "returned"
  readonly at: Date
  readonly name?: string
  readonly text?: string
  readonly strokes?: unknown
}

/**
 * Writes what we ourselves know of units, once by what it is of; what was written of the same before is replaced. Where
 * they stand by it is worked out after the transaction (`followAll`), or by the next look where that breaks off.
 */
async function tell(
  trx: Knex,
  units: readonly { id: number; tracking: string }[],
  of: string,
  event: OwnEvent,
  now: Date,
  way: "own" | "typed",
) {
  for (const unit of units)
    await trx("tracking_event")
      .insert({
        once_key: `${way}:${unit.id}:${of}`,
        unit_id: unit.id,
        way,
        tracking: unit.tracking,
        code: event.kind,
        kind: event.kind,
        at: event.at,
        text: event.text ?? "",
        name: event.name ?? "",
        strokes: event.strokes ? JSON.stringify(event.strokes) : null,
        taken_at: now,
      })
      .onConflict("once_key")
      .merge(["code", "kind", "at", "text", "name", "strokes", "taken_at"])
  await trx("tracked_unit")
    .whereIn(
      "id",
      units.map((one) => one.id),
    )
    .update({ look_at: now })
}

/** Packages of our own vehicle are on their way to the receiver once it has left for good. */
export async function tellOutForDelivery(
  trx: Knex,
  ids: readonly number[],
  collectionId: number,
  at: Date,
  now: Date,
): Promise<void> {
  const units = await trx("tracked_unit")
    .whereIn("id", [...ids])
    .orderBy("id")
    .select("id", "tracking")
  await tell(trx, units, `out:${collectionId}`, { kind: "out-for-delivery", at }, now, "own")
}

/** What became of an order's packages on a round of our own vehicle; answers which they are. */
export async function tellRound(
  trx: Knex,
  orderId: OrderId,
  collectionId: number,
  event: OwnEvent,
  now: Date,
): Promise<number[]> {
  const units = await trx("tracked_unit as u")
    .join("package as p", "p.id", "u.package_id")
    .where({ "u.order_id": orderId, "u.kind": "package", "p.state": "gone" })
    .whereNull("u.void_at")
    .orderBy("u.id")
    .select("u.id", "u.tracking")
  await tell(trx, units, `round:${collectionId}`, event, now, "own")
  return units.map((one) => one.id)
}

/** Packages are back at our dock: those of a label for the way back are where they were to go, others are returned. */
export async function tellCameBack(trx: Knex, ids: readonly number[], at: Date, now: Date): Promise<void> {
  const units = await trx("tracked_unit")
    .whereIn("id", [...ids])
    .orderBy("id")
    .select("id", "tracking", "kind")
  for (const unit of units)
    await tell(trx, [unit], "came-back", { kind: unit.kind === "return" ? "delivered" : "returned", at }, now, "own")
}

export const byHandForm = z.object({
  kind: z.enum(["delivered", "returned"]),
  name: z.string().trim().max(60).default(""),
  note: z.string().trim().max(120).default(""),
})

/**
 * Notes by hand that a package was delivered, or came back, as somebody heard on the telephone or saw. Refused for one of
 * another warehouse, and for one that has not left. Safe to repeat.
 */
export async function noteByHand(
  { db, actor, now }: Context,
  unitId: TrackedUnitId,
  said: z.infer<typeof byHandForm>,
): Promise<Outcome<{ readonly name: string }>> {
  authorise(actor, "orders.work")
  const noted = await inTransaction(db, async (trx): Promise<Outcome<{ readonly name: string }>> => {
    const found = await trx("tracked_unit").where({ id: unitId, warehouse_id: actor.warehouseId }).first("order_id")
    if (!found) return refused(reason("tracking.unknown"))
    await trx("sales_order").where({ id: found.order_id }).forUpdate().first("id")
    const unit = await trx("tracked_unit").where({ id: unitId, warehouse_id: actor.warehouseId }).first()
    if (!unit || unit.void_at) return refused(reason("tracking.unknown"))
    if (unit.left_at === null && unit.seen_at === null)
      return refused(reason("tracking.still-here", { package: unit.name }))
    if (unit.state === said.kind) return accepted({ name: unit.name })
    await record(trx, actor, now, {
      action: "tracking.by-hand",
      orderId: unit.order_id,
      detail: { package: unit.name, kind: said.kind, name: said.name === "" ? "none" : said.name, note: said.note },
    })
    await tell(trx, [unit], "by-hand", { kind: said.kind, at: now, name: said.name, text: said.note }, now, "typed")
    return accepted({ name: unit.name })
  })
  if (noted.ok) await followAll(db, [unitId], now)
  return noted
}
