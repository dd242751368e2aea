import type { Decimal } from "decimal.js"
import { type Reason, reason, reasonOf } from "../refusal/index.ts"
import { type Condition, type Fact, inRange, type Service, type Tariff } from "../tariff/index.ts"
import { massIn, sumMass } from "../units/index.ts"
import { lengthAndGirth, type Measured } from "./measures.ts"
import { type RateRequest, ratedAsResidential } from "./request.ts"

/** What conditions look at: the shipment by a service, and the package in question where it is one by itself. */
export interface Situation {
  readonly tariff: Tariff
  readonly service: Service
  readonly request: RateRequest
  readonly zone: string
  readonly packages: readonly Measured[]
  readonly one: Measured | null
  /** Length of floor that pallets take, in the service's unit; 0 where it is not asked. */
  readonly floor: Decimal
}

/** Why a condition holds, fact by fact, or null when it does not. */
export function whyHolds(condition: Condition, situation: Situation): readonly Reason[] | null {
  if ("not" in condition) return whyHolds(condition.not, situation) ? null : []
  if ("all" in condition) {
    const answers = condition.all.map((one) => whyHolds(one, situation))
    return answers.some((one) => one === null) ? null : answers.flatMap((one) => one ?? [])
  }
  if ("any" in condition) {
    for (const one of condition.any) {
      const why = whyHolds(one, situation)
      if (why) return why
    }
    return null
  }
  if (!packageFacts.has(condition.fact)) return whyShipment(condition, situation)
  for (const one of situation.one ? [situation.one] : situation.packages) {
    const why = whyPackage(condition, one, situation)
    if (why) return [why]
  }
  return null
}

const packageFacts: ReadonlySet<Fact["fact"]> = new Set([
  "weight-over",
  "longest-over",
  "second-over",
  "girth-over",
  "volume-over",
  "size-class",
  "packaging",
  "not-stackable",
])

function whyPackage(fact: Fact, one: Measured, { service }: Situation): Reason | null {
  const over = (figure: Decimal, limit: string, unit: string) =>
    figure.gt(limit)
      ? reasonOf(`fact.${fact.fact}`, { figure: figure.toDecimalPlaces(2).toString(), limit, unit })
      : null
  const { lengthUnit, weighing } = service
  switch (fact.fact) {
    case "weight-over":
      return over(one.weight, fact.figure, weighing.unit)
    case "longest-over":
      return over(one.edges[0], fact.figure, lengthUnit)
    case "second-over":
      return over(one.edges[1], fact.figure, lengthUnit)
    case "girth-over":
      return over(lengthAndGirth(one.edges), fact.figure, lengthUnit)
    case "volume-over":
      return over(one.volume, fact.figure, `${lengthUnit}³`)
    case "size-class":
      return one.sizeClass === fact.sizeClass ? reason("fact.size-class", { sizeClass: fact.sizeClass }) : null
    case "packaging":
      return one.one.packaging && fact.packaging.includes(one.one.packaging)
        ? reason("fact.packaging", { packaging: one.one.packaging })
        : null
    case "not-stackable":
      return one.one.stackable ? null : reason("fact.not-stackable")
    default:
      return null
  }
}

function whyShipment(fact: Fact, situation: Situation): readonly Reason[] | null {
  const { tariff, service, request, zone, packages } = situation
  const { shipTo } = request
  const when = (holds: boolean, values: Record<string, string | number> = {}, code = `fact.${fact.fact}`) =>
    holds ? [reasonOf(code, values)] : null
  switch (fact.fact) {
    case "residential":
      return when(
        ratedAsResidential(shipTo),
        {},
        shipTo.kind === "unknown" ? "fact.residential-unconfirmed" : "fact.residential",
      )
    case "option":
      return when(request.options?.has(fact.option) === true, { option: fact.option })
    case "area":
      return when(tariff.areas[fact.area]?.some((range) => inRange(range, shipTo)) === true, {
        area: fact.area,
        postalCode: shipTo.postalCode,
      })
    case "country":
      return when(fact.countries.includes(shipTo.country), { country: shipTo.country })
    case "zone":
      return when(fact.zones.includes(zone), { zone })
    case "value-over": {
      const value = request.value?.amount
      return value?.gt(fact.figure) ? when(true, { figure: value.toFixed(2), limit: fact.figure }) : null
    }
    case "dangerous":
      return when((request.dangerous?.length ?? 0) > 0, {
        unNumbers: [...new Set(request.dangerous?.map((one) => one.unNumber))].join(", "),
      })
    case "pieces-over":
      return when(packages.length > Number(fact.figure), { figure: packages.length, limit: fact.figure })
    case "total-over": {
      const total = massIn(sumMass(packages.map(({ one }) => one.weight)), service.weighing.unit)
      return when(total.gt(fact.figure), {
        figure: total.toDecimalPlaces(2).toString(),
        limit: fact.figure,
        unit: service.weighing.unit,
      })
    }
    case "floor-over":
      return when(situation.floor.gt(fact.figure), {
        figure: situation.floor.toDecimalPlaces(1).toString(),
        limit: fact.figure,
        unit: service.lengthUnit,
      })
    case "season":
      return when(fact.from <= request.shipDate && request.shipDate <= fact.until, {
        from: fact.from,
        until: fact.until,
      })
    default:
      return null
  }
}
