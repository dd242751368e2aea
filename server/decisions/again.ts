import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { recheckMany } from "./recheck.ts"

/**
 * Looks again at the orders that a query over `sales_order AS o` narrows down to; how many of them were stopped and can
 * go now.
 */
export async function recheckWhere(
  { db, actor, now }: Pick<Context, "db" | "actor" | "now">,
  narrow: (query: Knex.QueryBuilder) => Knex.QueryBuilder,
): Promise<number> {
  const orders: { id: number; stops: number }[] = await narrow(db("sales_order as o")).select(
    "o.id",
    db.raw("(SELECT COUNT(*) FROM order_stop s WHERE s.order_id = o.id) AS stops"),
  )
  const stopped = new Set(orders.filter((order) => Number(order.stops) > 0).map((order) => order.id))
  const reasons = await recheckMany(
    db,
    orders.map((order) => order.id),
    actor,
    now,
  )
  return [...reasons].filter(([id, found]) => stopped.has(id) && found.length === 0).length
}
