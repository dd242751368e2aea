import { Decimal } from "decimal.js"

/** An exact amount with its ISO 4217 currency. */
export interface Money {
  readonly amount: Decimal
  readonly currency: string
}

/** Money as it crosses JSON: text and currency, never a binary fraction. */
export interface MoneyText {
  readonly amount: string
  readonly currency: string
}

/**
 * Minor unit digits by ISO 4217. Never by Intl, whose digits are those of shop prices (it shows HUF and IDR without
 * decimals). Only what the program needs so far.
 */
const minorUnits: Readonly<Record<string, number>> = {
  USD: 2,
  CAD: 2,
  EUR: 2,
  CHF: 2,
  NZD: 2,
  GBP: 2,
  JPY: 0,
  KWD: 3,
  HUF: 2,
  IDR: 2,
  AUD: 2,
  MXN: 2,
  DKK: 2,
  NOK: 2,
  SEK: 2,
  PLN: 2,
  CZK: 2,
  CNY: 2,
  // special drawing rights: ISO 4217 gives them none; thresholds are told to two
  XDR: 2,
}

/** Whether amounts in a currency can be rounded and added here. */
export const knownCurrency = (currency: string): boolean => Object.hasOwn(minorUnits, currency)

export function minorUnit(currency: string): number {
  const digits = minorUnits[currency]
  if (digits === undefined) throw new RangeError(`no minor unit is known for the currency ${currency}`)
  return digits
}

/** Money from a figure. Throws for a currency whose minor unit is not known. */
export function money(figure: Decimal.Value, currency: string): Money {
  minorUnit(currency)
  return { amount: new Decimal(figure), currency }
}

/** Rounded half up to the currency's minor unit, as every charge line is. */
export const roundMoney = (value: Money): Money => ({
  amount: value.amount.toDecimalPlaces(minorUnit(value.currency), Decimal.ROUND_HALF_UP),
  currency: value.currency,
})

/** The sum of amounts of one currency. Throws when the currencies differ. */
export function sumMoney(values: readonly Money[], currency: string): Money {
  return values.reduce(
    (total, one) => {
      if (one.currency !== currency) throw new RangeError(`cannot add ${one.currency} to ${currency}`)
      return { amount: total.amount.add(one.amount), currency }
    },
    money(0, currency),
  )
}

export const moneyText = (value: Money): MoneyText => ({
  amount: value.amount.toFixed(minorUnit(value.currency), Decimal.ROUND_HALF_UP),
  currency: value.currency,
})

/** A price of one piece: to four decimals where it has them, else to the minor unit. */
export const unitAmount = (value: Money): string =>
  value.amount.decimalPlaces() > minorUnit(value.currency) ? value.amount.toFixed(4) : moneyText(value).amount

export const moneyFrom = (text: MoneyText): Money => money(text.amount, text.currency)

/** For reading: `$84.65`, or `84.65 CAD` for another currency than the dollar. */
export function showMoney(text: MoneyText): string {
  const [whole = "0", cents] = text.amount.replace("-", "").split(".")
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, ",") + (cents ? `.${cents}` : "")
  const sign = text.amount.startsWith("-") ? "−" : ""
  return text.currency === "USD" ? `${sign}$${grouped}` : `${sign}${grouped} ${text.currency}`
}
