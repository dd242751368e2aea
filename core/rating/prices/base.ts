import { Decimal } from "decimal.js"
import { type Money, money } from "../../money/index.ts"
import { type Outcome, type Reason, reason } from "../../refusal/index.ts"
import type { Price, PriceBy, Service, Tariff } from "../../tariff/index.ts"
import { type Charge, lessShare, lineAmount, percent } from "../charge.ts"
import type { FreightClass } from "../density.ts"
import type { Measured } from "../measures.ts"
import type { RateRequest } from "../request.ts"

/** What a price is asked for. */
export interface Pricing<P extends Price = Price> {
  readonly tariff: Tariff
  readonly service: Service
  readonly price: P
  readonly zone: string
  readonly request: RateRequest
  readonly packages: readonly Measured[]
}
export type PricingBy<K extends Price["by"]> = Pricing<PriceBy<K>>

/** A weight that is paid for: of a package, or of the shipment (`package` null). */
export interface Paid {
  readonly package: number | null
  readonly weight: Decimal
  readonly freightClass?: FreightClass
}

/** The base charges of a shipment, and the weights that they were calculated at. */
export interface Base {
  readonly charges: readonly Charge[]
  readonly paid: readonly Paid[]
}
export type Pricer<K extends Price["by"]> = (asked: PricingBy<K>) => Outcome<Base>

/**
 * A base charge from its list price: rounded as a line, less the contract discount of its height, and at least the
 * least net charge.
 */
export function baseCharge(
  { tariff, service }: Pick<Pricing, "tariff" | "service">,
  number: number | null,
  price: Decimal.Value,
  ...why: readonly Reason[]
): Charge {
  const list = lineAmount(tariff, price)
  const share = discountAt(service, list)
  const net = Number(share) === 0 ? list : lessShare(tariff, list, share)
  const atLeast = net.amount.lt(service.leastNet)
  return {
    code: "base",
    package: number,
    list,
    contract: atLeast ? money(new Decimal(service.leastNet), tariff.currency) : net,
    why: [
      ...why,
      ...(Number(share) === 0 ? [] : [reason("why.discount", { share: percent(share), list: list.amount.toFixed(2) })]),
      ...(atLeast ? [reason("why.least-net", { figure: service.leastNet })] : []),
    ],
  }
}

/** The discount that holds at a list charge. */
export const discountAt = ({ discounts }: Pick<Service, "discounts">, list: Money): string =>
  discounts.filter(([from]) => list.amount.gte(from)).at(-1)?.[1] ?? "0"

/** How a package came to be billed at its weight. */
export function whyBilled(service: Service, one: Measured): Reason {
  return reason("why.billed", {
    unit: service.weighing.unit,
    billed: one.billed.toString(),
    actual: one.actual.toString(),
    dimensional: one.dimensional?.toString() ?? "",
    edges: one.edges.map((edge) => edge.toDecimalPlaces(2).toString()).join(" × "),
    divisor: service.dimensional?.divisor ?? "",
    by: one.billed.gt(Decimal.max(one.actual, one.dimensional ?? 0))
      ? one.sizeClass
        ? "size-class"
        : "least"
      : one.dimensional?.gt(one.actual)
        ? "size"
        : "scale",
  })
}

export const total = (weights: readonly Decimal[]): Decimal =>
  weights.reduce((sum, one) => sum.add(one), new Decimal(0))

/** The last break whose least weight is reached; the first where none is. */
export const breakAt = (breaks: readonly string[], weight: Decimal): number =>
  Math.max(
    0,
    breaks.findLastIndex((least) => weight.gte(least)),
  )
