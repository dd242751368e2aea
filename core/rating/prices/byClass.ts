import { Decimal } from "decimal.js"
import { accepted, type Outcome, reason, refused } from "../../refusal/index.ts"
import { figureFor, type PriceBy } from "../../tariff/index.ts"
import { volumeIn } from "../../units/index.ts"
import { classOfDensity, cubicInches, density, type FreightClass } from "../density.ts"
import { floorLength } from "../floor.ts"
import type { RatedPackage } from "../request.ts"
import { type Base, baseCharge, breakAt, type PricingBy, total } from "./base.ts"
import { whyZone } from "./byWeight.ts"

/** Weight of one class in a shipment. */
export interface ClassWeight {
  readonly freightClass: FreightClass
  readonly pounds: Decimal
}

export interface ClassRating {
  /** Before discount, not rounded. */
  readonly amount: Decimal
  /** The break whose rates hold: its least weight. */
  readonly at: string
  /** Pounds paid for beyond the weight, so that a higher break's lower rates hold; null when that does not pay. */
  readonly deficit: Decimal | null
}

type Rates = Readonly<Partial<Record<FreightClass, readonly string[]>>>

/**
 * The price by class and weight break: each class's weight at its rate per 100 lb of the break that the whole weight
 * falls in, or, when that is less, at a higher break's rates with the missing weight (deficit) paid at the lowest of
 * them. As in transport textbooks; common practice, no published source.
 *
 * @example 460 lb at 20.00 = 92.00; as 500 lb at 17.00 = 85.00, which is what it costs
 */
export function rateByClass(
  rates: Rates,
  breaks: readonly string[],
  weights: readonly ClassWeight[],
): Outcome<ClassRating> {
  const missing = weights.filter((one) => rates[one.freightClass] === undefined)
  if (missing.length > 0)
    return refused(...missing.map((one) => reason("rate.no-class", { freightClass: one.freightClass })))
  const weight = total(weights.map((one) => one.pounds))
  const own = breakAt(breaks, weight)
  const at = (index: number): ClassRating | null => {
    const each = weights.map((one) => rates[one.freightClass]?.[index])
    if (each.some((rate) => rate === undefined)) return null
    const sum = total(weights.map((one, row) => one.pounds.mul(each[row] as string).div(100)))
    const least = breaks[index] as string
    const deficit = index > own ? new Decimal(least).sub(weight) : null
    const extra = deficit ? deficit.mul(Decimal.min(...(each as string[]))).div(100) : 0
    return { amount: sum.add(extra), at: least, deficit }
  }
  const candidates = breaks.flatMap((_, index) => (index >= own ? (at(index) ?? []) : []))
  const [first, ...others] = candidates
  if (!first) return refused(reason("rate.no-break", { weight: weight.toString(), unit: "lb" }))
  return accepted(others.reduce((least, one) => (one.amount.lt(least.amount) ? one : least), first))
}

/** The class of a pallet: that of its goods where they have one, else by the density of gross weight and outer size. */
export const palletClass = (one: RatedPackage): FreightClass =>
  one.freightClass ?? classOfDensity(density(one.weight, one.size))

/** The class that a tariff rates a pallet at: agreed for its own class (FAK), or its own. */
export function ratedClass(price: PriceBy<"class">, one: RatedPackage): { own: FreightClass; rated: FreightClass } {
  const own = price.classFrom === "density" ? classOfDensity(density(one.weight, one.size)) : palletClass(one)
  return { own, rated: price.fak.find((agreed) => agreed.classes.includes(own))?.as ?? own }
}

/**
 * Freight by class and break. Light and large shipments pay for a weight by volume at one class (cubic capacity),
 * long ones for a weight by the floor that they take (linear foot); the weight that is missing then is paid for at
 * the lowest class rate. At least the lane's minimum.
 */
export function byClass(asked: PricingBy<"class">): Outcome<Base> {
  const { price, service, zone, packages } = asked
  const classed = packages.map((one) => ({ ...ratedClass(price, one.one), pounds: one.billed, one: one.one }))
  const own = total(classed.map((one) => one.pounds))
  // divided last: a volume of which a third is no decimal would round up to a pound more
  const inches = total(packages.map(({ one }) => volumeIn(one.size, "in")))
  const feet = inches.div(cubicInches)
  const cubic = price.cubicCapacity
  const light =
    cubic !== null && feet.gte(cubic.from) && own.mul(cubicInches).lt(inches.mul(cubic.densityUnder))
      ? inches.mul(cubic.weightPerFoot).div(cubicInches).ceil()
      : null
  const weights =
    light !== null && cubic !== null
      ? [{ freightClass: cubic.asClass, pounds: Decimal.max(light, own) }]
      : summed(classed.map((one) => ({ freightClass: one.rated, pounds: one.pounds })))
  const floor = price.linearFoot
    ? floorLength(
        packages.map(({ one }) => one),
        price.trailer,
      )
    : null
  const byFloor =
    price.linearFoot && floor?.div(12).gte(price.linearFoot.from)
      ? floor.mul(price.linearFoot.weightPerFoot).div(12).ceil()
      : null
  const rates = price.rates[zone] ?? {}
  const rated = rateByClass(rates, price.breaks, atLeast(weights, byFloor, rates, price.breaks))
  if (!rated.ok) return rated
  const minimum = figureFor(price.minimum, zone) ?? "0"
  const atMinimum = rated.value.amount.lt(minimum)
  const column = price.breaks.indexOf(rated.value.at)
  const agreed = classed.filter((one) => one.own !== one.rated)
  const why = [
    whyZone(zone),
    ...(light === null ? agreed : []).map((one) =>
      reason("why.fak", { package: one.one.number, own: one.own, rated: one.rated }),
    ),
    ...(light === null
      ? []
      : [
          reason("why.cubic", {
            feet: feet.toDecimalPlaces(1).toString(),
            density: own.div(feet).toDecimalPlaces(2).toString(),
            under: cubic?.densityUnder ?? "",
            perFoot: cubic?.weightPerFoot ?? "",
            weight: light.toString(),
            freightClass: cubic?.asClass ?? "",
          }),
        ]),
    ...(byFloor?.gt(total(weights.map((one) => one.pounds)))
      ? [
          reason("why.linear-foot", {
            feet: floor?.div(12).toDecimalPlaces(2).toString() ?? "",
            perFoot: price.linearFoot?.weightPerFoot ?? "",
            weight: byFloor.toString(),
          }),
        ]
      : []),
    atMinimum
      ? reason("why.minimum", { figure: minimum })
      : reason("why.class", {
          classes: weights
            .map((one) => `${one.pounds} lb class ${one.freightClass} at ${rates[one.freightClass]?.[column] ?? ""}`)
            .join(", "),
          at: rated.value.at,
        }),
    ...(rated.value.deficit && !atMinimum
      ? [reason("why.as-weight", { at: rated.value.at, deficit: rated.value.deficit.toString() })]
      : []),
  ]
  return accepted({
    charges: [baseCharge({ tariff: asked.tariff, service }, null, Decimal.max(rated.value.amount, minimum), ...why)],
    paid: classed.map((one) => ({ package: one.one.number, weight: one.pounds, freightClass: one.rated })),
  })
}

/** Weights with what is missing to a least weight added to the class of the lowest rate. */
function atLeast(
  weights: readonly ClassWeight[],
  least: Decimal | null,
  rates: Rates,
  breaks: readonly string[],
): readonly ClassWeight[] {
  const weight = total(weights.map((one) => one.pounds))
  if (least === null || least.lte(weight)) return weights
  const column = breakAt(breaks, least)
  const rate = (one: ClassWeight) => new Decimal(rates[one.freightClass]?.[column] ?? Number.POSITIVE_INFINITY)
  const lowest = weights.reduce((low, one) => (rate(one).lt(rate(low)) ? one : low))
  return weights.map((one) => (one === lowest ? { ...one, pounds: one.pounds.add(least.sub(weight)) } : one))
}

/** Weights of one class joined, the classes in their order. */
function summed(weights: readonly ClassWeight[]): ClassWeight[] {
  const classes = [...new Set(weights.map((one) => one.freightClass))].sort((a, b) => Number(a) - Number(b))
  return classes.map((freightClass) => ({
    freightClass,
    pounds: total(weights.filter((one) => one.freightClass === freightClass).map((one) => one.pounds)),
  }))
}
