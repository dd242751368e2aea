import { Decimal } from "decimal.js"

/**
 * Mass and length as exact decimals. Factors: NIST Handbook 44, Appendix C, and the international yard and pound
 * agreement of 1959 (1 lb = 0.45359237 kg, 1 in = 25.4 mm, both exactly). No conversion rounds; rounding is a step of
 * its own (`roundToStep`), taken where a tariff asks for it.
 */
const Exact = Decimal.clone({ precision: 40, rounding: Decimal.ROUND_HALF_UP })

declare const massBrand: unique symbol
declare const lengthBrand: unique symbol
/** A mass; the decimal inside counts kilograms. */
export type Mass = Decimal & { readonly [massBrand]: true }
/** A length; the decimal inside counts millimetres. */
export type Length = Decimal & { readonly [lengthBrand]: true }
export type MassUnit = "kg" | "g" | "lb" | "oz"
export type LengthUnit = "mm" | "cm" | "in"

const kilogramsIn: Record<MassUnit, Decimal> = {
  kg: new Exact(1),
  g: new Exact("0.001"),
  lb: new Exact("0.45359237"),
  oz: new Exact("0.028349523125"),
}
const millimetresIn: Record<LengthUnit, Decimal> = { mm: new Exact(1), cm: new Exact(10), in: new Exact("25.4") }

/** A mass from a figure and its unit. Throws for a figure that is not a number or is negative. */
export function mass(figure: Decimal.Value, unit: MassUnit): Mass {
  return amount(figure).mul(kilogramsIn[unit]) as Mass
}

/** A length from a figure and its unit. Throws for a figure that is not a number or is negative. */
export function length(figure: Decimal.Value, unit: LengthUnit): Length {
  return amount(figure).mul(millimetresIn[unit]) as Length
}

/** The mass in a unit, exact (to 40 digits where the quotient does not end). */
export const massIn = (value: Mass, unit: MassUnit): Decimal => value.div(kilogramsIn[unit])
export const lengthIn = (value: Length, unit: LengthUnit): Decimal => value.div(millimetresIn[unit])

export const noMass = mass(0, "kg")
export const sumMass = (masses: readonly Mass[]): Mass =>
  masses.reduce<Decimal>((total, one) => total.add(one), noMass) as Mass
export const timesMass = (value: Mass, count: Decimal.Value): Mass => value.mul(count) as Mass

/** Three outer edges, in no particular order until `sortedEdges`. */
export interface Size {
  readonly length: Length
  readonly width: Length
  readonly height: Length
}

export const size = (l: Decimal.Value, w: Decimal.Value, h: Decimal.Value, unit: LengthUnit): Size => ({
  length: length(l, unit),
  width: length(w, unit),
  height: length(h, unit),
})

/** The edges from the longest to the shortest. */
export function sortedEdges(value: Size): [Length, Length, Length] {
  return [value.length, value.width, value.height].sort((a, b) => b.cmp(a)) as [Length, Length, Length]
}

/** Girth: twice the sum of the two shorter edges (common practice of parcel carriers, no published source). */
export function girth(value: Size): Length {
  const [, second, third] = sortedEdges(value)
  return second.add(third).mul(2) as Length
}

/** Volume in the cube of a length unit. */
export const volumeIn = (value: Size, unit: LengthUnit): Decimal =>
  lengthIn(value.length, unit).mul(lengthIn(value.width, unit)).mul(lengthIn(value.height, unit))

/**
 * A figure rounded to a multiple of a step: up, or to the nearest with halves going up.
 *
 * @example roundToStep("12.4375", "1", "up") // 13: 12 lb 7 oz bills 13 lb (common practice)
 */
export function roundToStep(figure: Decimal.Value, step: Decimal.Value, way: "up" | "nearest"): Decimal {
  const steps = new Exact(figure).div(step)
  return steps.toDecimalPlaces(0, way === "up" ? Decimal.ROUND_CEIL : Decimal.ROUND_HALF_UP).mul(step)
}

/** A mass for reading: at most one decimal in lb, two in kg; the unit follows. */
export const showMass = (value: Mass, unit: "lb" | "kg"): string =>
  `${massIn(value, unit)
    .toDecimalPlaces(unit === "lb" ? 1 : 2, Decimal.ROUND_HALF_UP)
    .toString()} ${unit}`

/** The edges for reading, such as `16 × 12 × 13 in`, each to one decimal at most. */
export const showSize = (value: Size, unit: "in" | "cm"): string => `${showEdges(value, unit)} ${unit}`

/** The same without the unit, where a heading has it. */
export const showEdges = (value: Size, unit: "in" | "cm"): string =>
  [value.length, value.width, value.height]
    .map((edge) => lengthIn(edge, unit).toDecimalPlaces(1, Decimal.ROUND_HALF_UP).toString())
    .join(" × ")

function amount(figure: Decimal.Value): Decimal {
  const value = new Exact(figure)
  if (!value.isFinite() || value.isNegative()) throw new RangeError(`a measure must be zero or more, got ${figure}`)
  return value
}
