import type { CarrierId } from "core/ids/index.ts"
import type { Tariff } from "core/tariff/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { compute } from "../compute/pool.ts"
import type { BookingRequest } from "../gateways/carrier.ts"
import type { PastShipment, Trial } from "./trial.ts"

/** Most shipments that a trial looks at: the latest of the month. */
const most = 20_000

/** What was booked with a carrier since an instant at our cost, as it was asked. */
export async function pastShipments(db: Knex, carrierId: CarrierId, since: Date): Promise<PastShipment[]> {
  const rows = await db("buy_intent as i")
    .join("shipment as s", "s.id", "i.shipment_id")
    .join("sales_order as o", "o.id", "s.order_id")
    .join("service", "service.id", "i.service_id")
    .where({ "service.carrier_id": carrierId, "i.state": "booked" })
    .where("i.created_at", ">=", since)
    .orderBy("i.id", "desc")
    .limit(most)
    .select("o.order_number as orderNumber", "i.request", "i.expected_amount as cost")
  return rows.flatMap((row) => {
    const request = parsed<BookingRequest>(row.request)
    // requests of releases before do not say all that a rate depends on
    if (!request.options || request.billing.terms === "collect" || request.billing.terms === "third-party") return []
    return [{ orderNumber: row.orderNumber, request, cost: row.cost }]
  })
}

/** A carrier's document tried on what was booked with it in the last 31 days; worked out in a thread beside the server. */
export async function tryOnLastMonth(db: Knex, carrierId: CarrierId, tariff: Tariff, now: Date): Promise<Trial> {
  const since = new Date(now.getTime() - 31 * 86_400_000)
  return compute("tryTariff", { document: tariff, shipments: await pastShipments(db, carrierId, since) })
}
