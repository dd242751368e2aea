import type { SourceId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { jobKind, type Owner } from "../jobs/kind.ts"
import { actorShape, rowId } from "../jobs/shapes.ts"

const ownerOfSource = async (trx: Knex, { sourceId }: { readonly sourceId: SourceId }): Promise<Owner> => {
  const row = await trx("order_source").where({ id: sourceId }).first("pull_warehouse_id")
  return { warehouseId: row?.pull_warehouse_id ?? null }
}

/** Imports a part of a large file; the next part is another job. */
export const importing = jobKind({
  name: "intake.take",
  payload: z.object({ intakeId: rowId, part: z.number().int().min(0), by: actorShape }),
  needs: "database",
  owner: (_trx, { by }) => ({ warehouseId: by.warehouseId }),
  keptDays: null,
})

/** Imports one order that was set aside. */
export const importingOne = jobKind({
  name: "intake.order",
  payload: z.object({ intakeId: rowId, position: z.number().int().min(0), by: actorShape }),
  needs: "database",
  owner: (_trx, { by }) => ({ warehouseId: by.warehouseId }),
  keptDays: null,
})

const ofSource = z.object({ sourceId: rowId })

/** Asks a source for its new orders. */
export const pulling = jobKind({
  name: "source.pull",
  payload: ofSource,
  needs: "outside",
  owner: ownerOfSource,
  keptDays: 1 / 144,
})

/** Looks into the folder that a source drops its files in. */
export const watching = jobKind({
  name: "source.folder",
  payload: ofSource,
  needs: "database",
  owner: ownerOfSource,
  keptDays: 1 / 144,
})
