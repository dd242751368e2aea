import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { nameShape } from "../jobs/shapes.ts"

/** Checks open orders of every warehouse again, from one on; the rest is another job. */
export const rechecking = jobKind({
  name: "orders.recheck",
  payload: z.object({ after: z.number().int().min(0), by: nameShape }),
  needs: "database",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})
