import { type ExchangeTable, exchangeTable } from "core/exchange/index.ts"
import type { Knex } from "knex"

/** Rates that are read at most: the newest. */
const most = 20_000

/** The rates by which amounts are told in other currencies. */
export const exchangeOf = async (db: Knex): Promise<ExchangeTable> =>
  exchangeTable(
    (await db("exchange_rate").orderBy("on_date", "desc").limit(most)).map((row) => ({
      from: row.from_currency,
      to: row.to_currency,
      on: row.on_date,
      rate: row.rate,
    })),
  )
