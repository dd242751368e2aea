import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Sends what waits for a printer. */
export const printing = jobKind({
  name: "print",
  payload: z.object({ printerId: rowId }),
  needs: "outside",
  owner: async (trx, { printerId }) => {
    const row = await trx("printer").where({ id: printerId }).first("warehouse_id")
    return { warehouseId: row?.warehouse_id ?? null }
  },
  keptDays: 1,
})
