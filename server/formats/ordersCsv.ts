import { type Readable, Transform } from "node:stream"
import { type Reason, reason } from "core/refusal/index.ts"
import { CsvError, parse } from "csv-parse"
import { z } from "zod"

/** A file that can't be read at all; nothing of it was kept. */
export class FileRefused extends Error {
  constructor(readonly reason: Reason) {
    super(reason.code)
  }
}

export const limits = { bytes: 20 * 1024 * 1024, rows: 50_000, recordBytes: 16_384 }

const text = (max: number) => z.string().trim().max(max, { error: "too-long" })
const needed = (max: number) => text(max).min(1, { error: "missing" })
const date = z.string().trim().refine(isDate, { error: "not-a-date" })

/** One row of an order file: a line of an order, the order's own fields repeated on each of its rows. */
export const orderRow = z.object({
  order_number: needed(40),
  po_number: text(40),
  ordered_on: date,
  promised_on: z.union([z.literal(""), date], { error: "not-a-date" }),
  customer: needed(60),
  company: text(60),
  attention: text(60),
  street: text(60),
  street2: text(60),
  city: text(40),
  state: text(6).transform((value) => value.toUpperCase()),
  postal_code: text(12),
  country: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z]{2}$/, { error: "not-a-country" }),
  phone: text(24),
  address_kind: z.enum(["", "unknown", "business", "residential"], { error: "not-an-address-kind" }),
  sku: needed(24),
  quantity: z
    .string()
    .trim()
    .regex(/^[1-9]\d{0,5}$/, { error: "not-a-quantity" })
    .transform(Number),
  unit: text(16).transform((value) => value.toLowerCase() || "each"),
  unit_price: z.union(
    [
      z.literal(""),
      z
        .string()
        .trim()
        .regex(/^\d{1,9}(\.\d{1,4})?$/),
    ],
    { error: "not-a-price" },
  ),
  notes: text(500),
})
export type OrderRow = z.infer<typeof orderRow>

/** The columns of an order file; those without a fallback must be there. */
export const columns = Object.keys(orderRow.shape) as (keyof OrderRow)[]
const required: readonly (keyof OrderRow)[] = [
  "order_number",
  "ordered_on",
  "customer",
  "street",
  "city",
  "state",
  "postal_code",
  "sku",
  "quantity",
]
const fallback: Partial<Record<keyof OrderRow, string>> = { country: "US" }

export interface ReadRow {
  /** Line of the file where the row begins, the header being line 1. */
  readonly line: number
  readonly raw: Record<string, string>
  readonly row: OrderRow | null
  readonly refusals: readonly Reason[]
}

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
      yield readRow(record, info, begins)
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

function readRow(record: Record<string, string>, info: CsvInfo, line: number): ReadRow {
  const raw = Object.fromEntries(columns.map((name) => [name, record[name] ?? fallback[name] ?? ""]))
  const at = (field: string, code: string, value = "") =>
    reason(`row.${code}`, { line, field, value: value.slice(0, 60) })
  if (info.error?.code.includes("COLUMN") || info.error?.code.includes("RECORD_INCONSISTENT")) {
    return { line, raw, row: null, refusals: [at("", "column-count")] }
  }
  if (Object.values(raw).some((value) => /[\u0000-\u0008\u000e-\u001f]/.test(value))) {
    return { line, raw, row: null, refusals: [at("", "control-characters")] }
  }
  const read = orderRow.safeParse(raw)
  if (read.success) return { line, raw, row: read.data, refusals: [] }
  const refusals = read.error.issues.map((issue) => {
    const field = String(issue.path[0] ?? "")
    return at(field, issue.message, raw[field])
  })
  return { line, raw, row: null, refusals }
}

function checkedHeader(header: string[]): string[] {
  const names = header.map((name) =>
    name
      .trim()
      .toLowerCase()
      .replace(/[\s-]+/g, "_"),
  )
  const missing = required.filter((name) => !names.includes(name))
  if (missing.length > 0) throw new FileRefused(reason("file.columns-missing", { columns: missing.join(", ") }))
  const twice = names.filter((name, index) => name !== "" && names.indexOf(name) !== index)
  if (twice.length > 0) throw new FileRefused(reason("file.columns-twice", { columns: [...new Set(twice)].join(", ") }))
  return names
}

/** Passes bytes on while they are UTF-8 and within the limit. */
function utf8Only(seen: (chunk: Buffer) => void): Transform {
  const decoder = new TextDecoder("utf-8", { fatal: true })
  let bytes = 0
  const check = (chunk: Buffer | null) => {
    if (chunk) bytes += chunk.length
    if (bytes > limits.bytes) throw new FileRefused(reason("file.too-large", { limit: limits.bytes / 1024 / 1024 }))
    if (
      chunk &&
      bytes === chunk.length &&
      ((chunk[0] === 0xff && chunk[1] === 0xfe) || (chunk[0] === 0xfe && chunk[1] === 0xff))
    ) {
      throw new FileRefused(reason("file.utf-16"))
    }
    if (chunk?.includes(0)) throw new FileRefused(reason("file.not-text"))
    try {
      if (chunk) decoder.decode(chunk, { stream: true })
      else decoder.decode()
    } catch {
      throw new FileRefused(reason("file.not-utf-8", { byte: Math.max(0, bytes - (chunk?.length ?? 0)) }))
    }
  }
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      try {
        check(chunk)
        seen(chunk)
        done(null, chunk)
      } catch (error) {
        done(error as Error)
      }
    },
    flush(done) {
      try {
        check(null)
        done()
      } catch (error) {
        done(error as Error)
      }
    },
  })
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

function isDate(value: string): boolean {
  return (
    /^\d{4}-\d{2}-\d{2}$/.test(value) &&
    !Number.isNaN(Date.parse(value)) &&
    new Date(value).toISOString().slice(0, 10) === value
  )
}
