import { type CheckedLine, stopReasons, stopsByHand, type Wanted } from "core/orders/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { type Actor, type Context, require } from "../accounts/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { dangerousOf } from "../goods/dangerous.ts"
import { levelsOf } from "../packing/catalogue.ts"
import { customsOf } from "../packing/shipment.ts"
import { screeningHits } from "../screening/index.ts"
import { creditStop } from "../setup/credit.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { addressOf } from "./facts.ts"
import { labelsAskedFor } from "./labels.ts"
import { notWaived } from "./passed.ts"
import { planOrder } from "./plan.ts"
import { writeStops } from "./stops.ts"

/**
 * Checks an order, writes down its stops, and allocates its stock and plans it when there are none. An order that
 * is being picked keeps what it holds, and is given what it still lacks. Of an order whose labels are asked for only
 * what a person or its source wants of it can stop it. Called after every change that may raise or end a stop; safe
 * to repeat.
 */
export async function recheck(
  trx: Knex,
  orderId: number,
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
): Promise<readonly Reason[]> {
  const order = await trx("sales_order").where({ id: orderId }).forUpdate().first()
  if (order.cancelled_at) return []
  const wanted = await wantedOf(trx, order)
  if (await labelsAskedFor(trx, orderId)) {
    await writeStops(trx, orderId, stopsByHand(wanted), actor, now)
    return stopsByHand(wanted)
  }
  const lines = await trx("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: orderId })
    .orderBy("line_number")
    .select("item.*", "order_line.*")
  const itemIds = lines.map((line) => line.item_id)
  const warehouse = await warehouseById(trx, order.warehouse_id)
  const levels = await levelsOf(trx, itemIds)
  let held = await heldBy(trx, orderId)
  const begun = [...held.values()].some((one) => one.picked > 0)
  if (!begun) {
    await freeStock(trx, orderId)
    held = new Map()
  }
  const available = await freeQuantities(trx, order.warehouse_id, itemIds)
  const checked: CheckedLine[] = lines.map((line) => {
    const free = available.get(line.item_id) ?? 0
    const lacking = line.ordered - (held.get(line.id)?.quantity ?? 0)
    available.set(line.item_id, free - lacking)
    return {
      lineNumber: line.line_number,
      sku: line.sku,
      quantity: lacking,
      available: Math.max(0, free),
      item: {
        unitWeight: line.weight_kg === null ? null : mass(line.weight_kg, "kg"),
        sized: [line.length_mm, line.width_mm, line.height_mm].every((edge) => Number(edge) > 0),
        dangerous: dangerousOf(line),
        customs: customsOf(line, order.currency, levels.get(line.item_id) ?? []),
      },
    }
  })
  const shipTo = addressOf(order)
  const plan = await planOrder(trx, warehouse, order, lines, now)
  const found = stopReasons({
    ...wanted,
    shipTo,
    from: warehouse.country,
    terms: { incoterm: order.incoterm, place: order.incoterm_place },
    lines: checked,
    refusedRows: parsed<Reason[]>(order.refused_rows),
    samePurchaseOrder: await samePurchaseOrder(trx, order),
    creditStop: await creditStop(trx, order.customer_id),
    screening: shipTo.country === warehouse.country ? [] : await screeningHits(trx, order.customer_name, shipTo),
    promise: begun ? null : plan.promise,
  })
  const reasons = await notWaived(trx, orderId, found)
  await writeStops(trx, orderId, reasons, actor, now)
  if (reasons.length === 0)
    await allocate(
      trx,
      order.warehouse_id,
      lines.map((line) => ({ ...line, lacking: line.ordered - (held.get(line.id)?.quantity ?? 0) })),
    )
  await trx("sales_order")
    .where({ id: orderId })
    .update({ collection_id: plan.collectionId, planned_service_id: plan.serviceId })
  return reasons
}

/** What a person or the order's source wants of it, whatever the order's data say. */
async function wantedOf(
  trx: Knex,
  order: { id: number; held_by_hand: number; source_waits: number; source_state: string },
): Promise<Wanted> {
  const change = await trx("order_change").where({ order_id: order.id, state: "open" }).first("kind", "came_with")
  return {
    heldByHand: !!order.held_by_hand,
    sourceState: order.source_waits ? order.source_state : null,
    change: change ? { kind: change.kind, cameWith: change.came_with } : null,
  }
}

/** What each line holds of the stock, and how much of it is picked. */
async function heldBy(trx: Knex, orderId: number): Promise<Map<number, { quantity: number; picked: number }>> {
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
  const rows: any[] = await trx("allocation")
    .join("order_line", "order_line.id", "allocation.order_line_id")
    .where({ order_id: orderId })
    .groupBy("order_line.id")
    .select("order_line.id")
    .sum({ quantity: "quantity", picked: "picked" })
  return new Map(rows.map((row) => [row.id, { quantity: Number(row.quantity), picked: Number(row.picked) }]))
}

/** The bench number of an earlier order of the same customer with the same purchase-order number, if there is one. */
async function samePurchaseOrder(
  trx: Knex,
  order: { id: number; po_number: string; customer_name: string },
): Promise<string | null> {
  if (!order.po_number) return null
  const twin = await trx("sales_order")
    .where({ customer_name: order.customer_name, po_number: order.po_number })
    .whereNull("cancelled_at")
    .where("id", "<", order.id)
    .first("bench_number")
  return twin?.bench_number ?? null
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

/** Takes stock for what the lines lack, first expiring or oldest lot first, then in the order of the walk. */
async function allocate(
  trx: Knex,
  warehouseId: number,
  lines: readonly { id: number; item_id: number; lacking: number }[],
): Promise<void> {
  for (const line of lines) {
    let need = line.lacking
    if (need <= 0) continue
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
