import type { SlipSettings } from "core/documents/index.ts"
import type { CustomerId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { length, mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { slipSchema } from "./slipSettings.ts"

const figureOf = (text: string): string => text.replace(",", ".")
const aboveNothing = (text: string): boolean => Number(figureOf(text)) > 0
const weight = z
  .string()
  .trim()
  .regex(/^\d{1,4}([.,]\d{1,3})?$/, { error: "packaging.weight", abort: true })
  .refine(aboveNothing, { error: "packaging.weight", abort: true })
  .transform(figureOf)
/** Length, width and height in one text, such as 12 × 9 × 8. */
const edges = z
  .string()
  .trim()
  .regex(/^\d{1,4}([.,]\d{1,3})?([×x*;\s]{1,5}\d{1,4}([.,]\d{1,3})?){2}$/i, { error: "packaging.edges", abort: true })
  .transform((text) => text.split(/[×x*;\s]+/i) as [string, string, string])
  .refine((all) => all.every(aboveNothing), { error: "packaging.edges" })
  .transform(([length, width, height]) => [figureOf(length), figureOf(width), figureOf(height)] as const)

/** What one costs; nothing typed: nothing. */
export const priceOfOne = z
  .string()
  .trim()
  .default("")
  .transform((text) => figureOf(text === "" ? "0" : text))
  .pipe(z.string().regex(/^\d{1,5}(\.\d{1,2})?$/, { error: "packaging.price" }))

export const packagingForm = z.object({
  code: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z0-9][A-Z0-9-]{0,11}$/, { error: "packaging.code" }),
  name: z.string().trim().min(1, { error: "packaging.name" }).max(60),
  inner: edges,
  outer: edges,
  tare: weight,
  load: weight,
  price: priceOfOne,
})

/** Adds a carton to the catalog; inches and pounds. Refused for a code that is there, or an inside larger than the outside. */
export async function addPackaging(context: Context, form: z.infer<typeof packagingForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const sorted = (texts: readonly string[]) => texts.map(Number).sort((a, b) => a - b)
  const [inner, outer] = [sorted(form.inner), sorted(form.outer)]
  if (inner.some((edge, index) => edge > (outer[index] as number))) return refused(reason("packaging.inner-larger"))
  const mm = (text: string) => length(text, "in").toFixed(6)
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    if (await trx("packaging").where({ code: form.code }).forUpdate().first("id"))
      return refused(reason("packaging.taken", { code: form.code }))
    await trx("packaging").insert({
      code: form.code,
      name: form.name,
      kind: "carton",
      inner_length_mm: mm(form.inner[0]),
      inner_width_mm: mm(form.inner[1]),
      inner_height_mm: mm(form.inner[2]),
      outer_length_mm: mm(form.outer[0]),
      outer_width_mm: mm(form.outer[1]),
      outer_height_mm: mm(form.outer[2]),
      tare_kg: mass(form.tare, "lb").toFixed(12),
      max_load_kg: mass(form.load, "lb").toFixed(12),
      price: form.price,
    })
    await record(trx, actor, now, {
      action: "packaging.changed",
      warehouseId: actor.warehouseId,
      detail: { code: form.code },
    })
    return accepted(null)
  })
}

/** Sets what one of a packaging costs: suggestions reckon with it. Safe to repeat. */
export async function pricePackaging(context: Context, code: string, price: string): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const changed = await trx("packaging").where({ code }).whereNot({ price }).update({ price })
    if (changed === 0 && !(await trx("packaging").where({ code }).first("id")))
      return refused(reason("pack.no-such-packaging", { code }))
    if (changed > 0)
      await record(trx, actor, now, { action: "packaging.changed", warehouseId: actor.warehouseId, detail: { code } })
    return accepted(null)
  })
}

/** Offers a packaging at packing or not any more. Safe to repeat. */
export async function offerPackaging(context: Context, code: string, active: boolean): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const changed = await trx("packaging").where({ code }).whereNot({ active }).update({ active })
    if (changed === 0 && !(await trx("packaging").where({ code }).first("id")))
      return refused(reason("pack.no-such-packaging", { code }))
    if (changed > 0)
      await record(trx, actor, now, { action: "packaging.changed", warehouseId: actor.warehouseId, detail: { code } })
    return accepted(null)
  })
}

/**
 * Sets what slips show, of the actor's warehouse or of one customer, and for the warehouse how far a weight may be off,
 * in percent. What is not said is as usual.
 */
export async function saveSlip(
  context: Context,
  customerId: CustomerId | null,
  typed: unknown,
  tolerance: string | null = null,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, customerId === null ? "warehouse.manage" : "customers.manage")
  const read = slipSchema.safeParse(typed)
  if (!read.success) return refused(reason("slip.shape"))
  const slip = JSON.stringify(read.data)
  const percent = tolerance === null ? null : Number(tolerance.replace(",", "."))
  if (percent !== null && !(percent >= 0.1 && percent <= 100)) return refused(reason("slip.tolerance-shape"))
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const changed =
      customerId === null
        ? await trx("warehouse")
            .where({ id: actor.warehouseId })
            .update({ slip, ...(percent === null ? {} : { weight_tolerance: (percent / 100).toFixed(4) }) })
        : await trx("customer").where({ id: customerId }).update({ slip })
    if (changed === 0) return refused(reason("customer.unknown"))
    await record(trx, actor, now, { action: "slip.changed", warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** What a warehouse has set for its slips, and how far a measured weight may be off, as a part of one. */
export async function slipOf(
  db: Knex,
  warehouseId: WarehouseId,
): Promise<{ slip: Partial<SlipSettings>; tolerance: number }> {
  const row = there(await db("warehouse").where({ id: warehouseId }).first("slip", "weight_tolerance"))
  return { slip: parsed<Partial<SlipSettings>>(row.slip), tolerance: Number(row.weight_tolerance) }
}
