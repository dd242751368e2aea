import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"

/**
 * The orders among these that are begun: something is picked, a shipment was made, they are with an outside warehouse, or
 * a part of them is at another warehouse.
 */
export async function pickingBegun(db: Knex, orderIds: readonly OrderId[]): Promise<Set<number>> {
  if (orderIds.length === 0) return new Set()
  const [rows, shipped, outside, parts] = await Promise.all([
    db("order_line")
      .join("allocation", "allocation.order_line_id", "order_line.id")
      .whereIn("order_id", [...orderIds])
      .where("picked", ">", 0)
      .distinct("order_id"),
    db("sales_order as o")
      .joinRaw("JOIN shipment h ON h.order_id = COALESCE(o.joined_to_id, o.id)")
      .whereIn("o.id", [...orderIds])
      .distinct("o.id as order_id"),
    db("outside_order")
      .whereIn("order_id", [...orderIds])
      .whereNot({ state: "refused" })
      .select("order_id"),
    db("sales_order")
      .whereIn("split_from_id", [...orderIds])
      .whereNull("cancelled_at")
      .distinct("split_from_id as order_id"),
  ])
  return new Set([...rows, ...shipped, ...outside, ...parts].map((row) => row.order_id))
}
