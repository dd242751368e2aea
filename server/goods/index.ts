import { customsUnits, isHsCode, saysWhatItIs } from "core/customs/index.ts"
import {
  type DangerousFacts,
  dangerousFlaws,
  innerUnits,
  isLithium,
  type LithiumFacts,
  lithiumEntry,
  packingGroups,
} from "core/dangerous/index.ts"
import type { GoodsKind } from "core/packing/index.ts"
import { isFreightClass } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { goodsCategories } from "core/tariff/index.ts"
import { mass, massIn } from "core/units/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import type { FieldChange } from "../audit/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { ItemRow as Columns } from "../db/tables.ts"
import { columnOf } from "../db/there.ts"
import { likeInAnyCase } from "../db/words.ts"
import { dangerousOf, lithiumSchema } from "./dangerous.ts"

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
  readonly material: string
  readonly use: string
  readonly unit: string
  /** Net kilograms of one base unit for customs as text; empty: what it weighs. */
  readonly netKg: string
  /** Category that tariffs treat it as; empty: none. */
  readonly category: string
  /** Number in the classification of freight. */
  readonly classItem: string
  readonly unNumber: string
  /** What is known of dangerous goods; null for goods that are not dangerous. */
  readonly dangerous: DangerousFacts | null
  /** What keeps it from going abroad, by field. */
  readonly gaps: readonly string[]
  readonly free: number
  /** How it is packed. */
  readonly packing: {
    readonly goodsKind: GoodsKind
    readonly upright: boolean
    readonly stackable: boolean
    readonly fragile: boolean
    readonly ownCarton: boolean
    /** Pounds that may stand on one piece as text, empty for no limit. */
    readonly loadLimit: string
  }
}

/** Items that are listed at most. */
export const mostItems = 200

/** Items that hold every word in SKU or description, by SKU, with what is free in the warehouse. */
export async function findItems({ db, actor }: Context, words: string): Promise<ItemRow[]> {
  authorise(actor, "orders.see")
  const query = db("item as i")
  for (const word of words.trim().split(/\s+/).filter(Boolean).slice(0, 6)) {
    const like = `%${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`
    query.where((any) => any.where(likeInAnyCase(db, "i.sku", like)).orWhere("i.description", "like", like))
  }
  const free = db("stock as s")
    .whereRaw("s.item_id = i.id")
    .where("s.warehouse_id", actor.warehouseId)
    .select(db.raw("COALESCE(SUM(s.on_hand - s.allocated), 0)"))
  const rows = await query.orderBy("i.sku").limit(mostItems).select("i.*", free.as("free"))
  return rows.map(itemRow)
}

function itemRow(row: Columns & { readonly free: number }): ItemRow {
  const customsDescription: string = row.customs_description || row.description
  const gaps: string[] = []
  if (row.weight_kg === null) gaps.push("pounds")
  if (!isHsCode(row.hs_code ?? "")) gaps.push("hsCode")
  if (!row.origin) gaps.push("origin")
  if (!saysWhatItIs(customsDescription)) gaps.push("customsDescription")
  const dangerous = dangerousOf(row)
  if (dangerous) gaps.push(...dangerousFlaws(dangerous, { line: 0, sku: row.sku }).map((gap) => gap.values.field ?? ""))
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
    material: row.material,
    use: row.customs_use,
    unit: row.customs_unit,
    netKg: row.net_kg === null ? "" : String(Number(row.net_kg)),
    category: row.category,
    classItem: row.class_item,
    unNumber: row.un_number ?? "",
    dangerous,
    gaps,
    free: Number(row.free),
    packing: {
      goodsKind: row.goods_kind,
      upright: !!row.this_side_up,
      stackable: !!row.stackable,
      fragile: !!row.fragile,
      ownCarton: !!row.own_carton,
      loadLimit:
        row.load_limit_kg === null ? "" : massIn(mass(row.load_limit_kg, "kg"), "lb").toDecimalPlaces(2).toString(),
    },
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
  material: z.string().trim().max(60, { error: "item.customsDescription" }).optional(),
  use: z.string().trim().max(60, { error: "item.customsDescription" }).optional(),
  unit: z.enum(["", ...customsUnits], { error: "customs.unit" }).optional(),
  netKg: z
    .string()
    .trim()
    .transform((text) => text.replace(",", "."))
    .refine((text) => /^(\d{1,6}(\.\d{1,6})?)?$/.test(text), { error: "customs.net" })
    .optional(),
  category: z.enum(["", ...goodsCategories], { error: "item.category" }).optional(),
  classItem: z
    .string()
    .trim()
    .regex(/^[\d-]{0,12}$/, { error: "item.classItem" })
    .optional(),
  unNumber: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^(UN\d{4})?$/, { error: "item.unNumber" })
    .optional(),
  properShippingName: z.string().trim().max(120, { error: "item.properShippingName" }).default(""),
  hazardClass: z.string().trim().toUpperCase().max(8, { error: "item.hazardClass" }).default(""),
  packingGroup: z.enum(["", ...packingGroups], { error: "item.packingGroup" }).default(""),
  innerQuantity: z
    .string()
    .trim()
    .regex(/^(\d{1,6}([.,]\d{1,4})?)?$/, { error: "item.innerQuantity" })
    .default(""),
  innerUnit: z.enum(["", ...innerUnits], { error: "item.innerUnit" }).default(""),
  limitedQuantity: z.enum(["", "yes", "no"], { error: "item.limitedQuantity" }).default(""),
  innerCount: z
    .string()
    .trim()
    .regex(/^(\d{1,5})?$/, { error: "item.innerCount" })
    .default(""),
  technicalName: z.string().trim().max(80, { error: "item.properShippingName" }).default(""),
  subsidiary: z
    .string()
    .trim()
    .regex(/^(\d(\.\d)?(, ?\d(\.\d)?)?)?$/, { error: "item.hazardClass" })
    .default(""),
  lithiumUnit: z.enum(["", "cell", "battery"], { error: "item.lithium" }).default(""),
  lithiumCount: z
    .string()
    .trim()
    .regex(/^(\d{1,4})?$/, { error: "item.lithium" })
    .default(""),
  lithiumFigure: z
    .string()
    .trim()
    .transform((text) => text.replace(",", "."))
    .refine((text) => /^(\d{1,5}(\.\d{1,3})?)?$/.test(text), { error: "item.lithium" })
    .default(""),
  lithiumButton: z.literal("on").optional(),
})

type OfDangerous =
  | "unNumber"
  | "properShippingName"
  | "hazardClass"
  | "packingGroup"
  | "innerQuantity"
  | "innerUnit"
  | "limitedQuantity"
  | "innerCount"
  | "technicalName"
  | "subsidiary"
  | "lithiumUnit"
  | "lithiumCount"
  | "lithiumFigure"
  | "lithiumButton"
/** What a form says of an item; of dangerous goods all or nothing. */
export type ItemForm = Omit<z.infer<typeof itemForm>, OfDangerous> &
  Partial<Pick<z.infer<typeof itemForm>, OfDangerous>>

/**
 * Completes what an item lacks for rating and customs. Answers whether anything was changed; refused when somebody else
 * changed it meanwhile.
 */
export async function changeItem(context: Context, form: ItemForm): Promise<Outcome<boolean>> {
  const { db, actor, now } = context
  authorise(actor, "goods.complete")
  const fields = {
    weight_kg: form.pounds ? mass(form.pounds.replace(",", "."), "lb").toFixed(12) : null,
    freight_class: form.freightClass || null,
    customs_description: form.customsDescription,
    hs_code: form.hsCode || null,
    origin: form.origin || null,
    // a form that says nothing of these leaves them as they are
    ...(form.material === undefined ? {} : { material: form.material }),
    ...(form.use === undefined ? {} : { customs_use: form.use }),
    ...(form.unit === undefined ? {} : { customs_unit: form.unit }),
    ...(form.netKg === undefined ? {} : { net_kg: form.netKg ? Number(form.netKg).toFixed(12) : null }),
    ...(form.category === undefined ? {} : { category: form.category }),
    ...(form.classItem === undefined ? {} : { class_item: form.classItem }),
    // a form that says nothing of dangerous goods leaves them as they are
    ...(form.unNumber === undefined ? {} : dangerousFields(form)),
  } as Record<string, string | number | boolean | null>
  return inTransaction(db, async (trx): Promise<Outcome<boolean>> => {
    const item = await trx("item").where({ id: form.id }).forUpdate().first()
    if (!item) return refused(reason("item.unknown"))
    const same = (name: string) =>
      (name === "weight_kg" || name === "inner_quantity" || name === "net_kg") &&
      item[name] !== null &&
      fields[name] !== null
        ? Number(columnOf(item, name)) === Number(fields[name])
        : name === "limited_quantity" && item[name] !== null
          ? !!item[name] === fields[name]
          : name === "lithium"
            ? sameLithium(item.lithium, fields.lithium)
            : (columnOf(item, name) ?? null) === fields[name]
    const names = Object.keys(fields).filter((name) => !same(name))
    if (names.length === 0) return accepted(false)
    if (item.version !== form.version) return refused(reason("item.changed-meanwhile", { sku: item.sku }))
    await trx("item")
      .where({ id: form.id })
      .update({ ...fields, version: item.version + 1 })
    await record(trx, actor, now, {
      action: "item.changed",
      detail: {
        sku: item.sku,
        changes: names.map((name) => ({
          field: name,
          from: (columnOf(item, name) ?? "") as FieldChange["from"],
          to: fields[name] ?? "",
        })),
      },
    })
    return accepted(true)
  })
}

/** What a form says of cells as it is kept; null where it says nothing, or of other goods. */
function lithiumText(form: ItemForm): string | null {
  const unNumber = form.unNumber ?? ""
  if (!isLithium(unNumber) || !form.lithiumUnit || !form.lithiumFigure) return null
  const ion = lithiumEntry(unNumber).chemistry === "ion"
  const facts: LithiumFacts = {
    unit: form.lithiumUnit,
    count: Math.max(1, Number(form.lithiumCount || 1)),
    wattHours: ion ? form.lithiumFigure : null,
    grams: ion ? null : form.lithiumFigure,
    button: form.lithiumButton === "on",
  }
  return JSON.stringify(facts)
}

/** Whether two records of cells say the same, however the database writes them. */
const sameLithium = (kept: unknown, wanted: unknown): boolean => {
  const text = (one: unknown) =>
    one === null || one === undefined ? "" : JSON.stringify(lithiumSchema.parse(parsed(one as string)))
  return text(kept) === text(wanted)
}

const dangerousFields = (form: ItemForm) =>
  form.unNumber
    ? {
        un_number: form.unNumber,
        proper_shipping_name: form.properShippingName ?? "",
        hazard_class: form.hazardClass ?? "",
        packing_group: form.packingGroup ?? "",
        inner_quantity: form.innerQuantity?.replace(",", ".") || null,
        inner_unit: form.innerUnit ?? "",
        limited_quantity: !form.limitedQuantity ? null : form.limitedQuantity === "yes",
        inner_count: Number(form.innerCount || 1),
        technical_name: form.technicalName ?? "",
        subsidiary_hazard: form.subsidiary ?? "",
        lithium: lithiumText(form),
      }
    : {
        un_number: null,
        proper_shipping_name: "",
        hazard_class: "",
        packing_group: "",
        inner_quantity: null,
        inner_unit: "",
        limited_quantity: null,
        inner_count: 1,
        technical_name: "",
        subsidiary_hazard: "",
        lithium: null,
      }
