import type { Decimal } from "decimal.js"
import { lengthIn, massIn } from "../../units/index.ts"
import type { FreightClass } from "../density.ts"
import type { Standing, TrailerInside } from "../floor.ts"
import type { RatedPackage } from "../request.ts"
import { inexact, wholeParts } from "./exact.ts"

/** Parts of a kilogram and of a millimeter that masses and lengths are counted in: 10⁻¹⁰ kg and nanometers. */
export const partsInKilogram = 10_000_000_000
export const partsInMillimetre = 1_000_000

/** Whole parts in a unit. 1 lb = 0.45359237 kg, 1 in = 25.4 mm, both exactly: NIST Handbook 44, Appendix C. */
export const massParts: Readonly<Record<"lb" | "kg", number>> = { lb: 4_535_923_700, kg: partsInKilogram }
export const lengthParts: Readonly<Record<"in" | "cm", number>> = { in: 25_400_000, cm: 10_000_000 }

/** A package in whole numbers: what compiled prices are asked for. */
export interface CountedPackage {
  /** In 10⁻¹⁰ kg. */
  readonly mass: number
  /** Edges in nanometers, longest first. */
  readonly edges: readonly [number, number, number]
  /** As it stands, in nanometers. */
  readonly height: number
  readonly pallet: boolean
  readonly packaging: string | null
  readonly freightClass: FreightClass | null
  readonly stackable: boolean
  /** In 10⁻¹⁰ kg; 0 where there is none. */
  readonly dryIce: number
  /** Declared value in millionths of the currency; 0 where none is declared. */
  readonly declared: number
}

const kept = new WeakMap<RatedPackage, CountedPackage | null>()

/** A package in whole numbers; null where its figures are finer or larger than they hold. Kept with the package. */
export function countedPackage(one: RatedPackage): CountedPackage | null {
  const known = kept.get(one)
  if (known !== undefined) return known
  const found = counting(one)
  kept.set(one, found)
  return found
}

function counting(one: RatedPackage): CountedPackage | null {
  try {
    const { length, width, height } = one.size
    const [l, w, h] = [length, width, height].map((edge) => whole(lengthIn(edge, "mm"), partsInMillimetre)) as [
      number,
      number,
      number,
    ]
    return {
      mass: whole(massIn(one.weight, "kg"), partsInKilogram),
      edges: sorted(l, w, h),
      height: h,
      pallet: one.handling === "pallet",
      packaging: one.packaging ?? null,
      freightClass: one.freightClass ?? null,
      stackable: one.stackable === true,
      dryIce: one.dryIce ? whole(massIn(one.dryIce, "kg"), partsInKilogram) : 0,
      declared: one.declared ? whole(one.declared.amount, 1_000_000) : 0,
    }
  } catch (thrown) {
    if (thrown === inexact) return null
    throw thrown
  }
}

/** Three edges, longest first. */
export function sorted(a: number, b: number, c: number): [number, number, number] {
  if (a < b) [a, b] = [b, a]
  if (b < c) [b, c] = [c, b]
  return a < b ? [b, a, c] : [a, b, c]
}

/** A decimal counted in parts, or given up. */
export function whole(value: Decimal, parts: number): number {
  const scaled = value.mul(parts)
  if (!scaled.isInteger() || scaled.gt(Number.MAX_SAFE_INTEGER)) throw inexact
  return scaled.toNumber()
}

/** A pallet as it stands on a trailer's floor. */
export function standing({ edges: [a, b, c], height, stackable }: CountedPackage): Standing {
  const [long, short] = height === a ? [b, c] : height === b ? [a, c] : [a, b]
  return { long, short, height, stackable }
}

/** Inside of a trailer that is given in inches. */
export const trailerInside = (inches: { readonly width: string; readonly height: string }): TrailerInside => ({
  width: wholeParts(inches.width, lengthParts.in),
  height: wholeParts(inches.height, lengthParts.in),
})
