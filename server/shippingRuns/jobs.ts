import type { Knex } from "knex"
import { z } from "zod"
import { jobKind, type Owner } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

const ownerOfRun = async (trx: Knex, { runId }: { readonly runId: number }): Promise<Owner> => {
  const row = await trx("shipping_run").where({ id: runId }).first("warehouse_id")
  return { warehouseId: row?.warehouse_id ?? null }
}

/** Packs and rates the orders of a shipping run that wait for it. */
export const preparing = jobKind({
  name: "shipping-run.prepare",
  payload: z.object({ runId: rowId }),
  needs: "computing",
  owner: ownerOfRun,
  keptDays: 7,
})

/** Asks for the labels of the next orders of a run that is bought. */
export const runBuying = jobKind({
  name: "shipping-run.buy",
  payload: z.object({ runId: rowId }),
  needs: "database",
  owner: ownerOfRun,
  keptDays: 7,
})

/** Prints what a run has bought, in one go. */
export const runPrinting = jobKind({
  name: "shipping-run.print",
  payload: z.object({ runId: rowId, key: z.string() }),
  needs: "database",
  owner: ownerOfRun,
  keptDays: null,
})
