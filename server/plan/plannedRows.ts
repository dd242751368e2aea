import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { type ItemLineRow, itemLines } from "../orders/itemLine.ts"

/** An order and its lines with their items' columns, as a plan reads them. */
export interface PlannedRows {
  readonly order: SalesOrderRow
  readonly lines: readonly ItemLineRow[]
}

/** The rows of orders by their ids; of an order that leads others, all of them as one. */
export async function plannedRowsOf(trx: Knex, orderIds: readonly OrderId[]): Promise<Map<number, PlannedRows>> {
  if (orderIds.length === 0) return new Map()
  const ids = [...orderIds]
  const orders = await trx("sales_order")
    .whereIn("id", ids)
    .orWhereIn("joined_to_id", ids)
    .orderByRaw("joined_to_id IS NOT NULL, id")
  const lines = await itemLines(
    trx,
    orders.map((order) => order.id),
  )
  return new Map(
    ids.map((id) => {
      const own = orders.filter((order) => order.id === id || order.joined_to_id === id)
      const members = new Set(own.map((order) => order.id))
      return [
        id,
        {
          order: own.length > 1 ? merged(own) : there(own[0]),
          lines: lines.filter((line) => members.has(line.order_id)),
        },
      ]
    }),
  )
}

/** The rows of one order. */
export const plannedRows = async (trx: Knex, orderId: OrderId): Promise<PlannedRows> =>
  (await plannedRowsOf(trx, [orderId])).get(orderId) as PlannedRows

/** Several orders as one: with the first's address, the earliest promise and the latest day from which all may leave. */
export function merged<Row extends Pick<SalesOrderRow, "promised_on" | "ship_on" | "chosen_ship_on">>(
  orders: readonly Row[],
): Row {
  const days = (name: "promised_on" | "ship_on" | "chosen_ship_on") =>
    orders.map((order) => order[name]).filter((day) => day !== null)
  return {
    ...there(orders[0]),
    promised_on: days("promised_on").sort()[0] ?? null,
    ship_on: days("ship_on").sort().at(-1) ?? null,
    chosen_ship_on: days("chosen_ship_on").sort().at(-1) ?? null,
  }
}
