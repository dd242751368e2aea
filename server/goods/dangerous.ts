import type { DangerousFacts } from "core/dangerous/index.ts"
import type { DangerousGood } from "core/rating/index.ts"

/** The facts of dangerous goods of a row that carries its item's columns; null for goods that are not dangerous. */
// biome-ignore lint/suspicious/noExplicitAny: a row as the driver gives it
export const dangerousOf = (row: any): DangerousFacts | null =>
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
// biome-ignore lint/suspicious/noExplicitAny: a row as the driver gives it
export const dangerousGood = (row: any): DangerousGood | null =>
  row.un_number
    ? { unNumber: row.un_number, hazard: row.hazard_class || "?", limitedQuantity: !!row.limited_quantity }
    : null
