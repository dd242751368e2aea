import { Readable } from "node:stream"
import { reason } from "core/refusal/index.ts"
import { CsvError, parse } from "csv-parse"
import { type Mapping, mapped } from "./mapping.ts"
import { FileRefused, fields, limits, type ReadRow, readRow, refusedRow } from "./orderRow.ts"
import { textOf } from "./text.ts"

/** The columns that must be there; a line is named by `sku` or by `gtin`. */
const required: readonly (typeof fields)[number][] = [
  "order_number",
  "ordered_on",
  "customer",
  "street",
  "city",
  "postal_code",
  "quantity",
]

/**
 * Reads an order file as CSV (RFC 4180; comma, semicolon, tab or bar, told from the header unless a mapping says it;
 * UTF-8 or UTF-16), row by row and without holding the file. With a mapping, the columns are the source's own. Text
 * that begins with = + - @ is data like any other, and an apostrophe that an export put before it is taken off again.
 * The rest of a source that was refused is the caller's to drain or to destroy. `seen` is given every chunk that was
 * good, such as to hash the file. Throws FileRefused: too large, not of its encoding, no header, a needed column
 * missing, a column twice, quotes left open.
 */
export async function* readOrdersCsv(
  source: Readable,
  seen: (chunk: Buffer) => void = () => undefined,
  by: Mapping | null = null,
): AsyncGenerator<ReadRow> {
  let count = 0
  for await (const { record, line, unequal } of csvRecords(source, seen, by, (header) => checkedHeader(header, by))) {
    count += 1
    const own = by ? mapped(record, by) : record
    yield unequal ? refusedRow(withAll(own), line, "", "column-count") : readRow(own, line)
  }
  if (count === 0) throw new FileRefused(reason("file.empty"))
}

/** The header of a CSV file and its first rows as they are written, for setting up a mapping. Reads no further. */
export async function csvSample(
  source: Readable,
  by: Pick<Mapping, "encoding" | "delimiter">,
  most = 12,
): Promise<{ header: string[]; rows: Record<string, string>[] }> {
  let header: string[] = []
  const rows: Record<string, string>[] = []
  const names = (found: string[]) => {
    header = found.map((name, index) => name.trim().slice(0, 80) || `column ${index + 1}`)
    return header
  }
  for await (const { record } of csvRecords(source, () => undefined, by, names)) {
    if (rows.push(record) >= most) break
  }
  if (header.length === 0) throw new FileRefused(reason("file.empty"))
  return { header, rows }
}

/** The rows of any CSV file by its own columns. Throws FileRefused as `readOrdersCsv` does. */
export async function* csvRows(source: Readable): AsyncGenerator<Record<string, string>> {
  for await (const { record } of csvRecords(
    source,
    () => undefined,
    null,
    (header) => header.map((one) => one.trim()),
  ))
    yield record
}

/** The rows of any CSV file with their lines, by the columns that the header comes to. Throws FileRefused as `readOrdersCsv` does. */
export async function* csvRecords(
  source: Readable,
  seen: (chunk: Buffer) => void,
  by: Pick<Mapping, "encoding" | "delimiter"> | null,
  columns: (header: string[]) => string[],
): AsyncGenerator<{ record: Record<string, string>; line: number; unequal: boolean }> {
  let count = 0
  let line = 2
  let failure: unknown
  try {
    const text = textOf(source, by?.encoding ?? "auto", seen)
    const head = await firstLine(text)
    const parser = parse({
      columns,
      delimiter: !by || by.delimiter === "auto" ? sniffedDelimiter(head) : by.delimiter,
      info: true,
      raw: true,
      relax_column_count: true,
      max_record_size: limits.recordBytes,
    })
    const rest = Readable.from(joined(head, text), { objectMode: false })
    rest.on("error", (error) => {
      failure ??= error
      parser.destroy(error)
    })
    rest.pipe(parser)
    for await (const { record, info, raw } of parser as AsyncIterable<CsvRecord>) {
      // counted here, since the parser counts a line end of two signs inside quotes twice
      const begins = line
      line += (raw.match(/\r\n|\n|\r/g) ?? []).length
      if (raw.trim() === "") continue
      count += 1
      if (count > limits.rows) throw new FileRefused(reason("file.too-many-rows", { limit: limits.rows }))
      const unequal = !!(info.error?.code.includes("COLUMN") || info.error?.code.includes("RECORD_INCONSISTENT"))
      yield { record: withoutGuards(record), line: begins, unequal }
    }
  } catch (error) {
    throw fileRefused(failure ?? error)
  }
}

/** The text up to the end of the first line, or what there is of it in the largest record that is read. */
async function firstLine(text: AsyncGenerator<string>): Promise<string> {
  let head = ""
  while (!/[\r\n]/.test(head) && head.length < limits.recordBytes) {
    const next = await text.next()
    if (next.done) break
    head += next.value
  }
  return head
}

async function* joined(head: string, rest: AsyncGenerator<string>): AsyncGenerator<string> {
  yield head
  yield* rest
}

/** The sign between the columns of a header: the one that stands there most often outside of quotes. */
export function sniffedDelimiter(header: string): string {
  const line = (/^[^\r\n]*/.exec(header.replace(/"[^"]*"/g, "")) as RegExpExecArray)[0]
  const counted = [",", ";", "\t", "|"].map((sign) => ({ sign, times: line.split(sign).length }))
  return counted.reduce((best, one) => (one.times > best.times ? one : best)).sign
}

/** Takes off the apostrophe that an export puts before text a spreadsheet would run. */
const withoutGuards = (record: Record<string, string>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(record).map(([name, value]) => [name, /^'[=+\-@\t\r]/.test(value) ? value.slice(1) : value]),
  )

interface CsvRecord {
  readonly record: Record<string, string>
  readonly info: CsvInfo
  readonly raw: string
}

interface CsvInfo {
  readonly error?: { code: string }
}

const withAll = (record: Record<string, string>) => Object.fromEntries(fields.map((name) => [name, record[name] ?? ""]))

function checkedHeader(header: string[], by: Mapping | null): string[] {
  const names = by
    ? header.map((name) => name.trim())
    : header.map((name) =>
        name
          .trim()
          .toLowerCase()
          .replace(/[\s-]+/g, "_"),
      )
  const has = (field: (typeof fields)[number]) =>
    by ? !!by.fixed[field] || names.includes(by.columns[field] ?? "") : names.includes(field)
  const missing: string[] = required.filter((name) => !has(name))
  if (!has("sku") && !has("gtin")) missing.push("sku")
  // what the mapping names must be in the file, needed or not: else a renamed column would be lost in silence
  if (by) {
    const named = [...Object.values(by.columns), ...by.references.map((one) => one.column)]
    missing.push(...named.filter((name) => !names.includes(name)))
  }
  if (missing.length > 0)
    throw new FileRefused(reason("file.columns-missing", { columns: [...new Set(missing)].join(", ") }))
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
