import { type Lading, nothingCollected } from "core/documents/index.ts"
import type { IntentId, OrderId, UserId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { authorise, type Context, type Role } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { tellVoided } from "../edi/queue.ts"
import { type Booking, type CarrierGateway, httpCarrier } from "../gateways/carrier.ts"
import { leadOf, lockShipmentOf, membersOf } from "../orders/joined.ts"
import type { StoredRate } from "../rating/storedRate.ts"
import { reportVoided } from "../reports/index.ts"
import { voidReturnsWith } from "../returns/book.ts"
import { takeFromBalance } from "../setup/balance.ts"
import { noteVoided } from "../shippingRuns/answered.ts"
import { unfollowShipment } from "../tracking/units.ts"
import { voiding } from "./jobs.ts"

/** An order that is canceled with its labels: by the change that its source sent, or by a person. */
export interface Cancels {
  readonly orderId: OrderId
  readonly changeId: number | null
  readonly role: Role
  readonly warehouseId: WarehouseId
}

/**
 * Asks for a shipment's labels to be voided, within the carrier's time and before anything is on the truck; a job
 * asks the carrier. Until it answers the shipment can neither be changed nor loaded. Asking again changes nothing.
 *
 * @param cancels the order that is canceled once the labels are void
 */
export async function askVoid(
  context: Context,
  ofOrder: number,
  cancels: Cancels | null = null,
): Promise<Outcome<{ intentId: IntentId }>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.void")
  const orderId = await leadOf(db, ofOrder)
  return inTransaction(db, async (trx) => {
    await lockShipmentOf(trx, orderId, actor.warehouseId)
    const shipment = await trx("shipment")
      .where({ order_id: orderId, warehouse_id: actor.warehouseId })
      .whereIn("state", ["bought", "voiding"])
      .first("id", "state", "bought_at")
    if (!shipment) return refused(reason("void.nothing-bought"))
    const intent = await trx("buy_intent")
      .join("service", "service.id", "buy_intent.service_id")
      .join("carrier", "carrier.id", "service.carrier_id")
      .where({ shipment_id: shipment.id, state: "booked" })
      .first("buy_intent.id", "carrier.name", "carrier.void_minutes")
    if (shipment.state === "voiding") return accepted({ intentId: intent.id })
    const packages = await trx("package").where({ shipment_id: shipment.id }).select("number", "state")
    const away = packages.find((one) => one.state === "on-truck" || one.state === "gone")
    if (away) return refused(reason(away.state === "gone" ? "void.gone" : "void.on-truck", { package: away.number }))
    const minutes = (now.getTime() - there(shipment.bought_at).getTime()) / 60_000
    if (minutes > intent.void_minutes)
      return refused(reason("void.window-over", { carrier: intent.name, hours: Math.round(intent.void_minutes / 60) }))
    await trx("shipment").where({ id: shipment.id }).update({ state: "voiding", trouble: null })
    const asked = await trx("audit").where({ order_id: orderId, action: "void.asked" }).count({ n: "id" })
    await voiding.queue(trx, `void:${intent.id}:${asked[0]?.n ?? 0}`, {
      intentId: intent.id,
      userId: actor.userId,
      actor: actor.name,
      ...(cancels ? { cancels } : {}),
    })
    await record(trx, actor, now, { action: "void.asked", orderId, detail: { carrier: intent.name } })
    return accepted({ intentId: intent.id })
  })
}

/**
 * Makes a booking void at the carrier and then here, in one transaction: charges are returned line by line, labels and
 * papers are marked void and no longer printed, and the packages are as they were before. Run again, it changes nothing
 * more. Throws CarrierUnreachable to be run again.
 */
export async function voidIntent(
  db: Knex,
  job: { readonly intentId: IntentId; readonly userId: UserId | null; readonly actor: string },
  carrierAt: (url: string) => CarrierGateway = httpCarrier,
): Promise<void> {
  const intent = await db("buy_intent as i")
    .join("service as s", "s.id", "i.service_id")
    .join("carrier as c", "c.id", "s.carrier_id")
    .join("shipment as h", "h.id", "i.shipment_id")
    .where({ "i.id": job.intentId })
    .first("i.idempotency_key", "i.shipment_id", "h.state", "h.order_id", "c.base_url", "c.name", "s.name as service")
  if (intent?.state !== "voiding") return
  const answer = await carrierAt(intent.base_url).makeVoid(intent.idempotency_key)
  const now = await businessNow(db)
  const actor = { userId: job.userId, name: job.actor }
  await inTransaction(db, async (trx) => {
    const shipment = there(
      await trx("shipment").where({ id: intent.shipment_id }).forUpdate().first("state", "version", "lading"),
    )
    if (shipment.state !== "voiding") return
    if (answer.kind === "refused") {
      const why = reason("void.refused", { carrier: intent.name, why: answer.reason })
      await trx("shipment")
        .where({ id: intent.shipment_id })
        .update({ state: "bought", trouble: JSON.stringify(why) })
      await record(trx, actor, now, {
        action: "void.refused",
        orderId: intent.order_id,
        detail: { reasons: [why] },
      })
      return
    }
    await trx("buy_intent").where({ id: job.intentId }).update({ state: "void", void_at: now })
    await returnCharges(trx, job.intentId)
    await noteVoided(trx, job.intentId)
    await voidReturnsWith(trx, job.intentId)
    await tellVoided(trx, job.intentId, now)
    await trx("document").where({ intent_id: job.intentId }).update({ void_at: now })
    await trx("print_job")
      .whereIn("document_id", trx("document").where({ intent_id: job.intentId }).select("id"))
      .where({ state: "waiting" })
      .update({ state: "cancelled" })
    await unfollowShipment(trx, intent.shipment_id, now)
    await trx("package").where({ shipment_id: intent.shipment_id }).whereNot({ state: "void" }).update({
      state: "closed",
      tracking: null,
      routing_code: null,
      label_document_id: null,
      collection_id: null,
      seen_at: now,
      seen_where: "bench",
    })
    await trx("shipment")
      .where({ id: intent.shipment_id })
      .update({
        state: "open",
        version: shipment.version + 1,
        // the number and the truck were those of the carrier that has it no longer
        lading: JSON.stringify({ ...parsed<Lading>(shipment.lading), ...nothingCollected }),
        service_id: null,
        collection_id: null,
        ship_date: null,
        master_tracking: null,
        currency: null,
        list_amount: null,
        contract_amount: null,
        charged_amount: null,
        charged_why: null,
        arrives_on: null,
        bought_at: null,
        trouble: null,
      })
    const members = await membersOf(trx, intent.order_id)
    await trx("sales_order").whereIn("id", members).update({ left_line_at: null })
    for (const orderId of members) await reportVoided(trx, orderId, job.intentId, now)
    for (const orderId of members)
      await record(trx, actor, now, {
        action: "void.done",
        orderId,
        detail: { carrier: intent.name, service: intent.service },
      })
  })
}

/** A line with the opposite sign for each charge of a booking; nothing is ever taken out of the ledger. */
async function returnCharges(trx: Knex, intentId: IntentId): Promise<void> {
  const charges = await trx("charge").where({ intent_id: intentId }).whereNull("reverses_id")
  const intent = there(await trx("buy_intent").where({ id: intentId }).first("service_id", "rate", "answer"))
  const { exchange, payer = "shipper" } = parsed<StoredRate>(intent.rate)
  const sum = charges.reduce((total, charge) => total.add(charge.contract_amount), new Decimal(0))
  // a balance in another currency is given back what was taken from it
  const theirs = payer === "shipper" ? new Decimal(parsed<Booking>(intent.answer).charge.amount) : new Decimal(0)
  await takeFromBalance(trx, intent, (exchange ? theirs : sum).neg().toFixed())
  for (const charge of charges)
    await trx("charge").insert({
      shipment_id: charge.shipment_id,
      intent_id: intentId,
      reverses_id: charge.id,
      code: charge.code,
      package_number: charge.package_number,
      currency: charge.currency,
      list_amount: new Decimal(charge.list_amount).neg().toFixed(),
      contract_amount: new Decimal(charge.contract_amount).neg().toFixed(),
      why: JSON.stringify([reason("charge.returned")]),
    })
}
