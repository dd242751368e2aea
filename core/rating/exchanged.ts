import { Decimal } from "decimal.js"
import type { LocalDate } from "../calendar/index.ts"
import { type Money, money, roundMoney } from "../money/index.ts"
import { reason } from "../refusal/index.ts"
import type { Charge } from "./charge.ts"
import type { Priced } from "./compiled/index.ts"
import type { Rate } from "./rate.ts"

/** By which a tariff's currency is told in another: the rate, and the day that it is of; as plain data. */
export interface TariffExchange {
  readonly from: string
  readonly to: string
  readonly rate: string
  readonly on: LocalDate
}

/** An amount of a tariff in the other currency, rounded half up to its minor unit. */
export const exchanged = (value: Money, { to, rate }: TariffExchange): Money =>
  roundMoney(money(value.amount.mul(rate), to))

/** An amount of ours as the tariff takes it. */
export const intoTariff = (value: Money, { from, rate }: TariffExchange): Money =>
  money(value.amount.div(rate).toDecimalPlaces(2, Decimal.ROUND_HALF_UP), from)

/** The price of a shipment in the other currency. */
export const exchangedPrice = (price: Priced, by: TariffExchange): Priced => ({
  ...price,
  list: exchanged(price.list, by),
  contract: exchanged(price.contract, by),
})

/**
 * The same charge by charge: each is what the running sum comes to after it less what it came to before, so that the
 * lines add up to the sum to the cent. The first says what it was exchanged by.
 */
export function exchangedRate(rate: Rate, by: TariffExchange): Rate {
  const running = { list: new Decimal(0), contract: new Decimal(0) }
  const next = (side: "list" | "contract", value: Money): Money => {
    const before = exchanged(money(running[side], by.from), by).amount
    running[side] = running[side].add(value.amount)
    return money(exchanged(money(running[side], by.from), by).amount.sub(before), by.to)
  }
  const charges = rate.charges.map(
    (charge, at): Charge => ({
      ...charge,
      list: next("list", charge.list),
      contract: next("contract", charge.contract),
      why:
        at === 0
          ? [
              ...charge.why,
              reason("why.exchange", {
                amount: rate.contract.amount.toFixed(2),
                from: by.from,
                to: by.to,
                rate: new Decimal(by.rate).toSignificantDigits(7).toString(),
                day: by.on,
              }),
            ]
          : charge.why,
    }),
  )
  return { ...rate, charges, list: exchanged(rate.list, by), contract: exchanged(rate.contract, by) }
}
