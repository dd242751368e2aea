import { type Reason, reason } from "../../refusal/index.ts"
import { type Tariff, tariffSchema } from "../schema.ts"
import { type CellError, checkCells, records, type TariffTable } from "./cells.ts"
import { kindsOf } from "./kinds.ts"

export type { CellError, TariffTable } from "./cells.ts"

/**
 * The tables of a tariff, for a spreadsheet: zones and regions by chart, areas, fuel, and by service its rates,
 * surcharges and days on the way. What is no table (limits, options, calendars) is in the document alone.
 */
export const tariffTables = (tariff: Tariff): TariffTable[] =>
  kindsOf(tariff).map(({ name, columns, rows }) => ({ name, header: columns.map((one) => one.name), rows }))

export type TableAnswer =
  | { readonly ok: true; readonly tariff: Tariff }
  | { readonly ok: false; readonly cells: readonly CellError[] }

/**
 * The tariff with one of its tables replaced, or what is wrong with it cell by cell. Columns may stand in another order
 * than they were given out. What the document's schema says of the whole is told of the table's header.
 */
export function withTable(tariff: Tariff, table: TariffTable): TableAnswer {
  const kind = kindsOf(tariff).find((one) => one.name === table.name)
  if (!kind) return whole(reason("cell.no-table", { name: table.name }))
  const cells = checkCells(kind.columns, table)
  if (cells.length > 0) return { ok: false, cells }
  const read = tariffSchema.safeParse(kind.put(records(table)))
  if (read.success) return { ok: true, tariff: read.data }
  return whole(
    ...read.error.issues
      .slice(0, 20)
      .map((issue) => reason("cell.schema", { path: issue.path.join("."), why: issue.message })),
  )
}

const whole = (...reasons: Reason[]): TableAnswer => ({
  ok: false,
  cells: reasons.map((why) => ({ row: 0, column: "", value: "", why })),
})
