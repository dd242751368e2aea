import type { Readable } from "node:stream"
import { reason } from "core/refusal/index.ts"
import { CsvError, parse } from "csv-parse"
import { FileRefused, fields, limits, type OrderRow, type ReadRow, readRow, refusedRow, utf8Only } from "./orderRow.ts"

/** The columns that must be there; a line is named by `sku` or by `gtin`. */
const required: readonly (keyof OrderRow)[] = [
  "order_number",
  "ordered_on",
  "customer",
  "street",
  "city",
  "state",
  "postal_code",
  "quantity",
]

/**
 * Reads an order file as CSV (RFC 4180, comma or semicolon or tab, UTF-8 with or without byte-order mark), row by
 * row and without holding the file. Text that begins with = + - @ is data like any other.
 * The rest of a source that was refused is the caller's to drain or to destroy. `seen` is given every chunk that was good, such as to hash the file.
 * Throws FileRefused: too large, not UTF-8, no header, a needed column missing, a column twice, quotes left open.
 */
export async function* readOrdersCsv(
  source: Readable,
  seen: (chunk: Buffer) => void = () => undefined,
): AsyncGenerator<ReadRow> {
  const parser = parse({
    bom: true,
    columns: (header: string[]) => checkedHeader(header),
    delimiter: [",", ";", "\t"],
    info: true,
    raw: true,
    relax_column_count: true,
    max_record_size: limits.recordBytes,
  })
  let failure: unknown
  const fail = (error: unknown) => {
    failure ??= error
    parser.destroy(error as Error)
  }
  source.on("error", fail)
  source.pipe(utf8Only(seen).on("error", fail)).pipe(parser)
  let count = 0
  let line = 2
  try {
    for await (const { record, info, raw } of parser as AsyncIterable<CsvRecord>) {
      // counted here, since the parser counts a line end of two signs inside quotes twice
      const begins = line
      line += (raw.match(/\r\n|\n|\r/g) ?? []).length
      if (raw.trim() === "") continue
      count += 1
      if (count > limits.rows) throw new FileRefused(reason("file.too-many-rows", { limit: limits.rows }))
      const unequal = info.error?.code.includes("COLUMN") || info.error?.code.includes("RECORD_INCONSISTENT")
      yield unequal ? refusedRow(withAll(record), begins, "", "column-count") : readRow(record, begins)
    }
  } catch (error) {
    source.unpipe()
    throw fileRefused(failure ?? error)
  }
  if (count === 0) throw new FileRefused(reason("file.empty"))
}

interface CsvRecord {
  readonly record: Record<string, string>
  readonly info: CsvInfo
  readonly raw: string
}

interface CsvInfo {
  readonly error?: { code: string }
}

const withAll = (record: Record<string, string>) => Object.fromEntries(fields.map((name) => [name, record[name] ?? ""]))

function checkedHeader(header: string[]): string[] {
  const names = header.map((name) =>
    name
      .trim()
      .toLowerCase()
      .replace(/[\s-]+/g, "_"),
  )
  const missing: string[] = required.filter((name) => !names.includes(name))
  if (!names.includes("sku") && !names.includes("gtin")) missing.push("sku")
  if (missing.length > 0) throw new FileRefused(reason("file.columns-missing", { columns: missing.join(", ") }))
  const twice = names.filter((name, index) => name !== "" && names.indexOf(name) !== index)
  if (twice.length > 0) throw new FileRefused(reason("file.columns-twice", { columns: [...new Set(twice)].join(", ") }))
  return names
}

function fileRefused(error: unknown): unknown {
  if (error instanceof FileRefused) return error
  if (!(error instanceof CsvError)) return error
  const code: string = error.code.replace(/^CSV_/, "")
  const line = (error as { lines?: number }).lines ?? ""
  if (code === "MAX_RECORD_SIZE")
    return new FileRefused(reason("file.row-too-long", { line, limit: limits.recordBytes }))
  return new FileRefused(reason("file.not-csv", { line, detail: code.toLowerCase().replaceAll("_", " ") }))
}
