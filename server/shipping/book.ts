import type { IntentId } from "core/ids/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { optionCodes } from "core/tariff/index.ts"
import type { Knex } from "knex"
import { announce, parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import {
  type Booking,
  type BookingRequest,
  type CarrierGateway,
  CarrierUnreachable,
  httpCarrier,
} from "../gateways/carrier.ts"
import { askBooking } from "../gateways/judge.ts"
import type { Carriage } from "../papers/label.ts"
import { noteAnswer } from "../shippingRuns/answered.ts"
import { acceptBooking, type Intent } from "./accept.ts"

/** How long a carrier that did not answer is shown as not to be booked (real time). */
const downForMs = 20_000

/**
 * Carries an intent to its end: asks the carrier by the intent's key, and writes its answer, the labels, charges and
 * print jobs in one transaction. Run again after any failure, it never books twice: from the second try on it first
 * asks what became of the key, and the carrier takes a key once. Throws CarrierUnreachable to be run again.
 */
export async function bookIntent(
  db: Knex,
  intentId: IntentId,
  tries: number,
  carrierAt: (url: string) => CarrierGateway = httpCarrier,
): Promise<void> {
  const intent = await db("buy_intent").where({ id: intentId }).first()
  if (intent?.state !== "open") return
  const carrier = await db("carrier")
    .join("service", "service.carrier_id", "carrier.id")
    .where("service.id", intent.service_id)
    .first(
      "carrier.id",
      "carrier.base_url",
      "carrier.name",
      "carrier.numbers",
      "carrier.tolerance",
      "carrier.label_form",
      "service.name as service",
    )
  const gateway = carrierAt(carrier.base_url)
  const key: string = intent.idempotency_key
  try {
    const endGivenUp = async () => {
      await gateway.cancel(key)
      await settle(db, intent, "given-up", reason("buy.given-up", { carrier: carrier.name }))
    }
    if (intent.give_up) return await endGivenUp()
    const request = parsed<BookingRequest>(intent.request)
    const judged = await askBooking(gateway, key, tries, {
      carrier,
      amount: intent.expected_amount,
      currency: intent.currency,
      request,
    })
    await db("carrier").where({ id: carrier.id }).whereNotNull("down_until").update({ down_until: null })
    if (judged.kind !== "good") {
      await settle(db, intent, judged.kind, judged.why, judged.kind === "differs" ? judged.booking : undefined)
      return
    }
    const carriage: Carriage = {
      carrier: carrier.name,
      service: carrier.service,
      labelForm: carrier.label_form,
      options: optionCodes.filter((option) => request.options.includes(option)),
    }
    if (await acceptBooking(db, intent, judged.booking, carriage)) return
    // given up while the carrier was asked: what it booked is not kept
    if (await db("buy_intent").where({ id: intentId, state: "open", give_up: true }).first("id")) await endGivenUp()
  } catch (error) {
    if (error instanceof CarrierUnreachable) {
      await db("carrier")
        .where({ id: carrier.id })
        .update({ down_until: new Date(Date.now() + downForMs) })
      await db("shipment")
        .where({ id: intent.shipment_id, state: "buying" })
        .update({ trouble: JSON.stringify(reason("buy.no-answer", { carrier: carrier.name, tries })) })
      const { order_id: orderId } = there(await db("shipment").where({ id: intent.shipment_id }).first("order_id"))
      await announce(db, { orderId })
    }
    throw error
  }
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
    const shipment = there(await trx("shipment").where({ id: intent.shipment_id }).first("order_id", "version"))
    await trx("shipment")
      .where({ id: intent.shipment_id })
      .update({ state: "open", version: shipment.version + 1, trouble: JSON.stringify(why), service_id: null })
    await record(trx, { userId: intent.user_id, name: intent.actor }, now, {
      action: `buy.${state}`,
      orderId: shipment.order_id,
      detail: { reasons: [why] },
    })
    await noteAnswer(trx, intent.id, why, now)
  })
}
