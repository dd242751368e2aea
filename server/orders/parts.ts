import type { LineId, OrderId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { SalesOrderRow } from "../db/tables.ts"
import { newId, there } from "../db/there.ts"
import { nextOrderNumber } from "./number.ts"

/** What an order has of one warehouse's day and lets go when it leaves it. */
export const nowhere = {
  collection_id: null,
  must_collection_id: null,
  chosen_collection_id: null,
  chosen_service_id: null,
  planned_service_id: null,
}

/** Pieces of a line that go with a part. */
export interface MovedLine {
  readonly lineId: LineId
  readonly quantity: number
}

/**
 * Makes a part of an order with pieces of its lines, at a warehouse, in the caller's transaction: the same order to its
 * source, with a number of its own. A line that goes whole takes what it holds with it; of a line that goes in part the
 * caller has freed what goes, or moves it after. The caller looks at both again.
 *
 * @param order the locked row of the order, itself a part or not
 */
export async function splitOff(
  trx: Knex,
  order: SalesOrderRow,
  warehouseId: WarehouseId,
  moved: readonly MovedLine[],
): Promise<{ id: number; orderNumber: string; lines: ReadonlyMap<number, number> }> {
  const last = await trx("sales_order")
    .where({ source_id: order.source_id, source_number: order.source_number })
    .max({ part: "part" })
    .first()
  const orderNumber = await nextOrderNumber(trx, warehouseId)
  const { id: _, ...copied } = order
  const json = (value: unknown): string | null =>
    typeof value === "string" ? value : value ? JSON.stringify(value) : null
  const partId = newId(
    await trx("sales_order").insert({
      ...copied,
      ...nowhere,
      warehouse_id: warehouseId,
      order_number: orderNumber,
      part: Number(last?.part ?? 1) + 1,
      split_from_id: order.split_from_id ?? order.id,
      joined_to_id: null,
      next_package: 1,
      words_of: 0,
      version: 1,
      settings: json(order.settings),
      by_hand: json(order.by_hand),
      joined_for: json(order.joined_for),
      advice_taken: null,
      refused_rows: "[]",
    }),
  )
  for (const table of ["order_reference", "order_party", "order_tag"]) {
    const rows = await trx(table).where({ order_id: order.id })
    if (rows.length > 0) await trx(table).insert(rows.map(({ id: __, ...row }) => ({ ...row, order_id: partId })))
  }
  const lines = new Map<number, number>()
  for (const one of moved) {
    const line = there(await trx("order_line").where({ id: one.lineId }).first())
    if (one.quantity >= line.ordered) {
      await trx("order_line").where({ id: line.id }).update({ order_id: partId })
      lines.set(line.id, line.id)
    } else {
      await trx("order_line")
        .where({ id: line.id })
        .update({ ordered: line.ordered - one.quantity })
      const { id: __, ...rest } = line
      const apartId = newId(
        await trx("order_line").insert({
          ...rest,
          customs: json(rest.customs),
          order_id: partId,
          ordered: one.quantity,
          cancelled: 0,
        }),
      )
      lines.set(line.id, apartId)
    }
  }
  return { id: partId, orderNumber, lines }
}

/** An order in parts: its own number first, then the parts that were split off and are not taken back. */
export async function partsOf(
  db: Knex,
  orderId: OrderId,
): Promise<{ id: number; orderNumber: string; warehouse: string; warehouseId: WarehouseId }[]> {
  const order = await db("sales_order").where({ id: orderId }).first("split_from_id")
  const whole = order?.split_from_id ?? orderId
  const rows = await db("sales_order as o")
    .join("warehouse as w", "w.id", "o.warehouse_id")
    .where((either) => either.where("o.id", whole).orWhere("o.split_from_id", whole))
    .where((either) => either.where("o.id", whole).orWhereNull("o.cancelled_at"))
    .orderBy("o.part")
    .select("o.id", "o.order_number as orderNumber", "w.name as warehouse", "w.id as warehouseId")
  return rows.length > 1 ? rows : []
}
