import type { LocalDate } from "core/calendar/index.ts"
import { type CustomsDetails, customsDetailsSchema } from "core/customs/index.ts"
import { exchange } from "core/exchange/index.ts"
import { money } from "core/money/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { vagueWords } from "../papers/tables.ts"
import { exchangeOf } from "../rating/exchange.ts"

/** The order that all parts of an order belong to: what is said of amounts holds for all of them. */
export const wholeOf = (order: Pick<SalesOrderRow, "id" | "split_from_id">): number => order.split_from_id ?? order.id

/** What is said of orders for customs, by their ids; parts have what was said of the whole. */
export async function customsDetailsOf(
  db: Knex,
  orders: readonly Pick<SalesOrderRow, "id" | "split_from_id">[],
): Promise<Map<number, CustomsDetails>> {
  const rows = await db("order_customs").whereIn("order_id", [...new Set(orders.map(wholeOf))])
  const said = new Map<number, CustomsDetails>(
    rows.map((row) => [row.order_id, customsDetailsSchema.parse(parsed(row.body))]),
  )
  return new Map(
    orders.flatMap((order) => {
      const details = said.get(wholeOf(order))
      return details ? [[order.id, details] as const] : []
    }),
  )
}

/** Whether a paper of one's own is attached to an order. */
export const hasOwnPaper = async (db: Knex, orderId: number): Promise<boolean> =>
  (await db("own_paper").where({ order_id: orderId }).whereNull("removed_at").first("id")) !== undefined

/** What is said of an order over a border, and what its gaps are looked for by. */
export async function borderFactsOf(
  db: Knex,
  order: Pick<SalesOrderRow, "id" | "split_from_id" | "currency">,
  today: LocalDate,
) {
  const customs = (await customsDetailsOf(db, [order])).get(order.id)
  return {
    customs,
    attached: customs?.ownInvoice === true && (await hasOwnPaper(db, order.id)),
    toUsd: await usdOf(db, order.currency, today),
    vague: await vagueWords(db),
  }
}

/** US dollars for one unit of a currency on a day; null where no rate says. */
async function usdOf(db: Knex, currency: string, day: LocalDate): Promise<Decimal | null> {
  if (currency === "USD") return new Decimal(1)
  return exchange(await exchangeOf(db), money(1, currency), "USD", day)?.value.amount ?? null
}
