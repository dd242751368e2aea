import { stringify } from "csv-stringify/sync"

/** Text that a spreadsheet would take for a formula. */
const formula = /^[=+\-@\t\r]/

/**
 * Rows as CSV (RFC 4180, UTF-8 with a byte-order mark, so that spreadsheets read it as such). Text that begins with
 * = + - @ tab or CR gets an apostrophe before it, numbers never; our reader takes it off again.
 */
export const csvText = (
  columns: readonly string[],
  rows: readonly Readonly<Record<string, string | number | null>>[],
): string =>
  `\ufeff${stringify(
    rows.map((row) => columns.map((name) => guarded(row[name] ?? null))),
    { columns: [...columns], header: true, record_delimiter: "\r\n" },
  )}`

const guarded = (value: string | number | null): string | number | null =>
  typeof value === "string" && formula.test(value) && !/^-?\d+([.,]\d+)?$/.test(value) ? `'${value}` : value
