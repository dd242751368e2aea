import type { LocalDate, LocalTime } from "core/calendar/index.ts"
import type { Charged } from "core/charging/index.ts"
import { type Money, money, moneyText } from "core/money/index.ts"
import type { PaperService } from "core/papers/index.ts"
import { exchanged, type Payer, type Rate, type TariffExchange } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { Decimal } from "decimal.js"

/** A rate as it is kept with the intent: charges as text, the arrival, the zone. */
export interface StoredRate {
  readonly zone: string
  readonly list: string
  readonly contract: string
  /** Who pays; where it is not us, what it costs is his contract's business and nothing is our cost. */
  readonly payer: Payer
  /** What the customer is charged. */
  readonly charged?: {
    readonly amount: string
    readonly why: readonly Reason[]
    /** What of it each order is charged, in the order of the shipment's orders. */
    readonly shares?: readonly string[]
  }
  /** By which a tariff in another currency was told in ours, and what the carrier bills in its own; not said: it is ours. */
  readonly exchange?: TariffExchange & { readonly contract: string }
  /** For which service, and with what of it, papers are made; not said: an earlier release bought it. */
  readonly papers?: {
    readonly service: PaperService
    readonly carrierId: number
    readonly accessorials: readonly string[]
  }
  readonly arrival: { readonly date: LocalDate; readonly time: LocalTime }
  readonly charges: readonly {
    readonly code: string
    readonly package: number | null
    readonly list: string
    readonly contract: string
    readonly why: unknown
  }[]
}

/**
 * What a carrier's charge comes to in our currency: as it was expected, and what it bills more or less exchanged by the
 * rate of the purchase.
 */
export function answeredAmount(rate: Pick<StoredRate, "contract" | "exchange">, charge: string): Decimal {
  const { exchange } = rate
  if (!exchange) return new Decimal(charge)
  const off = new Decimal(charge).sub(exchange.contract)
  return new Decimal(rate.contract).add(exchanged(money(off, exchange.from), exchange).amount)
}

export function storedRate(rate: Rate, charged: Charged): StoredRate {
  const text = (value: Money) => moneyText(value).amount
  return {
    zone: rate.zone,
    list: text(rate.list),
    contract: text(rate.contract),
    payer: rate.payer,
    charged: { amount: text(charged.amount), why: charged.why, shares: charged.shares?.map(text) },
    arrival: { date: rate.arrival.date, time: rate.arrival.time },
    charges: rate.charges.map((charge) => ({
      code: charge.code,
      package: charge.package,
      list: text(charge.list),
      contract: text(charge.contract),
      why: charge.why,
    })),
  }
}
