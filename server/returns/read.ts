import type { OrderId, ReturnId } from "core/ids/index.ts"
import type { MoneyText } from "core/money/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { ReturnIntentRow } from "../db/tables.ts"

/** Labels for a way back of an order, as they are shown. */
export interface ReturnShown {
  readonly id: ReturnId
  readonly number: number
  readonly service: string
  readonly state: ReturnIntentRow["state"]
  readonly price: MoneyText
  readonly paid: ReturnIntentRow["paid"]
  readonly scanned: boolean
  readonly validUntil: string
  readonly tracking: string | null
  readonly mailTo: string
  readonly goods: readonly { readonly sku: string; readonly pieces: number }[]
  readonly trouble: Reason | null
}

/** The labels for ways back of an order of the warehouse, the latest first. */
export async function returnsOf(db: Knex, warehouseId: number, orderId: OrderId): Promise<ReturnShown[]> {
  const rows = await db("return_intent as r")
    .join("service as s", "s.id", "r.service_id")
    .where({ "r.order_id": orderId, "r.warehouse_id": warehouseId })
    .orderBy("r.number", "desc")
    .select("r.*", "s.name as service")
  return rows.map((row) => ({
    id: row.id,
    number: row.number,
    service: row.service,
    state: row.state,
    price: { amount: Number(row.expected_amount).toFixed(2), currency: row.currency },
    paid: row.paid,
    scanned: row.scanned_at !== null,
    validUntil: row.valid_until,
    tracking: row.master_tracking,
    mailTo: row.mail_to,
    goods: parsed(row.goods),
    trouble: row.trouble ? parsed<Reason>(row.trouble) : null,
  }))
}
