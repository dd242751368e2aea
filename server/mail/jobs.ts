import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Hands what waits to the mail server, each message under its own id. One of an earlier release named a single message. */
export const mailing = jobKind({
  name: "mail.send",
  payload: z.object({ mailId: rowId.optional() }),
  needs: "outside",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 24,
  patient: true,
})
