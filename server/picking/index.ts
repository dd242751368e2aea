import { confirmBin, confirmItem, confirmQuantity, type PickStop, walkOrder } from "core/picking/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { lineLetter } from "core/scanning/index.ts"
import type { Knex } from "knex"
import { type Context, require } from "../accounts/index.ts"
import { announce, record } from "../audit/index.ts"
import { measure } from "../day/measure.ts"
import { inTransaction } from "../db/connection.ts"
import { levelsOf } from "../packing/catalogue.ts"
import { moveStock } from "../stock/move.ts"

/** The stops of an order in the order of the walk, with every level's GTIN so that a scan can be told at once. */
export async function pickStops(db: Knex, orderId: number): Promise<PickStop[]> {
  const rows = await db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("stock as s", "s.id", "a.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .join("item as i", "i.id", "s.item_id")
    .leftJoin("lot", "lot.id", "s.lot_id")
    .where("l.order_id", orderId)
    .select(
      "a.id",
      "a.quantity",
      "a.picked",
      "l.line_number",
      "b.code as bin",
      "b.walk_order",
      "i.id as item_id",
      "i.sku",
      "i.description",
      "lot.code as lot",
    )
  const levels = await levelsOf(
    db,
    rows.map((row) => row.item_id),
  )
  return walkOrder(
    rows.map((row) => ({
      allocationId: row.id,
      line: lineLetter(row.line_number - 1),
      bin: row.bin,
      binOrder: row.walk_order,
      sku: row.sku,
      description: row.description,
      lot: row.lot,
      levels: levels.get(row.item_id) ?? [],
      quantity: row.quantity,
      picked: row.picked,
    })),
  )
}

export interface PickAttempt {
  /** Made by the client for each attempt; the same one again counts once. */
  readonly scanId: string
  readonly allocationId: number
  /** The bin as scanned or typed. */
  readonly bin: string
  /** The item as scanned or typed; null when only the quantity was confirmed by click. */
  readonly item: string | null
  /** How many times that code, or how many pieces without one. */
  readonly times: number
}

/**
 * Takes pieces at a stop: bin and item must be the right ones, and no more than the stop needs. The row is changed
 * only where there is still room, so that two people can pick one order; a scan id counts once.
 */
export async function pick(
  context: Context,
  orderId: number,
  attempt: PickAttempt,
): Promise<Outcome<{ taken: number }>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    const known = await trx("scan").where({ id: attempt.scanId }).first("outcome")
    if (known) return accepted({ taken: 0 })
    const stopped = await trx("order_stop").where({ order_id: orderId }).first("id")
    if (stopped) return refused(reason("pick.order-stopped"))
    const stop = (await pickStops(trx, orderId)).find((one) => one.allocationId === attempt.allocationId)
    const note = (outcome: string) =>
      trx("scan").insert({
        id: attempt.scanId,
        at: now,
        user_id: actor.userId ?? 0,
        place: "pick",
        text: `${attempt.bin} ${attempt.item ?? ""}`.slice(0, 120),
        outcome,
      })
    if (!stop) return refused(reason("pick.no-such-stop"))
    const bin = confirmBin(stop, attempt.bin)
    const quantity = bin.ok
      ? attempt.item === null
        ? confirmQuantity(stop, attempt.times)
        : confirmItem(stop, attempt.item, attempt.times)
      : bin
    if (!quantity.ok) {
      await note(quantity.reasons[0]?.code ?? "refused")
      await record(trx, actor, now, { action: "pick.refused", orderId, detail: { reasons: quantity.reasons } })
      return quantity
    }
    const taken = quantity.value as number
    const first = !(await trx("allocation")
      .join("order_line", "order_line.id", "allocation.order_line_id")
      .where({ order_id: orderId })
      .where("picked", ">", 0)
      .first("allocation.id"))
    const changed = await trx("allocation")
      .where({ id: stop.allocationId })
      .whereRaw("picked + ? <= quantity", [taken])
      .update({
        picked: trx.raw("picked + ?", [taken]),
        unverified: trx.raw("unverified + ?", [attempt.item === null ? taken : 0]),
      })
    if (changed === 0) return refused(reason("pick.too-many", { quantity: taken, left: 0, sku: stop.sku }))
    const { stock_id } = await trx("allocation").where({ id: stop.allocationId }).first("stock_id")
    const moved = { stockId: stock_id, quantity: -taken, allocated: -taken, cause: "pick" as const, orderId }
    if (!(await moveStock(trx, context, moved))) throw new Error(`stock ${stock_id} has less than orders hold there`)
    await note(`picked ${taken}`)
    await measure(trx, actor, now, orderId, "pick")
    await announce(trx, { orderId })
    if (first) await record(trx, actor, now, { action: "pick.begun", orderId })
    const left = (await pickStops(trx, orderId)).some((one) => one.picked < one.quantity)
    if (!left) await record(trx, actor, now, { action: "pick.finished", orderId })
    return accepted({ taken })
  })
}

/** Confirms the bin of a stop, before the item is scanned; a wrong one is noted on the order's story. */
export async function confirmStop(
  context: Context,
  orderId: number,
  allocationId: number,
  code: string,
): Promise<Outcome<string>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  const stop = (await pickStops(db, orderId)).find((one) => one.allocationId === allocationId)
  if (!stop) return refused(reason("pick.no-such-stop"))
  const outcome = confirmBin(stop, code)
  if (!outcome.ok)
    await record(db, actor, now, { action: "pick.refused", orderId, detail: { reasons: outcome.reasons } })
  return outcome
}
