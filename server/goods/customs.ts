import { type CustomsFacts, type LineCustoms, lineCustomsSchema } from "core/customs/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import { type Mass, mass } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import { parsed } from "../audit/index.ts"
import type { ItemRow, OrderLineRow } from "../db/tables.ts"

type LineColumns = ItemRow & Pick<OrderLineRow, "line_number" | "unit" | "unit_price" | "customs">

/** What a line says to customs otherwise than its item; null: nothing. */
export const lineCustomsOf = ({ customs }: Pick<OrderLineRow, "customs">): LineCustoms | null =>
  customs === null ? null : lineCustomsSchema.parse(parsed(customs))

/**
 * The customs facts of a line whose row carries its item's columns: what was said for this line, or the item's own words
 * for customs, or its description; the value of one base unit by the order's price for its unit, or by the item's value in
 * that currency where the order has none (a gift or a sample is worth something).
 */
export function customsOf(row: LineColumns, currency: string, levels: readonly ItemLevel[]): CustomsFacts {
  const count = levels.find((level) => level.name === row.unit)?.count ?? 1
  const own = lineCustomsOf(row)
  const priced = row.unit_price !== null && Number(row.unit_price) > 0
  return {
    lineNumber: row.line_number,
    sku: row.sku,
    description: own?.description || row.customs_description || row.description,
    material: own?.material || row.material,
    use: own?.use || row.customs_use,
    unit: own?.unit || row.customs_unit,
    hsCode: own?.hsCode || row.hs_code || "",
    origin: own?.origin || row.origin || "",
    unitValue: own?.value
      ? new Decimal(own.value)
      : priced
        ? new Decimal(row.unit_price as string).div(count)
        : row.currency === currency
          ? new Decimal(row.value)
          : null,
  }
}

/** Net mass of one base unit: as it was said for customs, else what it weighs; null where nobody has said. */
export function netOf(row: LineColumns): Mass | null {
  const kg = lineCustomsOf(row)?.netKg || row.net_kg || row.weight_kg
  return kg === null ? null : mass(kg, "kg")
}
