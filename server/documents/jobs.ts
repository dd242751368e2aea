import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Sends a paper to its printer; the job's name there is its own. */
export const printing = jobKind({
  name: "print",
  payload: z.object({ printJobId: rowId }),
  needs: "outside",
  owner: async (trx, { printJobId }) => {
    const row = await trx("print_job as p")
      .join("document as d", "d.id", "p.document_id")
      .where("p.id", printJobId)
      .first("d.warehouse_id", "d.order_id")
    return { warehouseId: row?.warehouse_id ?? null, orderId: row?.order_id ?? null }
  },
  keptDays: null,
})
