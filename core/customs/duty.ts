import { Decimal } from "decimal.js"
import type { LocalDate } from "../calendar/index.ts"
import { type Exchanged, type ExchangeTable, exchange } from "../exchange/index.ts"
import { grouped } from "../lists/index.ts"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"

/** What a country takes on imports from a day on. Limits and sums are in its own currency. */
export interface ImportRule {
  readonly country: string
  readonly from: LocalDate
  readonly currency: string
  /** Up to this value of goods no duty is taken, and no tax; null: from the first cent. */
  readonly dutyFree: string | null
  readonly taxFree: string | null
  /** Share of value and duty that is taken as tax. */
  readonly tax: string
  /** What duty is taken on: the goods alone, or with freight and insurance to the border. */
  readonly basis: "fob" | "cif"
  /** Up to this value, of goods to consumers, the seller may take the tax under his one-stop number. */
  readonly oneStop: string | null
}

/** The share that is taken on goods whose code begins so, from an origin or from any, from a day on. */
export interface DutyRate {
  readonly country: string
  readonly from: LocalDate
  /** The first digits of a code, without points. */
  readonly prefix: string
  /** ISO 3166-1 alpha-2; empty: any. */
  readonly origin: string
  readonly share: string
}

export interface DutyLine {
  readonly hsCode: string
  readonly origin: string
  readonly value: Money
}

export interface DutyEstimate {
  /** In the currency of the country, and in that of the invoice. */
  readonly currency: string
  readonly rate: Exchanged["rate"]
  readonly rateOn: LocalDate
  readonly rule: ImportRule
  readonly goods: Money
  /** Freight and insurance that duty is taken on. */
  readonly carriage: Money
  readonly lines: readonly {
    readonly hsCode: string
    readonly origin: string
    readonly base: Money
    readonly share: string
    /** False where no table says it: nothing is taken, and it is said. */
    readonly known: boolean
    readonly duty: Money
  }[]
  readonly duty: Money
  readonly dutyFree: boolean
  readonly taxBase: Money
  readonly tax: Money
  readonly taxFree: boolean
  readonly total: Money
}

const latest = <T extends { readonly from: LocalDate }>(some: readonly T[], day: LocalDate): T | null =>
  some
    .filter((one) => one.from <= day)
    .reduce<T | null>((best, one) => (!best || one.from > best.from ? one : best), null)

export const importRuleOn = (rules: readonly ImportRule[], country: string, day: LocalDate): ImportRule | null =>
  latest(
    rules.filter((one) => one.country === country),
    day,
  )

/**
 * Finds the rate of a code in a country on a day: of those that fit, the longest, of equals that of the very origin, and of
 * those the newest.
 */
export function dutyRatesOn(
  rates: readonly DutyRate[],
  country: string,
  day: LocalDate,
): (line: Pick<DutyLine, "hsCode" | "origin">) => DutyRate | null {
  const inForce = rates.filter((one) => one.country === country && one.from <= day)
  const byCode = grouped(inForce, (one) => `${one.prefix} ${one.origin}`)
  return ({ hsCode, origin }) => {
    const code = hsCode.replace(/\D/g, "")
    for (let length = code.length; length >= 0; length -= 1)
      for (const from of [origin, ""]) {
        const best = latest(byCode.get(`${code.slice(0, length)} ${from}`) ?? [], day)
        if (best) return best
      }
    return null
  }
}

/**
 * What the customs of a country are likely to take on a shipment: an estimate, with its arithmetic. Duty on each line's
 * share of the value it is taken on, rounded half up to the minor unit; tax on goods, carriage and duty. Null where no
 * table says what the country takes, or no exchange rate leads to its currency.
 */
export function dutyEstimate(
  tables: {
    readonly rules: readonly ImportRule[]
    readonly rates: readonly DutyRate[]
    readonly exchange: ExchangeTable
  },
  shipment: {
    readonly country: string
    readonly day: LocalDate
    readonly lines: readonly DutyLine[]
    readonly freight: Money
    readonly insurance: Money
  },
): DutyEstimate | null {
  const { country, day, lines } = shipment
  const rule = importRuleOn(tables.rules, country, day)
  if (!rule) return null
  const { currency } = rule
  const rate = tables.exchange.rateOn(shipment.freight.currency, currency, day)
  if (!rate || lines.some((one) => one.value.currency !== shipment.freight.currency)) return null
  const there = (value: Money) => roundMoney(exchange(tables.exchange, value, currency, day)?.value as Money)
  const values = lines.map((one) => there(one.value))
  const goods = sumMoney(values, currency)
  const carried = there(shipment.freight).amount.add(there(shipment.insurance).amount)
  const carriage = money(rule.basis === "cif" ? carried : 0, currency)
  const dutyFree = rule.dutyFree !== null && goods.amount.lte(rule.dutyFree)
  const taxFree = rule.taxFree !== null && goods.amount.lte(rule.taxFree)
  const rateOf = dutyRatesOn(tables.rates, country, day)
  const taken = lines.map((line, at) => {
    const value = values[at] as Money
    const own = goods.amount.isZero() ? new Decimal(0) : carriage.amount.mul(value.amount).div(goods.amount)
    const base = roundMoney(money(value.amount.add(own), currency))
    const found = rateOf(line)
    const share = dutyFree ? "0" : (found?.share ?? "0")
    return {
      hsCode: line.hsCode,
      origin: line.origin,
      base,
      share,
      known: found !== null,
      duty: roundMoney(money(base.amount.mul(share), currency)),
    }
  })
  const duty = sumMoney(
    taken.map((one) => one.duty),
    currency,
  )
  const taxBase = money(goods.amount.add(carried).add(duty.amount), currency)
  const tax = roundMoney(money(taxFree ? 0 : taxBase.amount.mul(rule.tax), currency))
  return {
    currency,
    rate: rate.rate,
    rateOn: rate.on,
    rule,
    goods,
    carriage,
    lines: taken,
    duty,
    dutyFree,
    taxBase,
    tax,
    taxFree,
    total: money(duty.amount.add(tax.amount), currency),
  }
}
