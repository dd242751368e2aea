import type { CustomerId } from "core/ids/index.ts"
import type { Knex } from "knex"

/** Why nothing may go to a customer on account, or null. */
export async function creditStop(
  db: Knex,
  customerId: CustomerId | null,
): Promise<{ customer: string; note: string } | null> {
  if (customerId === null) return null
  const row = await db("customer").where({ id: customerId, credit_stop: true }).first("code", "credit_note")
  return row ? { customer: row.code, note: row.credit_note } : null
}
