import type { LocalDate } from "core/calendar/index.ts"
import { exchange } from "core/exchange/index.ts"
import { money } from "core/money/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import type { SalesOrderRow } from "../db/tables.ts"
import { hasOwnPaper } from "../documents/ownPapers.ts"
import { customsDetailsOf } from "../orders/customs.ts"
import { exchangeOf } from "../rating/exchange.ts"
import { vagueWords } from "./tables.ts"

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
