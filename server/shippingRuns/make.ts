import type { OrderId, ShippingRunId } from "core/ids/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { PrintOrder } from "core/shippingRuns/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { ShippingRunRow } from "../db/tables.ts"
import { newId } from "../db/there.ts"
import { leadsOf } from "../orders/joined.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { preparing } from "./jobs.ts"

/** How the service of each order is proposed: as rules and instructions say, the cheapest in time, or the fastest. */
export const runRules = ["settled", "cheapest", "fastest"] as const
export type RunRule = (typeof runRules)[number]

/** Most orders of a run. */
export const mostOfRun = 1_000

/** When the labels of a run are printed: in one go when it is bought, each as it is bought, or when somebody asks. */
export const runPrints = ["after", "each", "later"] as const
export type RunPrints = (typeof runPrints)[number]

export interface RunWanted {
  readonly rule: RunRule
  /** What it was made from, such as `pick-run 12`: shown with it. */
  readonly origin?: string
  readonly name?: string
  /** Pack as suggested what nobody has packed. */
  readonly pack?: boolean
  /** May have no orders yet: they are scanned one after another. */
  readonly empty?: boolean
}

/**
 * Makes a shipping run of orders, which are packed and rated in the background. The same key is the same run; an order of
 * another place and a canceled one are left out. One that is in another run too is bought once: it is out of the other.
 */
export async function makeRun(
  context: Context,
  orderIds: readonly OrderId[],
  wanted: RunWanted,
  key: string,
): Promise<Outcome<{ readonly id: ShippingRunId; readonly orders: number }>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  const onceKey = `${actor.userId ?? actor.name} ${key}`.slice(0, 100)
  if (orderIds.length > mostOfRun) return refused(reason("shipping-run.too-many", { most: mostOfRun }))
  return inTransaction(db, async (trx) => {
    const known = await trx("shipping_run").where({ once_key: onceKey }).first("id")
    if (known) return accepted({ id: known.id, orders: orderIds.length })
    const leads = await usable(trx, actor.warehouseId, orderIds)
    if (leads.length === 0 && !wanted.empty) return refused(reason("shipping-run.none"))
    const id = newId(
      await trx("shipping_run").insert({
        warehouse_id: actor.warehouseId,
        once_key: onceKey,
        rule: wanted.rule,
        origin: (wanted.origin ?? "orders").slice(0, 80),
        name: (wanted.name ?? "").trim().slice(0, 60),
        made_by: actor.name,
        made_at: now,
      }),
    )
    const { packInRuns } = await warehouseById(trx, actor.warehouseId)
    await insertOrders(trx, id, leads, 0, packInRuns && (wanted.pack ?? false))
    await prepareSoon(trx, id)
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ id, orders: leads.length })
  })
}

/** The leading orders of some, of a warehouse, in the order in which they were given, without what is canceled. */
async function usable(trx: Knex, warehouseId: number, orderIds: readonly OrderId[]): Promise<number[]> {
  const leadOf = await leadsOf(trx, orderIds)
  const leads = [...new Set(orderIds.flatMap((id) => leadOf.get(id) ?? []))]
  const here = new Set(
    await trx("sales_order")
      .whereIn("id", leads)
      .where({ warehouse_id: warehouseId })
      .whereNull("cancelled_at")
      .pluck("id"),
  )
  return leads.filter((id) => here.has(id))
}

const insertOrders = (trx: Knex, runId: number, ids: readonly number[], from: number, pack: boolean) =>
  trx.batchInsert(
    "shipping_run_order",
    ids.map((order_id, at) => ({
      run_id: runId,
      order_id,
      position: from + at + 1,
      pack,
      offers: "[]",
      reasons: "[]",
    })),
    500,
  )

/** Queues packing and rating of what waits in a run; asked again before it began, it is one job. */
export async function prepareSoon(trx: Knex, runId: ShippingRunId): Promise<void> {
  await trx("shipping_run").where({ id: runId }).increment("parts", 1)
  const run = await trx("shipping_run").where({ id: runId }).first("parts")
  await preparing.queue(trx, `prepare:${runId}:${run?.parts}`, { runId })
}

/** A run of the actor's warehouse, locked. */
export async function lockRun(trx: Knex, context: Context, runId: ShippingRunId): Promise<Outcome<ShippingRunRow>> {
  const run = await trx("shipping_run")
    .where({ id: runId, warehouse_id: context.actor.warehouseId })
    .forUpdate()
    .first()
  return run ? accepted(run) : refused(reason("shipping-run.gone"))
}

/** The same, to be changed: refused where it is put away. */
export async function lockOpenRun(trx: Knex, context: Context, runId: ShippingRunId): Promise<Outcome<ShippingRunRow>> {
  const run = await lockRun(trx, context, runId)
  return run.ok && run.value.put_away_at ? refused(reason("shipping-run.put-away-already")) : run
}

/** Adds orders to a run, such as one that was scanned. What is in it already stays where it is. Safe to repeat. */
export async function addToRun(
  context: Context,
  runId: ShippingRunId,
  orderIds: readonly OrderId[],
  pack: boolean,
): Promise<Outcome<{ readonly added: number }>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    const run = await lockOpenRun(trx, context, runId)
    if (!run.ok) return run
    const leads = await usable(trx, actor.warehouseId, orderIds)
    const inside = await trx("shipping_run_order").where({ run_id: runId }).select("order_id", "position")
    const known = new Set(inside.map((row) => row.order_id as number))
    const fresh = leads.filter((id) => !known.has(id))
    if (leads.length === 0) return refused(reason("order.unknown"))
    if (known.size + fresh.length > mostOfRun) return refused(reason("shipping-run.too-many", { most: mostOfRun }))
    if (fresh.length === 0) return accepted({ added: 0 })
    const last = Math.max(0, ...inside.map((row) => row.position))
    await insertOrders(trx, runId, fresh, last, pack)
    await prepareSoon(trx, runId)
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ added: fresh.length })
  })
}

/** Takes orders out of a run that are not bought with it and not asked for. Safe to repeat. */
export async function takeOut(
  context: Context,
  runId: ShippingRunId,
  orderIds: readonly OrderId[],
): Promise<Outcome<{ readonly removed: number }>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    const run = await lockOpenRun(trx, context, runId)
    if (!run.ok) return run
    const removed = await trx("shipping_run_order")
      .where({ run_id: runId })
      .whereIn("order_id", [...orderIds])
      .whereNotIn("state", ["asked", "buying", "bought"])
      .delete()
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ removed })
  })
}

/** Names a run, and says when and in which order its labels are printed. Safe to repeat. */
export async function saveRun(
  context: Context,
  runId: ShippingRunId,
  wanted: { readonly name?: string; readonly prints?: RunPrints; readonly printOrder?: PrintOrder },
): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    const run = await lockOpenRun(trx, context, runId)
    if (!run.ok) return run
    await trx("shipping_run")
      .where({ id: runId })
      .update({
        name: wanted.name?.trim().slice(0, 60) ?? run.value.name,
        prints: wanted.prints ?? run.value.prints,
        print_order: wanted.printOrder ?? run.value.print_order,
      })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/**
 * Puts a run away that is done with, or takes it out again: it is found in the history. One that is being bought stays.
 */
export async function putAway(context: Context, runId: ShippingRunId, away: boolean): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    const run = await lockRun(trx, context, runId)
    if (!run.ok) return run
    if (away && run.value.state !== "open") return refused(reason("shipping-run.buying"))
    await trx("shipping_run")
      .where({ id: runId })
      .update({ put_away_at: away ? (run.value.put_away_at ?? now) : null })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/**
 * Rates orders of a run again, all that are not asked for where none are named; `pack`: packs as suggested what nobody has
 * packed, where the warehouse allows it. Safe to repeat.
 */
export async function prepareAgain(
  context: Context,
  runId: ShippingRunId,
  orderIds: readonly OrderId[] | null,
  pack = false,
): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    if (pack && !(await warehouseById(trx, actor.warehouseId)).packInRuns)
      return refused(reason("shipping-run.no-packing"))
    const run = await lockOpenRun(trx, context, runId)
    if (!run.ok) return run
    const changed = await trx("shipping_run_order")
      .where({ run_id: runId })
      .whereIn("state", ["rated", "refused", "failed", "waiting"])
      .where((own) => void (orderIds && own.whereIn("order_id", [...orderIds])))
      .update({ state: "waiting", ...(pack ? { pack: true } : {}) })
    if (changed > 0) await prepareSoon(trx, runId)
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** Notes that the end of a run's buying was seen, so that screens tell it no longer. */
export async function noteSeen(context: Context, runId: ShippingRunId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  await db("shipping_run")
    .where({ id: runId, warehouse_id: actor.warehouseId })
    .whereNotNull("ended_at")
    .whereNull("seen_at")
    .update({ seen_at: now })
  await announce(db, { warehouseId: actor.warehouseId })
  return accepted(null)
}

/** The orders of a pick run, in its order; those of a door's coming truck, by their numbers. */
export async function ordersFrom(
  db: Knex,
  warehouseId: number,
  from: { readonly pickRun: number } | { readonly collection: number },
): Promise<{ readonly origin: string; readonly ids: number[] } | Reason> {
  if ("pickRun" in from) {
    const run = await db("pick_run").where({ number: from.pickRun, warehouse_id: warehouseId }).first("id", "number")
    if (!run) return reason("run.unknown", { run: from.pickRun })
    const ids = await db("pick_run_order").where({ run_id: run.id }).orderBy("position").pluck("order_id")
    return { origin: `pick-run ${run.number}`, ids }
  }
  const door = await db("collection").where({ id: from.collection, warehouse_id: warehouseId }).first("id", "door")
  if (!door) return reason("shipping-run.no-door")
  const ids = await db("sales_order")
    .where({ collection_id: door.id, warehouse_id: warehouseId })
    .whereNull("cancelled_at")
    .whereNull("left_line_at")
    .orderBy("id")
    .limit(mostOfRun)
    .pluck("id")
  return { origin: `door ${door.door}`, ids }
}
