import type { Readable } from "node:stream"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { csvText } from "../formats/csvOut.ts"
import { csvRows } from "../formats/ordersCsv.ts"
import { bookForm, saveAddress } from "./book.ts"

/** Columns of a file of addresses. */
export const bookColumns = Object.keys(bookForm.shape) as (keyof typeof bookForm.shape)[]

/**
 * Takes addresses in from CSV. A row whose short code is in the directory changes that address, others are added; a row
 * that is wrong is refused with its line and the others are kept. Safe to repeat for rows with a code.
 */
export async function importAddresses(
  context: Context,
  bytes: Readable,
): Promise<Outcome<{ saved: number; reasons: readonly Reason[] }>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const reasons: Reason[] = []
  let saved = 0
  let line = 1
  for await (const record of csvRows(bytes)) {
    line += 1
    if (line === 2 && !("street" in record && "city" in record && "country" in record))
      return refused(reason("file.columns-missing", { columns: "street, city, country" }))
    const form = bookForm.safeParse(record)
    if (!form.success) {
      const [issue] = form.error.issues
      reasons.push(
        reason("book.row", {
          line,
          field: String(issue?.path[0] ?? ""),
          value: String(record[String(issue?.path[0])] ?? ""),
        }),
      )
      continue
    }
    const known = form.data.code
      ? await db("address_book").where({ code: form.data.code }).first("id", "version")
      : null
    const outcome = await saveAddress(context, form.data, known ?? null)
    if (outcome.ok) saved += 1
    else reasons.push(...outcome.reasons.map((one) => ({ ...one, values: { ...one.values, line: String(line) } })))
  }
  return accepted({ saved, reasons })
}

/** The directory as CSV, to be imported again. */
export async function exportAddresses({ db, actor }: Context): Promise<string> {
  authorise(actor, "orders.work")
  const rows = await db("address_book as a")
    .leftJoin("customer as c", "c.id", "a.customer_id")
    .orderBy("a.id")
    .limit(100_000)
    .select("a.*", "c.name as customer")
  return csvText(
    bookColumns,
    rows.map((row) => Object.fromEntries(bookColumns.map((name) => [name, row[name] ?? ""]))),
  )
}
