import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Hands a message to the mail server, under its own message id. */
export const mailing = jobKind({
  name: "mail.send",
  payload: z.object({ mailId: rowId }),
  needs: "outside",
  owner: async (trx, { mailId }) => {
    const row = await trx("mail").where({ id: mailId }).first("warehouse_id")
    return { warehouseId: row?.warehouse_id ?? null }
  },
  keptDays: null,
})
