import type { Readable } from "node:stream"
import type { FloorPlan, PlanBin } from "core/floorPlan/index.ts"
import { type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { csvText } from "../formats/csvOut.ts"
import { csvRows } from "../formats/ordersCsv.ts"
import { floorOf, putPlan } from "./index.ts"

/** Columns of a file of bins; meters from the floor's lower left corner. */
export const binColumns = ["code", "aisle", "x_m", "y_m", "level"] as const

const metre = /^\d{1,4}([.,]\d{1,3})?$/

/**
 * Puts the bins of a CSV file in the place of the plan's. All or nothing, since a floor on which half of the bins
 * are missing sends people astray: every bad row is named with its line and field, and the plan stays as it is.
 */
export async function importBins(
  context: Context,
  version: number,
  bytes: Readable,
): Promise<Outcome<{ bins: number }>> {
  authorise(context.actor, "warehouse.manage")
  const { plan } = await floorOf(context.db, context.actor.warehouseId)
  const bins: PlanBin[] = []
  const reasons: Reason[] = []
  let line = 1
  for await (const record of csvRows(bytes)) {
    line += 1
    if (line === 2 && binColumns.some((name) => !(name in record)))
      return refused(reason("file.columns-missing", { columns: binColumns.join(", ") }))
    const bad = (field: (typeof binColumns)[number]) =>
      reasons.push(reason("floor-plan.bin-row", { line, field, value: String(record[field] ?? "").slice(0, 40) }))
    const text = (field: (typeof binColumns)[number]) => String(record[field] ?? "").trim()
    for (const field of ["code", "aisle"] as const)
      if (!/^[A-Za-z0-9][A-Za-z0-9._-]{0,15}$/.test(text(field))) bad(field)
    for (const field of ["x_m", "y_m"] as const) if (!metre.test(text(field))) bad(field)
    if (!/^\d{1,2}$/.test(text("level"))) bad("level")
    bins.push({
      code: text("code"),
      aisle: text("aisle"),
      x: Number(text("x_m").replace(",", ".")),
      y: Number(text("y_m").replace(",", ".")),
      level: Number(text("level")),
    })
    if (reasons.length >= 40) break
  }
  if (reasons.length > 0) return { ok: false, reasons }
  if (bins.length === 0) return refused(reason("file.empty"))
  return putPlan(context, version, { ...plan, bins } satisfies FloorPlan)
}

/** The plan's bins as CSV, to be imported again. */
export async function exportBins(context: Context): Promise<string> {
  authorise(context.actor, "packing.see")
  const { plan } = await floorOf(context.db, context.actor.warehouseId)
  return csvText(
    binColumns,
    plan.bins.map((bin) => ({ code: bin.code, aisle: bin.aisle, x_m: bin.x, y_m: bin.y, level: bin.level })),
  )
}
