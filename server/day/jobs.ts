import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Keeps a warehouse's day: coming trucks, and orders that can't make theirs any more. */
export const keepingDay = jobKind({
  name: "day.keep",
  payload: z.object({ warehouseId: rowId }),
  needs: "database",
  owner: (_trx, { warehouseId }) => ({ warehouseId }),
  keptDays: 1 / 144,
})
