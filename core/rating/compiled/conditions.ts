import type { Money } from "../../money/index.ts"
import type { ComparablePlace, Condition, Fact, OptionCode, Service } from "../../tariff/index.ts"
import type { AreaLookup } from "./chart.ts"
import { counted, decimalsOf, floorOf, inexact, ratio, scaleOf, times, wholeParts } from "./exact.ts"
import type { Counted } from "./measuring.ts"
import { lengthParts, massParts } from "./packages.ts"

/** What is the same for every set of packages that goes this way by this service. */
export interface LaneFacts {
  readonly residential: boolean
  readonly options: ReadonlySet<OptionCode>
  readonly areas: AreaLookup
  readonly place: ComparablePlace
  readonly country: string
  readonly zone: string
  readonly shipDate: string
  readonly dangerous: boolean
  /** What the goods are worth; null where that is not known. */
  readonly value: Money | null
}

/** The packages together. */
export interface Together {
  readonly packages: readonly Counted[]
  /** Mass in 10⁻¹⁰ kg. */
  readonly mass: number
  /** Length of floor in nanometers. */
  readonly floor: number
}

/** A condition on packages: for one by itself, or where it is null, for any of them. */
export type Test = (one: Counted | null, all: Together) => boolean
/** A condition with what the lane says put in: it holds or not, whatever the packages, or they decide. */
export type Settled = boolean | Test
export type CompiledCondition = (lane: LaneFacts) => Settled

/** A condition made ready to be asked; the same answer as `whyHolds`. */
export function compileCondition(condition: Condition, service: Service): CompiledCondition {
  if ("not" in condition) {
    const inner = compileCondition(condition.not, service)
    return (lane) => {
      const settled = inner(lane)
      return typeof settled === "boolean" ? !settled : (one, all) => !settled(one, all)
    }
  }
  if ("all" in condition || "any" in condition) {
    const every = "all" in condition
    const parts = (every ? condition.all : condition.any).map((one) => compileCondition(one, service))
    return (lane) => {
      const open: Test[] = []
      for (const part of parts) {
        const settled = part(lane)
        if (typeof settled === "function") open.push(settled)
        else if (settled !== every) return settled
      }
      if (open.length === 0) return every
      if (open.length === 1) return open[0] as Test
      return every
        ? (one, all) => open.every((test) => test(one, all))
        : (one, all) => open.some((test) => test(one, all))
    }
  }
  return compileFact(condition, service)
}

/** What a fact says of one package. */
type Holds = (one: Counted) => boolean

function compileFact(fact: Fact, service: Service): CompiledCondition {
  const { weighing, lengthUnit } = service
  const ofPackage = (holds: Holds): CompiledCondition => {
    const test: Test = (one, all) => (one ? holds(one) : all.packages.some(holds))
    return () => test
  }
  switch (fact.fact) {
    case "residential":
      return (lane) => lane.residential
    case "option":
      return (lane) => lane.options.has(fact.option)
    case "area":
      return (lane) => lane.areas(fact.area, lane.place)
    case "country":
      return (lane) => fact.countries.includes(lane.country)
    case "zone":
      return (lane) => fact.zones.includes(lane.zone)
    case "value-over":
      return (lane) => lane.value?.amount.gt(fact.figure) === true
    case "dangerous":
      return (lane) => lane.dangerous
    case "season":
      return (lane) => fact.from <= lane.shipDate && lane.shipDate <= fact.until
    case "pieces-over": {
      const limit = Number(fact.figure)
      return () => (_, all) => all.packages.length > limit
    }
    case "total-over": {
      const limit = wholeParts(fact.figure, massParts[weighing.unit])
      return () => (_, all) => all.mass > limit
    }
    case "floor-over": {
      const limit = wholeParts(fact.figure, lengthParts[lengthUnit])
      return () => (_, all) => all.floor > limit
    }
    case "weight-over": {
      const limit = wholeParts(fact.figure, massParts[weighing.unit])
      return ofPackage((one) => one.one.mass > limit)
    }
    case "longest-over": {
      const limit = edgeLimit(fact.figure, service)
      return ofPackage((one) => one.edges[0] > limit)
    }
    case "second-over": {
      const limit = edgeLimit(fact.figure, service)
      return ofPackage((one) => one.edges[1] > limit)
    }
    case "girth-over": {
      const limit = edgeLimit(fact.figure, service)
      return ofPackage(({ edges }) => edges[0] + 2 * (edges[1] + edges[2]) > limit)
    }
    case "volume-over":
      return ofPackage(volumeOver(fact.figure, service))
    case "size-class":
      return ofPackage((one) => one.sizeClass === fact.sizeClass)
    case "packaging":
      return ofPackage(({ one }) => !!one.packaging && fact.packaging.includes(one.packaging))
    case "not-stackable":
      return ofPackage(({ one }) => !one.stackable)
  }
}

/** The whole steps of an edge (or nanometers where edges are not rounded) that a figure holds. */
export function edgeLimit(figure: string, { dimensional, lengthUnit }: Service): number {
  if (!dimensional) return wholeParts(figure, lengthParts[lengthUnit])
  const scale = scaleOf(Math.max(decimalsOf(figure), decimalsOf(dimensional.step)))
  return floorOf(counted(figure, scale), counted(dimensional.step, scale))
}

function volumeOver(figure: string, { dimensional, lengthUnit }: Service): Holds {
  if (dimensional) {
    const step = ratio(
      counted(dimensional.step, scaleOf(decimalsOf(dimensional.step))),
      scaleOf(decimalsOf(dimensional.step)),
    )
    const scale = scaleOf(decimalsOf(figure))
    // figure ÷ step³, in whole cubes of a step
    const limit = floorOf(times(counted(figure, scale), step.under ** 3), times(scale, step.over ** 3))
    return ({ edges }) => times(times(edges[0], edges[1]), edges[2]) > limit
  }
  const limit = Number(figure) * lengthParts[lengthUnit] ** 3
  // edges as they are: near the limit a double can't tell
  return ({ edges }) => {
    const volume = edges[0] * edges[1] * edges[2]
    if (Math.abs(volume - limit) <= limit * 1e-12) throw inexact
    return volume > limit
  }
}
