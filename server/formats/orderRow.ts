import { gtin14 } from "core/barcodes/index.ts"
import { isLocalDate } from "core/calendar/index.ts"
import { identifier, ownCode } from "core/identifier/index.ts"
import { knownCurrency } from "core/money/index.ts"
import { mostFileBytes } from "core/orders/limits.ts"
import { type Reason, reasonOf } from "core/refusal/index.ts"
import { z } from "zod"

/** A file that can't be read at all; nothing of it was kept. */
export class FileRefused extends Error {
  constructor(readonly reason: Reason) {
    super(reason.code)
  }
}

export const limits = {
  bytes: mostFileBytes,
  rows: 100_000,
  recordBytes: 16_384,
  jsonBytes: 2 * 1024 * 1024,
  depth: 20,
}

const text = (max: number) => z.string().trim().max(max, { error: "too-long" })
const needed = (max: number) => text(max).min(1, { error: "missing" })
const number = z.string().transform(identifier)
const date = z.string().trim().refine(isLocalDate, { error: "not-a-date" })

/** One row of an order file: a line of an order, the order's own fields repeated on each of its rows. */
export const orderRow = z
  .object({
    order_number: number.pipe(needed(40)),
    po_number: number.pipe(text(40)),
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
    sku: z.string().transform(ownCode).pipe(text(24)),
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
          .regex(/^\d{1,9}(\.\d{1,4})?$/, { error: "not-a-price" }),
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
          .refine((value) => gtin14(value) !== null, { error: "not-a-gtin" }),
      ],
      { error: "not-a-gtin" },
    ),
    /** The day on which the customer asked it to leave. */
    ship_on: z.union([z.literal(""), date], { error: "not-a-date" }),
    /** Code or name of the service that the customer asked for. */
    service_asked: text(24),
    /** What the customer paid for freight, in the order's currency. */
    freight_paid: z.union(
      [
        z.literal(""),
        z
          .string()
          .trim()
          .regex(/^\d{1,9}(\.\d{1,2})?$/, { error: "not-a-price" }),
      ],
      { error: "not-a-price" },
    ),
    /** The customer's own reference, printed on the label. */
    reference: text(60),
    /** A reference for the files, not printed. */
    cost_centre: text(60),
    /** The state of the order in its source's own words. */
    source_state: text(40),
    /** Where the source shows the record. */
    record_url: z.union(
      [
        z.literal(""),
        z
          .string()
          .trim()
          .max(300)
          .regex(/^https?:\/\/[^\s"<>]+$/, { error: "not-an-address" }),
      ],
      {
        error: "not-an-address",
      },
    ),
  })
  .refine((row) => row.sku !== "" || row.gtin !== "", { error: "missing", path: ["sku"] })
export type OrderRow = z.infer<typeof orderRow> & {
  /** References under names of the source's own. */
  readonly references?: readonly Reference[]
  /** Says only that the order is canceled; there are no lines. */
  readonly bare?: boolean
}

/** A reference of an order: found by, and printed on the label or not. */
export interface Reference {
  readonly name: string
  readonly value: string
  readonly printed: boolean
}

/** The fields of a row, in the order of an order file's columns. */
export const fields = Object.keys(orderRow.shape) as Exclude<keyof OrderRow, "references">[]

/** What a field is when a row does not have it. */
const fallback: Partial<Record<string, string>> = { country: "US" }

export interface ReadRow {
  /** Line of the file where the row begins, the header being line 1; of other formats the segment or entry. */
  readonly line: number
  /** Where the document of its order begins, of formats that give an order one. */
  readonly document?: number
  readonly raw: Record<string, string>
  readonly row: OrderRow | null
  readonly refusals: readonly Reason[]
}

/** A row from its fields as text: good, or with a refusal for each field that is wrong. Unknown fields are left out. */
export function readRow(record: Readonly<Record<string, string | undefined>>, line: number): ReadRow {
  const raw = Object.fromEntries(fields.map((name) => [name, record[name] ?? fallback[name] ?? ""]))
  const own = Object.entries(record).filter(([name, value]) => value && /^reference[+-].{1,30}$/.test(name))
  for (const [name, value] of own) raw[name] = String(value).trim().slice(0, 60)
  if (Object.values(raw).some((value) => /[\u0000-\u0008\u000e-\u001f]/.test(value)))
    return refusedRow(raw, line, "", "control-characters")
  const read = orderRow.safeParse(raw)
  if (read.success) {
    const references = own.map(([name]) => ({
      name: name.slice(10),
      value: raw[name] as string,
      printed: name[9] === "+",
    }))
    return { line, raw, row: references.length > 0 ? { ...read.data, references } : read.data, refusals: [] }
  }
  const refusals = read.error.issues.map((issue) => {
    const field = String(issue.path[0] ?? "")
    return rowRefusal(line, field, issue.message, raw[field])
  })
  return { line, raw, row: null, refusals }
}

/**
 * A row that says only that an order is canceled, without its lines. It is good when it has the order's number;
 * whether the source may cancel so is the taking-in's to judge.
 */
export function cancellation(number: string, line: number, record: Readonly<Record<string, string>> = {}): ReadRow {
  const bare = { customer: "–", ordered_on: "1970-01-01", sku: "–", quantity: "1" }
  const filled = Object.fromEntries(Object.entries(record).filter(([, value]) => value !== ""))
  const row = readRow({ ...bare, ...filled, order_number: number, source_state: "cancelled" }, line)
  return row.row ? { ...row, row: { ...row.row, bare: true } } : row
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
  reasonOf(`row.${code}`, { line, field, value: value.slice(0, 60) })
