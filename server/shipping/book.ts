import { addressLines } from "core/address/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { showMass, showSize } from "core/units/index.ts"
import type { Knex } from "knex"
import { parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import {
  type Booking,
  type BookingRequest,
  type CarrierGateway,
  CarrierUnreachable,
  httpCarrier,
} from "../gateways/carrier.ts"
import { type Shipment, shipmentOf } from "../packing/shipment.ts"
import { keepDocument, printDocument } from "../papers/index.ts"
import { labelPdf } from "../pdf/label.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import type { StoredRate } from "./buy.ts"

/** How long a carrier that did not answer is shown as not to be booked (real time). */
const downForMs = 20_000

/** How far a carrier's charge may lie from the expected one; set-up later. */
const tolerance = 0

/**
 * Carries an intent to its end: asks the carrier by the intent's key, and writes its answer, the labels, charges and
 * print jobs in one transaction. Run again after any failure, it never books twice: from the second try on it first
 * asks what became of the key, and the carrier takes a key once. Throws CarrierUnreachable to be run again.
 */
export async function bookIntent(
  db: Knex,
  intentId: number,
  tries: number,
  carrierAt: (url: string) => CarrierGateway = httpCarrier,
): Promise<void> {
  const intent = await db("buy_intent").where({ id: intentId }).first()
  if (intent?.state !== "open") return
  const carrier = await db("carrier")
    .join("service", "service.carrier_id", "carrier.id")
    .where({ "service.id": intent.service_id })
    .first("carrier.id", "carrier.base_url", "carrier.name", "service.name as service")
  const gateway = carrierAt(carrier.base_url)
  const key: string = intent.idempotency_key
  try {
    if (intent.give_up) {
      await gateway.cancel(key)
      await settle(db, intent, "given-up", reason("buy.given-up", { carrier: carrier.name }))
      return
    }
    const found = tries > 1 ? await gateway.find(key) : ({ kind: "unknown" } as const)
    const answer = found.kind === "unknown" ? await gateway.book(key, parsed<BookingRequest>(intent.request)) : found
    await db("carrier").where({ id: carrier.id }).whereNotNull("down_until").update({ down_until: null })
    if (answer.kind !== "booked") {
      const why = answer.kind === "refused" ? answer.reason : "the carrier does not know the booking"
      await settle(db, intent, "refused", reason("buy.refused", { carrier: carrier.name, why }))
      return
    }
    const { charge } = answer.booking
    const differs =
      charge.currency !== intent.currency ||
      Math.abs(Number(charge.amount) - Number(intent.expected_amount)) > tolerance
    if (differs || !piecesMatch(answer.booking, parsed<BookingRequest>(intent.request))) {
      await gateway.cancel(key)
      const why = differs
        ? reason("buy.differs", {
            carrier: carrier.name,
            expected: Number(intent.expected_amount).toFixed(2),
            answered: charge.amount,
            currency: charge.currency,
          })
        : reason("buy.pieces-differ", { carrier: carrier.name })
      await settle(db, intent, "differs", why, answer.booking)
      return
    }
    await acceptBooking(db, intent, answer.booking, carrier)
  } catch (error) {
    if (error instanceof CarrierUnreachable) {
      await db("carrier")
        .where({ id: carrier.id })
        .update({ down_until: new Date(Date.now() + downForMs) })
      await db("shipment")
        .where({ id: intent.shipment_id, state: "buying" })
        .update({ trouble: JSON.stringify(reason("buy.no-answer", { carrier: carrier.name, tries })) })
    }
    throw error
  }
}

const piecesMatch = (booking: Booking, request: BookingRequest): boolean =>
  request.packages.length === booking.packages.length &&
  request.packages.every((one) => booking.packages.some((answered) => answered.number === one.number)) &&
  new Set(booking.packages.map((one) => one.trackingNumber)).size === booking.packages.length

interface Intent {
  readonly id: number
  readonly shipment_id: number
  readonly service_id: number
  readonly expected_amount: string
  readonly currency: string
  readonly rate: unknown
  readonly user_id: number | null
  readonly actor: string
}

/** Ends an intent without labels; the shipment is open again, and says why. */
async function settle(
  db: Knex,
  intent: Intent,
  state: "refused" | "differs" | "given-up",
  why: Reason,
  answer?: Booking,
): Promise<void> {
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const changed = await trx("buy_intent")
      .where({ id: intent.id, state: "open" })
      .update({ state, answer: JSON.stringify(answer ?? why), answered_at: now })
    if (changed === 0) return
    const shipment = await trx("shipment").where({ id: intent.shipment_id }).first("order_id", "version")
    await trx("shipment")
      .where({ id: intent.shipment_id })
      .update({ state: "open", version: shipment.version + 1, trouble: JSON.stringify(why), service_id: null })
    await record(trx, { userId: intent.user_id, name: intent.actor }, now, {
      action: `buy.${state}`,
      orderId: shipment.order_id,
      detail: { reasons: [why] },
    })
  })
}

async function acceptBooking(
  db: Knex,
  intent: Intent,
  booking: Booking,
  carrier: { name: string; service: string },
): Promise<void> {
  const now = await businessNow(db)
  const { order_id: orderId } = await db("shipment").where({ id: intent.shipment_id }).first("order_id")
  const seen = (await shipmentOf(db, orderId)) as Shipment
  const warehouse = await warehouseById(db, seen.warehouseId)
  const rate = parsed<StoredRate & { collectionId: number }>(intent.rate)
  const { on_date: shipDate } = await db("collection").where({ id: rate.collectionId }).first("on_date")
  const labels = new Map<number, Buffer>()
  for (const [index, one] of seen.packages.entries()) {
    labels.set(one.number, await labelFor(warehouse, seen, index, booking, carrier, shipDate, now))
  }
  await inTransaction(db, async (trx) => {
    const changed = await trx("buy_intent")
      .where({ id: intent.id, state: "open" })
      .update({ state: "booked", answer: JSON.stringify(booking), answered_at: now })
    if (changed === 0) return
    const collection = await trx("collection").where({ id: rate.collectionId }).first("id", "on_date", "closed_at")
    await trx("shipment").where({ id: intent.shipment_id }).update({
      state: "bought",
      trouble: null,
      collection_id: collection.id,
      ship_date: collection.on_date,
      master_tracking: booking.masterTrackingNumber,
      currency: intent.currency,
      list_amount: rate.list,
      contract_amount: rate.contract,
      arrives_on: rate.arrival.date,
      bought_at: now,
    })
    for (const one of seen.packages) {
      const answered = booking.packages.find(
        (candidate) => candidate.number === one.number,
      ) as Booking["packages"][number]
      const documentId = await keepDocument(trx, {
        warehouseId: seen.warehouseId,
        kind: "label",
        name: `${seen.bench}-${one.number}`,
        bytes: labels.get(one.number) as Buffer,
        madeAt: now,
        orderId,
      })
      await trx("package").where({ id: one.id }).update({
        state: "labelled",
        tracking: answered.trackingNumber,
        routing_code: answered.routingCode,
        label_document_id: documentId,
        collection_id: collection.id,
        seen_at: now,
        seen_where: "bench",
      })
      await printDocument(trx, seen.warehouseId, documentId, "label")
    }
    for (const charge of rate.charges) {
      await trx("charge").insert({
        shipment_id: intent.shipment_id,
        code: charge.code,
        package_number: charge.package,
        currency: intent.currency,
        list_amount: charge.list,
        contract_amount: charge.contract,
        why: JSON.stringify(charge.why),
      })
    }
    await trx("sales_order").where({ id: orderId }).update({ collection_id: collection.id })
    await record(trx, { userId: intent.user_id, name: intent.actor }, now, {
      action: "buy.booked",
      orderId,
      detail: {
        service: carrier.service,
        amount: booking.charge,
        tracking: booking.masterTrackingNumber,
        packages: seen.packages.length,
      },
    })
  })
}

/** The label of a shipment's package, from what we know and what the carrier answered. */
function labelFor(
  warehouse: Warehouse,
  shipment: Shipment,
  index: number,
  booking: Booking,
  carrier: { name: string; service: string },
  shipDate: string,
  now: Date,
): Promise<Buffer> {
  const one = shipment.packages[index] as Shipment["packages"][number]
  const answered = booking.packages.find((candidate) => candidate.number === one.number) as Booking["packages"][number]
  return labelPdf(
    {
      carrier: carrier.name,
      service: carrier.service,
      sender: warehouse.sender,
      receiver: addressLines(shipment.shipTo),
      shipDate: `Ships ${shipDate}`,
      weight: showMass(one.actual, "lb"),
      size: showSize(one.outer, "in"),
      piece: `${index + 1} of ${shipment.packages.length}`,
      references: [
        { name: "Your order", text: shipment.poNumber },
        { name: "Our order", text: shipment.bench },
        { name: "Reference", text: shipment.sourceNumber },
      ].filter((reference) => reference.text !== ""),
      routingCode: answered.routingCode,
      trackingNumber: answered.trackingNumber,
      sscc: one.sscc as string,
      packageName: `${shipment.bench}-${one.number}`,
    },
    now,
  )
}
