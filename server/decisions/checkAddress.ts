import { addressGaps } from "core/address/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { addressOf } from "../addresses/row.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { AddressServiceDown, checkAddress, type Suggestion, suggestAddresses } from "../gateways/addressService.ts"
import { touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { currentStops } from "../orders/stops.ts"
import { recheck } from "./recheck.ts"
import { putWaivers } from "./waive.ts"

/** What the address service says of an order's ship-to. */
export interface Proposal {
  readonly status: "confirmed" | "corrected" | "unknown"
  /** Fields that it writes otherwise. */
  readonly changes: readonly { readonly field: string; readonly from: string; readonly to: string }[]
  readonly kind: "business" | "residential" | "unknown"
}

const fields = { street: "street", city: "city", state: "state", postalCode: "postal_code" } as const

async function serviceAt(db: Knex): Promise<string | null> {
  const row = await db("outside_service").where({ kind: "address" }).first("url")
  return row?.url ?? null
}

/** Asks the address service about an order's ship-to. Changes nothing. Refused when it does not answer. */
export async function proposeFor(context: Context, orderId: OrderId): Promise<Outcome<Proposal>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const order = await db("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).first()
  if (!order) return refused(reason("order.unknown"))
  const base = await serviceAt(db)
  if (!base) return refused(reason("address.no-service"))
  try {
    const answer = await checkAddress(base, {
      street: order.street,
      city: order.city,
      state: order.state,
      postalCode: order.postal_code,
      country: order.country,
    })
    const changes = Object.entries(fields).flatMap(([theirs, ours]) => {
      const to = answer.address?.[theirs as keyof typeof fields]
      return to !== undefined && to !== order[ours] ? [{ field: ours, from: order[ours] as string, to }] : []
    })
    return accepted({ status: answer.status, changes, kind: answer.kind })
  } catch (error) {
    if (error instanceof AddressServiceDown) return refused(reason("address.service-down", { detail: error.message }))
    throw error
  }
}

/**
 * Asks the address service and takes what it says: the address as it writes it, and the kind as confirmed. What a
 * person confirmed by hand is not overwritten. Refused when the service does not know the address or does not answer,
 * and once labels are asked for. Safe to repeat.
 */
export async function confirmAddress(context: Context, orderId: OrderId, version: number): Promise<Outcome<Proposal>> {
  const { db, actor, now } = context
  const proposal = await proposeFor(context, orderId)
  if (!proposal.ok) return proposal
  const { status, changes, kind } = proposal.value
  if (status === "unknown") return refused(reason("address.service-unknown"))
  return inTransaction(db, async (trx): Promise<Outcome<Proposal>> => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!order) return refused(reason("order.unknown"))
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
    if (order.version !== version) return refused(reason("order.changed-meanwhile"))
    const known = kind !== "unknown"
    const all = [
      ...changes,
      ...(known && order.address_kind !== kind
        ? [{ field: "address_kind", from: order.address_kind as string, to: kind }]
        : []),
    ]
    // a house that the service knows by its name has no number to look for
    const numberless = addressGaps(
      addressOf({ ...order, ...Object.fromEntries(changes.map((one) => [one.field, one.to])) }),
    ).filter((gap) => gap.code === "address.no-house-number")
    const waits =
      numberless.length > 0 && (await currentStops(trx, orderId)).some((one) => one.code === "address.no-house-number")
    if (all.length === 0 && !waits && (!known || order.kind_confirmed)) return accepted(proposal.value)
    await putWaivers(trx, { actor: { name: "address service" }, now }, orderId, numberless)
    await trx("sales_order")
      .where({ id: orderId })
      .update({
        ...Object.fromEntries(changes.map((one) => [one.field, one.to])),
        ...(known ? { address_kind: kind, kind_confirmed: true } : {}),
        version: version + 1,
      })
    await touchShipment(trx, orderId)
    await record(trx, actor, now, {
      action: "order.address-confirmed",
      orderId,
      detail: { kind, changes: all },
    })
    await recheck(trx, orderId, actor, now)
    return accepted(proposal.value)
  })
}

/** Addresses that the service knows and that begin as is typed; none when it does not answer, since typing goes on. */
export async function suggestionsFor({ db, actor }: Context, typed: string, country: string): Promise<Suggestion[]> {
  authorise(actor, "orders.see")
  const base = await serviceAt(db)
  if (!base || typed.trim().length < 3) return []
  try {
    return await suggestAddresses(base, typed.trim().slice(0, 80), country)
  } catch (error) {
    if (error instanceof AddressServiceDown) return []
    throw error
  }
}
