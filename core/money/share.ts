import { Decimal } from "decimal.js"
import { type Money, minorUnit } from "./index.ts"

/**
 * Shares an amount in proportion to weights, in whole minor units, so that the shares add up to it exactly: each is what
 * the running total comes to after it, rounded half up, less what it came to before. Where all weights are nothing, all
 * are alike.
 *
 * @example shareOut(money("10.00", "USD"), [1, 1, 1]) // 3.33, 3.34, 3.33
 */
export function shareOut(total: Money, weights: readonly Decimal.Value[]): Money[] {
  const digits = minorUnit(total.currency)
  const exact = weights.map((weight) => new Decimal(weight))
  if (exact.some((weight) => weight.isNegative())) throw new RangeError("a weight below nothing has no share")
  const none = exact.every((weight) => weight.isZero())
  const parts = none ? exact.map(() => new Decimal(1)) : exact
  const sum = parts.reduce((all, one) => all.add(one), new Decimal(0))
  let run = new Decimal(0)
  let before = new Decimal(0)
  return parts.map((part, index) => {
    run = run.add(part)
    // the last is what is left, whatever the digits of the amount
    const upTo =
      index === parts.length - 1
        ? total.amount
        : total.amount.mul(run).div(sum).toDecimalPlaces(digits, Decimal.ROUND_HALF_UP)
    const share = upTo.sub(before)
    before = upTo
    return { amount: share, currency: total.currency }
  })
}
