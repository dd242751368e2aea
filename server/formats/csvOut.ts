import { stringify } from "csv-stringify/sync"

/** Text that a spreadsheet would take for a formula. */
const formula = /^[=+\-@\t\r]/

/**
 * Rows as CSV (RFC 4180, UTF-8 with a byte-order mark, so that spreadsheets read it as such). Text that begins with
 * = + - @ tab or CR gets an apostrophe before it, numbers never; our reader takes it off again.
 */
export const csvText = (columns: readonly string[], rows: readonly CsvRow[]): string =>
  `\ufeff${csvRows(columns, [Object.fromEntries(columns.map((name) => [name, name])), ...rows])}`

export type CsvRow = Readonly<Record<string, string | number | null>>

/** A part of such a text: rows without the head. */
export const csvRows = (columns: readonly string[], rows: readonly CsvRow[]): string =>
  stringify(
    rows.map((row) => columns.map((name) => guarded(row[name] ?? null))),
    { record_delimiter: "\r\n" },
  )

const guarded = (value: string | number | null): string | number | null =>
  typeof value === "string" && formula.test(value) && !/^-?\d+([.,]\d+)?$/.test(value) ? `'${value}` : value
