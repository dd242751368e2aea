import { Decimal } from "decimal.js"
import {
  girth,
  type LengthUnit,
  lengthIn,
  type Mass,
  massIn,
  roundToStep,
  type Size,
  sortedEdges,
} from "../units/index.ts"
import type { ParcelTariff } from "./tariff.ts"

export interface BilledWeight {
  /** Actual weight rounded up to the tariff's step, in its unit (as all weights here). */
  readonly actual: Decimal
  /** Dimensional weight rounded up to the step; null when the volume is at or under the threshold. */
  readonly dimensional: Decimal | null
  readonly billed: Decimal
  /** Each edge rounded as the tariff says, in its unit, longest first. */
  readonly edges: readonly [Decimal, Decimal, Decimal]
}

/**
 * The weight that a parcel is billed at: the larger of actual and dimensional weight, each rounded up to the step;
 * the edges are rounded before they are multiplied. Common practice of parcel carriers, no published source.
 *
 * @example 19½ × 14 1/16 × 12 3/8 in, rounded up: 20 × 15 × 13 in = 3900 in³; / 139 = 28.06, bills 29 lb
 */
export function billedWeight(
  weight: Mass,
  size: Size,
  tariff: Pick<ParcelTariff, "weightStep" | "dimension" | "weightUnit" | "lengthUnit">,
): BilledWeight {
  const { weightUnit, lengthUnit } = tariff
  const { step, rounding, divisor, thresholdVolume } = tariff.dimension
  const edges = sortedEdges(size).map((edge) => roundToStep(lengthIn(edge, lengthUnit), step, rounding)) as [
    Decimal,
    Decimal,
    Decimal,
  ]
  const volume = edges[0].mul(edges[1]).mul(edges[2])
  const actual = roundToStep(massIn(weight, weightUnit), tariff.weightStep, "up")
  const small = thresholdVolume !== null && volume.lte(thresholdVolume)
  const dimensional = small ? null : roundToStep(volume.div(divisor), tariff.weightStep, "up")
  return { actual, dimensional, billed: dimensional ? Decimal.max(actual, dimensional) : actual, edges }
}

/** Length and length + girth as carriers measure them. */
export function lengthAndGirth(size: Size, unit: LengthUnit): { length: Decimal; lengthAndGirth: Decimal } {
  const [longest] = sortedEdges(size)
  const length = lengthIn(longest, unit)
  return { length, lengthAndGirth: length.add(lengthIn(girth(size), unit)) }
}
