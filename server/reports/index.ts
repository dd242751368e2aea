import { randomUUID } from "node:crypto"
import type { OrderId, SourceId } from "core/ids/index.ts"
import type { MoneyText } from "core/money/index.ts"
import type { ReportGoods, ReportModel, ReportPackage } from "core/report/index.ts"
import type { Knex } from "knex"
import { newId, there } from "../db/there.ts"
import { shipmentOf } from "../packages/shipment.ts"
import { reporting } from "./jobs.ts"
import { partOf, shippedModel } from "./model.ts"

/** What a source is told, as its order needs to know. */
interface Told {
  readonly sourceId: SourceId
  readonly sourceNumber: string
  readonly zone: string
  readonly byHand: boolean
  readonly labels: boolean
  readonly delivery: boolean
  readonly returns: boolean
}

/** The source of an order, where it is told anything. */
async function toldOf(trx: Knex, orderId: OrderId): Promise<Told | null> {
  const row = await trx("sales_order as o")
    .join("order_source as s", "s.id", "o.source_id")
    .join("warehouse as w", "w.id", "o.warehouse_id")
    .where("o.id", orderId)
    .first(
      "s.id",
      "s.report_way",
      "s.report_url",
      "s.report_folder",
      "s.report_by_hand",
      "s.report_labels",
      "s.report_delivery",
      "s.report_returns",
      "o.source_number",
      "w.zone",
    )
  if (!row) return null
  const reached = row.report_way === "http" || row.report_way === "webhook" ? row.report_url : row.report_folder
  return reached
    ? {
        sourceId: row.id,
        sourceNumber: row.source_number,
        zone: row.zone,
        byHand: !!row.report_by_hand,
        labels: !!row.report_labels,
        delivery: !!row.report_delivery,
        returns: !!row.report_returns,
      }
    : null
}

/**
 * Writes the report of an order that has gone into the outbox, in the transaction in which it went: all that is known of
 * it, of which its source is told what it chose. Once for an order. Sources that are not told anything are not.
 */
export async function reportGone(trx: Knex, orderId: OrderId, now: Date): Promise<void> {
  const shipment = await shipmentOf(trx, orderId)
  const to = await toldOf(trx, orderId)
  if (!shipment || !to) return
  const known = await trx("outbox").where({ order_id: orderId, topic: "order.gone" }).first("id")
  if (known) return
  const model = await shippedModel(trx, orderId, shipment, {
    topic: "order.gone",
    orderNumber: to.sourceNumber,
    at: now,
    zone: to.zone,
  })
  // the customer is charged for the freight of an order once, however many shipments it makes
  const freightCharged = (await chargedBefore(trx, orderId)) ? "before" : "here"
  await tell(trx, orderId, to, { ...model, freightCharged }, now, `gone:${orderId}`)
}

/** Tells a source that wants to know it of labels that were bought, once for a purchase. */
export async function reportLabelled(trx: Knex, orderId: OrderId, intentId: number, now: Date): Promise<void> {
  const to = await toldOf(trx, orderId)
  if (!to?.labels) return
  const shipment = await shipmentOf(trx, orderId)
  if (!shipment) return
  const { goneAt: _, ...model } = await shippedModel(trx, orderId, shipment, {
    topic: "order.labelled",
    orderNumber: to.sourceNumber,
    at: now,
    zone: to.zone,
  })
  await tell(
    trx,
    orderId,
    to,
    { ...model, labelledAt: now.toISOString() } as ReportModel,
    now,
    `labelled:${orderId}:${intentId}`,
  )
}

/** Tells a source that was told of labels that another amount is charged for freight than it heard. */
export async function reportCharged(trx: Knex, orderId: OrderId, charge: MoneyText, now: Date): Promise<void> {
  const to = await toldOf(trx, orderId)
  const told = await trx("outbox").where({ order_id: orderId, topic: "order.labelled" }).first("id")
  if (!to?.labels || !told) return
  await tell(
    trx,
    orderId,
    to,
    {
      topic: "order.charged",
      orderNumber: to.sourceNumber,
      at: now.toISOString(),
      charge,
      ...(await partOf(trx, orderId)),
    },
    now,
    null,
  )
}

/** Takes back what a source was told of labels that are void. */
export async function reportVoided(trx: Knex, orderId: OrderId, intentId: number, now: Date): Promise<void> {
  const told = await trx("outbox")
    .where({ once_of: `labelled:${orderId}:${intentId}` })
    .first("message_id", "payload")
  const to = await toldOf(trx, orderId)
  if (!told || !to) return
  await tell(
    trx,
    orderId,
    to,
    {
      topic: "order.voided",
      orderNumber: to.sourceNumber,
      voidedAt: now.toISOString(),
      voids: told.message_id,
      ...(await partOf(trx, orderId)),
    },
    now,
    `voided:${orderId}:${intentId}`,
  )
}

/** Tells a source that wants to know it of the delivery of an order, once. */
export async function reportDelivered(
  trx: Knex,
  orderId: OrderId,
  delivered: { readonly at: Date; readonly name: string; readonly tracking: readonly string[] },
  now: Date,
): Promise<void> {
  const to = await toldOf(trx, orderId)
  if (!to?.delivery) return
  await tell(
    trx,
    orderId,
    to,
    {
      topic: "order.delivered",
      orderNumber: to.sourceNumber,
      deliveredAt: delivered.at.toISOString(),
      receivedBy: delivered.name,
      packages: delivered.tracking.map((trackingNumber) => ({ trackingNumber })),
      ...(await partOf(trx, orderId)),
    },
    now,
    `delivered:${orderId}`,
  )
}

/**
 * Tells a source that wants to know it of goods of an order that came back: that they arrived, what was found in them, or
 * that they were not taken.
 *
 * @param onceOf what of the return it is, such as the count of times at which it was looked through
 */
export async function reportReturn(
  trx: Knex,
  orderId: OrderId,
  came: {
    readonly topic: "order.return-arrived" | "order.returned" | "order.return-declined"
    readonly name: string
    readonly kind: string
    readonly onceOf: string
    readonly tracking: readonly string[]
    readonly late?: boolean
    readonly why?: string
    readonly goods?: readonly ReportGoods[]
    /** Goods in it that were never sent, in words. */
    readonly others?: readonly { readonly goods: string; readonly quantity: number }[]
  },
  now: Date,
): Promise<void> {
  const to = await toldOf(trx, orderId)
  if (!to?.returns) return
  const { topic, name, kind, onceOf, tracking, ...more } = came
  await tell(
    trx,
    orderId,
    to,
    {
      topic,
      orderNumber: to.sourceNumber,
      returnNumber: name,
      returnKind: kind,
      at: now.toISOString(),
      packages: tracking.map((trackingNumber) => ({ trackingNumber })),
      ...(await partOf(trx, orderId)),
      ...more,
    },
    now,
    `${topic.slice(6)}:${orderId}:${name}:${onceOf}`,
  )
}

/** The report of an order that somebody else shipped: its tracking, and what it cost where we know it. */
export async function reportOutside(
  trx: Knex,
  orderId: OrderId,
  now: Date,
  shipped: {
    readonly carrier: string
    readonly service: string
    readonly packages: readonly ReportPackage[]
    /** The day on which it went, where that is not today. */
    readonly shippedOn?: string
    /** What it cost us, where that is known: told where the source is set up to be. */
    readonly cost?: MoneyText | null
  },
): Promise<void> {
  const to = await toldOf(trx, orderId)
  if (!to) return
  if (await trx("outbox").where({ order_id: orderId, topic: "order.gone" }).first("id")) return
  await tell(
    trx,
    orderId,
    to,
    {
      topic: "order.gone",
      orderNumber: to.sourceNumber,
      goneAt: now.toISOString(),
      carrier: shipped.carrier,
      service: shipped.service,
      trackingNumber: shipped.packages[0]?.trackingNumber ?? "",
      ...(shipped.shippedOn ? { shippedOn: shipped.shippedOn } : {}),
      ...(shipped.cost ? { cost: shipped.cost } : {}),
      ...(await partOf(trx, orderId)),
      packages: shipped.packages,
    },
    now,
    `gone:${orderId}`,
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
  const to = await toldOf(trx, orderId)
  if (!to) return
  await tell(
    trx,
    orderId,
    to,
    {
      topic: "order.changed",
      orderNumber: to.sourceNumber,
      changedAt: now.toISOString(),
      changedBy: changed.by,
      why: changed.why,
      ...(await partOf(trx, orderId)),
      lines: changed.lines.map(({ sku, from, to }) => ({ sku, before: from, after: to })),
    } as unknown as ReportModel,
    now,
    null,
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

/** Writes a message down, once by what it is of, and leaves sending it to a job, or to a person where the source is set up so. */
async function tell(
  trx: Knex,
  orderId: OrderId,
  to: Told,
  payload: ReportModel,
  now: Date,
  onceOf: string | null,
): Promise<void> {
  const id = newId(
    await trx("outbox")
      .insert({
        message_id: randomUUID(),
        topic: payload.topic,
        source_id: to.sourceId,
        order_id: orderId,
        payload: JSON.stringify(payload),
        created_at: now,
        once_of: onceOf,
      })
      .onConflict("once_of")
      .ignore(),
  )
  if (id && !to.byHand) await reporting.queue(trx, `outbox:${id}`, { outboxId: id })
}

/** Whether the report that an order has gone is with its source, waits, or was refused; null before it is written. */
export async function reportState(db: Knex, orderId: OrderId): Promise<"sent" | "waits" | "refused" | null> {
  const report = await db("outbox").where({ order_id: orderId, topic: "order.gone" }).first("state")
  return report ? (report.state === "waiting" ? "waits" : report.state) : null
}
