import type { DutyRate, ImportRule } from "core/customs/index.ts"
import type { ExchangeTable } from "core/exchange/index.ts"
import type { Knex } from "knex"
import { exchangeOf } from "../rating/exchange.ts"

export interface CustomsTables {
  readonly exchange: ExchangeTable
  readonly importRules: readonly ImportRule[]
  readonly dutyRates: readonly DutyRate[]
}

/** The dated tables of thresholds, duties and exchange. */
export async function customsTables(db: Knex): Promise<CustomsTables> {
  const [exchange, rules, rates] = await Promise.all([
    exchangeOf(db),
    db("import_rule").orderBy("country").orderBy("valid_from"),
    db("duty_rate").orderBy("country").orderBy("prefix").limit(20_000),
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
