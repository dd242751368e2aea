import { placeOf } from "core/address/index.ts"
import { type MasterBillModel, masterBill, type UnderlyingBill } from "core/documents/index.ts"
import type { CollectionId } from "core/ids/index.ts"
import { fullyRegulated } from "core/papers/index.ts"
import { sumMass } from "core/units/index.ts"
import type { Knex } from "knex"
import { handled, type Shipment, shipmentsOrDrafts } from "../packages/shipment.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { driverOnPaper } from "./driver.ts"
import { goodsOf } from "./facts.ts"

/** Bills that one master bill lists at most. */
const most = 200

/** Shipments of a truck that have a bill of lading of their own. */
export const billsOf = (db: Knex, warehouseId: number, collectionId: CollectionId) =>
  db("document as d")
    .join("shipment as h", "h.order_id", "d.order_id")
    .leftJoin("buy_intent as i", "i.id", "d.intent_id")
    .where({ "d.kind": "bill-of-lading", "h.state": "bought", "h.warehouse_id": warehouseId })
    // what missed its truck goes with another one
    .whereExists(
      db("package as p")
        .whereRaw("p.shipment_id = h.id")
        .where("p.collection_id", collectionId)
        .whereNot("p.state", "void"),
    )
    .whereNull("d.void_at")
    .orderBy("d.id")
    .limit(most)
    .select(
      "d.id",
      "d.order_id",
      "d.name",
      "h.master_tracking",
      db.raw("JSON_VALUE(i.request, '$.proNumber') AS pro_number"),
    )

function underlying(shipment: Shipment, number: string, proNumber: string): UnderlyingBill {
  const units = handled(shipment.packages)
  return {
    number,
    proNumber,
    consignee: shipment.shipTo.company || shipment.shipTo.attention,
    place: placeOf(shipment.shipTo),
    units: units.length,
    pieces: units.reduce(
      (sum, one) =>
        sum +
        shipment.packages.filter((other) => other.on === one.number).length +
        one.contents.reduce((own, content) => own + content.quantity, 0),
      0,
    ),
    // trucks go by road, whoever carries the goods on
    hazardous: fullyRegulated({ ...goodsOf(shipment), service: null }).length > 0,
    weight: sumMass(units.map((one) => one.actual)),
  }
}

/** The master bill over the freight of one truck, or of some of its orders; null where it has none. */
export async function masterBillOf(
  db: Knex,
  warehouse: Warehouse,
  collectionId: CollectionId,
  orders: ReadonlySet<number> | null = null,
): Promise<MasterBillModel | null> {
  const rows = (await billsOf(db, warehouse.id, collectionId)).filter((row) => orders?.has(row.order_id ?? 0) ?? true)
  const collection = await db("collection as c")
    .join("carrier as k", "k.id", "c.carrier_id")
    .where({ "c.id": collectionId, "c.warehouse_id": warehouse.id })
    .first("c.door", "c.on_date", "k.name")
  if (rows.length === 0 || !collection) return null
  const shipments = await shipmentsOrDrafts(
    db,
    rows.flatMap((row) => row.order_id ?? []),
  )
  return masterBill(
    {
      number: `MB-${warehouse.code}-${collectionId}`,
      carrier: collection.name,
      door: collection.door,
      shipDate: collection.on_date,
      shipper: warehouse.sender,
      emergencyPhone: warehouse.shipper.emergencyPhone,
      driver: await driverOnPaper(db, warehouse, collectionId),
    },
    rows.flatMap((row) => {
      const shipment = shipments.get(row.order_id ?? 0)
      return shipment
        ? [underlying(shipment, row.name, row.pro_number || shipment.lading.proNumber || (row.master_tracking ?? ""))]
        : []
    }),
  )
}
