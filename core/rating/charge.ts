import { Decimal } from "decimal.js"
import { type Money, minorUnit, money } from "../money/index.ts"
import type { Reason } from "../refusal/index.ts"
import type { Tariff } from "../tariff/index.ts"

/** One charge line; `package` is null for a charge on the whole shipment. List is before discount, contract after. */
export interface Charge {
  readonly code: string
  readonly package: number | null
  readonly list: Money
  readonly contract: Money
  /** What it is calculated from, then why it is due. */
  readonly why: readonly Reason[]
}

const ways = { "half-up": Decimal.ROUND_HALF_UP, up: Decimal.ROUND_UP, down: Decimal.ROUND_DOWN } as const

/** A charge line's amount, rounded as the tariff says: half up to the currency's minor unit where it says nothing. */
export function lineAmount(tariff: Pick<Tariff, "currency" | "rounding">, figure: Decimal.Value): Money {
  const { to, way } = tariff.rounding
  const amount = new Decimal(figure)
  const rounded =
    to === null || Number(to) === 0
      ? amount.toDecimalPlaces(minorUnit(tariff.currency), ways[way])
      : amount.div(to).toDecimalPlaces(0, ways[way]).mul(to)
  return money(rounded, tariff.currency)
}

/** `amount × (1 − share)`, rounded as a line is. */
export const lessShare = (tariff: Pick<Tariff, "currency" | "rounding">, amount: Money, share: string): Money =>
  lineAmount(tariff, amount.amount.sub(amount.amount.mul(share)))

export const percent = (share: string): string => `${new Decimal(share).mul(100).toDecimalPlaces(4).toString()}%`
