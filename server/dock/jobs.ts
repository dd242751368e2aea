import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

const ofCollection = (name: "dock.depart") =>
  jobKind({
    name,
    payload: z.object({ collectionId: rowId, closing: z.number().int() }),
    needs: "database",
    owner: async (trx, { collectionId }) => {
      const row = await trx("collection").where({ id: collectionId }).first("warehouse_id")
      return { warehouseId: row?.warehouse_id ?? null }
    },
    keptDays: 30,
  })

/** Makes a closing final once the time is over in which a lead may reopen the door. */
export const departing = ofCollection("dock.depart")

/** Sends a form to the carrier as data, by the form's own key. */
export const telling = jobKind({
  name: "dock.tell",
  payload: z.object({ formId: rowId }),
  needs: "outside",
  owner: async (trx, { formId }) => {
    const row = await trx("closing_form").where({ id: formId }).first("warehouse_id")
    return { warehouseId: row?.warehouse_id ?? null }
  },
  keptDays: null,
})

/** Books a collection with its carrier, changes or cancels it, by the booking's own key. */
export const collecting = jobKind({
  name: "dock.collect",
  payload: z.object({ bookingId: rowId }),
  needs: "outside",
  owner: async (trx, { bookingId }) => {
    const row = await trx("booked_collection").where({ id: bookingId }).first("warehouse_id", "order_id")
    return { warehouseId: row?.warehouse_id ?? null, orderId: row?.order_id ?? null }
  },
  keptDays: null,
})
