import { type Address, addressLines } from "core/address/index.ts"
import type { TrackedUnitId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { type CarrierEvents, httpCarrierEvents } from "../gateways/carrierEvents.ts"
import { readdressing } from "./jobs.ts"

const line = (most: number) => z.string().trim().max(most).default("")

/** Another address for a package, as it is typed. */
export const newAddress = z.object({
  company: line(60),
  attention: line(60),
  street: line(60),
  street2: line(60),
  city: line(40),
  state: line(6).transform((text) => text.toUpperCase()),
  postalCode: line(12),
  phone: line(24),
})
export type NewAddress = z.infer<typeof newAddress>

/**
 * Gives the carrier another address in the same country for a package that he can't deliver, once for a key. Refused for
 * one that has arrived, that no carrier of ours carries, and with a gap.
 */
export async function readdress(
  context: Context,
  unitId: TrackedUnitId,
  said: NewAddress,
  key: string,
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const gap = (["company", "street", "city", "postalCode"] as const).find((name) => said[name] === "")
  if (gap) return refused(reason("return.address-gap", { field: gap }))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly name: string }>> => {
    const unit = await trx("tracked_unit as u")
      .join("sales_order as o", "o.id", "u.order_id")
      .where({ "u.id": unitId, "u.warehouse_id": actor.warehouseId })
      .first("u.id", "u.name", "u.state", "u.carrier_id", "u.carrier", "u.void_at", "u.order_id", "o.country")
    if (!unit) return refused(reason("tracking.unknown"))
    const onceKey = `${unitId} ${key}`.slice(0, 80)
    if (await trx("tracking_readdress").where({ once_key: onceKey }).first("id")) return accepted({ name: unit.name })
    if (unit.carrier_id === null) return refused(reason("tracking.not-ours", { carrier: unit.carrier }))
    if (unit.void_at !== null || unit.state === "delivered" || unit.state === "returned")
      return refused(reason("tracking.has-ended", { package: unit.name }))
    const address: Address = { ...said, country: unit.country, kind: "business" }
    const id = newId(
      await trx("tracking_readdress").insert({
        unit_id: unitId,
        once_key: onceKey,
        address: JSON.stringify(address),
        asked_at: now,
        asked_by: actor.name,
      }),
    )
    await readdressing.queue(trx, `readdress:${id}`, { readdressId: id })
    await record(trx, actor, now, {
      action: "tracking.address-sent",
      orderId: unit.order_id,
      detail: { package: unit.name, carrier: unit.carrier, address: addressLines(address).join(", ") },
    })
    return accepted({ name: unit.name })
  })
}

/** Tells the carrier, by the key of the change, which he takes once. Throws to be run again. */
export async function sendReaddress(
  db: Knex,
  readdressId: number,
  eventsAt: (url: string) => CarrierEvents = httpCarrierEvents,
): Promise<void> {
  const row = await db("tracking_readdress as r")
    .join("tracked_unit as u", "u.id", "r.unit_id")
    .join("carrier as k", "k.id", "u.carrier_id")
    .where("r.id", readdressId)
    .first(
      "r.state",
      "r.address",
      "u.tracking",
      "u.order_id",
      "u.name",
      "u.id as unit",
      "k.base_url",
      "k.name as carrier",
    )
  if (row?.state !== "waiting") return
  const address = parsed<Address>(row.address)
  const answer = await eventsAt(row.base_url).readdress(row.tracking, `change-${readdressId}`, {
    lines: addressLines(address),
    postalCode: address.postalCode,
    country: address.country,
  })
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const taken = answer.kind === "taken"
    const changed = await trx("tracking_readdress")
      .where({ id: readdressId, state: "waiting" })
      .update({
        state: taken ? "taken" : "refused",
        trouble: answer.kind === "refused" ? answer.reason.slice(0, 300) : null,
        answered_at: now,
      })
    if (changed === 0) return
    // the carrier has it in hand: whoever sees to it is told again when nothing comes of it
    if (taken)
      await trx("tracking_case")
        .where({ unit_id: row.unit, state: "open" })
        .whereIn("kind", ["address", "attempted"])
        .update({ state: "watched", watch_until: new Date(now.getTime() + 86_400_000), told_at: now, told_by: "" })
    await record(trx, { userId: null, name: "" }, now, {
      action: taken ? "tracking.address-taken" : "tracking.address-refused",
      orderId: row.order_id,
      detail: { package: row.name, carrier: row.carrier, why: answer.kind === "refused" ? answer.reason : "" },
    })
  })
}
