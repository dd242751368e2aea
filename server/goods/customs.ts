import type { CustomsFacts } from "core/customs/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import { Decimal } from "decimal.js"
import type { ItemRow, OrderLineRow } from "../db/tables.ts"

/**
 * The customs facts of a line whose row carries its item's columns: the item's own words for customs, or its
 * description; the value of one base unit by the order's price for its unit, or by the item's value in that currency.
 */
export function customsOf(
  row: ItemRow & Pick<OrderLineRow, "line_number" | "unit" | "unit_price">,
  currency: string,
  levels: readonly ItemLevel[],
): CustomsFacts {
  const count = levels.find((level) => level.name === row.unit)?.count ?? 1
  return {
    lineNumber: row.line_number,
    sku: row.sku,
    description: row.customs_description || row.description,
    hsCode: row.hs_code ?? "",
    origin: row.origin ?? "",
    unitValue:
      row.unit_price !== null
        ? new Decimal(row.unit_price).div(count)
        : row.currency === currency
          ? new Decimal(row.value)
          : null,
  }
}
