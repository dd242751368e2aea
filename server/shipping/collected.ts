import { localDate } from "core/calendar/index.ts"
import { collectedSchema, ladingSchema } from "core/documents/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { keepDocument, printDocument, whose } from "../documents/index.ts"
import type { Booking } from "../gateways/carrier.ts"
import { leadOf } from "../orders/joined.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { drawMade, unprintableOn } from "../papers/drawn.ts"
import type { StoredRate } from "../rating/storedRate.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { bookedProNumber, boughtFacts } from "./boughtFacts.ts"

export type Collected = z.infer<typeof collectedSchema>

/** What a bill of lading says that is typed when the truck is there; null where the shipment has none. */
export interface LadingAtCollection extends Collected {
  /** The carrier has its number already, from the range that it gave us or as it was typed before buying. */
  readonly numbered: boolean
}

/** The purchase of a shipment whose bill of lading is in force. */
const purchase = (db: Knex, shipmentId: number) =>
  db("document as d")
    .join("buy_intent as i", "i.id", "d.intent_id")
    .where({ "i.shipment_id": shipmentId, "i.state": "booked", "d.kind": "bill-of-lading" })
    .whereNull("d.void_at")
    .orderBy("d.id", "desc")
    .first("i.*", "d.id as document_id", "d.language", "d.copies")

export async function ladingAtCollection(db: Knex, shipment: Shipment): Promise<LadingAtCollection | null> {
  if (shipment.state !== "bought") return null
  const intent = await purchase(db, shipment.id)
  return intent
    ? { ...collectedSchema.strip().parse(shipment.lading), numbered: bookedProNumber(intent.request) !== "" }
    : null
}

/**
 * Keeps what is known of freight when the truck is there: the carrier's number, trailer, seal, the driver and his count.
 * Its bill of lading is made with it and printed, the one before becomes void. Safe to repeat: what is said already
 * changes and prints nothing.
 */
export async function saveCollected(
  context: Context,
  orderId: OrderId,
  said: Partial<Collected>,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    const lead = await leadOf(trx, orderId)
    const row = await trx("shipment")
      .where({ order_id: lead, state: "bought" })
      .forUpdate()
      .first("id", "lading", "ship_date")
    const intent = row && (await purchase(trx, row.id))
    if (!row || !intent) return refused(reason("lading.not-bought"))
    const had = ladingSchema.parse(parsed(row.lading))
    const lading = { ...had, ...said }
    const booked = bookedProNumber(intent.request)
    if (lading.proNumber !== had.proNumber && booked !== "")
      return refused(reason("lading.numbered", { number: booked, field: "proNumber" }))
    const changes = collectedFields
      .map((field) => ({ field, from: had[field], to: lading[field] }))
      .filter((one) => one.from !== one.to)
    const signed = JSON.stringify(had.strokes) !== JSON.stringify(lading.strokes)
    if (changes.length === 0 && !signed) return accepted(null)
    await trx("shipment")
      .where({ id: row.id })
      .update({ lading: JSON.stringify(lading) })
    const shipment = there(await shipmentOf(trx, lead))
    const warehouse = await warehouseById(trx, actor.warehouseId)
    const { facts, made } = await boughtFacts(trx, intent, {
      warehouse,
      shipment,
      booking: parsed<Booking>(intent.answer),
      rate: parsed<StoredRate>(intent.rate),
      shipDate: there(row.ship_date),
      today: localDate(now, warehouse.zone),
    })
    const unprintable = unprintableOn(facts)
    if (unprintable.length > 0) return refused(...unprintable)
    const how = { language: shipment.language, madeAt: now, picture: null }
    const paper = there(await drawMade("bill-of-lading", facts, made, how))
    await trx("shipment")
      .where({ id: row.id })
      .update({ lading: JSON.stringify(lading) })
    await trx("document").where({ id: intent.document_id }).update({ void_at: now })
    const documentId = await keepDocument(trx, {
      warehouseId: warehouse.id,
      kind: "bill-of-lading",
      name: paper.name,
      bytes: paper.bytes,
      madeAt: now,
      orderId: lead,
      intentId: intent.id,
      language: paper.language,
      copies: paper.copies,
    })
    await printDocument(trx, warehouse.id, documentId, "bill-of-lading", paper.copies, whose(context))
    await record(trx, actor, now, {
      action: "ship.lading-changed",
      orderId: lead,
      detail: { changes, ...(signed ? { signed: true } : {}) },
    })
    return accepted(null)
  })
}

const collectedFields = ["proNumber", "trailer", "seal", "driver", "counted"] as const
