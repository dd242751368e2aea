import type { ReturnId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { jobKind, type Owner } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

const ofReturn = z.object({ returnId: rowId })
const ownerOfReturn = async (trx: Knex, { returnId }: { readonly returnId: ReturnId }): Promise<Owner> => {
  const row = await trx("return_intent").where({ id: returnId }).first("warehouse_id", "order_id")
  return { warehouseId: row?.warehouse_id ?? null, orderId: row?.order_id ?? null }
}

/** Books a label for the way back, by its key. */
export const bookingReturn = jobKind({
  name: "return.book",
  payload: ofReturn,
  needs: "outside",
  owner: ownerOfReturn,
  keptDays: null,
})

/** Makes a label for the way back void at its carrier. */
export const voidingReturn = jobKind({
  name: "return.void",
  payload: ofReturn,
  needs: "outside",
  owner: ownerOfReturn,
  keptDays: null,
})

/** Asks for the label for the way back that goes along with a shipment that was bought. */
export const askingReturn = jobKind({
  name: "return.with",
  payload: z.object({ intentId: rowId }),
  needs: "database",
  owner: async (trx, { intentId }): Promise<Owner> => {
    const row = await trx("buy_intent as i")
      .join("shipment as h", "h.id", "i.shipment_id")
      .where("i.id", intentId)
      .first("h.warehouse_id", "h.order_id")
    return { warehouseId: row?.warehouse_id ?? null, orderId: row?.order_id ?? null }
  },
  keptDays: null,
})

/** Asks carriers whether labels that are paid when they are scanned were. */
export const lookingForScans = jobKind({
  name: "return.scans",
  payload: z.object({}),
  needs: "outside",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})

/** Waits for packages that carriers bring back to us since they could not be delivered. */
export const expectingUndelivered = jobKind({
  name: "return.expect",
  payload: z.object({}),
  needs: "database",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})
