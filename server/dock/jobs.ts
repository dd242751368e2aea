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
