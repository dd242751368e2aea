import { figureFor, type PriceBy } from "../../tariff/index.ts"
import { ceilOf, counted, decimalsOf, ratio, scaleOf, times } from "./exact.ts"
import { partsInKilogram, partsInMillimetre } from "./packages.ts"
import { type Compiling, fraction, volumeOf, type ZonePrice } from "./pricing.ts"

/** Weight or measure: the same as `prices/byMeasure`. */
export function byMeasure(price: PriceBy<"measure">, { zone, amounts, charge }: Compiling): ZonePrice | null {
  const rate = figureFor(price.perTon, zone)
  if (rate === null) return null
  const own = scaleOf(decimalsOf(price.step))
  const step = counted(price.step, own)
  const money = scaleOf(decimalsOf(rate))
  const each = counted(rate, money)
  const [least, leastUnder] = fraction(price.least)
  // steps of a ton in parts of mass, and of a cubic meter in cubic nanometers
  const ofMass = ratio(times(step, 1000), own)
  const cubicMetre = BigInt(partsInMillimetre * 1000) ** 3n
  const leastSteps = Number((least * BigInt(own) + BigInt(step) * leastUnder - 1n) / (BigInt(step) * leastUnder))
  return ({ packages, mass }) => {
    const volume = packages.reduce((sum, { one }) => sum + volumeOf(one), 0n)
    const divisor = cubicMetre * BigInt(step)
    const bySize = Number((volume * BigInt(own) + divisor - 1n) / divisor)
    const byScale = ceilOf(times(mass, ofMass.under), times(ofMass.over, partsInKilogram))
    const steps = Math.max(bySize, byScale, leastSteps)
    const list = amounts.line(times(times(steps, step), each), times(own, money))
    return { charges: [charge(list)], perPackage: false, weight: times(steps * step, 1000), weightScale: own }
  }
}
