import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { pickingBegun } from "../orders/begun.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { nowhere, splitOff } from "../orders/parts.ts"
import { lackingThere, neededOf, warehouseFits } from "../orders/warehouses.ts"
import { partOff } from "../plan/plan.ts"
import { routingOf, ruleBook } from "../rules/book.ts"
import { freeStock } from "../stock/allocation.ts"
import { mergePart } from "./mergePart.ts"
import { recheck } from "./recheck.ts"

/** An order in the actor's warehouse, locked, that nobody has begun; or why it can't be sent elsewhere. */
export async function movable(
  trx: Knex,
  { actor }: Pick<Context, "actor">,
  orderId: OrderId,
): Promise<Outcome<SalesOrderRow>> {
  const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
  if (!order) return refused(reason("order.unknown"))
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (await labelsAskedFor(trx, orderId)) return refused(reason("order.void-first"))
  if ((await pickingBegun(trx, [orderId])).size > 0) return refused(reason("reroute.begun"))
  return accepted(order)
}

/**
 * Sends an order to another warehouse, with the number that it has. Refused once it is being picked. One that is joined
 * with others is parted first. Safe to repeat.
 */
export async function reroute(context: Context, orderId: OrderId, warehouseId: WarehouseId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await movable(trx, context, orderId)
    if (!order.ok) {
      // asked for twice: it is there already
      const there = await trx("sales_order").where({ id: orderId, warehouse_id: warehouseId }).first("id")
      return there && warehouseId !== actor.warehouseId ? accepted(null) : order
    }
    const to = await trx("warehouse").where({ id: warehouseId, at_work: true }).first("id", "name")
    if (!to) return refused(reason("reroute.no-warehouse"))
    if (order.value.warehouse_id === to.id) return accepted(null)
    const from = there(await trx("warehouse").where({ id: order.value.warehouse_id }).first("id", "name"))
    await partOff(trx, orderId, actor, now)
    await trx("sales_order")
      .where({ id: orderId })
      .update({
        ...nowhere,
        warehouse_id: to.id,
        came_to_id: order.value.came_to_id ?? from.id,
        version: order.value.version + 1,
      })
    await record(trx, actor, now, { action: "order.rerouted", orderId, detail: { from: from.name, to: to.name } })
    await announce(trx, { warehouseId: from.id })
    await recheck(trx, orderId, actor, now)
    return accepted(null)
  })
}

/**
 * Splits an order over two warehouses: what the actor's has stays, the rest becomes a part of the same order at the
 * other. Refused once it is being picked, when both together have not enough, when one of them has it all, or when the
 * customer's routing instruction does not allow it.
 */
export async function splitOver(
  context: Context,
  orderId: OrderId,
  warehouseId: WarehouseId,
): Promise<Outcome<{ orderNumber: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<{ orderNumber: string }>> => {
    // locked before anything is read: what is read next is as it stands now, not as it stood before a wait
    const mine = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!mine) return refused(reason("order.unknown"))
    const known = await trx("sales_order")
      .where({ split_from_id: orderId, warehouse_id: warehouseId })
      .whereNull("cancelled_at")
      .first("order_number")
    if (known) return accepted({ orderNumber: known.order_number })
    const found = await movable(trx, context, orderId)
    if (!found.ok) return found
    const order = found.value
    if (order.split_from_id !== null) return refused(reason("split.is-part"))
    if (!routingOf(await ruleBook(trx), order.customer_id).split) return refused(reason("split.not-allowed"))
    const lines = await neededOf(trx, orderId)
    const fits = await warehouseFits(trx, order, lines)
    const here = fits.find((fit) => fit.id === actor.warehouseId)
    const there = fits.find((fit) => fit.id === warehouseId && fit.id !== actor.warehouseId)
    if (!here || !there) return refused(reason("reroute.no-warehouse"))
    const moved = here.missing.map((one) => ({ ...one, quantity: one.ordered - one.free }))
    if (moved.length === 0) return refused(reason("split.has-all"))
    const lacking = lackingThere(here, there)
    if (lacking) return refused(reason("split.not-enough", { sku: lacking }))
    if (moved.length === lines.length && moved.every((one) => one.free === 0)) return refused(reason("split.has-none"))
    await partOff(trx, orderId, actor, now)
    await freeStock(trx, orderId)
    const part = await splitOff(
      trx,
      order,
      warehouseId,
      moved.map((one) => ({ lineId: one.lineId, quantity: one.quantity })),
    )
    await trx("sales_order")
      .where({ id: orderId })
      .update({ version: order.version + 1 })
    const detail = { lines: moved.length, part: part.orderNumber, warehouse: there.name }
    await record(trx, actor, now, { action: "order.split", orderId, detail })
    await record(trx, actor, now, { action: "order.split-off", orderId: part.id, detail: { from: order.order_number } })
    await recheck(trx, orderId, actor, now)
    await recheck(trx, part.id, actor, now)
    return accepted({ orderNumber: part.orderNumber })
  })
}

/**
 * Locks the parts of an order, in the caller's transaction: call it when the order itself is locked and nothing has
 * been read without a lock, so that a pick on a part that ends meanwhile is seen (docs/decisions/joining.md).
 */
export async function lockParts(trx: Knex, orderId: OrderId): Promise<void> {
  await trx("sales_order").where({ split_from_id: orderId }).orderBy("id").forUpdate().select("id")
}

/**
 * Takes the parts of an order back into it, in the caller's transaction: their lines are its own again, and so is what is
 * picked and packed of a part at the same warehouse. Refused where a part at another warehouse is being picked, or labels
 * of one are asked for. The caller has locked them ({@link lockParts}) as its first step.
 */
export async function takeBackParts(
  trx: Knex,
  { actor, now }: Pick<Context, "actor" | "now">,
  orderId: OrderId,
): Promise<Outcome<boolean>> {
  const whole = there(await trx("sales_order").where({ id: orderId }).first("warehouse_id"))
  const parts = await trx("sales_order as o")
    .join("warehouse as w", "w.id", "o.warehouse_id")
    .where({ split_from_id: orderId })
    .whereNull("cancelled_at")
    .orderBy("o.id")
    .forUpdate()
    .select("o.id", "o.order_number", "o.warehouse_id", "w.name")
  for (const one of parts) {
    const names = { order: one.order_number, warehouse: one.name }
    if (await labelsAskedFor(trx, one.id)) return refused(reason("split.part-labelled", names))
    if (one.warehouse_id !== whole.warehouse_id && (await pickingBegun(trx, [one.id])).size > 0)
      return refused(reason("split.part-begun", names))
  }
  for (const one of parts) {
    await partOff(trx, one.id, actor, now)
    // what is in work elsewhere was refused above
    if (one.warehouse_id !== whole.warehouse_id) await freeStock(trx, one.id)
    await mergePart(trx, orderId, one.id)
    await trx("order_stop").where({ order_id: one.id }).delete()
    await trx("sales_order")
      .where({ id: one.id })
      .update({ ...nowhere, cancelled_at: now, left_line_at: now, version: trx.raw("version + 1") })
    await record(trx, actor, now, { action: "order.part-back", orderId: one.id, detail: {} })
    await record(trx, actor, now, { action: "order.whole-again", orderId, detail: { part: one.order_number } })
  }
  return accepted(parts.length > 0)
}

/**
 * Makes an order whole again, asked for at itself or at one of its parts: the parts come back into it. Refused where it is
 * at another warehouse. Safe to repeat. Answers the whole's number.
 */
export async function makeWhole(context: Context, ofOrder: number): Promise<Outcome<{ orderNumber: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const asked = await db("sales_order").where({ id: ofOrder, warehouse_id: actor.warehouseId }).first("split_from_id")
  const orderId: OrderId = asked?.split_from_id ?? ofOrder
  return inTransaction(db, async (trx): Promise<Outcome<{ orderNumber: string }>> => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!order) return refused(reason("order.unknown"))
    await lockParts(trx, orderId)
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.void-first"))
    const back = await takeBackParts(trx, context, orderId)
    if (!back.ok) return back
    if (back.value) await recheck(trx, orderId, actor, now)
    return accepted({ orderNumber: order.order_number })
  })
}
