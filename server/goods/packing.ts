import { goodsKinds } from "core/packing/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { mass } from "core/units/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { columnOf } from "../db/there.ts"

export const packingForm = z.object({
  id: z.coerce.number().int().positive(),
  version: z.coerce.number().int(),
  goodsKind: z.enum(goodsKinds, { error: "item.goodsKind" }),
  upright: z.literal("on").optional(),
  stackable: z.literal("on").optional(),
  fragile: z.literal("on").optional(),
  ownCarton: z.literal("on").optional(),
  loadLimit: z
    .string()
    .trim()
    .regex(/^(\d{1,5}([.,]\d{1,2})?)?$/, { error: "item.loadLimit" }),
})

/**
 * Says how an item is packed: what kind of goods it is, whether it stands upright, what may stand on it, whether it ships
 * in its own carton. Refused when somebody else changed the item meanwhile. Safe to repeat.
 */
export async function savePacking(context: Context, form: z.infer<typeof packingForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "goods.complete")
  const fields = {
    goods_kind: form.goodsKind,
    this_side_up: form.upright === "on",
    stackable: form.stackable === "on",
    fragile: form.fragile === "on",
    own_carton: form.ownCarton === "on",
    load_limit_kg: form.loadLimit ? mass(form.loadLimit.replace(",", "."), "lb").toFixed(12) : null,
  }
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const item = await trx("item").where({ id: form.id }).forUpdate().first()
    if (!item) return refused(reason("item.unknown"))
    const same = Object.entries(fields).every(([name, value]) =>
      typeof value === "boolean"
        ? !!columnOf(item, name) === value
        : name === "load_limit_kg" && value !== null && item[name] !== null
          ? Number(item[name]) === Number(value)
          : columnOf(item, name) === value,
    )
    if (same) return accepted(null)
    if (item.version !== form.version) return refused(reason("item.changed-meanwhile", { sku: item.sku }))
    await trx("item")
      .where({ id: form.id })
      .update({ ...fields, version: item.version + 1 })
    await record(trx, actor, now, { action: "item.packing-changed", detail: { sku: item.sku } })
    return accepted(null)
  })
}
