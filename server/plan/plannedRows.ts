import type { Knex } from "knex"

/** An order and its lines with their items' columns, as a plan reads them. */
export interface PlannedRows {
  // biome-ignore lint/suspicious/noExplicitAny: a row as the driver gives it
  readonly order: any
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
  readonly lines: any[]
}

/** The rows of orders by their ids; of an order that leads others, all of them as one. */
export async function plannedRowsOf(trx: Knex, orderIds: readonly number[]): Promise<Map<number, PlannedRows>> {
  if (orderIds.length === 0) return new Map()
  const ids = [...orderIds]
  const orders = await trx("sales_order")
    .whereIn("id", ids)
    .orWhereIn("joined_to_id", ids)
    .orderByRaw("joined_to_id IS NOT NULL, id")
  const lines = await trx("order_line")
    .join("item", "item.id", "order_line.item_id")
    .whereIn(
      "order_id",
      orders.map((order) => order.id),
    )
    .orderBy("order_id")
    .orderBy("line_number")
    .select("item.*", "order_line.*")
  return new Map(
    ids.map((id) => {
      const own = orders.filter((order) => order.id === id || order.joined_to_id === id)
      const members = new Set(own.map((order) => order.id))
      return [
        id,
        {
          order: own.length > 1 ? merged(own) : own[0],
          lines: lines.filter((line) => members.has(line.order_id)),
        },
      ]
    }),
  )
}

/** The rows of one order. */
export const plannedRows = async (trx: Knex, orderId: number): Promise<PlannedRows> =>
  (await plannedRowsOf(trx, [orderId])).get(orderId) as PlannedRows

/** Several orders as one: with the first's address, the earliest promise and the latest day from which all may leave. */
// biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
export function merged(orders: readonly any[]): any {
  const days = (name: string) => orders.map((order) => order[name] as string | null).filter((day) => day !== null)
  return {
    ...orders[0],
    promised_on: days("promised_on").sort()[0] ?? null,
    ship_on: days("ship_on").sort().at(-1) ?? null,
    chosen_ship_on: days("chosen_ship_on").sort().at(-1) ?? null,
  }
}
