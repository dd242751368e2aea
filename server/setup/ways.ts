import { accepted, type Outcome } from "core/refusal/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"

const tick = z
  .string()
  .optional()
  .transform((value) => value === "on")
export const waysForm = z.object({ pack: tick, weigh: tick })

/** How a warehouse works: whether runs pack what nobody has packed, and whether every package is weighed. */
export async function saveWays(context: Context, { pack, weigh }: z.output<typeof waysForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  await inTransaction(db, async (trx) => {
    await trx("warehouse").where({ id: actor.warehouseId }).update({ pack_in_runs: pack, weigh_all: weigh })
    await record(trx, actor, now, { action: "preference.saved", warehouseId: actor.warehouseId })
  })
  return accepted(null)
}
