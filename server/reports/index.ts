import { randomUUID } from "node:crypto"
import type { OrderId, SourceId } from "core/ids/index.ts"
import { type MoneyText, money, moneyText } from "core/money/index.ts"
import { massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { announce, parsed } from "../audit/index.ts"
import { newId, there } from "../db/there.ts"
import { sendReport } from "../gateways/orderSource.ts"
import { partsOf } from "../orders/parts.ts"
import { packagesOf, type Shipment, shipmentOf } from "../packages/shipment.ts"
import { reporting } from "./jobs.ts"

/**
 * Writes the report of an order that has gone into the outbox, in the transaction in which it went: tracking per
 * package and what is charged for it, our cost where the source is set up so. Once for a shipment. Sources without an address for reports are told nothing.
 */
export async function reportGone(trx: Knex, orderId: OrderId, now: Date): Promise<void> {
  const shipment = await shipmentOf(trx, orderId)
  const order = await trx("sales_order")
    .join("order_source", "order_source.id", "sales_order.source_id")
    .where("sales_order.id", orderId)
    .first("source_id", "source_number", "report_url", "report_cost")
  if (!shipment || !order?.report_url) return
  const known = await trx("outbox").where({ order_id: orderId, topic: "order.gone" }).first("id")
  if (known) return
  const service = await trx("service")
    .join("carrier", "carrier.id", "service.carrier_id")
    .where("service.id", shipment.serviceId)
    .first("service.name", "carrier.name as carrier")
  const share = await shareOf(trx, orderId, shipment)
  const payload = {
    topic: "order.gone",
    orderNumber: order.source_number,
    goneAt: now.toISOString(),
    carrier: service.carrier,
    service: service.name,
    trackingNumber: shipment.masterTracking,
    ...(await partOf(trx, orderId)),
    // what the customer is charged; what it cost us is ours, unless the source is set up to be told
    charge: share.charged,
    ...(order.report_cost ? { cost: share.cost } : {}),
    // the customer is charged for the freight of an order once, however many shipments it makes
    freightCharged: (await chargedBefore(trx, orderId)) ? "before" : "here",
    lines: await linesOf(trx, orderId),
    packages: packagesOf(shipment, orderId).map((one) => ({
      sscc: one.sscc,
      trackingNumber: one.tracking,
      weightLb: massIn(one.actual, "lb").toFixed(2),
    })),
  }
  await tell(trx, orderId, order.source_id, payload, now)
}

/** The report of an order that somebody else shipped: its tracking, and what it cost where we know it. */
export async function reportOutside(
  trx: Knex,
  orderId: OrderId,
  now: Date,
  shipped: {
    readonly carrier: string
    readonly service: string
    readonly packages: readonly {
      readonly sscc?: string
      readonly trackingNumber: string
      readonly weightLb?: string
    }[]
    /** The day on which it went, where that is not today. */
    readonly shippedOn?: string
    /** What it cost us, where that is known: told where the source is set up to be. */
    readonly cost?: MoneyText | null
  },
): Promise<void> {
  const order = await trx("sales_order")
    .join("order_source", "order_source.id", "sales_order.source_id")
    .where("sales_order.id", orderId)
    .first("source_id", "source_number", "report_url", "report_cost")
  if (!order?.report_url) return
  if (await trx("outbox").where({ order_id: orderId, topic: "order.gone" }).first("id")) return
  await tell(
    trx,
    orderId,
    order.source_id,
    {
      topic: "order.gone",
      orderNumber: order.source_number,
      goneAt: now.toISOString(),
      carrier: shipped.carrier,
      service: shipped.service,
      trackingNumber: shipped.packages[0]?.trackingNumber ?? "",
      ...(shipped.shippedOn ? { shippedOn: shipped.shippedOn } : {}),
      ...(order.report_cost && shipped.cost ? { cost: shipped.cost } : {}),
      ...(await partOf(trx, orderId)),
      packages: shipped.packages,
    },
    now,
  )
}

/**
 * The report of lines that were changed here: the item, and its pieces before and after. Written in the transaction of
 * the change, each change once.
 */
export async function reportLines(
  trx: Knex,
  orderId: OrderId,
  now: Date,
  changed: {
    readonly why: string
    readonly by: string
    readonly lines: readonly { readonly sku: string; readonly from: number; readonly to: number }[]
  },
): Promise<void> {
  const order = await trx("sales_order")
    .join("order_source", "order_source.id", "sales_order.source_id")
    .where("sales_order.id", orderId)
    .first("source_id", "source_number", "report_url")
  if (!order?.report_url) return
  await tell(
    trx,
    orderId,
    order.source_id,
    {
      topic: "order.changed",
      orderNumber: order.source_number,
      changedAt: now.toISOString(),
      changedBy: changed.by,
      why: changed.why,
      ...(await partOf(trx, orderId)),
      lines: changed.lines.map(({ sku, from, to }) => ({ sku, before: from, after: to })),
    },
    now,
  )
}

/** Whether another part of the same order went before, which the freight was charged with. Parts go one at a time. */
async function chargedBefore(trx: Knex, orderId: OrderId): Promise<boolean> {
  const own = there(await trx("sales_order").where({ id: orderId }).first("source_id", "source_number"))
  const parts = await trx("sales_order").where(own).orderBy("id").forUpdate().pluck("id")
  return !!(await trx("outbox")
    .whereIn("order_id", parts)
    .whereNot({ order_id: orderId })
    .where({ topic: "order.gone" })
    .forUpdate()
    .first("id"))
}

/** What went of each line, and what was canceled because it lacked. */
async function linesOf(trx: Knex, orderId: OrderId): Promise<{ sku: string; shipped: number; cancelled: number }[]> {
  return trx("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .select("i.sku", "l.ordered as shipped", "l.cancelled")
}

/** Which part of its order it is, where that was split over several warehouses. */
async function partOf(trx: Knex, orderId: OrderId): Promise<{ part?: { number: number; of: number } }> {
  const parts = await partsOf(trx, orderId)
  return parts.length > 1
    ? { part: { number: parts.findIndex((one) => one.id === orderId) + 1, of: parts.length } }
    : {}
}

async function tell(
  trx: Knex,
  orderId: OrderId,
  sourceId: SourceId,
  payload: { readonly topic: string } & Readonly<Record<string, unknown>>,
  now: Date,
): Promise<void> {
  const id = newId(
    await trx("outbox").insert({
      message_id: randomUUID(),
      topic: payload.topic,
      source_id: sourceId,
      order_id: orderId,
      payload: JSON.stringify(payload),
      created_at: now,
    }),
  )
  await reporting.queue(trx, `outbox:${id}`, { outboxId: id })
}

/** The order's share of the freight of its shipment, all of it where it is alone: what is charged, and what it cost. */
async function shareOf(
  trx: Knex,
  orderId: OrderId,
  shipment: Shipment,
): Promise<{ readonly charged: MoneyText | null; readonly cost: MoneyText }> {
  const share = await trx("order_freight as f")
    .join("buy_intent as i", "i.id", "f.intent_id")
    .where({ "f.order_id": orderId, "i.shipment_id": shipment.id, "i.state": "booked" })
    .first("f.contract_amount", "f.charged_amount", "f.currency")
  const currency = share?.currency ?? shipment.currency ?? "USD"
  // what was bought before shares were kept was bought for one order, and nobody knew what was charged for it
  const cost = moneyText(money(share?.contract_amount ?? shipment.contract ?? 0, currency))
  const charged = share?.charged_amount
  return { charged: charged ? moneyText(money(charged, currency)) : null, cost }
}

/** Sends a message of the outbox to its source; the source takes its id once. Throws to be run again. */
export async function sendOutbox(db: Knex, outboxId: number, send: typeof sendReport = sendReport): Promise<void> {
  const message = await db("outbox")
    .join("order_source", "order_source.id", "outbox.source_id")
    .where("outbox.id", outboxId)
    .first("message_id", "payload", "report_url", "sent_at", "order_id")
  if (!message || message.sent_at || !message.report_url) return
  await send(message.report_url, message.message_id, parsed(message.payload))
  await db("outbox").where({ id: outboxId }).whereNull("sent_at").update({ sent_at: new Date() })
  await announce(db, { orderId: message.order_id })
}

/** Whether the report that an order has gone is with its source, or waits; null before it is written. */
export async function reportState(db: Knex, orderId: OrderId): Promise<"sent" | "waits" | null> {
  const report = await db("outbox").where({ order_id: orderId, topic: "order.gone" }).first("sent_at")
  return report ? (report.sent_at ? "sent" : "waits") : null
}
