import type { AllocationId, OrderId } from "core/ids/index.ts"
import { type PickAttempt as Attempt, confirmBin, confirmTake } from "core/picking/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { measure } from "../measures/index.ts"
import { moveStock } from "../stock/move.ts"
import { type OrderStop, pickStops } from "./stops.ts"
import { lockRunOf, settleRun } from "./walkRuns.ts"

export { type OrderStop, orderWalk, pickStops, runWalk } from "./stops.ts"

export interface PickAttempt extends Omit<Attempt, "lot" | "tote"> {
  /** Made by the client for each attempt; the same one again counts once. */
  readonly scanId: string
  readonly allocationId: AllocationId
  readonly lot?: string
  readonly tote?: string
}

/** The order of a stop; null when there is no such stop in the actor's warehouse. */
export async function orderOfStop({ db, actor }: Context, allocationId: AllocationId): Promise<number | null> {
  const row = await db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("sales_order as o", "o.id", "l.order_id")
    .where({ "a.id": allocationId, "o.warehouse_id": actor.warehouseId })
    .first("o.id")
  return row?.id ?? null
}

/**
 * Takes pieces at a stop: what the stop asks to be scanned must be right, and no more than it needs. The row is changed
 * only where there is still room, so that two people can pick one order. A scan id counts once: asked again, the answer is
 * the same, what was taken or why it was refused.
 */
export async function pick(
  context: Context,
  orderId: OrderId,
  attempt: PickAttempt,
): Promise<Outcome<{ taken: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    await lockRunOf(trx, orderId, attempt.allocationId)
    const before = await trx("pick_take").where({ scan_id: attempt.scanId }).first("quantity")
    if (before) return accepted({ taken: before.quantity })
    const stopped = await trx("order_stop").where({ order_id: orderId }).first("id")
    if (stopped) return refused(reason("pick.order-stopped"))
    const stops = await pickStops(trx, orderId)
    const stop = stops.find((one) => one.allocationId === attempt.allocationId)
    const note = (outcome: string) =>
      trx("scan")
        .insert({
          id: attempt.scanId,
          at: now,
          user_id: actor.userId ?? 0,
          place: "pick",
          text: `${attempt.bin} ${attempt.item ?? ""}`.slice(0, 120),
          outcome,
        })
        .onConflict("id")
        .merge(["outcome"])
    if (!stop) return refused(reason("pick.no-such-stop"))
    const quantity = stop.barred
      ? refused(reason(`pick.barred-${stop.barred}`, { bin: stop.bin, lot: stop.lot ?? "" }))
      : confirmTake(stop, { lot: "", tote: "", ...attempt })
    if (!quantity.ok) {
      await note(quantity.reasons[0]?.code ?? "refused")
      await record(trx, actor, now, { action: "pick.refused", orderId, detail: { reasons: quantity.reasons } })
      return quantity
    }
    const taken = quantity.value
    const unverified = attempt.item === null ? taken : 0
    const first = stops.every((one) => one.picked === 0)
    const changed = await trx("allocation")
      .where({ id: stop.allocationId })
      .whereRaw("picked + ? <= quantity", [taken])
      .update({
        picked: trx.raw("picked + ?", [taken]),
        unverified: trx.raw("unverified + ?", [unverified]),
        skipped_at: null,
        claimed_by: actor.userId,
        claimed_at: new Date(),
      })
    if (changed === 0) return refused(reason("pick.too-many", { quantity: taken, left: 0, sku: stop.sku }))
    const moved = { stockId: stop.stockId, quantity: -taken, allocated: -taken, cause: "pick" as const, orderId }
    if (!(await moveStock(trx, context, moved)))
      throw new Error(`stock ${stop.stockId} has less than orders hold there`)
    const { order_line_id } = there(await trx("allocation").where({ id: stop.allocationId }).first("order_line_id"))
    await trx("pick_take").insert({
      scan_id: attempt.scanId,
      order_id: orderId,
      order_line_id,
      allocation_id: stop.allocationId,
      stock_id: stop.stockId,
      run_id: stop.runId,
      quantity: taken,
      unverified,
      user_id: actor.userId,
      at: now,
    })
    await note(`picked ${taken}`)
    await measure(trx, actor, now, orderId, "pick")
    await announce(trx, { orderId })
    if (first) await record(trx, actor, now, { action: "pick.begun", orderId })
    await tellFinished(trx, context, orderId)
    if (stop.runId !== null) await settleRun(trx, context, stop.runId)
    return accepted({ taken })
  })
}

async function tellFinished(
  trx: Knex,
  { actor, now }: Pick<Context, "actor" | "now">,
  orderId: OrderId,
): Promise<void> {
  const left = await trx("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .where("l.order_id", orderId)
    .whereRaw("a.picked < a.quantity")
    .first("a.id")
  if (!left) await record(trx, actor, now, { action: "pick.finished", orderId })
}

/** Confirms the bin of a stop, before the item is scanned; a wrong one is noted on the order's story. */
export async function confirmStop(
  context: Context,
  orderId: OrderId,
  allocationId: AllocationId,
  code: string,
): Promise<Outcome<string>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const stop = (await pickStops(db, orderId)).find((one) => one.allocationId === allocationId)
  if (!stop) return refused(reason("pick.no-such-stop"))
  const outcome = confirmBin(stop, code)
  if (!outcome.ok)
    await record(db, actor, now, { action: "pick.refused", orderId, detail: { reasons: outcome.reasons } })
  else await db("allocation").where({ id: allocationId }).update({ claimed_by: actor.userId, claimed_at: new Date() })
  return outcome
}

/** Passes a stop over, to come back to it after all others. Safe to repeat. */
export async function skipStop(context: Context, allocationId: AllocationId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const orderId = await orderOfStop(context, allocationId)
  if (!orderId) return refused(reason("pick.no-such-stop"))
  await db("allocation")
    .where({ id: allocationId })
    .whereRaw("picked < quantity")
    .update({ skipped_at: now, claimed_by: null, claimed_at: null })
  await announce(db, { orderId })
  return accepted(null)
}

export interface Undone {
  readonly quantity: number
  readonly sku: string
  readonly bin: string
}

/**
 * Takes back what a person took last, of an order or of a run: the pieces lie in their bin again. Refused where nothing
 * is left to take back, where the pieces are packed already, or where the stop is gone. The scan's id says which take is
 * meant, so that a second press takes back nothing more.
 */
export async function undoTake(
  context: Context,
  of: { readonly orderId: OrderId } | { readonly runId: number },
  scanId: string,
): Promise<Outcome<Undone>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const take = await db("pick_take").where({ scan_id: scanId, user_id: actor.userId }).first()
  const fits = take && ("orderId" in of ? take.order_id === of.orderId : take.run_id === of.runId)
  if (!fits) return refused(reason("pick.nothing-to-undo"))
  return inTransaction(db, async (trx): Promise<Outcome<Undone>> => {
    const order = await trx("sales_order")
      .where({ id: take.order_id, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id", "joined_to_id")
    if (!order) return refused(reason("order.unknown"))
    if (take.allocation_id !== null) await lockRunOf(trx, take.order_id, take.allocation_id)
    const still = await trx("pick_take").where({ scan_id: scanId }).whereNull("undone_at").forUpdate().first()
    const at = await trx("stock as s")
      .join("bin as b", "b.id", "s.bin_id")
      .join("item as i", "i.id", "s.item_id")
      .where("s.id", take.stock_id)
      .first("b.code as bin", "i.sku")
    const undone = { quantity: take.quantity, sku: at.sku, bin: at.bin }
    if (!still) return accepted({ ...undone, quantity: 0 })
    const allocation = await trx("allocation").where({ id: take.allocation_id }).forUpdate().first()
    if (!allocation || allocation.picked < take.quantity) return refused(reason("pick.nothing-to-undo"))
    const ofLine = await trx("order_line as l")
      .where("l.id", take.order_line_id)
      .first(
        trx.raw("(SELECT SUM(a.picked) FROM allocation a WHERE a.order_line_id = l.id) AS picked"),
        trx.raw(
          "(SELECT COALESCE(SUM(c.quantity), 0) FROM package_content c JOIN package p ON p.id = c.package_id AND p.state <> 'void' WHERE c.order_line_id = l.id) AS packed",
        ),
      )
    if (Number(ofLine.picked) - take.quantity < Number(ofLine.packed)) return refused(reason("pick.packed-already"))
    await trx("allocation")
      .where({ id: allocation.id })
      .update({
        picked: allocation.picked - take.quantity,
        unverified: Math.max(0, allocation.unverified - take.unverified),
      })
    const back = {
      stockId: take.stock_id,
      quantity: take.quantity,
      allocated: take.quantity,
      cause: "put-back" as const,
    }
    if (!(await moveStock(trx, context, { ...back, orderId: take.order_id })))
      throw new Error(`stock ${take.stock_id} can't be given back what was taken from it`)
    await trx("pick_take").where({ scan_id: scanId }).update({ undone_at: now })
    if (take.run_id !== null) await settleRun(trx, context, take.run_id)
    await record(trx, actor, now, { action: "pick.undone", orderId: take.order_id, detail: { ...undone } })
    return accepted(undone)
  })
}

/** What a person took last of an order or a run and can still take back; null: nothing. */
export async function lastTake(
  { db, actor }: Context,
  of: { readonly orderId: OrderId } | { readonly runId: number },
): Promise<{ scanId: string; quantity: number; sku: string } | null> {
  const row = await db("pick_take as t")
    .join("stock as s", "s.id", "t.stock_id")
    .join("item as i", "i.id", "s.item_id")
    .join("allocation as a", "a.id", "t.allocation_id")
    .where("t.user_id", actor.userId)
    .where("orderId" in of ? { "t.order_id": of.orderId } : { "t.run_id": of.runId })
    .whereNull("t.undone_at")
    .whereRaw("a.picked >= t.quantity")
    .orderBy("t.id", "desc")
    .first("t.scan_id", "t.quantity", "i.sku")
  return row ? { scanId: row.scan_id, quantity: row.quantity, sku: row.sku } : null
}

export type { Attempt }
export const stopOf = (stops: readonly OrderStop[], allocationId: AllocationId): OrderStop | undefined =>
  stops.find((one) => one.allocationId === allocationId)
