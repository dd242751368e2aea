import { keptTogether } from "core/packing/index.ts"
import { accepted, type Outcome } from "core/refusal/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"

const tick = z
  .string()
  .optional()
  .transform((value) => value === "on")
export const waysForm = z.object({
  pack: tick,
  weigh: tick,
  together: z.enum(keptTogether).default("no"),
  heavy: tick,
  cold: tick,
  fill: z
    .string()
    .trim()
    .regex(/^\d{1,2}([.,]\d)?$/, { error: "ways.fill-wrong" })
    .transform((text) => Number(text.replace(",", ".")))
    .refine((percent) => percent <= 60, { error: "ways.fill-wrong" })
    .default(0),
})

/**
 * How a warehouse works: whether runs pack what nobody has packed, whether every package is weighed, and what suggested
 * cartons go by: how much of them is left for filling material, and whether the pieces of a line or of a lot stay together; and what walks take
 * first and last.
 */
export async function saveWays(
  context: Context,
  { pack, weigh, together, heavy, cold, fill }: z.output<typeof waysForm>,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  await inTransaction(db, async (trx) => {
    await trx("warehouse")
      .where({ id: actor.warehouseId })
      .update({
        pack_in_runs: pack,
        weigh_all: weigh,
        keep_together: together,
        heavy_first: heavy,
        cold_last: cold,
        fill_share: (fill / 100).toFixed(3),
      })
    await record(trx, actor, now, { action: "preference.saved", warehouseId: actor.warehouseId })
  })
  return accepted(null)
}
