import { isHsCode, saysWhatItIs } from "core/customs/index.ts"
import { isFreightClass } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { mass, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { type Context, require } from "../accounts/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { recheck } from "../orders/release.ts"

export interface ItemRow {
  readonly id: number
  readonly sku: string
  readonly description: string
  readonly version: number
  /** Pounds of one base unit as text, empty when nobody has said. */
  readonly pounds: string
  readonly freightClass: string
  readonly customsDescription: string
  readonly hsCode: string
  readonly origin: string
  readonly unNumber: string
  /** What keeps it from going abroad, by field. */
  readonly gaps: readonly string[]
  readonly free: number
}

/** Items that hold every word in SKU or description, by SKU, with what is free in the warehouse. */
export async function findItems({ db, actor }: Context, words: string): Promise<ItemRow[]> {
  require(actor, "orders.see")
  const query = db("item as i")
  for (const word of words.trim().split(/\s+/).filter(Boolean).slice(0, 6)) {
    const like = `%${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`
    query.where((any) => any.where("i.sku", "like", like).orWhere("i.description", "like", like))
  }
  const free = db("stock as s")
    .whereRaw("s.item_id = i.id")
    .where("s.warehouse_id", actor.warehouseId)
    .select(db.raw("COALESCE(SUM(s.on_hand - s.allocated), 0)"))
  const rows = await query.orderBy("i.sku").limit(200).select("i.*", free.as("free"))
  return rows.map(itemRow)
}

// biome-ignore lint/suspicious/noExplicitAny: a row as the driver gives it
function itemRow(row: any): ItemRow {
  const customsDescription: string = row.customs_description || row.description
  const gaps: string[] = []
  if (row.weight_kg === null) gaps.push("pounds")
  if (!isHsCode(row.hs_code ?? "")) gaps.push("hsCode")
  if (!row.origin) gaps.push("origin")
  if (!saysWhatItIs(customsDescription)) gaps.push("customsDescription")
  return {
    id: row.id,
    sku: row.sku,
    description: row.description,
    version: row.version,
    pounds: row.weight_kg === null ? "" : massIn(mass(row.weight_kg, "kg"), "lb").toDecimalPlaces(4).toString(),
    freightClass: row.freight_class ?? "",
    customsDescription: row.customs_description,
    hsCode: row.hs_code ?? "",
    origin: row.origin ?? "",
    unNumber: row.un_number ?? "",
    gaps,
    free: Number(row.free),
  }
}

export const itemForm = z.object({
  id: z.coerce.number().int().positive(),
  version: z.coerce.number().int(),
  pounds: z
    .string()
    .trim()
    .regex(/^(\d{1,5}([.,]\d{1,4})?)?$/, { error: "item.pounds" }),
  freightClass: z
    .string()
    .trim()
    .refine((text) => text === "" || isFreightClass(text), { error: "item.freightClass" }),
  customsDescription: z.string().trim().max(80, { error: "item.customsDescription" }),
  hsCode: z
    .string()
    .trim()
    .refine((text) => text === "" || isHsCode(text), { error: "item.hsCode" }),
  origin: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^([A-Z]{2})?$/, { error: "item.origin" }),
})

/**
 * Completes what an item lacks for rating and customs, and looks again at the orders that wait for it. Refused when
 * somebody else changed it meanwhile.
 */
export async function completeItem(
  context: Context,
  form: z.infer<typeof itemForm>,
): Promise<Outcome<{ freed: number }>> {
  const { db, actor, now } = context
  require(actor, "goods.complete")
  const fields = {
    weight_kg: form.pounds ? mass(form.pounds.replace(",", "."), "lb").toFixed(12) : null,
    freight_class: form.freightClass || null,
    customs_description: form.customsDescription,
    hs_code: form.hsCode || null,
    origin: form.origin || null,
  }
  const changed = await inTransaction(db, async (trx): Promise<Outcome<boolean>> => {
    const item = await trx("item").where({ id: form.id }).forUpdate().first()
    if (!item) return refused(reason("item.unknown"))
    const same = (name: keyof typeof fields) =>
      name === "weight_kg" && item.weight_kg !== null && fields.weight_kg !== null
        ? Number(item.weight_kg) === Number(fields.weight_kg)
        : (item[name] ?? null) === fields[name]
    const names = (Object.keys(fields) as (keyof typeof fields)[]).filter((name) => !same(name))
    if (names.length === 0) return accepted(false)
    if (item.version !== form.version) return refused(reason("item.changed-meanwhile", { sku: item.sku }))
    await trx("item")
      .where({ id: form.id })
      .update({ ...fields, version: item.version + 1 })
    await record(trx, actor, now, {
      action: "item.changed",
      detail: {
        sku: item.sku,
        changes: names.map((name) => ({ field: name, from: item[name] ?? "", to: fields[name] ?? "" })),
      },
    })
    return accepted(true)
  })
  if (!changed.ok) return changed
  return accepted({ freed: changed.value ? await recheckStopped(db, context, form.id) : 0 })
}

/** Looks again at every stopped order with an item; how many can go now. Each in a transaction of its own. */
async function recheckStopped(db: Knex, { actor, now }: Context, itemId: number): Promise<number> {
  const orders = await db("order_stop")
    .join("order_line", "order_line.order_id", "order_stop.order_id")
    .where({ item_id: itemId })
    .distinct("order_stop.order_id")
  let freed = 0
  for (const { order_id } of orders) {
    const reasons = await inTransaction(db, (trx) => recheck(trx, order_id, actor, now))
    if (reasons.length === 0) freed += 1
  }
  return freed
}
