import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"

/** Writes the words that orders of an earlier release are found by. */
export const wording = jobKind({
  name: "orders.words",
  payload: z.object({}),
  needs: "database",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})
