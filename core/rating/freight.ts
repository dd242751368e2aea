import { Decimal } from "decimal.js"
import { type Money, money } from "../money/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"
import { lengthIn, massIn, roundToStep, sortedEdges } from "../units/index.ts"
import { type Charge, lessShare, listPrice, percent, type RatedPackage, type RateRequest } from "./charge.ts"
import { classOfDensity, density, type FreightClass } from "./density.ts"
import type { Charged } from "./rate.ts"
import { surchargeReason } from "./surcharge.ts"
import type { FreightTariff } from "./tariff.ts"

/** Why a freight service can't take the packages: parcels that stand on no pallet, too many, too heavy, too large. */
export function freightRefusals(tariff: FreightTariff, packages: readonly RatedPackage[]): Reason[] {
  const { limits } = tariff
  const reasons: Reason[] = packages
    .filter((one) => one.handling !== "pallet")
    .map((one) => reason("rate.not-on-pallet", { package: one.number }))
  if (packages.length > limits.pallets)
    reasons.push(reason("rate.too-many-pallets", { pallets: packages.length, limit: limits.pallets }))
  const total = packages.reduce((sum, one) => sum.add(massIn(one.weight, "lb")), new Decimal(0))
  if (total.gt(limits.weight))
    reasons.push(reason("rate.over-total", { figure: total.toDecimalPlaces(1).toString(), limit: limits.weight }))
  for (const one of packages) {
    const [longest] = sortedEdges(one.size)
    const facts: [string, Decimal, string][] = [
      ["rate.over-length", lengthIn(longest, "in"), limits.length],
      ["rate.over-height", lengthIn(one.size.height, "in"), limits.height],
    ]
    for (const [code, edge, limit] of facts)
      if (edge.gt(limit))
        reasons.push(
          reason(code, { package: one.number, figure: edge.toDecimalPlaces(1).toString(), limit, unit: "in" }),
        )
  }
  return reasons
}

/** Pounds of one class in a shipment, each pallet rounded up to the whole pound. */
export interface ClassWeight {
  readonly freightClass: FreightClass
  readonly pounds: Decimal
}

export interface ClassRating {
  /** Before discount, not rounded. */
  readonly amount: Decimal
  /** The break whose rates hold: its least weight. */
  readonly at: string
  /** Pounds paid for beyond the weight, so that the next break's lower rates hold; null when that does not pay. */
  readonly deficit: Decimal | null
}

/**
 * The price by class and weight break: each class's weight at its rate per 100 lb of the break that the whole weight
 * falls in, or, when that is less, at a higher break's rates with the missing weight (deficit) paid at the lowest of
 * them. As in transport textbooks; common practice, no published source.
 *
 * @example 460 lb at 20.00 = 92.00; as 500 lb at 17.00 = 85.00, which is what it costs
 */
export function rateByClass(
  rates: Readonly<Partial<Record<FreightClass, readonly string[]>>>,
  breaks: readonly string[],
  weights: readonly ClassWeight[],
): Outcome<ClassRating> {
  const missing = weights.find((one) => rates[one.freightClass] === undefined)
  if (missing) return refused(reason("rate.no-class", { freightClass: missing.freightClass }))
  const total = weights.reduce((sum, one) => sum.add(one.pounds), new Decimal(0))
  const own = breaks.findLastIndex((least) => total.gte(least))
  const at = (index: number): ClassRating => {
    const rate = (one: ClassWeight) => new Decimal((rates[one.freightClass] as readonly string[])[index] as string)
    const sum = weights.reduce((so, one) => so.add(one.pounds.mul(rate(one)).div(100)), new Decimal(0))
    const least = breaks[index] as string
    const deficit = index > own ? new Decimal(least).sub(total) : null
    const extra = deficit ? deficit.mul(Decimal.min(...weights.map(rate))).div(100) : 0
    return { amount: sum.add(extra), at: least, deficit }
  }
  const candidates = breaks.map((_, index) => index).filter((index) => index >= own)
  const best = candidates.map(at).reduce((least, one) => (one.amount.lt(least.amount) ? one : least))
  return accepted(best)
}

/** The class of a pallet: that of its goods where they have one, else by the density of gross weight and outer size. */
export const palletClass = (one: RatedPackage): FreightClass =>
  one.freightClass ?? classOfDensity(density(one.weight, one.size))

/** Base by class and break, at least the lane's minimum, discounted, at least the floor; then the accessorials. */
export function freightCharges(tariff: FreightTariff, zone: string, request: RateRequest): Outcome<Charged> {
  const billed = request.packages.map((one) => {
    const actual = roundToStep(massIn(one.weight, "lb"), 1, "up")
    return {
      package: one.number,
      actual,
      dimensional: null,
      billed: actual,
      edges: sortedEdges(one.size).map((edge) => lengthIn(edge, "in")) as [Decimal, Decimal, Decimal],
      freightClass: palletClass(one),
    }
  })
  const weights = [...new Set(billed.map((one) => one.freightClass))].map(
    (freightClass): ClassWeight => ({
      freightClass,
      pounds: billed
        .filter((one) => one.freightClass === freightClass)
        .reduce((sum, one) => sum.add(one.billed), new Decimal(0)),
    }),
  )
  const rated = rateByClass(tariff.rates[zone] ?? {}, tariff.breaks, weights)
  if (!rated.ok) return rated
  const { currency } = tariff
  const byClass = listPrice(rated.value.amount, currency)
  const minimum = tariff.minimum[zone] ?? "0"
  const atMinimum = byClass.amount.lt(minimum)
  const list = atMinimum ? listPrice(minimum, currency) : byClass
  const net = lessShare(list, tariff.discount)
  const atFloor = net.amount.lt(tariff.floor)
  const total = weights.reduce((sum, one) => sum.add(one.pounds), new Decimal(0))
  const facts = {
    zone,
    weight: total.toString(),
    classes: weights
      .map((one) => `${one.pounds} lb class ${one.freightClass} at ${rateAt(tariff, zone, one, rated.value.at)}`)
      .join(", "),
    at: rated.value.at,
    deficit: rated.value.deficit?.toString() ?? "",
    discount: percent(tariff.discount),
    minimum,
    floor: tariff.floor,
  }
  const code = atFloor
    ? "charge.freight.floor"
    : atMinimum
      ? "charge.freight.minimum"
      : rated.value.deficit
        ? "charge.freight.as-weight"
        : "charge.freight"
  const base: Charge = {
    code: "base",
    package: null,
    list,
    contract: atFloor ? money(tariff.floor, currency) : net,
    why: reason(code, facts),
  }
  return accepted({ billed, charges: [base, ...accessorials(tariff, request, total)] })
}

const rateAt = (tariff: FreightTariff, zone: string, one: ClassWeight, least: string): string =>
  tariff.rates[zone]?.[one.freightClass]?.[tariff.breaks.indexOf(least)] ?? ""

function accessorials(tariff: FreightTariff, request: RateRequest, pounds: Decimal): Charge[] {
  const longest = Decimal.max(0, ...request.packages.map((one) => lengthIn(sortedEdges(one.size)[0], "in")))
  const facts = { weight: pounds, weightUnit: "lb", longest, lengthUnit: "in" }
  return tariff.surcharges.flatMap((one): Charge[] => {
    const why = surchargeReason(one.when, request, facts)
    if (!why) return []
    const list = accessorialPrice(tariff.currency, one, pounds)
    return [{ code: one.code, package: null, list, contract: lessShare(list, one.discount), why }]
  })
}

/** A flat amount, or one per 100 lb within its bounds. */
function accessorialPrice(
  currency: string,
  { amount, perHundredweight }: FreightTariff["surcharges"][number],
  pounds: Decimal,
): Money {
  if (!perHundredweight) return listPrice(amount, currency)
  const figure = pounds.mul(amount).div(100)
  return listPrice(Decimal.min(perHundredweight.most, Decimal.max(perHundredweight.least, figure)), currency)
}
