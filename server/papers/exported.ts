import type { LocalDate } from "core/calendar/index.ts"
import { exchange } from "core/exchange/index.ts"
import type { CarrierId } from "core/ids/index.ts"
import { money } from "core/money/index.ts"
import type { PaperFacts } from "core/papers/index.ts"
import type { Knex } from "knex"
import type { Shipment } from "../packages/shipment.ts"
import { shipmentsOrDrafts } from "../packages/shipment.ts"
import { exchangeOf } from "../rating/exchange.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** Other orders that are looked at, at most: who has more leaves by more than one truck. */
const most = 50

/**
 * What leaves besides a shipment with the same carrier on the same day for the same consignee: bought already, or planned
 * so, that splitting or joining orders changes nothing. In US dollars by code; what can't be said in dollars counts as
 * nothing, and is refused by itself.
 */
export async function exportedAlso(
  db: Knex,
  warehouse: Warehouse,
  shipment: Shipment,
  carrierId: CarrierId,
  day: LocalDate,
): Promise<PaperFacts["exportedAlso"]> {
  if (warehouse.country !== "US" || shipment.id === 0) return []
  const members = shipment.members.map((one) => one.id)
  const own = await db("sales_order").where({ id: shipment.orderId }).first("ship_to_key", "country")
  if (!own?.ship_to_key) return []
  const ids: number[] = await db("sales_order as o")
    .leftJoin("shipment as h", (on) => on.on("h.order_id", "o.id").andOnVal("h.state", "<>", "void"))
    .leftJoin("service as s", (on) => on.on("s.id", db.raw("COALESCE(h.service_id, o.planned_service_id)")))
    .leftJoin("collection as c", (on) => on.on("c.id", db.raw("COALESCE(h.collection_id, o.collection_id)")))
    .where({ "o.warehouse_id": warehouse.id, "o.ship_to_key": own.ship_to_key, "o.country": own.country })
    .whereNotIn("o.id", members)
    .whereNull("o.cancelled_at")
    .whereNull("o.joined_to_id")
    .where("s.carrier_id", carrierId)
    .where("c.on_date", day)
    .orderBy("o.id")
    .limit(most)
    .pluck("o.id")
  if (ids.length === 0) return []
  const table = await exchangeOf(db)
  return [...(await shipmentsOrDrafts(db, ids)).values()].flatMap((other) =>
    other.lines.flatMap((line) => {
      const pieces = other.state === "open" ? line.ordered : line.packed
      const value = money(line.customs.unitValue?.mul(pieces) ?? 0, other.orderCurrency)
      const usd = exchange(table, value, "USD", day)?.value.amount
      return usd?.gt(0) ? [{ code: line.customs.hsCode, usd }] : []
    }),
  )
}
