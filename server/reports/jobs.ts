import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Tells an order's source what became of it, under the message's own id. */
export const reporting = jobKind({
  name: "outbox.send",
  payload: z.object({ outboxId: rowId }),
  needs: "outside",
  owner: async (trx, { outboxId }) => {
    const row = await trx("outbox as x")
      .join("sales_order as o", "o.id", "x.order_id")
      .where("x.id", outboxId)
      .first("o.id", "o.warehouse_id")
    return { warehouseId: row?.warehouse_id ?? null, orderId: row?.id ?? null }
  },
  keptDays: null,
  patient: true,
})
