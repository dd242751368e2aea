import { localDate } from "core/calendar/index.ts"
import type { CollectionId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { membersOf } from "../orders/joined.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { withTruck } from "./close.ts"
import { discardIn } from "./forms.ts"

/**
 * Opens a closed door again, as long as nobody outside was told: the forms that were made at closing are discarded, what
 * left with them is on the truck, and what was left behind may be loaded after all. Safe to repeat.
 */
export async function reopen(context: Context, collectionId: CollectionId): Promise<Outcome<{ door: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.reopen")
  return withTruck(db, actor.warehouseId, collectionId, async (trx, collection): Promise<Outcome<{ door: string }>> => {
    if (!collection) return refused(reason("dock.no-such-collection"))
    const { door, carrier } = collection
    if (!collection.closedAt) return accepted({ door })
    if (collection.finalAt) return refused(reason("dock.final", { door, carrier }))
    const unsent = await trx("closing_form")
      .where({ collection_id: collectionId, state: "made" })
      .select("id", "at_closing")
    const back = await backOnTruck(
      trx,
      collectionId,
      unsent.map((form) => form.id),
    )
    for (const form of unsent) if (form.at_closing) await discardIn(trx, context, form)
    await stayedBack(trx, collectionId)
    await trx("collection").where({ id: collectionId }).update({ closed_at: null, closed_by: null })
    for (const lead of back)
      for (const orderId of await membersOf(trx, lead))
        await record(trx, actor, now, { action: "dock.not-gone", orderId, collectionId, detail: { door, carrier } })
    await record(trx, actor, now, { action: "dock.reopened", collectionId, detail: { door } })
    return accepted({ door })
  })
}

/** Puts what left with some forms on the truck again, with all that stands on it; the orders that it is of. */
async function backOnTruck(trx: Knex, collectionId: CollectionId, forms: readonly number[]): Promise<number[]> {
  if (forms.length === 0) return []
  const rows = await trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "p.collection_id": collectionId, "p.state": "gone" })
    .whereIn("p.form_id", [...forms])
    .select("p.id", "h.order_id")
  const ids = rows.map((row) => row.id)
  await trx("package")
    .where((either) => either.whereIn("id", ids).orWhereIn("parent_id", ids))
    .where({ state: "gone" })
    .update({ state: "on-truck" })
  return [...new Set<number>(rows.map((row) => row.order_id))]
}

/** What missed a truck and waits for the next one may come with it after all. */
async function stayedBack(trx: Knex, collectionId: CollectionId): Promise<void> {
  await trx("package")
    .where({ missed_id: collectionId, state: "labelled" })
    .whereNull("form_id")
    .update({ collection_id: collectionId, state: "left-behind", missed_id: null })
}

/**
 * Opens a door whose closing is final for what came after, as long as its day lasts: what left stays gone with its
 * forms, and what is loaded now goes on a supplementary one. Safe to repeat.
 */
export async function openForSupplement(
  context: Context,
  collectionId: CollectionId,
): Promise<Outcome<{ door: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return withTruck(db, actor.warehouseId, collectionId, async (trx, collection): Promise<Outcome<{ door: string }>> => {
    if (!collection) return refused(reason("dock.no-such-collection"))
    const { door } = collection
    if (!collection.closedAt) return accepted({ door })
    if (collection.cancelledAt) return refused(reason("dock.cancelled", { door }))
    if (!collection.finalAt) return refused(reason("dock.not-final", { door }))
    const { zone } = await warehouseById(trx, actor.warehouseId)
    if (localDate(now, zone) !== collection.onDate) return refused(reason("dock.day-over", { door }))
    // what missed it may be handed over now
    await stayedBack(trx, collectionId)
    await trx("collection").where({ id: collectionId }).update({ closed_at: null, closed_by: null })
    await record(trx, actor, now, { action: "dock.supplement", collectionId, detail: { door } })
    return accepted({ door })
  })
}

/** Closes a door again that was opened for a supplement, where nothing was loaded: what left before stays as it is. */
export async function endSupplement(context: Context, collectionId: CollectionId): Promise<Outcome<{ door: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return withTruck(db, actor.warehouseId, collectionId, async (trx, collection): Promise<Outcome<{ door: string }>> => {
    if (!collection) return refused(reason("dock.no-such-collection"))
    const { door } = collection
    if (collection.closedAt) return accepted({ door })
    const open = await trx("package").where({ collection_id: collectionId, state: "on-truck" }).first("id")
    if (!collection.finalAt || open) return refused(reason("dock.no-supplement", { door }))
    await trx("collection").where({ id: collectionId }).update({ closed_at: now, closed_by: actor.name })
    await record(trx, actor, now, { action: "dock.supplement-ended", collectionId, detail: { door } })
    return accepted({ door })
  })
}
