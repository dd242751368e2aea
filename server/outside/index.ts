import { randomUUID } from "node:crypto"
import { addressLines } from "core/address/index.ts"
import type { OrderId, OutsideId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { addressOf } from "../addresses/row.ts"
import { parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { OutsideOrderRow, SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { recheck } from "../decisions/recheck.ts"
import { movable } from "../decisions/reroute.ts"
import {
  httpOutside,
  type OutsideAnswer,
  type OutsideGateway,
  type OutsideRequest,
} from "../gateways/outsideWarehouse.ts"
import { leaveRuns } from "../orders/membership.ts"
import { partOff } from "../plan/plan.ts"
import { reportOutside } from "../reports/index.ts"
import { freeStock } from "../stock/allocation.ts"
import { askForDeal } from "../stock/waiting.ts"
import { followElsewhere } from "../tracking/units.ts"
import { askingOutside, sendingOutside } from "./jobs.ts"

/** Who acts where a program does. */
const program = { userId: null, name: "outside warehouse" }

export interface OutsideWarehouse {
  readonly id: number
  readonly code: string
  readonly name: string
}

export const outsideWarehouses = (db: Knex): Promise<OutsideWarehouse[]> =>
  db("outside_warehouse").where({ active: true }).orderBy("name").select("id", "code", "name") as unknown as Promise<
    OutsideWarehouse[]
  >

/** Where an order stands that is with an outside warehouse, or was refused there. */
export interface OutsideOrder {
  /** Null: it was carried by somebody whom we do not book with, and somebody here typed the number. */
  readonly warehouse: string | null
  readonly state: "sending" | "taken" | "refused" | "shipped" | "recalling"
  readonly trouble: string | null
  readonly reference: string | null
  readonly carrier: string | null
  readonly service: string | null
  readonly tracking: readonly string[]
  readonly shippedAt: Date | null
  readonly shippedOn: string | null
  readonly cost: { readonly amount: string; readonly currency: string } | null
}

export async function outsideOrder(db: Knex, orderId: OrderId): Promise<OutsideOrder | null> {
  const row = await db("outside_order as o")
    .leftJoin("outside_warehouse as w", "w.id", "o.outside_id")
    .where({ order_id: orderId })
    .first("o.*", "w.name")
  if (!row) return null
  return {
    warehouse: row.name ?? null,
    state: row.state,
    trouble: row.trouble,
    reference: row.reference,
    carrier: row.carrier,
    service: row.service,
    tracking: row.tracking ? parsed<string[]>(row.tracking) : [],
    shippedAt: row.shipped_at,
    shippedOn: row.shipped_on,
    cost: row.cost === null ? null : { amount: row.cost, currency: row.currency ?? "USD" },
  }
}

/**
 * Gives an order to an outside warehouse, which ships it: it leaves our line, and a job sends it there exactly once.
 * Refused once it is being picked, and while it is stopped for anything but what our own shelves lack. Safe to repeat.
 */
export async function sendOutside(context: Context, orderId: OrderId, outsideId: OutsideId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const found = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!found) return refused(reason("order.unknown"))
    const known = await trx("outside_order").where({ order_id: orderId }).forUpdate().first()
    if (known && known.state !== "refused")
      return known.outside_id === outsideId ? accepted(null) : refused(reason("outside.elsewhere"))
    const order = await movable(trx, context, orderId)
    if (!order.ok) return order
    const to = await trx("outside_warehouse").where({ id: outsideId, active: true }).first("name")
    if (!to) return refused(reason("reroute.no-warehouse"))
    const stop = await trx("order_stop")
      .where({ order_id: orderId })
      .whereNotIn("code", ["stop.stock-short", "stop.outside-refused", "stop.promise"])
      .first("code")
    if (stop) return refused(reason("outside.stopped"))
    await partOff(trx, orderId, actor, now)
    await leaveLine(trx, order.value)
    await trx("outside_order").where({ order_id: orderId }).delete()
    const key = randomUUID()
    await trx("outside_order").insert({ order_id: orderId, outside_id: outsideId, idempotency_key: key, asked_at: now })
    await offTheLine(trx, orderId, now)
    await record(trx, actor, now, { action: "order.sent-outside", orderId, detail: { to: to.name } })
    await sendingOutside.queue(trx, `outside.send:${key}`, { orderId })
    return accepted(null)
  })
}

/** Gives back what an order held that nobody here picks any more: its stock, its places in runs, its stops. */
export async function leaveLine(trx: Knex, order: Pick<SalesOrderRow, "id" | "warehouse_id">): Promise<void> {
  const freed = await freeStock(trx, order.id)
  await leaveRuns(trx, order.id)
  await askForDeal(trx, order.warehouse_id, freed)
  await trx("order_stop").where({ order_id: order.id }).delete()
}

/** Plans nothing more for an order. */
export const offTheLine = (trx: Knex, orderId: OrderId, now: Date) =>
  trx("sales_order")
    .where({ id: orderId })
    .update({
      collection_id: null,
      must_collection_id: null,
      chosen_collection_id: null,
      chosen_service_id: null,
      left_line_at: now,
      version: trx.raw("version + 1"),
    })

async function requestOf(db: Knex, order: SalesOrderRow): Promise<OutsideRequest> {
  const lines = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", order.id)
    .orderBy("l.line_number")
    .select("i.sku", "i.description", "l.ordered as quantity")
  return {
    number: order.order_number,
    purchaseOrder: order.po_number,
    promisedOn: order.promised_on,
    receiver: { lines: addressLines(addressOf(order)), country: order.country, postalCode: order.postal_code },
    instructions: [order.building, order.instructions, order.opening_hours].filter(Boolean).join("; "),
    lines,
  }
}

const rowOf = (
  db: Knex,
  orderId: OrderId,
): Promise<(OutsideOrderRow & { base_url: string; name: string }) | undefined> =>
  db("outside_order as o")
    .join("outside_warehouse as w", "w.id", "o.outside_id")
    .where({ order_id: orderId })
    .first("o.*", "w.base_url", "w.name")

/** Sends an order to its outside warehouse, by its key: again after any failure it is one order there. */
export async function sendOutsideJob(
  db: Knex,
  orderId: OrderId,
  gatewayAt: (url: string) => OutsideGateway = httpOutside,
): Promise<void> {
  const row = await rowOf(db, orderId)
  if (row?.state !== "sending") return
  const order = there(await db("sales_order").where({ id: orderId }).first())
  await note(db, orderId, await gatewayAt(row.base_url).send(row.idempotency_key, await requestOf(db, order)))
}

/** Asks how an order that is with an outside warehouse stands, or for it back. */
export async function askOutside(
  db: Knex,
  orderId: OrderId,
  gatewayAt: (url: string) => OutsideGateway = httpOutside,
): Promise<void> {
  const row = await rowOf(db, orderId)
  if (row?.state === "taken") await note(db, orderId, await gatewayAt(row.base_url).look(row.idempotency_key))
  else if (row?.state === "recalling")
    await back(db, orderId, await gatewayAt(row.base_url).recall(row.idempotency_key))
}

/** Writes down what an outside warehouse answered, once. */
async function note(db: Knex, orderId: OrderId, answer: OutsideAnswer): Promise<void> {
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const row = await trx("outside_order").where({ order_id: orderId }).forUpdate().first()
    if (row?.state !== "sending" && row?.state !== "taken") return
    const to = there(
      await trx("outside_warehouse")
        .where({ id: there(row.outside_id) })
        .first("name"),
    )
    if (answer.kind === "refused" || (answer.kind === "known" && answer.state === "recalled")) {
      const why = answer.kind === "refused" ? answer.reason : "given back"
      await trx("outside_order").where({ order_id: orderId }).update({ state: "refused", trouble: why })
      await trx("sales_order").where({ id: orderId }).update({ left_line_at: null })
      await record(trx, program, now, { action: "order.outside-refused", orderId, detail: { to: to.name, why } })
      await recheck(trx, orderId, program, now)
      return
    }
    if (answer.kind === "unknown") return
    if (row.state === "sending") {
      await trx("outside_order").where({ order_id: orderId }).update({ state: "taken", reference: answer.reference })
      await record(trx, program, now, {
        action: "order.outside-taken",
        orderId,
        detail: { to: to.name, reference: answer.reference },
      })
    }
    if (answer.state === "shipped") {
      const tracking = answer.packages.map((one) => one.trackingNumber)
      await trx("outside_order")
        .where({ order_id: orderId })
        .update({
          state: "shipped",
          reference: answer.reference,
          carrier: answer.carrier,
          service: answer.service,
          tracking: JSON.stringify(tracking),
          shipped_at: now,
        })
      await record(trx, program, now, {
        action: "order.outside-shipped",
        orderId,
        detail: { to: to.name, carrier: answer.carrier, tracking: tracking.join(", ") },
      })
      await followElsewhere(trx, orderId, { carrier: answer.carrier, tracking, shippedOn: null, leftAt: now })
      await reportOutside(trx, orderId, now, answer)
    }
  })
}

/** Asks for an order back from its outside warehouse, or puts the refusal away; then it is ours to ship. Safe to repeat. */
export async function recallOutside(context: Context, orderId: OrderId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    const row = await trx("outside_order").where({ order_id: orderId }).forUpdate().first()
    if (!row || row.state === "recalling") return accepted(null)
    if (row.state === "shipped") return refused(reason("outside.shipped"))
    if (row.state === "refused") {
      await trx("outside_order").where({ order_id: orderId }).delete()
      await record(trx, actor, now, { action: "order.outside-back", orderId, detail: {} })
      await recheck(trx, orderId, actor, now)
      return accepted(null)
    }
    await trx("outside_order").where({ order_id: orderId }).update({ state: "recalling" })
    await record(trx, actor, now, { action: "order.outside-recalled", orderId, detail: {} })
    await askingOutside.queue(trx, `outside.ask:${row.idempotency_key}:recall:${randomUUID()}`, { orderId })
    return accepted(null)
  })
}

async function back(db: Knex, orderId: OrderId, answer: OutsideAnswer): Promise<void> {
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const row = await trx("outside_order").where({ order_id: orderId }).forUpdate().first()
    if (row?.state !== "recalling") return
    if (answer.kind === "refused") {
      // it has shipped meanwhile: its tracking is asked for next
      await trx("outside_order").where({ order_id: orderId }).update({ state: "taken", trouble: answer.reason })
      await record(trx, program, now, { action: "order.outside-kept", orderId, detail: { why: answer.reason } })
      return
    }
    await trx("outside_order").where({ order_id: orderId }).delete()
    await trx("sales_order")
      .where({ id: orderId })
      .update({ left_line_at: null, version: trx.raw("version + 1") })
    await record(trx, program, now, { action: "order.outside-back", orderId, detail: {} })
    await recheck(trx, orderId, program, now)
  })
}

/** Orders whose outside warehouse is to be asked how they stand. */
export const withOutside = (db: Knex): Promise<number[]> =>
  db("outside_order")
    .whereIn("state", ["taken", "recalling"])
    .orderBy("order_id")
    .limit(200)
    .pluck("order_id") as unknown as Promise<number[]>
