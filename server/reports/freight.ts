import { isoDay } from "core/calendar/schema.ts"
import type { OrderId } from "core/ids/index.ts"
import { type MoneyText, money, moneyText } from "core/money/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { z } from "zod"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"

const amount = z.string().regex(/^\d{1,9}(\.\d{1,4})?$/)

/** What a source has billed its customer, as it tells us. */
export const invoiceDocument = z.strictObject({
  number: z.string().min(1).max(40).describe("Number of the invoice; the same number again replaces what was told."),
  freight: amount.describe("What it bills for freight, such as 12.50."),
  total: amount.optional().describe("Its total."),
  currency: z
    .string()
    .regex(/^[A-Z]{3}$/)
    .describe("ISO 4217."),
  issuedOn: isoDay.optional().describe("Date of the invoice."),
})
export type InvoiceDocument = z.infer<typeof invoiceDocument>

/** Keeps what a source billed for an order, so that it can be compared with what the freight cost us. */
export async function keepInvoice(
  db: Knex,
  orderId: OrderId,
  invoice: InvoiceDocument,
  by: { readonly userId: number | null; readonly name: string },
  now: Date,
): Promise<void> {
  await inTransaction(db, async (trx) => {
    const row = { freight: invoice.freight, total: invoice.total ?? null, currency: invoice.currency, at: now }
    const before = await trx("order_invoice").where({ order_id: orderId, number: invoice.number }).first()
    await trx("order_invoice")
      .insert({ order_id: orderId, number: invoice.number, ...row })
      .onConflict(["order_id", "number"])
      .merge(row)
    if (before && Number(before.freight) === Number(invoice.freight)) return
    await record(trx, by, now, {
      action: "report.invoiced",
      orderId,
      detail: { number: invoice.number, amount: { amount: invoice.freight, currency: invoice.currency } },
    })
  })
}

/** The freight of an order: what it cost us, what is charged for it, and what its source billed. */
export interface FreightShown {
  readonly charged: MoneyText | null
  readonly cost: MoneyText | null
  readonly list: MoneyText | null
  /** Charged with another part of the order, which went before. */
  readonly before: boolean
  readonly invoices: readonly {
    readonly number: string
    readonly freight: MoneyText
    /** How much more was billed than is charged; null where the currencies differ, or nothing is charged. */
    readonly more: string | null
  }[]
}

/** What is known of an order's freight; null where nothing is bought and nothing billed. */
export async function freightOf(db: Knex, orderId: OrderId): Promise<FreightShown | null> {
  const share = await db("order_freight as f")
    .join("buy_intent as i", "i.id", "f.intent_id")
    .where({ "f.order_id": orderId, "i.state": "booked" })
    .orderBy("i.id", "desc")
    .first("f.list_amount", "f.contract_amount", "f.charged_amount", "f.currency")
  const invoices = await db("order_invoice").where({ order_id: orderId }).orderBy("at").limit(20)
  if (!share && invoices.length === 0) return null
  const own = there(await db("sales_order").where({ id: orderId }).first("source_id", "source_number"))
  const first = await db("outbox as x")
    .join("sales_order as o", "o.id", "x.order_id")
    .where({ "o.source_id": own.source_id, "o.source_number": own.source_number, "x.topic": "order.gone" })
    .orderBy("x.id")
    .first("x.order_id")
  const before = first !== undefined && first.order_id !== orderId
  const text = (value: string | null | undefined) => (value && share ? moneyText(money(value, share.currency)) : null)
  const charged = before ? null : text(share?.charged_amount)
  return {
    charged,
    cost: text(share?.contract_amount),
    list: text(share?.list_amount),
    before,
    invoices: invoices.map((row) => ({
      number: row.number,
      freight: moneyText(money(row.freight, row.currency)),
      more:
        charged && charged.currency === row.currency ? new Decimal(row.freight).sub(charged.amount).toFixed(2) : null,
    })),
  }
}
