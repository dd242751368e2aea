import { Decimal } from "decimal.js"
import type { Service } from "../tariff/index.ts"
import {
  type LengthUnit,
  lengthIn,
  type Mass,
  type MassUnit,
  massIn,
  roundToStep,
  type Size,
  sortedEdges,
} from "../units/index.ts"
import type { RatedPackage } from "./request.ts"

type Edges = readonly [Decimal, Decimal, Decimal]

export interface BilledWeight {
  /** Actual weight rounded up to the service's step, in its unit (as all weights here). */
  readonly actual: Decimal
  /** Dimensional weight rounded up to the step; null without one, or when the volume is at or under the threshold. */
  readonly dimensional: Decimal | null
  readonly billed: Decimal
  /** Each edge rounded as the service says, in its unit, longest first. */
  readonly edges: Edges
}

/** A package in a service's units: as it is, and as it is billed. */
export interface Measured extends BilledWeight {
  readonly one: RatedPackage
  /** As it is, not rounded. */
  readonly weight: Decimal
  /** As they are, longest first. */
  readonly rawEdges: Edges
  /** Of the rounded edges, in cubic units of the service. */
  readonly volume: Decimal
  readonly sizeClass: string | null
}

type Weighed = Pick<Service, "weighing" | "dimensional" | "lengthUnit">

/** A weight rounded up to the step that holds at it. */
export function roundWeight(weight: Decimal.Value, { steps }: Service["weighing"]): Decimal {
  const row = steps.find((one) => one.upTo === null || new Decimal(weight).lte(one.upTo)) ?? steps.at(-1)
  return roundToStep(weight, row?.step ?? "1", "up")
}

/**
 * The weight that a parcel is billed at: the larger of actual and dimensional weight, each rounded up to the step,
 * and at least the service's least weight; the edges are rounded before they are multiplied. Common practice of
 * parcel carriers, no published source.
 *
 * @example 19½ × 14 1/16 × 12 3/8 in, rounded up: 20 × 15 × 13 in = 3900 in³; / 139 = 28.06, bills 29 lb
 */
export function billedWeight(weight: Mass, size: Size, service: Weighed): BilledWeight {
  const raw = edgesIn(size, service.lengthUnit)
  const edges = roundedEdges(raw, service)
  const actual = roundWeight(weightIn(weight, service.weighing.unit), service.weighing)
  const dimensional = dimensionalWeight(volume(edges), service)
  return {
    actual,
    dimensional,
    edges,
    billed: Decimal.max(actual, dimensional ?? 0, service.weighing.least),
  }
}

/** A package measured in a service's units; its size class is found by the caller, who knows the conditions. */
export function measure(
  one: RatedPackage,
  service: Weighed,
  classify: (measured: Omit<Measured, "sizeClass">) => { code: string; leastWeight: string | null } | null,
): Measured {
  const rawEdges = edgesIn(one.size, service.lengthUnit)
  const billed = billedWeight(one.weight, one.size, service)
  const plain = {
    ...billed,
    one,
    rawEdges,
    weight: weightIn(one.weight, service.weighing.unit),
    volume: volume(billed.edges),
  }
  const sizeClass = classify(plain)
  return {
    ...plain,
    billed: Decimal.max(billed.billed, sizeClass?.leastWeight ?? 0),
    sizeClass: sizeClass?.code ?? null,
  }
}

/** Volume divided by the service's divisor, rounded up to its weight step; null where only the scale counts. */
function dimensionalWeight(cubic: Decimal, { dimensional, weighing }: Weighed): Decimal | null {
  if (!dimensional || (dimensional.threshold !== null && cubic.lte(dimensional.threshold))) return null
  return roundWeight(cubic.div(dimensional.divisor), weighing)
}

const volume = ([a, b, c]: Edges): Decimal => a.mul(b).mul(c)

const roundedEdges = (edges: Edges, { dimensional }: Weighed): Edges =>
  dimensional === null
    ? edges
    : (edges.map((edge) => roundToStep(edge, dimensional.step, dimensional.rounding)) as unknown as Edges)

/**
 * Length + girth of edges, longest first: the longest and twice the sum of the others. Edges in inches that were given
 * in millimeters have no end: their sum is rounded, so that 165 inches are 165.
 */
export const lengthAndGirth = ([longest, second, third]: Edges): Decimal =>
  longest.add(second.add(third).mul(2)).toDecimalPlaces(20)

/** Weights and edges of the packages in hand, by unit: a comparison asks for them once for each service. */
const weights = new WeakMap<Mass, Map<MassUnit, Decimal>>()
const edgesOf = new WeakMap<Size, Map<LengthUnit, Edges>>()

/** A weight in a unit, exact. */
export const weightIn = (weight: Mass, unit: MassUnit): Decimal =>
  kept(weights, weight, unit, () => massIn(weight, unit))

/** The edges in a unit, exact, longest first. */
export const edgesIn = (size: Size, unit: LengthUnit): Edges =>
  kept(edgesOf, size, unit, () => sortedEdges(size).map((edge) => lengthIn(edge, unit)) as unknown as Edges)

function kept<K extends object, U, V>(all: WeakMap<K, Map<U, V>>, key: K, unit: U, make: () => V): V {
  const byUnit = all.get(key) ?? new Map<U, V>()
  if (byUnit.size === 0) all.set(key, byUnit)
  const found = byUnit.get(unit) ?? make()
  byUnit.set(unit, found)
  return found
}
