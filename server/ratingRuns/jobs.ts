import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Rates a part of a rating run; the next part is another job. */
export const ratingRun = jobKind({
  name: "rating.run",
  payload: z.object({ runId: rowId, part: z.number().int().min(0) }),
  needs: "computing",
  owner: async (trx, { runId }) => {
    const row = await trx("rating_run").where({ id: runId }).first("warehouse_id")
    return { warehouseId: row?.warehouse_id ?? null }
  },
  keptDays: null,
})
