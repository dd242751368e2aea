import type { DutyRate, ImportRule } from "core/customs/index.ts"
import { type ExchangeTable, exchangeTable } from "core/exchange/index.ts"
import type { Knex } from "knex"
import { exchangeOf } from "../rating/exchange.ts"

export interface CustomsTables {
  readonly exchange: ExchangeTable
  readonly importRules: readonly ImportRule[]
  readonly dutyRates: readonly DutyRate[]
}

/** What goods that cross no border are looked at by. */
export const noTables: CustomsTables = { exchange: exchangeTable([]), importRules: [], dutyRates: [] }

/** The dated tables of what a country lets in and takes for it, and of exchange. */
export async function customsTables(db: Knex, country: string): Promise<CustomsTables> {
  const [exchange, rules, rates] = await Promise.all([
    exchangeOf(db),
    db("import_rule").where({ country }).orderBy("valid_from"),
    db("duty_rate").where({ country }).orderBy("prefix").limit(20_000),
  ])
  return {
    exchange,
    importRules: rules.map((row) => ({
      country: row.country,
      from: row.valid_from,
      currency: row.currency,
      dutyFree: row.duty_free,
      taxFree: row.tax_free,
      tax: row.tax_share,
      basis: row.basis,
      oneStop: row.one_stop,
    })),
    dutyRates: rates.map((row) => ({
      country: row.country,
      from: row.valid_from,
      prefix: row.prefix,
      origin: row.origin,
      share: row.share,
    })),
  }
}

/** Words of the house that say nothing of goods, in small letters. */
export const vagueWords = async (db: Knex): Promise<ReadonlySet<string>> =>
  new Set(await db("vague_word").pluck("word"))
