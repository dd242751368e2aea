import type { IntentId, OrderId, ShipmentId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { leadOf, membersOf } from "../orders/joined.ts"
import { shipmentOf } from "../packages/shipment.ts"
import { reportCharged } from "../reports/index.ts"
import { setCharged } from "./charged.ts"

export const freightLineForm = z.object({
  amount: z
    .string()
    .trim()
    .regex(/^\d{1,7}(\.\d{1,2})?$/, { error: "charging.figure" }),
  why: z.string().trim().max(120).default(""),
})

/**
 * Sets what an order is charged for freight, with a reason, until it goes: of one whose labels are bought its own share, of
 * one that is not its shipment, as on the shipment itself. Afterwards the source has been told, and it is refused. Safe to
 * repeat.
 */
export async function setFreightLine(
  context: Context,
  orderId: OrderId,
  said: z.infer<typeof freightLineForm>,
  key: string,
): Promise<Outcome<{ readonly amount: string }>> {
  const { db, actor, now } = context
  authorise(actor, "charging.override")
  if (said.why === "") return refused(reason("charging.why-needed", { field: "why" }))
  const amount = new Decimal(said.amount).toFixed(2)
  const settled = await inTransaction(db, async (trx): Promise<Outcome<{ readonly amount: string }> | "open"> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    if (await trx("outbox").where({ order_id: orderId, topic: "order.gone" }).first("id"))
      return refused(reason("freight.told"))
    const share = await trx("order_freight as f")
      .join("buy_intent as i", "i.id", "f.intent_id")
      .where({ "f.order_id": orderId, "i.state": "booked" })
      .orderBy("i.id", "desc")
      .first("f.intent_id", "f.charged_amount", "f.currency", "i.shipment_id")
    if (!share) return "open"
    const gone = await trx("package as p")
      .join("buy_intent as i", "i.shipment_id", "p.shipment_id")
      .where({ "i.id": share.intent_id, "p.state": "gone" })
      .first("p.id")
    if (gone) return refused(reason("freight.gone"))
    if (share.charged_amount !== null && new Decimal(share.charged_amount).eq(amount)) return accepted({ amount })
    await trx("order_freight")
      .where({ order_id: orderId, intent_id: share.intent_id })
      .update({ charged_amount: amount })
    await settleShipment(trx, share.intent_id, share.shipment_id, { amount, why: said.why, actor: actor.name })
    await record(trx, actor, now, {
      action: "freight.set",
      orderId,
      detail: { amount: { amount, currency: share.currency }, why: said.why },
    })
    await reportCharged(trx, orderId, { amount, currency: share.currency }, now)
    return accepted({ amount })
  })
  if (settled !== "open") return settled
  // nothing is bought yet: what is set goes for the whole shipment
  const lead = await leadOf(db, orderId)
  if ((await membersOf(db, orderId)).length > 1) return refused(reason("freight.combined"))
  if (!(await shipmentOf(db, lead))) return refused(reason("freight.no-shipment"))
  const outcome = await setCharged(context, lead, amount, said.why, key)
  return outcome.ok ? accepted({ amount }) : outcome
}

/**
 * Keeps what a shipment is charged the sum of its orders' shares. Where it is one order's, what was set holds for labels
 * that are bought anew as well; of several, the rules share again what is bought again.
 */
async function settleShipment(
  trx: Knex,
  intentId: IntentId,
  shipmentId: ShipmentId,
  byHand: { readonly amount: string; readonly why: string; readonly actor: string },
): Promise<void> {
  const shares = await trx("order_freight").where({ intent_id: intentId }).pluck("charged_amount")
  const sum = shares.reduce((all: Decimal, one: string | null) => all.add(one ?? 0), new Decimal(0))
  await trx("shipment")
    .where({ id: shipmentId })
    .update({
      charged_amount: sum.toFixed(),
      charged_why: JSON.stringify([reason("charged.by-hand", { actor: byHand.actor, why: byHand.why })]),
      ...(shares.length === 1 ? { charged_by_hand: JSON.stringify(byHand) } : {}),
    })
}

/** What is set by hand of an order's freight before its labels are bought, and whether it can be set now. */
export interface FreightLine {
  readonly settable: boolean
  readonly byHand: { readonly amount: string; readonly why: string } | null
}

export async function freightLineOf(db: Knex, orderId: OrderId): Promise<FreightLine> {
  const lead = await leadOf(db, orderId)
  const shipment = await db("shipment")
    .where({ order_id: lead })
    .whereIn("state", ["open", "bought"])
    .orderBy("id", "desc")
    .first("id", "state", "charged_by_hand")
  const gone = shipment ? await db("package").where({ shipment_id: shipment.id, state: "gone" }).first("id") : undefined
  const told = await db("outbox").where({ order_id: orderId, topic: "order.gone" }).first("id")
  const byHand = shipment?.charged_by_hand ? parsed<{ amount: string; why: string }>(shipment.charged_by_hand) : null
  return {
    settable: shipment !== undefined && !gone && !told,
    byHand: shipment?.state === "open" && byHand ? { amount: byHand.amount, why: byHand.why } : null,
  }
}
