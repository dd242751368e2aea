import { randomUUID } from "node:crypto"
import { localDate } from "core/calendar/index.ts"
import { type Elsewhere, type ElsewhereText, readElsewhere } from "core/elsewhere/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { pickingBegun } from "../orders/begun.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { partOff } from "../plan/plan.ts"
import { reportOutside } from "../reports/index.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { followElsewhere } from "../tracking/units.ts"
import { leaveLine, offTheLine } from "./index.ts"

/**
 * Records that an order went with somebody whom we do not book with: its tracking, day, cost and the carrier by a name of
 * our own. It is gone, and its source is told as of any other. Refused where its labels are bought here, or another
 * warehouse ships it. The same numbers again are the same.
 */
export async function recordElsewhere(
  context: Context,
  orderId: OrderId,
  text: ElsewhereText,
): Promise<Outcome<{ readonly again: boolean }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const warehouse = await warehouseById(db, actor.warehouseId)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly again: boolean }>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id", "warehouse_id", "ordered_on", "cancelled_at", "joined_to_id")
    if (!order) return refused(reason("order.unknown"))
    const read = readElsewhere(text, localDate(now, warehouse.zone), order.ordered_on, warehouse.currency)
    if (!read.ok) return read
    const known = await trx("outside_order").where({ order_id: orderId }).forUpdate().first()
    if (known && known.state !== "refused")
      return sameAs(known, read.value) ? accepted({ again: true }) : refused(reason("elsewhere.with-others"))
    if (order.cancelled_at) return refused(reason("order.is-cancelled"))
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.void-first"))
    const begun = (await pickingBegun(trx, [orderId])).has(orderId)
    const joined = order.joined_to_id ?? (await trx("sales_order").where({ joined_to_id: orderId }).first("id"))
    if (begun && joined) return refused(reason("elsewhere.joined"))
    if (!begun) await partOff(trx, orderId, actor, now)
    await leaveLine(trx, order)
    // what was packed by then is in the building no longer
    await trx("package")
      .whereIn("shipment_id", trx("shipment").where({ order_id: orderId }).select("id"))
      .whereIn("state", ["open", "closed"])
      .update({ state: "gone" })
    await trx("outside_order").where({ order_id: orderId }).delete()
    const { carrier, service, tracking, shippedOn, cost } = read.value
    await trx("outside_order").insert({
      order_id: orderId,
      outside_id: null,
      idempotency_key: randomUUID(),
      asked_at: now,
      state: "shipped",
      carrier,
      service,
      tracking: JSON.stringify(tracking),
      shipped_at: now,
      shipped_on: shippedOn,
      cost: cost?.amount ?? null,
      currency: cost?.currency ?? null,
      recorded_by: actor.name,
    })
    await offTheLine(trx, orderId, now)
    await record(trx, actor, now, {
      action: "order.shipped-elsewhere",
      orderId,
      detail: { carrier, tracking: tracking.join(", "), day: shippedOn },
    })
    await followElsewhere(trx, orderId, { carrier, tracking, shippedOn, leftAt: now })
    await reportOutside(trx, orderId, now, {
      carrier,
      service,
      shippedOn,
      cost,
      packages: tracking.map((trackingNumber) => ({ trackingNumber })),
    })
    return accepted({ again: false })
  })
}

const sameAs = (
  row: { readonly outside_id: number | null; readonly carrier: string | null; readonly tracking: unknown },
  said: Elsewhere,
): boolean =>
  row.outside_id === null &&
  row.carrier === said.carrier &&
  JSON.stringify(parsed<string[]>(row.tracking)) === JSON.stringify(said.tracking)

/** Names of carriers that were typed before, for whoever types one. */
export const carriersElsewhere = (db: Knex): Promise<string[]> =>
  db("outside_order")
    .whereNull("outside_id")
    .whereNotNull("carrier")
    .distinct("carrier")
    .orderBy("carrier")
    .limit(50)
    .pluck("carrier") as unknown as Promise<string[]>
