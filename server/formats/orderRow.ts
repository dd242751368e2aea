import { Transform } from "node:stream"
import { gtin14 } from "core/barcodes/index.ts"
import { knownCurrency } from "core/money/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { z } from "zod"

/** A file that can't be read at all; nothing of it was kept. */
export class FileRefused extends Error {
  constructor(readonly reason: Reason) {
    super(reason.code)
  }
}

export const limits = {
  bytes: 20 * 1024 * 1024,
  rows: 50_000,
  recordBytes: 16_384,
  jsonBytes: 2 * 1024 * 1024,
  depth: 20,
}

const text = (max: number) => z.string().trim().max(max, { error: "too-long" })
const needed = (max: number) => text(max).min(1, { error: "missing" })
const date = z.string().trim().refine(isDate, { error: "not-a-date" })

/** One row of an order file: a line of an order, the order's own fields repeated on each of its rows. */
export const orderRow = z
  .object({
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
    sku: text(24),
    quantity: z
      .string()
      .trim()
      .regex(/^[1-9]\d{0,5}$/, { error: "not-a-quantity" })
      .transform(Number),
    unit: text(16).transform((value) => value.toLowerCase()),
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
    incoterm: text(3).transform((value) => value.toUpperCase()),
    incoterm_place: text(60),
    currency: text(3)
      .transform((value) => value.toUpperCase() || "USD")
      .refine(knownCurrency, { error: "not-a-currency" }),
    /** Instead of item and unit: a level of packaging by its GTIN. */
    gtin: z.union(
      [
        z.literal(""),
        z
          .string()
          .trim()
          .refine((value) => gtin14(value) !== null),
      ],
      { error: "not-a-gtin" },
    ),
  })
  .refine((row) => row.sku !== "" || row.gtin !== "", { error: "missing", path: ["sku"] })
export type OrderRow = z.infer<typeof orderRow>

/** The fields of a row, in the order of an order file's columns. */
export const fields = Object.keys(orderRow.shape) as (keyof OrderRow)[]

/** What a field is when a row does not have it. */
const fallback: Partial<Record<keyof OrderRow, string>> = { country: "US" }

export interface ReadRow {
  /** Line of the file where the row begins, the header being line 1; of other formats the segment or entry. */
  readonly line: number
  readonly raw: Record<string, string>
  readonly row: OrderRow | null
  readonly refusals: readonly Reason[]
}

/** A row from its fields as text: good, or with a refusal for each field that is wrong. Unknown fields are left out. */
export function readRow(record: Readonly<Record<string, string | undefined>>, line: number): ReadRow {
  const raw = Object.fromEntries(fields.map((name) => [name, record[name] ?? fallback[name] ?? ""]))
  if (Object.values(raw).some((value) => /[\u0000-\u0008\u000e-\u001f]/.test(value)))
    return refusedRow(raw, line, "", "control-characters")
  const read = orderRow.safeParse(raw)
  if (read.success) return { line, raw, row: read.data, refusals: [] }
  const refusals = read.error.issues.map((issue) => {
    const field = String(issue.path[0] ?? "")
    return rowRefusal(line, field, issue.message, raw[field])
  })
  return { line, raw, row: null, refusals }
}

/** A row that is refused as a whole. */
export const refusedRow = (
  raw: Readonly<Record<string, string>>,
  line: number,
  field: string,
  code: string,
): ReadRow => ({
  line,
  raw,
  row: null,
  refusals: [rowRefusal(line, field, code, raw[field])],
})

export const rowRefusal = (line: number, field: string, code: string, value = ""): Reason =>
  reason(`row.${code}`, { line, field, value: value.slice(0, 60) })

/** Passes bytes on while they are UTF-8 and within the limit. */
export function utf8Only(seen: (chunk: Buffer) => void): Transform {
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

function isDate(value: string): boolean {
  return (
    /^\d{4}-\d{2}-\d{2}$/.test(value) &&
    !Number.isNaN(Date.parse(value)) &&
    new Date(value).toISOString().slice(0, 10) === value
  )
}
