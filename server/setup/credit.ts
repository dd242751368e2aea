import type { CustomerId } from "core/ids/index.ts"
import type { Knex } from "knex"

/** What a check of orders asks of their customers: the code, and why nothing may go to them on account, if so. */
export interface CheckedCustomer {
  readonly code: string
  readonly creditStop: { readonly customer: string; readonly note: string } | null
}

export async function checkedCustomers(
  db: Knex,
  customerIds: readonly CustomerId[],
): Promise<Map<number, CheckedCustomer>> {
  if (customerIds.length === 0) return new Map()
  const rows = await db("customer")
    .whereIn("id", [...customerIds])
    .select("id", "code", "credit_stop", "credit_note")
  return new Map(
    rows.map((row) => [
      row.id,
      { code: row.code, creditStop: row.credit_stop ? { customer: row.code, note: row.credit_note } : null },
    ]),
  )
}
