import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { jobKind, type Owner } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

const ofOrder = z.object({ orderId: rowId })
const ownerOfOrder = async (trx: Knex, { orderId }: { readonly orderId: OrderId }): Promise<Owner> => {
  const row = await trx("sales_order").where({ id: orderId }).first("warehouse_id")
  return { warehouseId: row?.warehouse_id ?? null, orderId }
}

/** Sends an order to the outside warehouse that ships it, by its key. */
export const sendingOutside = jobKind({
  name: "outside.send",
  payload: ofOrder,
  needs: "outside",
  owner: ownerOfOrder,
  keptDays: null,
})

/** Asks an outside warehouse how an order stands. */
export const askingOutside = jobKind({
  name: "outside.ask",
  payload: ofOrder,
  needs: "outside",
  owner: ownerOfOrder,
  keptDays: 1 / 144,
})

/** Records the good rows of a file of tracking numbers. */
export const takingTracking = jobKind({
  name: "tracking.take",
  payload: z.object({ fileId: rowId }),
  needs: "database",
  owner: async (trx, { fileId }) => {
    const row = await trx("tracking_file").where({ id: fileId }).first("warehouse_id")
    return { warehouseId: row?.warehouse_id ?? null }
  },
  keptDays: 30,
})
