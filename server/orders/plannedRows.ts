import type { Knex } from "knex"

/** An order and its lines, as a plan reads them; of an order that leads others, all of them as one. */
export async function plannedRows(
  trx: Knex,
  orderId: number,
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
): Promise<{ order: any; lines: any[] }> {
  const orders = await trx("sales_order")
    .where({ id: orderId })
    .orWhere({ joined_to_id: orderId })
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
  return { order: orders.length > 1 ? merged(orders) : orders[0], lines }
}

/** Several orders as one: with the first's address, the earliest promise and the latest day from which all may leave. */
// biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
export function merged(orders: readonly any[]): any {
  const days = (name: string) => orders.map((order) => order[name] as string | null).filter((day) => day !== null)
  return {
    ...orders[0],
    promised_on: days("promised_on").sort()[0] ?? null,
    ship_on: days("ship_on").sort().at(-1) ?? null,
  }
}
