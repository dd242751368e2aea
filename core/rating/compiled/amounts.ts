import { minorUnit } from "../../money/index.ts"
import type { Service, Tariff } from "../../tariff/index.ts"
import { counted, decimalsOf, mostDecimals, rounded, scaleOf, times } from "./exact.ts"

/** An amount at list and by contract, in whole parts of the tariff's money (see `compileAmounts`). */
export interface Amount {
  readonly list: number
  readonly contract: number
}

/**
 * How a tariff rounds a line and takes a discount off it, in whole parts of its currency: of the minor unit, or finer
 * where the tariff rounds to less or names a finer least charge. The same as `lineAmount` and `lessShare`.
 */
export function compileAmounts({ currency, rounding }: Tariff, services: readonly Service[]) {
  const minor = minorUnit(currency)
  const scale = scaleOf(Math.max(minor, mostDecimals([rounding.to ?? "0", ...services.map((one) => one.leastNet)])))
  const { way } = rounding
  const to = rounding.to === null || Number(rounding.to) === 0 ? null : rounding.to
  const own = to === null ? scaleOf(minor) : scaleOf(decimalsOf(to))
  const step = to === null ? 1 : counted(to, own)
  const parts = step * (scale / own)

  /** `over / under` of the currency as a line, in parts. */
  const line = (over: number, under: number): number => times(rounded(times(over, own), times(under, step), way), parts)

  /** An amount less a share of it, rounded as a line. */
  const less = (amount: number, share: Share): number =>
    line(times(amount, share.under - share.over), times(scale, share.under))

  /** A share of an amount, rounded as a line. */
  const shareOf = (amount: number, share: Share): number => line(times(amount, share.over), times(scale, share.under))

  /** A figure of the currency as a line. */
  const lineOf = (figure: string): number => {
    const decimals = scaleOf(decimalsOf(figure))
    return line(counted(figure, decimals), decimals)
  }
  return { scale, line, less, shareOf, lineOf }
}
export type Amounts = ReturnType<typeof compileAmounts>

export interface Share {
  readonly over: number
  readonly under: number
}

export function share(text: string): Share {
  const under = scaleOf(decimalsOf(text))
  return { over: counted(text, under), under }
}

/** A service's base charge from its list amount as a line: the discount of its height, the least net charge. */
export function compileBaseCharge(service: Service, { scale, less }: Amounts): (list: number) => Amount {
  const heights = service.discounts.map(([from, text]) => {
    const under = scaleOf(Math.max(decimalsOf(from), 0))
    return { from: counted(from, under), under, share: share(text) }
  })
  const least = counted(service.leastNet, scale)
  return (list) => {
    const height = heights.findLast(({ from, under }) => times(list, under) >= times(from, scale))
    const net = height && height.share.over > 0 ? less(list, height.share) : list
    return { list, contract: Math.max(net, least) }
  }
}
