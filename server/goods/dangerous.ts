import { type DangerousFacts, type LithiumFacts, mannerOf } from "core/dangerous/index.ts"
import type { DangerousGood } from "core/rating/index.ts"
import type { GoodsCategory } from "core/tariff/index.ts"
import { z } from "zod"
import { parsed } from "../audit/index.ts"
import type { ItemRow } from "../db/tables.ts"

/** What is kept of cells and batteries. */
export const lithiumSchema: z.ZodType<LithiumFacts> = z.strictObject({
  unit: z.enum(["cell", "battery"]),
  count: z.number().int().min(1).max(10_000),
  wattHours: z.string().nullable(),
  grams: z.string().nullable(),
  button: z.boolean(),
})

type DangerousColumns = Pick<
  ItemRow,
  | "un_number"
  | "proper_shipping_name"
  | "hazard_class"
  | "packing_group"
  | "inner_quantity"
  | "inner_unit"
  | "inner_count"
  | "limited_quantity"
  | "technical_name"
  | "subsidiary_hazard"
  | "lithium"
>

/** The facts of dangerous goods of a row that carries its item's columns; null for goods that are not dangerous. */
export const dangerousOf = (row: DangerousColumns): DangerousFacts | null =>
  row.un_number
    ? {
        unNumber: row.un_number,
        properShippingName: row.proper_shipping_name,
        hazardClass: row.hazard_class,
        packingGroup: row.packing_group,
        innerQuantity: row.inner_quantity,
        innerUnit: row.inner_unit,
        innerCount: row.inner_count,
        limitedQuantity: row.limited_quantity === null ? null : !!row.limited_quantity,
        technicalName: row.technical_name,
        subsidiary: row.subsidiary_hazard,
        lithium: row.lithium === null ? null : lithiumSchema.parse(parsed(row.lithium)),
      }
    : null

/**
 * The same as carriers ask it: excepted where it can go by road as limited quantity or as small cells. Dry ice that is
 * shipped as goods is asked like any other.
 */
export function dangerousGood(row: DangerousColumns): DangerousGood | null {
  const facts = dangerousOf(row)
  if (!facts) return null
  const by = (regime: "road" | "air") => ["limited", "small-lithium"].includes(mannerOf(facts, regime))
  return {
    unNumber: facts.unNumber,
    hazard: facts.hazardClass || "?",
    limitedQuantity: by("road"),
    ...(by("road") && !by("air") ? { regulatedByAir: true } : {}),
  }
}

/** The category that tariffs treat an item as. */
export const categoryOf = ({ category }: Pick<ItemRow, "category">): GoodsCategory | null =>
  category === "" ? null : (category as GoodsCategory)
