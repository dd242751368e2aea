import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Makes a message of the trade and hands it to its customer's system, under its own key. */
export const sendingEdi = jobKind({
  name: "edi.send",
  payload: z.object({ messageId: rowId }),
  needs: "outside",
  owner: async (trx, { messageId }) => {
    const row = await trx("edi_message").where({ id: messageId }).first("warehouse_id", "order_id")
    return { warehouseId: row?.warehouse_id ?? null, orderId: row?.order_id ?? null }
  },
  keptDays: null,
  patient: true,
})

/** Looks for acknowledgments in the folders that messages are put in. */
export const readingAnswers = jobKind({
  name: "edi.answers",
  payload: z.object({}),
  needs: "database",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})
