import { ownCode } from "core/identifier/index.ts"
import type { WarehouseId } from "core/ids/index.ts"
import { type ScanSteps, scanSteps } from "core/picking/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"

/** What a warehouse says about scanning; what it does not say is as usual. */
export const warehouseSteps = async (db: Knex, warehouseId: WarehouseId): Promise<Partial<ScanSteps>> =>
  parsed<Partial<ScanSteps>>(there(await db("warehouse").where({ id: warehouseId }).first("scan_steps")).scan_steps)

/** Items that say something else than their warehouse, by SKU. */
export async function itemSteps(db: Knex): Promise<{ sku: string; description: string; steps: Partial<ScanSteps> }[]> {
  const rows = await db("item").whereNot("scan_steps", "{}").orderBy("sku").select("sku", "description", "scan_steps")
  return rows.map((row) => ({ sku: row.sku, description: row.description, steps: parsed(row.scan_steps) }))
}

const saidSchema = z.strictObject(Object.fromEntries(scanSteps.map((step) => [step, z.boolean().optional()])))

/** Sets what is scanned in the actor's warehouse, or of one item everywhere; an item that says nothing is as its warehouse. */
export async function saveSteps(context: Context, sku: string | null, steps: unknown): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const read = saidSchema.safeParse(steps)
  if (!read.success) return refused(reason("steps.shape"))
  const stored = JSON.stringify(read.data)
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const changed =
      sku === null
        ? await trx("warehouse").where({ id: actor.warehouseId }).update({ scan_steps: stored })
        : await trx("item")
            .where({ sku: ownCode(sku) })
            .update({ scan_steps: stored })
    if (changed === 0) return refused(reason("stock.no-item", { sku: sku ?? "" }))
    await record(trx, actor, now, {
      action: "floor.steps-changed",
      warehouseId: actor.warehouseId,
      detail: { sku: sku ?? "" },
    })
    return accepted(null)
  })
}

const measure = z
  .string()
  .trim()
  .regex(/^(\d{1,5}([.,]\d)?)?$/, { error: "cart.measure" })
  .transform((text) => (text === "" ? null : text.replace(",", ".")))
export const cartForm = z.object({
  code: z
    .string()
    .transform(ownCode)
    .pipe(z.string().regex(/^[A-Z0-9][A-Z0-9-]{0,11}$/, { error: "cart.code" })),
  name: z.string().trim().max(40, { error: "cart.name" }),
  litres: measure,
  kilograms: measure,
  totes: z.coerce.number().int().min(0, { error: "cart.totes" }).max(60, { error: "cart.totes" }),
  firstTote: z.coerce.number().int().min(1, { error: "cart.first" }).max(99_999, { error: "cart.first" }),
  toteLitres: z.coerce.number().min(1, { error: "cart.tote-litres" }).max(1_000, { error: "cart.tote-litres" }),
})

/**
 * Makes a cart with its totes, `T101` and on, or changes one of the same code. Totes beyond the number are taken off it;
 * refused where goods are in one of those, or where a tote of that number is on another cart.
 */
export async function saveCart(context: Context, form: z.infer<typeof cartForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const at = { warehouse_id: actor.warehouseId, code: form.code }
    const values = { name: form.name, litres: form.litres, kilograms: form.kilograms, active: true }
    await trx("cart")
      .insert({ ...at, ...values })
      .onConflict(["warehouse_id", "code"])
      .merge(values)
    const cart = there(await trx("cart").where(at).forUpdate().first("id"))
    const codes = Array.from({ length: form.totes }, (_, index) => `T${form.firstTote + index}`)
    const others = await trx("tote")
      .where({ warehouse_id: actor.warehouseId })
      .whereIn("code", codes)
      .whereNotNull("cart_id")
      .whereNot("cart_id", cart.id)
      .first("code")
    if (others) return refused(reason("cart.tote-taken", { tote: others.code }))
    const full = await trx("tote")
      .where({ cart_id: cart.id })
      .whereNotIn("code", codes)
      .whereNotNull("order_id")
      .first("code")
    if (full) return refused(reason("cart.tote-full", { tote: full.code }))
    await trx("tote").where({ cart_id: cart.id }).whereNotIn("code", codes).update({ cart_id: null })
    for (const [index, code] of codes.entries())
      await trx("tote")
        .insert({
          warehouse_id: actor.warehouseId,
          code,
          cart_id: cart.id,
          position: index + 1,
          litres: form.toteLitres,
        })
        .onConflict(["warehouse_id", "code"])
        .merge(["cart_id", "position", "litres"])
    await record(trx, actor, now, {
      action: "floor.cart-changed",
      warehouseId: actor.warehouseId,
      detail: { cart: form.code },
    })
    return accepted(null)
  })
}
