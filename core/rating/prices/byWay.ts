import { Decimal } from "decimal.js"
import { accepted, reason, refused } from "../../refusal/index.ts"
import { distanceIn } from "../../tariff/index.ts"
import { baseCharge, type Pricer, total } from "./base.ts"

/** A vehicle of one's own: so much for the stop and for each started unit of the way, at least the minimum. */
export const byWay: Pricer<"way"> = (asked) => {
  const { price, request, packages } = asked
  if (!request.distance) return refused(reason("rate.no-distance", { postalCode: request.shipTo.postalCode }))
  const far = distanceIn(request.distance, price.unit).ceil()
  const sum = new Decimal(price.stop).add(far.mul(price.perUnit))
  const why = reason(sum.lt(price.minimum) ? "why.minimum" : "why.way", {
    figure: price.minimum,
    stop: price.stop,
    far: far.toString(),
    unit: price.unit,
    rate: price.perUnit,
  })
  return accepted({
    charges: [baseCharge(asked, null, Decimal.max(sum, price.minimum), why)],
    paid: [{ package: null, weight: total(packages.map((one) => one.actual)) }],
  })
}
