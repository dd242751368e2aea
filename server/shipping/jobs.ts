import type { IntentId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { roles } from "../actors/index.ts"
import { jobKind, type Owner } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** The shipment's warehouse and its order, by the intent to buy. */
const ownerOfIntent = async (trx: Knex, { intentId }: { readonly intentId: IntentId }): Promise<Owner> => {
  const row = await trx("buy_intent as i")
    .join("shipment as s", "s.id", "i.shipment_id")
    .where("i.id", intentId)
    .first("s.warehouse_id", "s.order_id")
  return { warehouseId: row?.warehouse_id ?? null, orderId: row?.order_id ?? null }
}

/** Asks a carrier to book a shipment, by the key of its intent. */
export const booking = jobKind({
  name: "carrier.book",
  payload: z.object({ intentId: rowId }),
  needs: "outside",
  owner: ownerOfIntent,
  keptDays: null,
})

/** Asks a carrier to void a booking; what is canceled with its labels goes on from there. */
export const voiding = jobKind({
  name: "carrier.void",
  payload: z.object({
    intentId: rowId,
    userId: z.number().int().nullable(),
    actor: z.string(),
    cancels: z
      .object({ orderId: rowId, changeId: rowId.nullable(), role: z.enum(roles), warehouseId: rowId })
      .optional(),
  }),
  needs: "outside",
  owner: ownerOfIntent,
  keptDays: null,
})
