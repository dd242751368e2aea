import type { Service } from "../../tariff/index.ts"
import type { Settled, Together } from "./conditions.ts"
import {
  ceilOf,
  counted,
  decimalsOf,
  floorOf,
  inParts,
  mostDecimals,
  type Ratio,
  ratio,
  scaleOf,
  times,
  wholeParts,
} from "./exact.ts"
import { type CountedPackage, lengthParts, massParts } from "./packages.ts"

/** A package as a service bills it. Weights in parts of the service's scale (see `weightScale`). */
export interface Counted {
  readonly one: CountedPackage
  /** Steps of an edge, longest first, or nanometers where edges are not rounded. */
  readonly edges: readonly [number, number, number]
  readonly actual: number
  readonly billed: number
  readonly sizeClass: string | null
}

/** A step of weighing: up to a mass (10⁻¹⁰ kg), so many parts of mass, which are so many of the scale. */
interface Step {
  readonly upTo: number
  readonly mass: Ratio
  readonly parts: number
}

/** The parts of a unit of weight that a service's weights are counted in, so that every figure is whole. */
export function weightScale({ weighing, sizeClasses, price }: Service): number {
  const figures = [
    ...weighing.steps.map((one) => one.step),
    weighing.least,
    ...sizeClasses.flatMap((one) => one.leastWeight ?? []),
    ...(price.by === "unit" || price.by === "class" ? price.breaks : []),
    ...(price.by === "weight" && price.hundredweight ? [price.hundredweight.leastEach] : []),
  ]
  return scaleOf(mostDecimals(figures))
}

/** How a service rounds weights and edges and weighs by size, in whole numbers; the same as `measure`. */
export function compileMeasuring(service: Service, scale: number) {
  const { weighing, dimensional } = service
  const massUnit = massParts[weighing.unit]
  const steps = weighing.steps.map(
    ({ upTo, step }): Step => ({
      upTo: upTo === null ? Number.POSITIVE_INFINITY : wholeParts(upTo, massUnit),
      mass: inParts(step, massUnit),
      parts: counted(step, scale),
    }),
  )
  const last = steps.at(-1) as Step
  const least = counted(weighing.least, scale)

  /** A mass rounded up to the step that holds at it, in parts of the scale. */
  const roundMass = (mass: number): number => {
    const { mass: step, parts } = steps.find((one) => mass <= one.upTo) ?? last
    return times(ceilOf(times(mass, step.under), step.over), parts)
  }

  const bySize = dimensional ? compileDimensional(dimensional, weighing, scale) : null
  const edgeStep = dimensional ? inParts(dimensional.step, lengthParts[service.lengthUnit]) : null
  const roundEdge = (edge: number): number => {
    if (!edgeStep) return edge
    const over = times(edge, edgeStep.under)
    return dimensional?.rounding === "up"
      ? ceilOf(over, edgeStep.over)
      : floorOf(times(over, 2) + edgeStep.over, times(edgeStep.over, 2))
  }

  return {
    least,
    roundMass,
    bySize,
    /** A package by itself: its size class is of the first condition that holds. */
    measure(one: CountedPackage, classes: readonly { code: string; leastWeight: number; when: Settled }[]): Counted {
      const edges: [number, number, number] = [
        roundEdge(one.edges[0]),
        roundEdge(one.edges[1]),
        roundEdge(one.edges[2]),
      ]
      const actual = roundMass(one.mass)
      const size = bySize ? bySize.weight(times(times(edges[0], edges[1]), edges[2])) : 0
      const billed = Math.max(actual, size, least)
      const plain: Counted = { one, edges, actual, billed, sizeClass: null }
      for (const { code, leastWeight, when } of classes)
        if (typeof when === "boolean" ? when : when(plain, nothing))
          return { ...plain, billed: Math.max(billed, leastWeight), sizeClass: code }
      return plain
    },
  }
}
export type Measuring = ReturnType<typeof compileMeasuring>

/** A size class is found before the shipment is put together. */
const nothing: Together = { packages: [], mass: 0, floor: 0 }

/** Weight by size of a volume in cubes of an edge's step. */
function compileDimensional(
  { step, divisor, threshold }: NonNullable<Service["dimensional"]>,
  { steps }: Service["weighing"],
  scale: number,
) {
  const edge = ratio(counted(step, scaleOf(decimalsOf(step))), scaleOf(decimalsOf(step)))
  const cube: Ratio = ratio(
    times(times(edge.over, edge.over), edge.over),
    times(times(edge.under, edge.under), edge.under),
  )
  const over = scaleOf(decimalsOf(divisor))
  /** Units of weight for a cube of a step. */
  const each = ratio(times(cube.over, over), times(cube.under, counted(divisor, over)))
  const figure = (text: string) => ratio(counted(text, scaleOf(decimalsOf(text))), scaleOf(decimalsOf(text)))
  const inCubes = (text: string, of: Ratio) => {
    const given = figure(text)
    return floorOf(times(given.over, of.under), times(given.under, of.over))
  }
  const under = threshold === null ? -1 : inCubes(threshold, cube)
  const rows = steps.map((row) => {
    const own = figure(row.step)
    return {
      upTo: row.upTo === null ? Number.POSITIVE_INFINITY : inCubes(row.upTo, each),
      step: ratio(times(each.over, own.under), times(each.under, own.over)),
      parts: counted(row.step, scale),
    }
  })
  const last = rows.at(-1) as (typeof rows)[number]
  return {
    /** Units of weight for a cube of a step. */
    each,
    /** Whether a volume is over the threshold, so that its weight counts. */
    counts: (volume: number) => volume > under,
    /** The weight by size rounded up to its step, in parts of the scale; 0 where only the scale counts. */
    weight(volume: number): number {
      if (volume <= under) return 0
      const row = rows.find((one) => volume <= one.upTo) ?? last
      return times(ceilOf(times(volume, row.step.over), row.step.under), row.parts)
    },
  }
}
