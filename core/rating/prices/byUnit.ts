import { Decimal } from "decimal.js"
import { accepted, reason, refused } from "../../refusal/index.ts"
import { figureFor } from "../../tariff/index.ts"
import { massIn, sumMass } from "../../units/index.ts"
import { roundWeight } from "../measures.ts"
import { baseCharge, breakAt, type Pricer, total } from "./base.ts"
import { whyZone } from "./byWeight.ts"

/**
 * So much for a unit of chargeable weight, with a minimum: the whole shipment's weight or its volume divided by the
 * divisor, whichever is more, rounded up once. Where the tariff allows, priced as the next break's least weight when
 * that is less. Air freight: IATA, 6000 cm³ a kilogram, to the next half kilogram (from memory).
 *
 * @example 100 × 60 × 50 cm = 300 000 cm³ / 6000 = 50.0 kg; 101 × 60 × 50 = 50.5 kg
 */
export const byUnit: Pricer<"unit"> = (asked) => {
  const { price, service, zone, packages } = asked
  const rates = price.rates[zone]
  if (!rates) return refused(reason("rate.no-zone-rate", { zone }))
  const actual = massIn(sumMass(packages.map(({ one }) => one.weight)), service.weighing.unit)
  const cubic = total(packages.map((one) => one.volume))
  const { dimensional, weighing } = service
  const bySize =
    dimensional && (dimensional.threshold === null || cubic.gt(dimensional.threshold))
      ? cubic.div(dimensional.divisor)
      : null
  const weight = roundWeight(Decimal.max(actual, bySize ?? 0, weighing.least), weighing)
  const own = breakAt(price.breaks, weight)
  const candidates = price.breaks
    .map((least, index) => ({ index, at: index > own ? new Decimal(least) : weight }))
    .filter(({ index }) => index === own || (price.asWeight && index > own))
    .flatMap(({ index, at }) => (rates[index] === undefined ? [] : [{ index, at, sum: at.mul(rates[index]) }]))
  const best = candidates.reduce<(typeof candidates)[number] | null>(
    (least, one) => (least === null || one.sum.lt(least.sum) ? one : least),
    null,
  )
  if (!best) return refused(reason("rate.no-zone-rate", { zone }))
  const minimum = figureFor(price.minimum, zone) ?? "0"
  const atMinimum = best.sum.lt(minimum)
  const why = [
    whyZone(zone),
    reason("why.chargeable", {
      weight: weight.toString(),
      unit: weighing.unit,
      actual: actual.toDecimalPlaces(2).toString(),
      dimensional: bySize?.toDecimalPlaces(2).toString() ?? "",
      by: bySize?.gt(actual) ? "size" : "scale",
    }),
    atMinimum
      ? reason("why.minimum", { figure: minimum })
      : reason(best.index > own ? "why.per-unit-as" : "why.per-unit", {
          rate: rates[best.index] as string,
          unit: weighing.unit,
          at: best.at.toString(),
        }),
  ]
  return accepted({
    charges: [baseCharge(asked, null, Decimal.max(best.sum, minimum), ...why)],
    paid: [{ package: null, weight }],
  })
}
