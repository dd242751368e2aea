import { localDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { type MoneyText, money, moneyText } from "core/money/index.ts"
import type { ReportLine, ReportModel, ReportPackage } from "core/report/index.ts"
import { massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { there } from "../db/there.ts"
import { partsOf } from "../orders/parts.ts"
import { contentsOf } from "../packages/contents.ts"
import { packagesOf, type Shipment } from "../packages/shipment.ts"

/** The share of the freight of its shipment that is an order's, all of it where it is alone. */
export interface Share {
  readonly charged: MoneyText | null
  readonly list: MoneyText | null
  readonly cost: MoneyText
}

export async function shareOf(trx: Knex, orderId: OrderId, shipment: Shipment): Promise<Share> {
  const share = await trx("order_freight as f")
    .join("buy_intent as i", "i.id", "f.intent_id")
    .where({ "f.order_id": orderId, "i.shipment_id": shipment.id, "i.state": "booked" })
    .first("f.list_amount", "f.contract_amount", "f.charged_amount", "f.currency")
  const currency = share?.currency ?? shipment.currency ?? "USD"
  const text = (amount: string) => moneyText(money(amount, currency))
  return {
    charged: share?.charged_amount ? text(share.charged_amount) : null,
    list: share?.list_amount ? text(share.list_amount) : null,
    // what was bought before shares were kept was bought for one order, and nobody knew what was charged for it
    cost: text(share?.contract_amount ?? shipment.contract ?? "0"),
  }
}

/** Which part of its order it is, where that was split over several warehouses. */
export async function partOf(trx: Knex, orderId: OrderId): Promise<{ part?: { number: number; of: number } }> {
  const parts = await partsOf(trx, orderId)
  return parts.length > 1
    ? { part: { number: parts.findIndex((one) => one.id === orderId) + 1, of: parts.length } }
    : {}
}

/** What went of each line with its lots, and what was canceled because it was short. */
export async function linesOf(trx: Knex, orderId: OrderId): Promise<ReportLine[]> {
  const rows = await trx("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .select("l.id", "i.sku", "l.ordered as shipped", "l.cancelled")
  const lots: { order_line_id: number; code: string; quantity: number }[] = await trx("package_lot as p")
    .join("lot as t", "t.id", "p.lot_id")
    .join("package as k", "k.id", "p.package_id")
    .whereIn(
      "p.order_line_id",
      rows.map((row) => row.id),
    )
    .whereNot("k.state", "void")
    .groupBy("p.order_line_id", "t.code")
    .orderBy("t.code")
    .select("p.order_line_id", "t.code")
    .sum({ quantity: "p.quantity" })
  return rows.map(({ id, sku, shipped, cancelled }) => {
    const own = lots.filter((lot) => lot.order_line_id === id)
    return {
      sku,
      shipped,
      cancelled,
      ...(own.length > 0 ? { lots: own.map((lot) => ({ lot: lot.code, quantity: Number(lot.quantity) })) } : {}),
    }
  })
}

/** An order's packages with what each holds. */
async function packagesOut(trx: Knex, orderId: OrderId, shipment: Shipment): Promise<ReportPackage[]> {
  const own = packagesOf(shipment, orderId)
  // what stands on a pallet is told with it
  const all = own.flatMap((one) => [one, ...shipment.packages.filter((other) => other.on === one.number)])
  const held = await contentsOf(trx, shipment, all)
  const ownLines = new Map(shipment.lines.map((line, index) => [index + 1, line]))
  return own.map((one) => ({
    sscc: one.sscc,
    trackingNumber: one.tracking ?? "",
    weightLb: massIn(one.actual, "lb").toFixed(2),
    contents: all
      .filter((other) => other === one || other.on === one.number)
      .flatMap((other) => held.get(other.id) ?? [])
      .flatMap((content) => {
        const line = ownLines.get(content.line)
        if (!line || line.orderId !== orderId) return []
        return [
          {
            sku: line.sku,
            quantity: content.quantity,
            ...(content.lots.length > 0
              ? { lots: content.lots.map((lot) => ({ lot: lot.code, quantity: lot.quantity })) }
              : {}),
          },
        ]
      }),
  }))
}

/** Numbers of papers that were made for a shipment. */
async function papersOf(trx: Knex, lead: OrderId): Promise<{ kind: string; number: string }[]> {
  const rows = await trx("document")
    .where({ order_id: lead })
    .whereIn("kind", ["invoice", "bill-of-lading", "packing-list", "postal-declaration", "certificate-of-origin"])
    .whereNull("void_at")
    .orderBy("id")
    .limit(40)
    .select("kind", "name")
  return rows.map((row) => ({ kind: row.kind, number: row.name }))
}

/** All that is known of an order whose labels are bought. */
export async function shippedModel(
  trx: Knex,
  orderId: OrderId,
  shipment: Shipment,
  said: { readonly topic: string; readonly orderNumber: string; readonly at: Date; readonly zone: string },
): Promise<ReportModel> {
  const service = there(
    await trx("service")
      .join("carrier", "carrier.id", "service.carrier_id")
      .where("service.id", shipment.serviceId)
      .first("service.name", "carrier.name as carrier"),
  )
  const { company, street, city, state, postal_code, country } = there(
    await trx("warehouse")
      .where({ id: shipment.warehouseId })
      .first("company", "street", "city", "state", "postal_code", "country"),
  )
  const share = await shareOf(trx, orderId, shipment)
  const dates = await trx("shipment").where({ id: shipment.id }).first("ship_date")
  return {
    topic: said.topic,
    orderNumber: said.orderNumber,
    goneAt: said.at.toISOString(),
    shippedOn: dates?.ship_date ?? localDate(said.at, said.zone),
    ...(shipment.arrivesOn ? { arrivesOn: shipment.arrivesOn } : {}),
    carrier: service.carrier,
    service: service.name,
    trackingNumber: shipment.masterTracking ?? "",
    ...(await partOf(trx, orderId)),
    charge: share.charged,
    ...(share.list ? { list: share.list } : {}),
    cost: share.cost,
    lines: await linesOf(trx, orderId),
    packages: await packagesOut(trx, orderId, shipment),
    shipFrom: { company, street, city, state, postalCode: postal_code, country },
    papers: await papersOf(trx, shipment.orderId),
  }
}
