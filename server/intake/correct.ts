import type { Readable } from "node:stream"
import type { IntakeId } from "core/ids/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { csvText } from "../formats/csvOut.ts"
import { FileRefused, fields } from "../formats/orderRow.ts"
import { csvRows } from "../formats/ordersCsv.ts"
import { correctRow, refusedRows } from "./file.ts"
import { takeIn } from "./take.ts"

/** The refused rows of an intake as CSV: their line, what was wrong, and every field as it came. */
export async function refusedCsv(
  context: Context,
  intakeId: IntakeId,
  inWords: (reasons: readonly Reason[]) => string,
): Promise<string> {
  const rows = await refusedRows(context, intakeId)
  const own = [...new Set(rows.flatMap((row) => Object.keys(row.raw)))].filter(
    (name) => !fields.includes(name as never),
  )
  return csvText(
    ["line", "wrong", ...fields, ...own],
    rows.map((row) => ({ line: row.line, wrong: inWords(row.refusals), ...row.raw })),
  )
}

/**
 * Reads corrected rows, as `refusedCsv` gave them out, and puts each in the place of the row of its line; the others of
 * the intake stay as they are. Answers how many are good now, and what is wrong with the rest.
 */
export async function correctRows(
  context: Context,
  intakeId: IntakeId,
  bytes: Readable,
): Promise<{ corrected: number; reasons: readonly Reason[] }> {
  authorise(context.actor, "orders.work")
  const file = await context
    .db("intake_file")
    .where({ id: intakeId, warehouse_id: context.actor.warehouseId })
    .first("taken_at")
  const taken = !!file?.taken_at
  const reasons: Reason[] = []
  let corrected = 0
  for await (const record of csvRows(bytes)) {
    if (!("line" in record)) throw new FileRefused(reason("file.columns-missing", { columns: "line" }))
    const line = Number(record.line)
    const outcome = await correctRow(context, intakeId, Number.isInteger(line) ? line : -1, record, false)
    if (outcome.ok) corrected += 1
    else reasons.push(...outcome.reasons)
  }
  // what was imported before is taken again, order by order; an intake that waits goes on waiting
  if (corrected > 0 && taken) await takeIn(context, intakeId)
  return { corrected, reasons }
}
