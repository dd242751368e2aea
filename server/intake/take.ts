import { randomUUID } from "node:crypto"
import type { IntakeId, OrderId, SourceId } from "core/ids/index.ts"
import { accepted, type Outcome } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Actor, authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { databaseFault, troubleOf } from "../db/faults.ts"
import { newId, there } from "../db/there.ts"
import { cancelOrder } from "../decisions/cancel.ts"
import { recheck, release } from "../decisions/recheck.ts"
import type { OrderRow, ReadRow } from "../formats/orderRow.ts"
import { pickingBegun } from "../orders/begun.ts"
import { nextOrderNumber } from "../orders/number.ts"
import { nearestWithAll } from "../orders/warehouses.ts"
import { type Ground, groundOf } from "../plan/plan.ts"
import { freeStock } from "../stock/allocation.ts"
import { tell } from "../telling/tell.ts"
import { Catalogue } from "./catalogue.ts"
import { keepChange, withdrawChange } from "./change.ts"
import { contentOf, insertLines, putReferences } from "./content.ts"
import { type Draft, draftFrom, draftOf } from "./draft.ts"
import { importing, importingOne } from "./jobs.ts"
import { type Source, sourceFromRow, wishOf } from "./source.ts"

/** What taking in does with an order, or has done. */
export type Fate =
  | "new"
  | "unchanged"
  | "changed"
  /** Work has begun: the change waits on the order for a decision. */
  | "picking-begun"
  | "cancelled"
  /** Cancelled at the source and never here, or the source's state says that it is not to be shipped yet. */
  | "not-here"
  | "waits"
  | "nothing-good"
  /** A later file has the order already. */
  | "overtaken"
  /** The number is an order of the same source at another warehouse, which it came to. */
  | "other-warehouse"
  /** Taking it in broke off for a fault of ours: kept, shown, and tried again alone. */
  | "aside"

/** Of what a fate is decided: the order that is here, and what came. */
export interface Known {
  readonly content_hash: string
  readonly cancelled_at: Date | null
  readonly source_waits: 0 | 1 | boolean
  readonly begun: boolean
}

/** The fate of what came, by what is here. */
export function fateOf(
  came: { readonly number: string; readonly good: number; readonly contentHash: string; readonly wish: Draft["wish"] },
  order: Known | null,
): Fate {
  if (!came.number) return "nothing-good"
  if (came.wish === "cancel")
    return !order ? "not-here" : order.cancelled_at ? "unchanged" : order.begun ? "picking-begun" : "cancelled"
  if (came.good === 0) return "nothing-good"
  if (!order) return came.wish === "wait" ? "waits" : "new"
  const waiting = came.wish === "wait"
  if (order.content_hash === came.contentHash && !order.cancelled_at && waiting === !!order.source_waits)
    return "unchanged"
  return order.begun && order.content_hash !== came.contentHash ? "picking-begun" : "changed"
}

/** Orders up to which an intake is imported at once; more are imported by a job, with progress. */
export const atOnce = 25

/**
 * Makes orders of an intake, each in a transaction of its own: new ones are added, changed ones are updated until
 * picking begins and then wait for a decision, unchanged ones are left alone. Safe to repeat, to break off and to be
 * done by two at once: source and number are one, and what is done is noted with it. Stops at `until` (real time) and
 * answers false when there is more to do.
 */
export async function takeIn(context: Context, intakeId: IntakeId, until = Number.POSITIVE_INFINITY): Promise<boolean> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const file = await db("intake_file").where({ id: intakeId, warehouse_id: actor.warehouseId }).first()
  if (!file || file.taken_at || file.state === "reading") return true
  const source = sourceFromRow(there(await db("order_source").where({ id: file.source_id }).first()))
  await db("intake_file").where({ id: intakeId, state: "read" }).update({ state: "taking" })
  for (;;) {
    const open = await db("intake_order")
      .where({ intake_id: intakeId })
      .whereNull("fate")
      .orderBy("position")
      .limit(50)
      .select("position", "order_number", "wish")
    if (open.length === 0) break
    const ground = await groundOf(db, actor.warehouseId, now)
    for (const one of open) {
      const draft = await draftFrom(db, intakeId, one.order_number, one.wish)
      try {
        await inTransaction(db, (trx) => takeAndNote(trx, context, source, file, one.position, draft, ground))
      } catch (error) {
        // while the database is away nothing can be kept, and all of it is tried again
        if (databaseFault(error) === "away") throw error
        await setAside(context, intakeId, one.position, error)
      }
      if (Date.now() >= until) {
        await announce(db, { warehouseId: actor.warehouseId })
        return false
      }
    }
    await announce(db, { warehouseId: actor.warehouseId })
  }
  await db("intake_file").where({ id: intakeId }).whereNull("taken_at").update({ taken_at: now, state: "taken" })
  await announce(db, { warehouseId: actor.warehouseId })
  return true
}

async function takeAndNote(
  trx: Knex,
  context: Context,
  source: Source,
  file: { readonly id: number; readonly name: string },
  position: number,
  draft: Draft,
  ground?: Ground,
): Promise<void> {
  const fate = await takeOrder(trx, context, source, { name: file.name, intakeId: file.id }, draft, ground)
  const at = { intake_id: file.id, position }
  const noted = await trx("intake_order").where(at).whereNull("fate").update({ fate, trouble: null })
  if (noted > 0) await trx("intake_file").where({ id: file.id }).increment("taken_count", 1)
}

/**
 * One order that can't be imported never holds up those after it: it is kept aside with what went wrong, and tried again
 * alone by a job.
 */
async function setAside(context: Context, intakeId: IntakeId, position: number, error: unknown): Promise<void> {
  const { db, actor } = context
  const by = plainActor(actor)
  await inTransaction(db, async (trx) => {
    const noted = await trx("intake_order")
      .where({ intake_id: intakeId, position })
      .whereNull("fate")
      .update({ fate: "aside", trouble: troubleOf(error) })
    if (noted === 0) return
    await trx("intake_file").where({ id: intakeId }).increment("taken_count", 1)
    const payload = { intakeId, position, by }
    await importingOne.queue(trx, `intake.order:${intakeId}:${position}:${randomUUID()}`, payload, asideMs)
  })
}

/** Who acts, as it is kept with a job. */
const plainActor = ({ userId, name, role, warehouseId }: Actor): Actor => ({ userId, name, role, warehouseId })

/** Real time before an order that was set aside is tried again. */
const asideMs = 20_000

/** An order that was set aside, imported alone. Throws to be tried again. */
export async function takeAside(
  db: Knex,
  payload: { readonly intakeId: IntakeId; readonly position: number; readonly by: Actor },
  now: Date,
): Promise<void> {
  const { intakeId, position, by } = payload
  const context = { db, actor: by, now }
  const at = { intake_id: intakeId, position }
  const file = await db("intake_file").where({ id: intakeId, warehouse_id: by.warehouseId }).first()
  const one = await db("intake_order")
    .where({ ...at, fate: "aside" })
    .first("order_number", "wish")
  if (!file || !one) return
  const source = sourceFromRow(there(await db("order_source").where({ id: file.source_id }).first()))
  try {
    const draft = await draftFrom(db, intakeId, one.order_number, one.wish)
    await inTransaction(db, async (trx) => {
      const open = await trx("intake_order")
        .where({ ...at, fate: "aside" })
        .update({ fate: null })
      if (open === 0) return
      await trx("intake_file").where({ id: intakeId }).decrement("taken_count", 1)
      await takeAndNote(trx, context, source, file, position, draft)
    })
  } catch (error) {
    await db("intake_order")
      .where({ ...at, fate: "aside" })
      .update({ trouble: troubleOf(error) })
    throw error
  }
  await announce(db, { warehouseId: by.warehouseId })
}

/** Tries orders of an intake that were set aside again, now, as many as a request takes. Answers how many. */
export async function retryAside(context: Context, intakeId: IntakeId): Promise<number> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const own = await db("intake_order as i")
    .join("intake_file as f", "f.id", "i.intake_id")
    .where({ "f.id": intakeId, "f.warehouse_id": actor.warehouseId, "i.fate": "aside" })
    .orderBy("i.position")
    .limit(atOnce)
    .pluck("i.position")
  for (const position of own) await takeAside(db, { intakeId, position, by: actor }, now).catch(() => undefined)
  return own.length
}

/** Takes a small intake in at once, leaves a larger one to the worker. Answers whether it is done. */
export async function startTaking(context: Context, intakeId: IntakeId): Promise<boolean> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const file = await db("intake_file").where({ id: intakeId, warehouse_id: actor.warehouseId }).first()
  if (!file || file.taken_at) return true
  if (file.order_count <= atOnce) return takeIn(context, intakeId)
  const by = plainActor(actor)
  await inTransaction(db, async (trx) => {
    await trx("intake_file").where({ id: intakeId, state: "read" }).update({ state: "taking" })
    await importing.queue(trx, `intake.take:${intakeId}:0`, { intakeId, part: 0, by })
  })
  return false
}

/** Real time for which a worker stays with one intake before it lets others have their turn; well within a lease. */
const partMs = 15_000

/** A part of a large intake, by the worker; the next part is another job, so that no lease runs out. */
export async function takePart(
  db: Knex,
  payload: { readonly intakeId: IntakeId; readonly part: number; readonly by: Actor },
  now: Date,
): Promise<void> {
  const { intakeId, part, by } = payload
  if (await takeIn({ db, actor: by, now }, intakeId, Date.now() + partMs)) return
  await importing.queue(db, `intake.take:${intakeId}:${part + 1}`, { intakeId, part: part + 1, by })
}

/** An order that arrives whole, by the API or typed: imported at once, or refused whole and nothing of it kept. */
export async function takeDocument(
  context: Context,
  sourceId: SourceId,
  cameWith: string,
  rows: readonly ReadRow[],
): Promise<Outcome<{ orderNumber: string; fate: Fate }>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const catalogue = new Catalogue(db)
  const resolved: ReadRow[] = []
  for (const row of rows) resolved.push(await catalogue.resolve(row))
  const refusals = resolved.flatMap((row) => row.refusals)
  if (refusals.length > 0) return { ok: false, reasons: refusals }
  const good = resolved.flatMap((row) => row.row ?? [])
  const first = good[0] as OrderRow
  const source = sourceFromRow(there(await db("order_source").where({ id: sourceId }).first()))
  const draft = draftOf(first.order_number, good, [], wishOf(source, first.source_state))
  const came = { name: cameWith, intakeId: null }
  const fate = await inTransaction(db, (trx) => takeOrder(trx, context, source, came, draft))
  const order = await db("sales_order")
    .where({ source_id: sourceId, source_number: draft.number, part: 1 })
    .first("order_number")
  return accepted({ orderNumber: order?.order_number ?? "", fate })
}

/** The source says that an order is canceled, without sending it again: canceled, or left for a decision. */
export async function cancelFromSource(
  context: Context,
  sourceId: SourceId,
  number: string,
  cameWith: string,
): Promise<{ fate: Fate }> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const source = sourceFromRow(there(await db("order_source").where({ id: sourceId }).first()))
  const draft = draftOf(number, [], [], "cancel")
  const came = { name: cameWith, intakeId: null }
  return { fate: await inTransaction(db, (trx) => takeOrder(trx, context, source, came, draft)) }
}

/** Takes one order in, under the lock of its source. */
async function takeOrder(
  trx: Knex,
  context: Context,
  source: Source,
  came: { readonly name: string; readonly intakeId: IntakeId | null },
  draft: Draft,
  ground?: Ground,
): Promise<Fate> {
  const { actor, now } = context
  // the source's row serializes intake, so that a number is looked up and made by one at a time
  await trx("order_source").where({ id: source.id }).forUpdate().first("id")
  const order = await trx("sales_order")
    .where({ source_id: source.id, source_number: draft.number, part: 1 })
    .forUpdate()
    .first()
  // a file that was read before the one that an order has now says nothing new any more
  if (order && came.intakeId !== null && order.intake_id !== null && order.intake_id > came.intakeId) return "overtaken"
  // who works at one warehouse changes no order of another, whatever number a file of the same source has
  if (order && (order.came_to_id ?? order.warehouse_id) !== actor.warehouseId) return "other-warehouse"
  // a canceled order holds nothing any more: it may come again as anything
  // what the lead changed is not changed back unasked
  const begun =
    order && !order.cancelled_at
      ? order.lines_changed_at !== null || (await pickingBegun(trx, [order.id])).has(order.id)
      : false
  const known = order ? { ...order, begun } : null
  const fate = fateOf({ ...draft, good: draft.rows.filter((row) => !row.bare).length }, known)
  if (fate === "cancelled" && order) {
    await cancelOrder(trx, order.id, actor, now, { cameWith: came.name })
    await trx("sales_order").where({ id: order.id }).update({ intake_id: came.intakeId })
  } else if (fate === "picking-begun" && order) await keepChange(trx, context, order.id, came, draft)
  else if (fate === "unchanged" && order && !order.cancelled_at) {
    if (came.intakeId !== null) await trx("sales_order").where({ id: order.id }).update({ intake_id: came.intakeId })
    if (known?.begun) await withdrawChange(trx, context, order.id)
  } else if (fate === "changed" && order && !order.cancelled_at && order.content_hash === draft.contentHash) {
    await followState(trx, context, order.id, came, draft)
  } else if (fate === "new" || fate === "changed") await writeOrder(trx, context, source, came, draft, order, ground)
  return fate
}

/** Only the source's state is another: what the order says, and what people corrected on it since, stays. */
async function followState(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  came: { readonly name: string; readonly intakeId: IntakeId | null },
  draft: Draft,
): Promise<void> {
  await trx("sales_order")
    .where({ id: orderId })
    .update({
      source_state: draft.rows[0]?.source_state ?? "",
      source_waits: draft.wish === "wait",
      ...(came.intakeId === null ? {} : { intake_id: came.intakeId }),
    })
  await record(trx, actor, now, { action: "order.updated", orderId, detail: { file: came.name, source: draft.number } })
  await recheck(trx, orderId, actor, now)
}

async function writeOrder(
  trx: Knex,
  { actor, now }: Context,
  source: Source,
  came: { readonly name: string; readonly intakeId: IntakeId | null },
  draft: Draft,
  order: { id: number; version: number } | undefined,
  ground?: Ground,
): Promise<void> {
  const content = await contentOf(trx, draft.rows, draft.refusals)
  const fields = {
    ...content.head,
    content_hash: draft.contentHash,
    intake_id: came.intakeId,
    source_waits: draft.wish === "wait",
    cancelled_at: null,
  }
  let orderId: OrderId
  if (order) {
    orderId = order.id
    await trx("sales_order")
      .where({ id: orderId })
      .update({ ...fields, left_line_at: null, version: order.version + 1 })
    await freeStock(trx, orderId)
    await trx("order_line").where({ order_id: orderId }).delete()
  } else {
    const nearest =
      source.routing === "nearest"
        ? await nearestWithAll(
            trx,
            { country: String(content.head.country), postal_code: String(content.head.postal_code) },
            content.lines.map((line) => ({ item_id: line.itemId, ordered: line.ordered })),
          )
        : null
    const warehouseId = nearest ?? actor.warehouseId
    const id = newId(
      await trx("sales_order").insert({
        ...fields,
        warehouse_id: warehouseId,
        came_to_id: actor.warehouseId,
        source_id: source.id,
        source_number: draft.number,
        order_number: await nextOrderNumber(trx, warehouseId),
        received_at: now,
      }),
    )
    orderId = id
  }
  await insertLines(trx, orderId, content)
  await putReferences(trx, orderId, content.references, !order)
  await record(trx, actor, now, {
    action: order ? "order.updated" : "order.received",
    orderId,
    detail: { file: came.name, source: draft.number },
  })
  if (order) await recheck(trx, orderId, actor, now, { ground })
  else await release(trx, orderId, actor, now, ground)
  if (!order) await tell(trx, orderId, "received", now)
}
