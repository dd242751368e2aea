import { Decimal } from "decimal.js"
import type { LocalDate } from "../calendar/index.ts"
import { grouped } from "../lists/index.ts"
import { type Money, money } from "../money/index.ts"

/** From a day on, one unit of a currency is worth so many of another. Currencies by ISO 4217; SDR is XDR. */
export interface ExchangeRate {
  readonly from: string
  readonly to: string
  readonly on: LocalDate
  readonly rate: string
}

/** An amount in another currency, and what it was turned into it by. */
export interface Exchanged {
  readonly value: Money
  readonly rate: Decimal
  /** The older of the days whose rates were used. */
  readonly on: LocalDate
}

/** Rates that tell a day's worth of one currency in another. */
export interface ExchangeTable {
  readonly rateOn: (from: string, to: string, day: LocalDate) => { rate: Decimal; on: LocalDate } | null
}

/** Digits of a rate that is worked out from others. */
const digits = 12

/**
 * The rates of a day: of each pair the latest that is not after it, also the other way around, also by way of one currency
 * between. Where several ways lead there, the direct one; then the one through the first currency by its code.
 */
export function exchangeTable(rates: readonly ExchangeRate[]): ExchangeTable {
  const newestFirst = [...rates].sort((a, b) => (a.on < b.on ? 1 : -1))
  const pairs = grouped(newestFirst, (one) => `${one.from}${one.to}`)
  const currencies = [...new Set(rates.flatMap((one) => [one.from, one.to]))].sort()
  const told = (from: string, to: string, day: LocalDate) => pairs.get(`${from}${to}`)?.find((one) => one.on <= day)
  const direct = (from: string, to: string, day: LocalDate) => {
    const there = told(from, to, day)
    const back = told(to, from, day)
    if (there && !(back && back.on > there.on)) return { rate: new Decimal(there.rate), on: there.on }
    return back ? { rate: new Decimal(1).div(back.rate).toSignificantDigits(digits), on: back.on } : null
  }
  return {
    rateOn(from, to, day) {
      if (from === to) return { rate: new Decimal(1), on: day }
      const straight = direct(from, to, day)
      if (straight) return straight
      for (const between of currencies) {
        const first = direct(from, between, day)
        const second = first && direct(between, to, day)
        if (first && second)
          return {
            rate: first.rate.mul(second.rate).toSignificantDigits(digits),
            on: [first.on, second.on].sort()[0] as LocalDate,
          }
      }
      return null
    },
  }
}

/** An amount in another currency, not rounded; null where no rate leads there. */
export function exchange(table: ExchangeTable, value: Money, to: string, day: LocalDate): Exchanged | null {
  const found = table.rateOn(value.currency, to, day)
  return found && { value: money(value.amount.mul(found.rate), to), ...found }
}
