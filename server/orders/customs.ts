import { type CustomsDetails, customsDetailsSchema } from "core/customs/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"

/** The order that all parts of an order belong to: what is said of amounts holds for all of them. */
export const wholeOf = (order: Pick<SalesOrderRow, "id" | "split_from_id">): number => order.split_from_id ?? order.id

/** What is said of orders for customs, by their ids; parts have what was said of the whole. */
export async function customsDetailsOf(
  db: Knex,
  orders: readonly Pick<SalesOrderRow, "id" | "split_from_id">[],
): Promise<Map<number, CustomsDetails>> {
  const rows = await db("order_customs").whereIn("order_id", [...new Set(orders.map(wholeOf))])
  const said = new Map<number, CustomsDetails>(
    rows.map((row) => [row.order_id, customsDetailsSchema.parse(parsed(row.body))]),
  )
  return new Map(
    orders.flatMap((order) => {
      const details = said.get(wholeOf(order))
      return details ? [[order.id, details] as const] : []
    }),
  )
}
