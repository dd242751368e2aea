import { type CheckedLine, stopReasons } from "core/orders/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { type Actor, type Context, require } from "../accounts/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { levelsOf } from "../packing/catalogue.ts"
import { customsOf } from "../packing/shipment.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { addressOf } from "./facts.ts"
import { planOrder } from "./plan.ts"

/**
 * Checks an order, writes down its stops, and allocates its stock and plans it when there are none. An order that
 * is being picked keeps its stock. Called after every change that may raise or end a stop; safe to repeat.
 */
export async function recheck(
  trx: Knex,
  orderId: number,
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
): Promise<readonly Reason[]> {
  const order = await trx("sales_order").where({ id: orderId }).forUpdate().first()
  const lines = await trx("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: orderId })
    .orderBy("line_number")
    .select("item.*", "order_line.*")
  const warehouse = await warehouseById(trx, order.warehouse_id)
  const levels = await levelsOf(
    trx,
    lines.map((line) => line.item_id),
  )
  const begun = await trx("allocation")
    .join("order_line", "order_line.id", "allocation.order_line_id")
    .where({ order_id: orderId })
    .where("picked", ">", 0)
    .first("allocation.id")
  if (begun) return currentStops(trx, orderId)

  await freeStock(trx, orderId)
  const available = await freeQuantities(
    trx,
    order.warehouse_id,
    lines.map((line) => line.item_id),
  )
  const checked: CheckedLine[] = lines.map((line) => {
    const free = available.get(line.item_id) ?? 0
    available.set(line.item_id, free - line.ordered)
    return {
      lineNumber: line.line_number,
      sku: line.sku,
      quantity: line.ordered,
      available: Math.max(0, free),
      item: {
        unitWeight: line.weight_kg === null ? null : mass(line.weight_kg, "kg"),
        unNumber: line.un_number,
        customs: customsOf(line, order.currency, levels.get(line.item_id) ?? []),
      },
    }
  })
  const twin = order.po_number
    ? await trx("sales_order")
        .where({ customer_name: order.customer_name, po_number: order.po_number })
        .where("id", "<", orderId)
        .first("bench_number")
    : null
  const reasons = stopReasons({
    shipTo: addressOf(order),
    from: warehouse.country,
    terms: { incoterm: order.incoterm, place: order.incoterm_place },
    lines: checked,
    refusedRows: parsed<Reason[]>(order.refused_rows),
    samePurchaseOrder: twin?.bench_number ?? null,
    heldByHand: !!order.held_by_hand,
  })
  await writeStops(trx, orderId, reasons, actor, now)
  if (reasons.length === 0) await allocate(trx, order.warehouse_id, lines)
  await planOrder(trx, warehouse, orderId, now)
  return reasons
}

async function currentStops(trx: Knex, orderId: number): Promise<Reason[]> {
  const rows = await trx("order_stop").where({ order_id: orderId }).orderBy("id").select("code", "detail")
  return rows.map((row) => ({ code: row.code, values: parsed<Record<string, string>>(row.detail) }))
}

async function writeStops(
  trx: Knex,
  orderId: number,
  reasons: readonly Reason[],
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
) {
  const before = await currentStops(trx, orderId)
  const key = (one: Reason) => JSON.stringify([one.code, Object.entries(one.values).sort()])
  const same =
    before.length === reasons.length && before.every((one, index) => key(one) === key(reasons[index] as Reason))
  if (same) return
  await trx("order_stop").where({ order_id: orderId }).delete()
  for (const one of reasons) {
    await trx("order_stop").insert({
      order_id: orderId,
      code: one.code,
      detail: JSON.stringify(one.values),
      raised_at: now,
    })
  }
  const action = reasons.length > 0 ? "order.stopped" : "order.stop-ended"
  await record(trx, actor, now, { action, orderId, detail: { reasons } })
}

/** What of each item is not allocated yet, locked until the transaction ends. */
async function freeQuantities(
  trx: Knex,
  warehouseId: number,
  itemIds: readonly number[],
): Promise<Map<number, number>> {
  const rows = await trx("stock")
    .where({ warehouse_id: warehouseId })
    .whereIn("item_id", itemIds)
    .orderBy("id")
    .forUpdate()
    .select("item_id", "on_hand", "allocated")
  const free = new Map<number, number>()
  for (const row of rows) free.set(row.item_id, (free.get(row.item_id) ?? 0) + row.on_hand - row.allocated)
  return free
}

/** Takes stock for the lines, first expiring or oldest lot first, then in the order of the walk. */
async function allocate(
  trx: Knex,
  warehouseId: number,
  lines: readonly { id: number; item_id: number; ordered: number }[],
): Promise<void> {
  for (const line of lines) {
    let need = line.ordered
    const rows = await trx("stock")
      .leftJoin("lot", "lot.id", "stock.lot_id")
      .join("bin", "bin.id", "stock.bin_id")
      .where({ "stock.warehouse_id": warehouseId, "stock.item_id": line.item_id })
      .whereRaw("stock.on_hand > stock.allocated")
      .orderByRaw("lot.expires_on IS NULL, lot.expires_on, lot.received_on, bin.walk_order, stock.id")
      .select("stock.id", "stock.on_hand", "stock.allocated")
    for (const row of rows) {
      const take = Math.min(need, row.on_hand - row.allocated)
      await trx("stock").where({ id: row.id }).increment("allocated", take)
      await trx("allocation").insert({ order_line_id: line.id, stock_id: row.id, quantity: take })
      need -= take
      if (need === 0) break
    }
    if (need > 0) throw new Error(`stock of line ${line.id} went away under its lock`)
  }
}

/** Gives back what an order holds and has not picked. */
export async function freeStock(trx: Knex, orderId: number): Promise<void> {
  const rows = await trx("allocation")
    .join("order_line", "order_line.id", "allocation.order_line_id")
    .where({ order_id: orderId })
    .select("allocation.id", "stock_id", "quantity", "picked")
  for (const row of rows) {
    await trx("stock")
      .where({ id: row.stock_id })
      .decrement("allocated", row.quantity - row.picked)
    await trx("allocation").where({ id: row.id }).delete()
  }
}

/** Looks at an order's stops again, such as after stock came; the reasons that are left. */
export async function checkAgain(context: Context, orderId: number): Promise<readonly Reason[]> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).first("id")
    return order ? recheck(trx, orderId, actor, now) : []
  })
}

/** Stops an order by hand, or lets it go on again (the lead). Safe to repeat. */
export async function holdOrder(context: Context, orderId: number, held: boolean): Promise<void> {
  const { db, actor, now } = context
  require(actor, held ? "orders.hold" : "orders.release-hold")
  await inTransaction(db, async (trx) => {
    const changed = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId, held_by_hand: !held })
      .update({ held_by_hand: held })
    if (changed === 0) return
    await record(trx, actor, now, { action: held ? "order.held" : "order.hold-ended", orderId })
    await recheck(trx, orderId, actor, now)
  })
}
