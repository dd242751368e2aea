import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Deals items out again to the orders of a warehouse that wait for them. */
export const dealing = jobKind({
  name: "stock.deal",
  payload: z.object({ warehouseId: rowId, itemIds: z.array(rowId) }),
  needs: "database",
  owner: (_trx, { warehouseId }) => ({ warehouseId }),
  keptDays: 1,
})
