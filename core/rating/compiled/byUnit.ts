import { figureFor, type PriceBy } from "../../tariff/index.ts"
import { roundWeight } from "../measures.ts"
import { counted, inexact, mostDecimals, scaleOf, times } from "./exact.ts"
import { massParts } from "./packages.ts"
import { type Billed, breakIn, type Compiling, sumOf, type ZonePrice } from "./pricing.ts"

/** So much for a unit of chargeable weight: the same as `prices/byUnit`. */
export function byUnit(
  price: PriceBy<"unit">,
  { service, zone, scale, measuring, amounts, charge }: Compiling,
): ZonePrice | null {
  const texts = Object.hasOwn(price.rates, zone) ? price.rates[zone] : undefined
  if (!texts) return null
  const money = scaleOf(mostDecimals(texts))
  const rates = texts.map((text) => counted(text, money))
  const breaks = price.breaks.map((text) => counted(text, scale))
  const minimum = amounts.lineOf(figureFor(price.minimum, zone) ?? "0")
  const massUnit = massParts[service.weighing.unit]
  const { bySize, roundMass } = measuring
  const least = Number(service.weighing.least)
  const leastRounded = counted(roundWeight(service.weighing.least, service.weighing).toFixed(), scale)

  /** The largest of weight, weight by size and the least, then rounded: a table of steps need not rise evenly. */
  const chargeable = ({ packages, mass }: Billed): number => {
    const volume = bySize ? sumOf(packages, ({ edges }) => times(times(edges[0], edges[1]), edges[2])) : 0
    const byScale = mass / massUnit
    const size = bySize?.counts(volume) ? (volume * bySize.each.over) / bySize.each.under : 0
    const near = Math.max(byScale, size, least) * (1 - 1e-12)
    const roundings = [
      ...(byScale >= near ? [roundMass(mass)] : []),
      ...(bySize && size > 0 && size >= near ? [bySize.weight(volume)] : []),
      ...(least >= near ? [leastRounded] : []),
    ]
    const [first = 0, ...others] = roundings
    // as good as equal, and yet rounded to different steps
    if (others.some((one) => one !== first)) throw inexact
    return first
  }

  return (billed) => {
    const weight = chargeable(billed)
    const own = breakIn(breaks, weight)
    let lowest = -1
    for (let index = own; index < breaks.length; index += 1) {
      const rate = rates[index]
      if (rate === undefined || (index > own && !price.asWeight)) continue
      const sum = times(index > own ? (breaks[index] as number) : weight, rate)
      if (lowest < 0 || sum < lowest) lowest = sum
    }
    if (lowest < 0) return null
    const list = Math.max(amounts.line(lowest, times(scale, money)), minimum)
    return { charges: [charge(list)], perPackage: false, weight, weightScale: scale }
  }
}
