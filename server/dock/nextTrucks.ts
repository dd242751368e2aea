import type { LocalDate } from "core/calendar/index.ts"
import type { WarehouseId } from "core/ids/index.ts"
import { arrivalOf, wishesSchema } from "core/rating/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { stillDays } from "../rating/offers.ts"
import { tariffOn } from "../rating/tariffs.ts"
import type { Collection } from "../setup/collections.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import type { DockPackage } from "./packages.ts"

/** The truck that a package goes with when this one leaves without it, and what that means for its promise. */
export interface NextTruck {
  readonly collectionId: number
  readonly door: string
  readonly onDate: LocalDate
  readonly cutOff: Date
  /** When it arrives then, by the service's own days; null where the tariff of that day doesn't say. */
  readonly arrivesOn: LocalDate | null
  readonly promisedOn: LocalDate | null
}

/** The open trucks of a carrier after another, in the order in which they come. */
export async function comingTrucks(
  db: Knex,
  warehouseId: WarehouseId,
  after: Pick<Collection, "carrierId" | "cutOff"> & Partial<Pick<Collection, "dropOff">>,
): Promise<{ id: number; door: string; on_date: LocalDate; cut_off: Date; services: string[] }[]> {
  const rows = await db("collection")
    .where({ warehouse_id: warehouseId, carrier_id: after.carrierId })
    .whereNull("closed_at")
    .where("cut_off", ">", after.cutOff)
    .whereNull("cancelled_at")
    [
      // what is brought is brought the next day, not fetched
      after.dropOff ? "whereNotNull" : "whereNull"
    ]("drop_off")
    .orderBy("cut_off")
    .select("id", "door", "on_date", "cut_off", "services")
  return rows.map((one) => ({ ...one, services: parsed<string[]>(one.services) }))
}

/** The next trucks of packages, by package; null for one whose service has none in the days that are known. */
export async function nextTrucks(
  db: Knex,
  warehouse: Warehouse,
  after: Collection,
  packages: readonly Pick<DockPackage, "id">[],
): Promise<Map<number, NextTruck | null>> {
  if (packages.length === 0) return new Map()
  const [rows, coming] = await Promise.all([
    db("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .join("sales_order as o", "o.id", "h.order_id")
      .join("service as s", "s.id", "h.service_id")
      .leftJoin("buy_intent as i", (on) => on.on("i.shipment_id", "h.id").onVal("i.state", "booked"))
      .whereIn(
        "p.id",
        packages.map((one) => one.id),
      )
      .where("h.warehouse_id", warehouse.id)
      .select(
        "p.id",
        "h.wishes",
        "s.code",
        "o.promised_on",
        "o.country",
        "o.state",
        "o.postal_code",
        db.raw("JSON_VALUE(i.rate, '$.zone') AS zone"),
      ),
    comingTrucks(db, warehouse.id, after),
  ])
  const tariffs = new Map<LocalDate, Awaited<ReturnType<typeof tariffOn>>>()
  const found = new Map<number, NextTruck | null>()
  for (const row of rows) {
    const truck = coming.find((one) => one.services.includes(row.code))
    if (!truck) {
      found.set(row.id, null)
      continue
    }
    if (!tariffs.has(truck.on_date)) tariffs.set(truck.on_date, await tariffOn(db, after.carrierId, truck.on_date))
    const tariff = tariffs.get(truck.on_date)
    const terms = tariff?.services.find((one) => one.code === row.code)
    const zone: string | null = (row as unknown as { zone: string | null }).zone
    const arrival =
      tariff && terms && zone
        ? arrivalOf(tariff, terms, zone, {
            from: { country: warehouse.country, postalCode: warehouse.postalCode },
            shipTo: row,
            shipDate: truck.on_date,
            holidays: stillDays(row, warehouse.country, truck.on_date),
            options: new Set(wishesSchema.parse(parsed(row.wishes)).options),
          })
        : null
    found.set(row.id, {
      collectionId: truck.id,
      door: truck.door,
      onDate: truck.on_date,
      cutOff: truck.cut_off,
      arrivesOn: arrival?.ok ? arrival.value.date : null,
      promisedOn: row.promised_on,
    })
  }
  return found
}
