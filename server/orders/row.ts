import type { OrderId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { there } from "../db/there.ts"

/** The stored row of an order that is known to be of this warehouse. Throws where it is not. */
export const orderRow = async (db: Knex, warehouseId: WarehouseId, id: number) =>
  there(await db("sales_order").where({ id, warehouse_id: warehouseId }).first())

/** The id of an order of this warehouse by its number, compared byte by byte; null where there is none. */
export async function orderIdOf(db: Knex, warehouseId: WarehouseId, orderNumber: string): Promise<number | null> {
  const row = await db("sales_order").where({ order_number: orderNumber, warehouse_id: warehouseId }).first("id")
  return row?.id ?? null
}

/** The number of an order of this warehouse; null where the warehouse has no such order. */
export async function orderNumberOf(db: Knex, warehouseId: WarehouseId, id: number): Promise<string | null> {
  const row = await db("sales_order").where({ id, warehouse_id: warehouseId }).first("order_number")
  return row?.order_number ?? null
}

/** A line of an order with its item, as it was ordered. */
export interface OrderLineRow {
  readonly id: number
  readonly line_number: number
  readonly sku: string
  readonly description: string
  readonly ordered: number
}

/** The lines of an order by their numbers. */
export const orderLines = (db: Knex, orderId: OrderId): Promise<OrderLineRow[]> =>
  db("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: orderId })
    .orderBy("line_number")
    .select("order_line.id", "line_number", "sku", "description", "ordered")

/** The references that came with an order, and whether its papers print them. */
export async function referencesOf(
  db: Knex,
  orderId: OrderId,
): Promise<{ name: string; value: string; printed: boolean }[]> {
  const rows = await db("order_reference").where({ order_id: orderId }).select("name", "value", "printed")
  return rows.map((one) => ({ name: one.name, value: one.value, printed: !!one.printed }))
}
