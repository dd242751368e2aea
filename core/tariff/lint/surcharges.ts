import type { Condition, Fact } from "../conditions.ts"
import type { Surcharge } from "../prices.ts"
import type { Service, Tariff } from "../schema.ts"
import { type Finding, odd, type Path, wrong } from "./finding.ts"
import { everyZone } from "./prices.ts"

/** Surcharges and size classes: those that can never be charged, names that stand for nothing, zones without a figure. */
export function lintSurcharges(tariff: Tariff, service: Service, path: Path): Finding[] {
  const codes = new Set(["base", ...service.surcharges.map((one) => one.code)])
  const sizes = service.sizeClasses.flatMap((one, at) => {
    const why = neverHolds(one.when, tariff, service)
    return why ? [odd([...path, "sizeClasses", at], "size-class-unreached", { sizeClass: one.code, why })] : []
  })
  return [
    ...sizes,
    ...service.surcharges.flatMap((one, at) => lintOne(tariff, service, one, codes, [...path, "surcharges", at])),
    ...groups(service, path),
  ]
}

function lintOne(tariff: Tariff, service: Service, one: Surcharge, codes: ReadonlySet<string>, path: Path): Finding[] {
  const { amount } = one
  const why = neverHolds(one.when, tariff, service)
  const names = unknownNames(one.when, tariff, service).map((name) =>
    wrong([...path, "when"], "no-name", { name, code: one.code }),
  )
  const unknown = (amount.of ?? []).filter((code) => !codes.has(code) || code === one.code)
  const bounds = amount.least && amount.most && Number(amount.least) > Number(amount.most)
  return [
    ...(names.length === 0 && why ? [odd([...path, "when"], "unreached", { code: one.code, why })] : []),
    ...names,
    ...everyZone(amount.figure, service.zones, [...path, "amount", "figure"]),
    ...unknown.map((code) => wrong([...path, "amount", "of"], "no-charge", { code })),
    ...(bounds ? [wrong([...path, "amount"], "bounds", { least: amount.least ?? "", most: amount.most ?? "" })] : []),
  ]
}

/** A group of one chooses nothing. */
function groups(service: Service, path: Path): Finding[] {
  return service.surcharges.flatMap((one, at) =>
    one.group !== null && service.surcharges.filter((other) => other.group === one.group).length === 1
      ? [odd([...path, "surcharges", at, "group"], "group-of-one", { group: one.group })]
      : [],
  )
}

/** Names of areas, size classes and zones in a condition that the tariff does not have. */
function unknownNames(condition: Condition, tariff: Tariff, service: Service): string[] {
  if ("not" in condition) return unknownNames(condition.not, tariff, service)
  if ("all" in condition) return condition.all.flatMap((one) => unknownNames(one, tariff, service))
  if ("any" in condition) return condition.any.flatMap((one) => unknownNames(one, tariff, service))
  if (condition.fact === "area") return Object.hasOwn(tariff.areas, condition.area) ? [] : [condition.area]
  if (condition.fact === "size-class")
    return service.sizeClasses.some((one) => one.code === condition.sizeClass) ? [] : [condition.sizeClass]
  return []
}

/** The fact for which a condition can never hold on a shipment that the service takes; null where it may. */
export function neverHolds(condition: Condition, tariff: Tariff, service: Service): string | null {
  if ("not" in condition) return null
  if ("all" in condition)
    return condition.all.map((one) => neverHolds(one, tariff, service)).find((why) => why !== null) ?? null
  if ("any" in condition) {
    const all = condition.any.map((one) => neverHolds(one, tariff, service))
    return all.every((why) => why !== null) ? (all[0] ?? null) : null
  }
  return never(condition, tariff, service) ? condition.fact : null
}

function never(fact: Fact, tariff: Tariff, { limits, reach, goods, options, zones, price }: Service): boolean {
  const past = (limit: string | number | null) =>
    limit !== null && "figure" in fact && Number(fact.figure) >= Number(limit)
  switch (fact.fact) {
    case "residential":
      return !reach.residential && !reach.business
    case "option":
      return !options.some((one) => one.option === fact.option)
    case "weight-over":
      return past(limits.weight)
    case "longest-over":
      return past(limits.length)
    case "girth-over":
      return past(limits.lengthAndGirth)
    case "value-over":
      return past(limits.value)
    case "pieces-over":
      return past(limits.pieces)
    case "total-over":
      return past(limits.total)
    case "country":
      return !fact.countries.some((country) => reach.countries.includes(country))
    case "zone":
      return !fact.zones.some((zone) => zones.includes(zone))
    case "area":
      return reach.areasNotServed.includes(fact.area)
    case "dangerous":
      return goods.dangerous === "none"
    case "not-stackable":
      return goods.handling === "parcel"
    case "floor-over":
      return price.by !== "class"
    case "season":
      return (
        fact.until < fact.from ||
        fact.until < tariff.validFrom ||
        (tariff.validTo !== null && fact.from > tariff.validTo)
      )
    default:
      return false
  }
}
