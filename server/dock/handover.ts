import type { CarrierId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"

/** Minutes after closing in which a lead may still reopen a door. */
export const closingWait = async (db: Knex, warehouseId: WarehouseId): Promise<number> =>
  there(await db("warehouse").where({ id: warehouseId }).first("closing_wait")).closing_wait

/** Sets for how long a closed door may be reopened before its forms are sent; 0: they are sent at once. */
export async function setClosingWait(context: Context, minutes: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  if (!Number.isInteger(minutes) || minutes < 0 || minutes > 240)
    return refused(reason("handover.wait-range", { field: "minutes" }))
  return inTransaction(db, async (trx) => {
    const changed = await trx("warehouse")
      .where({ id: actor.warehouseId })
      .whereNot({ closing_wait: minutes })
      .update({ closing_wait: minutes })
    if (changed > 0)
      await record(trx, actor, now, {
        action: "handover.wait-set",
        warehouseId: actor.warehouseId,
        detail: { minutes },
      })
    return accepted(null)
  })
}

/** Who is written to, of a carrier, or of all. */
export interface ToldAddress {
  readonly id: number
  readonly email: string
  readonly carrierId: CarrierId | null
  readonly carrier: string | null
}

/** So many addresses a warehouse keeps at most. */
const mostAddresses = 200

/** What somebody is told of: forms of what was handed over, or collections that were booked. */
export type Purpose = "forms" | "collections"

/** The addresses that a warehouse writes to for a purpose, by carrier. */
export async function addressesFor(db: Knex, warehouseId: WarehouseId, purpose: Purpose): Promise<ToldAddress[]> {
  const rows = await db("closing_address as a")
    .leftJoin("carrier as k", "k.id", "a.carrier_id")
    .where({ "a.warehouse_id": warehouseId, "a.purpose": purpose })
    .orderBy(["k.name", "a.email"])
    .select("a.id", "a.email", "a.carrier_id", "k.name as carrier")
  return rows.map((row) => ({ id: row.id, email: row.email, carrierId: row.carrier_id, carrier: row.carrier }))
}

/** Adds an address for a purpose, of one carrier by its code, or of all where none is named. The same again is the same. */
export async function addAddress(
  context: Context,
  {
    email,
    carrier: code,
    purpose,
  }: { readonly email: string; readonly carrier: string | null; readonly purpose: Purpose },
): Promise<Outcome<{ email: string }>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  if (!z.email().max(120).safeParse(email).success) return refused(reason("papers.no-address", { field: "email" }))
  return inTransaction(db, async (trx): Promise<Outcome<{ email: string }>> => {
    const warehouse = { warehouse_id: actor.warehouseId }
    await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().select("id")
    const carrier = code === null ? null : await trx("carrier").where({ code }).first("id", "name")
    if (carrier === undefined) return refused(reason("tariff.no-carrier"))
    const own = { ...warehouse, email, purpose, carrier_id: carrier?.id ?? null }
    const known = await trx("closing_address").where(own).first("id")
    if (known) return accepted({ email })
    const [{ n = 0 } = {}] = await trx("closing_address").where(warehouse).count({ n: "id" })
    if (Number(n) >= mostAddresses) return refused(reason("handover.too-many", { most: mostAddresses }))
    await trx("closing_address").insert(own)
    await record(trx, actor, now, {
      action: "handover.address-added",
      warehouseId: actor.warehouseId,
      detail: { email, carrier: carrier?.name ?? "", purpose },
    })
    return accepted({ email })
  })
}

/** Takes an address off the list. Safe to repeat. */
export async function removeAddress(context: Context, id: number): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  await inTransaction(db, async (trx) => {
    const row = await trx("closing_address").where({ id, warehouse_id: actor.warehouseId }).first("email")
    if (!row) return
    await trx("closing_address").where({ id }).delete()
    await record(trx, actor, now, {
      action: "handover.address-removed",
      warehouseId: actor.warehouseId,
      detail: { email: row.email },
    })
  })
}
