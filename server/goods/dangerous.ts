import type { DangerousFacts } from "core/dangerous/index.ts"
import type { DangerousGood } from "core/rating/index.ts"
import type { ItemRow } from "../db/tables.ts"

/** The facts of dangerous goods of a row that carries its item's columns; null for goods that are not dangerous. */
export const dangerousOf = (row: ItemRow): DangerousFacts | null =>
  row.un_number
    ? {
        unNumber: row.un_number,
        properShippingName: row.proper_shipping_name,
        hazardClass: row.hazard_class,
        packingGroup: row.packing_group,
        innerQuantity: row.inner_quantity,
        innerUnit: row.inner_unit,
        limitedQuantity: row.limited_quantity === null ? null : !!row.limited_quantity,
      }
    : null

/** The same as carriers ask it; what is not known is no limited quantity. */
export const dangerousGood = (
  row: Pick<ItemRow, "un_number" | "hazard_class" | "limited_quantity">,
): DangerousGood | null =>
  row.un_number
    ? { unNumber: row.un_number, hazard: row.hazard_class || "?", limitedQuantity: !!row.limited_quantity }
    : null
