import { addDays, localDate } from "core/calendar/index.ts"
import type { LabelModel } from "core/documents/index.ts"
import type { ReturnId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { ReturnIntentRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { keepDocument, printDocument } from "../documents/index.ts"
import {
  type Booking,
  type BookingRequest,
  type CarrierGateway,
  CarrierUnreachable,
  httpCarrier,
} from "../gateways/carrier.ts"
import { askBooking } from "../gateways/judge.ts"
import { labelPdf } from "../pdf/label.ts"
import { takeFromBalance } from "../setup/balance.ts"
import { namedFor, tell, withdrawReturn } from "../telling/tell.ts"
import { followReturn, unfollowReturn } from "../tracking/units.ts"
import { expectByLabel, expectNoLonger } from "./expect.ts"
import { voidingReturn } from "./jobs.ts"

const carrierOf = async (db: Knex, intent: Pick<ReturnIntentRow, "service_id">) =>
  there(
    await db("carrier as c")
      .join("service as s", "s.carrier_id", "c.id")
      .where("s.id", intent.service_id)
      .first("c.id", "c.name", "c.base_url", "c.tolerance", "c.numbers", "s.name as service"),
  )
const by = (intent: ReturnIntentRow) => ({ userId: intent.user_id, name: intent.actor })

/**
 * Carries a booking of a way back to its end: asks the carrier by its key, and writes its answer and the labels in one
 * transaction. Run again after any failure it never books twice, as purchases of the way out do not (`shipping/book.ts`).
 * Throws CarrierUnreachable to be run again.
 */
export async function bookReturn(
  db: Knex,
  returnId: ReturnId,
  tries: number,
  carrierAt: (url: string) => CarrierGateway = httpCarrier,
): Promise<void> {
  const intent = await db("return_intent").where({ id: returnId }).first()
  if (intent?.state !== "open") return
  const carrier = await carrierOf(db, intent)
  const gateway = carrierAt(carrier.base_url)
  try {
    const judged = await askBooking(gateway, intent.idempotency_key, tries, {
      carrier,
      amount: intent.expected_amount,
      currency: intent.currency,
      request: parsed<BookingRequest>(intent.request),
    })
    if (judged.kind === "good") await acceptReturn(db, intent, judged.booking)
    else await settle(db, intent, judged.kind, judged.why, judged.kind === "differs" ? judged.booking : undefined)
  } catch (error) {
    if (error instanceof CarrierUnreachable) {
      const why = reason("buy.no-answer", { carrier: carrier.name, tries })
      await db("return_intent")
        .where({ id: returnId, state: "open" })
        .update({ trouble: JSON.stringify(why) })
      await announce(db, { orderId: intent.order_id })
    }
    throw error
  }
}

/** Ends a booking without labels, and says why on the order's story. */
async function settle(
  db: Knex,
  intent: ReturnIntentRow,
  state: "refused" | "differs",
  why: Reason,
  booking?: Booking,
): Promise<void> {
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const changed = await trx("return_intent")
      .where({ id: intent.id, state: "open" })
      .update({ state, trouble: JSON.stringify(why), answer: JSON.stringify(booking ?? why), answered_at: now })
    if (changed > 0)
      await record(trx, by(intent), now, {
        action: "return.none",
        orderId: intent.order_id,
        detail: { reasons: [why] },
      })
  })
}

/** Writes the carrier's answer with the labels, which are printed and sent as was asked; a second answer is nothing. */
async function acceptReturn(db: Knex, intent: ReturnIntentRow, booking: Booking): Promise<void> {
  const now = await businessNow(db)
  const models = parsed<readonly LabelModel[]>(intent.models).map((model, index): LabelModel => {
    const numbers = there(booking.packages.find((one) => one.number === index + 1))
    return {
      ...model,
      routingCode: numbers.routingCode,
      trackingNumber: numbers.trackingNumber,
      ...(model.master ? { master: booking.masterTrackingNumber } : {}),
    }
  })
  const files: Buffer[] = []
  for (const model of models) files.push(await labelPdf(model, now))
  const { service } = await carrierOf(db, intent)
  const run = intent.intent_id
    ? await db("shipping_run_order as o")
        .join("shipping_run as r", "r.id", "o.run_id")
        .where({ "o.intent_id": intent.intent_id })
        .first("r.prints")
    : undefined
  await inTransaction(db, async (trx) => {
    // before the booking itself, as whoever makes the way out void does
    const along = intent.intent_id
      ? await trx("buy_intent").where({ id: intent.intent_id }).forShare().first("prints", "state")
      : undefined
    // where the way out is printed later, so is this; a run that prints when it is done may be done already
    const prints = intent.prints && (!along || !!along.prints || run?.prints === "after")
    const changed = await trx("return_intent")
      .where({ id: intent.id, state: "open" })
      .update({
        state: "booked",
        trouble: null,
        answer: JSON.stringify(booking),
        answered_at: now,
        master_tracking: booking.masterTrackingNumber,
      })
    if (changed === 0) return
    await followReturn(trx, {
      returnId: intent.id,
      orderId: intent.order_id,
      number: intent.number,
      serviceId: intent.service_id,
      master: booking.masterTrackingNumber,
      tracking: models.map((model) => model.trackingNumber),
    })
    await expectByLabel(trx, intent, parsed(intent.goods), now)
    for (const [index, model] of models.entries()) {
      const documentId = await keepDocument(trx, {
        warehouseId: intent.warehouse_id,
        kind: "return-label",
        name: model.packageName,
        bytes: there(files[index]),
        madeAt: now,
        orderId: intent.order_id,
        intentId: intent.intent_id ?? undefined,
        returnId: intent.id,
        model: { label: model },
      })
      if (prints)
        await printDocument(trx, intent.warehouse_id, documentId, "return-label", 1, {
          userId: intent.user_id,
          benchId: intent.bench_id,
        })
    }
    if (intent.mail_to !== "")
      await tell(trx, intent.order_id, "return-label", now, {
        of: String(intent.id),
        to: [await namedFor(trx, intent.order_id, intent.mail_to)],
        told: { service, valid_until: intent.valid_until, return_id: intent.id },
      })
    // what is due once it is scanned costs nothing before
    if (intent.paid === "at-once") await takeFromBalance(trx, intent, booking.charge.amount)
    await record(trx, by(intent), now, {
      action: intent.mail_to ? "return.mailed" : "return.booked",
      orderId: intent.order_id,
      detail: {
        service,
        tracking: booking.masterTrackingNumber,
        amount: { amount: booking.charge.amount, currency: booking.charge.currency },
        to: intent.mail_to,
      },
    })
    // made void while the carrier was asked: this goes with it
    if (along && along.state !== "booked") await askVoid(trx, intent.id)
  })
}

const askVoid = async (trx: Knex, returnId: ReturnId): Promise<boolean> => {
  const changed = await trx("return_intent").where({ id: returnId, state: "booked" }).update({ state: "voiding" })
  if (changed > 0) await voidingReturn.queue(trx, `return-void:${returnId}:${Date.now()}`, { returnId })
  return changed > 0
}

/** Asks that a label for the way back be made void. Asked twice it is asked once; refused for one that was scanned. */
export async function voidReturn(context: Context, returnId: ReturnId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.void")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const intent = await trx("return_intent")
      .where({ id: returnId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first()
    if (!intent) return refused(reason("return.gone"))
    const came = await trx("goods_return").where({ return_intent_id: returnId }).first("arrived_at")
    if (intent.scanned_at || came?.arrived_at) return refused(reason("return.scanned"))
    if (intent.state === "voiding" || intent.state === "void") return accepted(null)
    if (!(await askVoid(trx, returnId))) return refused(reason("return.not-booked"))
    await record(trx, actor, now, { action: "return.void-asked", orderId: intent.order_id })
    return accepted(null)
  })
}

/** The labels for the way back that went along with a purchase become void with it. */
export async function voidReturnsWith(trx: Knex, intentId: number): Promise<void> {
  for (const id of await trx("return_intent").where({ intent_id: intentId, state: "booked" }).pluck("id"))
    await askVoid(trx, id)
}

/** Makes a label for the way back void at the carrier and then here. Throws CarrierUnreachable to be run again. */
export async function makeReturnVoid(
  db: Knex,
  returnId: ReturnId,
  carrierAt: (url: string) => CarrierGateway = httpCarrier,
): Promise<void> {
  const intent = await db("return_intent").where({ id: returnId }).first()
  if (intent?.state !== "voiding") return
  const carrier = await carrierOf(db, intent)
  const answer = await carrierAt(carrier.base_url).makeVoid(intent.idempotency_key)
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    if (answer.kind === "refused") {
      const why = reason("void.refused", { carrier: carrier.name, why: answer.reason })
      const back = await trx("return_intent")
        .where({ id: returnId, state: "voiding" })
        .update({ state: "booked", trouble: JSON.stringify(why) })
      if (back > 0)
        await record(trx, by(intent), now, {
          action: "void.refused",
          orderId: intent.order_id,
          detail: { reasons: [why] },
        })
      return
    }
    const changed = await trx("return_intent").where({ id: returnId, state: "voiding" }).update({ state: "void" })
    if (changed === 0) return
    await unfollowReturn(trx, returnId, now)
    await expectNoLonger(trx, returnId)
    await withdrawReturn(trx, intent.order_id, returnId)
    const documents = () => trx("document").where({ return_intent_id: returnId })
    await documents().whereNull("void_at").update({ void_at: now })
    await trx("print_job")
      .whereIn("document_id", documents().select("id"))
      .where({ state: "waiting" })
      .update({ state: "cancelled" })
    if (intent.paid === "at-once")
      await takeFromBalance(trx, intent, new Decimal(parsed<Booking>(intent.answer).charge.amount).neg().toFixed())
    await record(trx, by(intent), now, {
      action: "return.void",
      orderId: intent.order_id,
      detail: { carrier: carrier.name },
    })
  })
}

/** Bookings that are asked about in one go, at most, and days for which one is asked about that is no longer valid. */
const mostLooked = 100
const daysAfter = 30

/** Labels that are paid when they are scanned, and may still be. */
export const scansAwaited = (db: Knex, now: Date) =>
  db("return_intent")
    .where({ state: "booked", paid: "when-scanned" })
    .whereNull("scanned_at")
    .where("valid_until", ">=", addDays(localDate(now, "UTC"), -daysAfter))

/**
 * Asks carriers about labels that are paid when they are scanned, those longest not asked about first: one that was
 * scanned costs from then on. A carrier that does not answer keeps nobody else's from being asked about.
 */
export async function lookForScans(db: Knex, carrierAt: (url: string) => CarrierGateway = httpCarrier): Promise<void> {
  const waiting = await scansAwaited(db, await businessNow(db))
    .orderByRaw("asked_at IS NOT NULL, asked_at, id")
    .limit(mostLooked)
    .select("*")
  const away = new Set<string>()
  for (const intent of waiting) {
    const { base_url: url } = await carrierOf(db, intent)
    if (away.has(url)) continue
    const answer = await carrierAt(url)
      .find(intent.idempotency_key)
      .catch((error: unknown) => {
        if (!(error instanceof CarrierUnreachable)) throw error
        return null
      })
    if (!answer) {
      away.add(url)
      continue
    }
    const now = await businessNow(db)
    const scannedAt = answer.kind === "booked" ? answer.booking.scannedAt : undefined
    await inTransaction(db, async (trx) => {
      const changed = await trx("return_intent")
        .where({ id: intent.id })
        .whereNull("scanned_at")
        .update(scannedAt ? { asked_at: now, scanned_at: new Date(scannedAt) } : { asked_at: now })
      if (changed === 0 || !scannedAt || answer.kind !== "booked") return
      await takeFromBalance(trx, intent, answer.booking.charge.amount)
      const { amount, currency } = answer.booking.charge
      await record(trx, by(intent), now, {
        action: "return.scanned",
        orderId: intent.order_id,
        detail: { amount: { amount, currency } },
      })
    })
  }
}
