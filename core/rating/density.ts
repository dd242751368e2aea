import { Decimal } from "decimal.js"
import { type Mass, massIn, type Size, volumeIn } from "../units/index.ts"

/** The 18 freight classes. Source: NMFTA classification (list from memory). */
export const freightClasses = [
  "50",
  "55",
  "60",
  "65",
  "70",
  "77.5",
  "85",
  "92.5",
  "100",
  "110",
  "125",
  "150",
  "175",
  "200",
  "250",
  "300",
  "400",
  "500",
] as const
export type FreightClass = (typeof freightClasses)[number]

export const isFreightClass = (text: string): text is FreightClass =>
  (freightClasses as readonly string[]).includes(text)

/**
 * Pounds in a cubic foot from which a class holds, densest first; the lower bound belongs to the class. Source: NMFTA
 * density scale of 13 steps, effective July 2025 (values from memory).
 */
const densityScale: readonly (readonly [atLeast: string, FreightClass])[] = [
  ["50", "50"],
  ["35", "55"],
  ["30", "60"],
  ["22.5", "65"],
  ["15", "70"],
  ["12", "85"],
  ["10", "92.5"],
  ["8", "100"],
  ["6", "125"],
  ["4", "175"],
  ["2", "250"],
  ["1", "300"],
  ["0", "400"],
]

/** Cubic inches in a cubic foot: NIST Handbook 44, Appendix C. */
export const cubicInches = 1728

/**
 * Density in pounds per cubic foot of the outer size and the gross weight, pallet included; exact.
 *
 * @example density(mass(500, "lb"), size(48, 40, 50, "in")) // 9.0, of 55.56 ft³
 */
export const density = (gross: Mass, outer: Size): Decimal =>
  new Decimal(massIn(gross, "lb")).mul(cubicInches).div(volumeIn(outer, "in"))

/** Cubic feet of an outer size; exact. */
export const cubicFeet = (outer: Size): Decimal => new Decimal(volumeIn(outer, "in")).div(cubicInches)

/** Lower bounds of the classes, densest first. */
export const densityBounds = densityScale.map(([atLeast, freightClass]) => ({ atLeast: Number(atLeast), freightClass }))

/** The class of a density in lb/ft³ that a double holds: the caller sees to what lies on a bound. */
export const classOfPlainDensity = (poundsPerCubicFoot: number): FreightClass =>
  densityBounds.find(({ atLeast }) => poundsPerCubicFoot >= atLeast)?.freightClass ?? "400"

/** The class of a density in lb/ft³. */
export function classOfDensity(poundsPerCubicFoot: Decimal.Value): FreightClass {
  // a density of kilograms and centimeters has no end in pounds and feet: on a bound it is on it
  const figure = new Decimal(poundsPerCubicFoot).toDecimalPlaces(12)
  return densityScale.find(([atLeast]) => figure.gte(atLeast))?.[1] ?? "400"
}

/** The class that all of some goods or packages have; null where one has none or another: then density decides. */
export function sharedClass(of: readonly { readonly freightClass?: FreightClass | null }[]): FreightClass | null {
  const [first] = of
  const one = first?.freightClass ?? null
  return of.every((each) => (each.freightClass ?? null) === one) ? one : null
}
