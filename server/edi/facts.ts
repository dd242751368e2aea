import type { CollectionId, OrderId } from "core/ids/index.ts"
import { pieceGtin } from "core/picking/index.ts"
import type { NoticePackage, NoticeParty, ShipNotice } from "core/shipNotice/index.ts"
import type { Knex } from "knex"
import { there } from "../db/there.ts"
import { contentsOf } from "../packages/contents.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"

/** How a message is numbered: eight digits, by which an acknowledgment names it. */
export const referenceOf = (messageId: number): string => String(messageId).padStart(8, "0")

const party = (
  from: Pick<Shipment["shipTo"], "street" | "city" | "state" | "postalCode" | "country"> | null,
  more: Pick<NoticeParty, "gln" | "code" | "name">,
): NoticeParty => ({
  ...more,
  street: from?.street ?? "",
  city: from?.city ?? "",
  state: from?.state ?? "",
  postalCode: from?.postalCode ?? "",
  country: from?.country ?? "",
})

const senderOf = (warehouse: Warehouse, gln: string): NoticeParty =>
  party(warehouse, { gln, code: warehouse.code, name: warehouse.company })

/**
 * What is said of packages that have left with a truck: they, what stands on them, and what lies in them by order line.
 *
 * @param ids the handled packages, all of one shipment
 */
export async function noticeOf(
  db: Knex,
  {
    orderId,
    collectionId,
    ids,
    number,
  }: {
    readonly orderId: OrderId
    readonly collectionId: CollectionId
    readonly ids: readonly number[]
    readonly number: string
  },
): Promise<ShipNotice> {
  const shipment = there(await shipmentOf(db, orderId))
  const warehouse = await warehouseById(db, shipment.warehouseId)
  const { gln } = there(await db("warehouse").where({ id: warehouse.id }).first("gln"))
  const orders = await db("sales_order")
    .whereIn(
      "id",
      shipment.members.map((one) => one.id),
    )
    .select("id", "source_number", "po_number")
  const orderOf = new Map(orders.map((one) => [one.id as number, one]))
  const collection = there(await db("collection").where({ id: collectionId }).first("door", "on_date", "closed_at"))
  const service = there(
    await db("service as s")
      .join("carrier as k", "k.id", "s.carrier_id")
      .where("s.id", shipment.serviceId)
      .first("s.name", "k.code", "k.name as carrier"),
  )
  const bought = there(await db("shipment").where({ id: shipment.id }).first("bought_at", "ship_date", "arrives_on"))
  const told = new Set(ids)
  const units = shipment.packages.filter((one) => told.has(one.id))
  const numbers = new Set(units.map((one) => one.number))
  const all = shipment.packages.filter((one) => told.has(one.id) || (one.on !== null && numbers.has(one.on)))
  const rows = await db("package as p")
    .leftJoin("closing_form as f", "f.id", "p.form_id")
    .whereIn("p.id", [...ids])
    .select("p.id", "p.loaded_at", "f.number as form")
  const rowOf = new Map(rows.map((row) => [row.id as number, row]))
  const contents = await contentsOf(db, shipment, all)
  const name = (n: number) => `${shipment.orderNumber}-${n}`
  return {
    number,
    shippedAt: collection.closed_at as Date,
    packedAt: bought.bought_at as Date,
    // what was left behind and went later arrives when it arrives: the day that was bought says nothing of it
    arrivesOn: collection.on_date === bought.ship_date ? bought.arrives_on : null,
    zone: warehouse.zone,
    door: collection.door,
    carrierCode: service.code,
    carrier: service.carrier,
    service: service.name,
    tracking: shipment.masterTracking ?? "",
    form: rows.find((row) => row.form)?.form ?? "",
    from: senderOf(warehouse, gln),
    buyer: party(null, { gln: "", code: shipment.customerCode, name: shipment.customer }),
    shipTo: party(shipment.shipTo, { gln: "", code: "", name: shipment.shipTo.company || shipment.shipTo.attention }),
    lines: shipment.lines.map((line, index) => ({
      line: index + 1,
      sku: line.sku,
      gtin: pieceGtin(line.levels) ?? "",
      description: line.description,
      purchaseOrder: orderOf.get(line.orderId)?.po_number ?? "",
      orderNumber: orderOf.get(line.orderId)?.source_number ?? "",
    })),
    packages: all.map(
      (one): NoticePackage => ({
        name: name(one.number),
        sscc: one.sscc ?? "",
        kind: one.kind === "pallet" ? "pallet" : "carton",
        tracking: one.tracking ?? "",
        weight: one.actual,
        size: one.outer,
        on: one.on === null ? null : name(one.on),
        loadedAt: rowOf.get(one.id)?.loaded_at ?? null,
        contents: contents.get(one.id) ?? [],
      }),
    ),
  }
}
