import { distanceIn, type PriceBy } from "../../tariff/index.ts"
import type { Length } from "../../units/index.ts"
import type { Amounts } from "./amounts.ts"
import { counted, mostDecimals, plus, scaleOf, times } from "./exact.ts"

/** The list amount of a vehicle of one's own over a way; null where the way is not known. */
export function wayAmount(price: PriceBy<"way">, distance: Length | null, amounts: Amounts): number | null {
  if (distance === null) return null
  const far = distanceIn(distance, price.unit).ceil().toNumber()
  const money = scaleOf(mostDecimals([price.stop, price.perUnit, price.minimum]))
  const sum = plus(counted(price.stop, money), times(far, counted(price.perUnit, money)))
  return amounts.line(Math.max(sum, counted(price.minimum, money)), money)
}
