import { Decimal } from "decimal.js"
import { accepted, reason, refused } from "../../refusal/index.ts"
import { figureFor } from "../../tariff/index.ts"
import { lengthIn, massIn, roundToStep } from "../../units/index.ts"
import { baseCharge, type Pricer, total } from "./base.ts"
import { whyZone } from "./byWeight.ts"

/**
 * Weight or measure, as groupage by sea is priced: so much for a revenue ton, which is 1000 kg or 1 m³, whichever is
 * more, at least the tariff's least, rounded up to its step. Common practice, no published source.
 *
 * @example 800 kg in 1.2 m³ pays for 1.2 revenue tons
 */
export const byMeasure: Pricer<"measure"> = (asked) => {
  const { price, zone, packages } = asked
  const rate = figureFor(price.perTon, zone)
  if (rate === null) return refused(reason("rate.no-zone-rate", { zone }))
  const tons = total(packages.map(({ one }) => massIn(one.weight, "kg"))).div(1000)
  const cubicMetres = total(
    packages.map(({ one }) =>
      [one.size.length, one.size.width, one.size.height].reduce(
        (volume, edge) => volume.mul(lengthIn(edge, "mm").div(1000)),
        new Decimal(1),
      ),
    ),
  )
  const paid = roundToStep(Decimal.max(tons, cubicMetres, price.least), price.step, "up")
  const why = reason("why.measure", {
    tons: tons.toDecimalPlaces(3).toString(),
    cubicMetres: cubicMetres.toDecimalPlaces(3).toString(),
    paid: paid.toString(),
    rate,
    least: price.least,
  })
  return accepted({
    charges: [baseCharge(asked, null, paid.mul(rate), whyZone(zone), why)],
    paid: [{ package: null, weight: paid.mul(1000) }],
  })
}
