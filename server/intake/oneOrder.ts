import { identifier } from "core/identifier/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { OrderRow, ReadRow } from "../formats/orderRow.ts"

/** What all rows of an order say alike: to whom and where it goes, by when, in which currency and on which terms. */
const head = [
  "customer",
  "po_number",
  "company",
  "street",
  "street2",
  "city",
  "state",
  "postal_code",
  "country",
  "promised_on",
  "ship_on",
  "currency",
  "incoterm",
  "incoterm_place",
  "service_asked",
] as const

/** The row of an order that its head is read from, and the document that it came in, of formats with one each. */
export interface First {
  readonly row: OrderRow
  readonly line: number
  readonly document: number | undefined
}

const same = (a: string, b: string): boolean =>
  a.trim().replace(/\s+/g, " ").toLowerCase() === b.trim().replace(/\s+/g, " ").toLowerCase()

/**
 * Why a row can't be one of the order whose number it has: a field that says something else than the order's first row,
 * each with both values. A field that is left empty says nothing else.
 */
export function differences(first: First, row: OrderRow, line: number): Reason[] {
  return head.flatMap((field) => {
    const value = row[field] ?? ""
    const before = first.row[field] ?? ""
    if (value === "" || same(value, before)) return []
    return [
      reason("row.differs", { line, field, value: value.slice(0, 60), first: before.slice(0, 60), at: first.line }),
    ]
  })
}

/**
 * A row as one of its order: refused where it differs from the first row, or where its document is another one with the
 * same number.
 */
export function asOfOrder(first: First | null, read: ReadRow): ReadRow {
  const { row, line } = read
  if (!first || !row || row.bare || first.row.bare) return read
  const why = differences(first, row, line)
  const again = read.document !== first.document
  if (why.length === 0 && !again) return read
  const twice = { line, field: "order_number", value: identifier(row.order_number).slice(0, 60), at: first.line }
  return { ...read, row: null, refusals: why.length > 0 ? why : [reason("row.twice", twice)] }
}
