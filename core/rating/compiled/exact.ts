/**
 * Exact arithmetic on whole numbers that fit a double. What would not fit is given up by throwing `inexact`, and the
 * explained engine, which counts in decimals of any length, answers instead.
 */

/** Thrown where a figure does not fit: not an error, and without a stack to be made. */
export const inexact: unique symbol = Symbol("inexact")

/** A product that is exact, or given up. */
export function times(a: number, b: number): number {
  const product = a * b
  if (product > Number.MAX_SAFE_INTEGER) throw inexact
  return product
}

/** A sum that is exact, or given up. */
export function plus(a: number, b: number): number {
  const sum = a + b
  if (sum > Number.MAX_SAFE_INTEGER) throw inexact
  return sum
}

/** How many decimals a figure is written with, without zeros at its end. */
export function decimalsOf(figure: string): number {
  const at = figure.indexOf(".")
  return at < 0 ? 0 : figure.slice(at + 1).replace(/0+$/, "").length
}

/** The most decimals among figures. */
export const mostDecimals = (figures: Iterable<string>): number => Math.max(0, ...Array.from(figures, decimalsOf))

/** 10 to a number of decimals. */
export const scaleOf = (decimals: number): number => 10 ** decimals

/** A figure counted in parts of a scale, such as 12.50 in hundredths: 1250. Given up where it has finer parts. */
export function counted(figure: string, scale: number): number {
  const [whole = "0", fraction = ""] = figure.split(".")
  const digits = fraction.replace(/0+$/, "")
  const own = scaleOf(digits.length)
  const value = plus(times(Number(whole), own), Number(digits || "0"))
  const factor = scale / own
  if (!Number.isInteger(factor)) throw inexact
  return times(value, factor)
}

/** The largest whole number that is not over `a / b`. */
export function floorOf(a: number, b: number): number {
  let quotient = Math.floor(a / b)
  // a double's quotient may be one off: products of whole numbers are exact
  if (times(quotient, b) > a) quotient -= 1
  else if (times(quotient + 1, b) <= a) quotient += 1
  return quotient
}

/** The least whole number that is not under `a / b`. */
export function ceilOf(a: number, b: number): number {
  const quotient = floorOf(a, b)
  return quotient * b === a ? quotient : quotient + 1
}

export type Rounding = "half-up" | "up" | "down"

/** `a / b`, neither negative, rounded to a whole number. */
export function rounded(a: number, b: number, way: Rounding): number {
  const quotient = floorOf(a, b)
  const rest = a - quotient * b
  if (way === "up") return rest > 0 ? quotient + 1 : quotient
  if (way === "down") return quotient
  return times(rest, 2) >= b ? quotient + 1 : quotient
}

/** A fraction of whole numbers in its lowest terms. */
export interface Ratio {
  readonly over: number
  readonly under: number
}

export function ratio(over: number, under: number): Ratio {
  let [a, b] = [over, under]
  while (b > 0) [a, b] = [b, a % b]
  return { over: over / a, under: under / a }
}

/** A figure of a unit in parts of that unit, as a fraction: 0.0625 lb in 10⁻¹⁰ kg is 1133980925/4. */
export function inParts(figure: string, partsInUnit: number): Ratio {
  const scale = scaleOf(decimalsOf(figure))
  const of = ratio(partsInUnit, scale)
  return ratio(times(counted(figure, scale), of.over), of.under)
}

/** The whole parts that a figure of a unit holds: a whole number of parts is over the figure when it is over these. */
export function wholeParts(figure: string, partsInUnit: number): number {
  const { over, under } = inParts(figure, partsInUnit)
  return floorOf(over, under)
}
