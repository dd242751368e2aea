import type { TariffTable } from "core/tariff/index.ts"
import { parse } from "csv-parse/browser/esm/sync"
import { stringify } from "csv-stringify/browser/esm/sync"

/** A table as CSV text. */
export const tableText = ({ header, rows }: TariffTable): string =>
  stringify([header as string[], ...(rows as string[][])])

/** CSV text as a table, and where each row begins in it; null where quotes do not close. */
export function readTable(name: string, text: string): { table: TariffTable; starts: number[] } | null {
  try {
    const records = parse(text, {
      relax_column_count: true,
      skip_empty_lines: true,
      trim: true,
      bom: true,
      info: true,
    }) as unknown as readonly { readonly record: string[]; readonly info: { readonly lines: number } }[]
    const lines = [0, ...[...text.matchAll(/\n/g)].map((match) => match.index + 1)]
    // a record's line is its last; a quoted cell may hold more than one
    const starts = records.map((_, at) => lines[at === 0 ? 0 : (records[at - 1]?.info.lines ?? 0)] ?? 0)
    const [header, ...rows] = records.map((one) => one.record)
    return { table: { name, header: header ?? [], rows }, starts }
  } catch {
    return null
  }
}
