import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { inTransaction } from "../db/connection.ts"
import { recheck } from "./recheck.ts"

/**
 * Looks again at the orders that a query over `sales_order AS o` narrows down to, each in a transaction of its own;
 * how many of them were stopped and can go now.
 */
export async function recheckWhere(
  { db, actor, now }: Pick<Context, "db" | "actor" | "now">,
  narrow: (query: Knex.QueryBuilder) => Knex.QueryBuilder,
): Promise<number> {
  const orders: { id: number; stops: number }[] = await narrow(db("sales_order as o")).select(
    "o.id",
    db.raw("(SELECT COUNT(*) FROM order_stop s WHERE s.order_id = o.id) AS stops"),
  )
  let freed = 0
  for (const { id, stops } of orders) {
    const reasons = await inTransaction(db, (trx) => recheck(trx, id, actor, now))
    if (stops > 0 && reasons.length === 0) freed += 1
  }
  return freed
}
