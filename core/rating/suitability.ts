import type { Decimal } from "decimal.js"
import { isMilitary, isPostBox } from "../address/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { inRange, restrictedCategories, type Service, type Tariff } from "../tariff/index.ts"
import { lengthIn, massIn, sumMass } from "../units/index.ts"
import { edgesIn, lengthAndGirth, weightIn } from "./measures.ts"
import type { RatedPackage, RateRequest } from "./request.ts"

/** Why a service does not go there, to such a receiver. */
export function outOfReach(tariff: Tariff, { reach, returns }: Service, { from, shipTo }: RateRequest): Reason[] {
  const reasons: Reason[] = []
  if (returns && !reach.countries.includes(from.country))
    reasons.push(reason("rate.country", { country: from.country }))
  if (!reach.countries.includes(shipTo.country)) reasons.push(reason("rate.country", { country: shipTo.country }))
  if (isPostBox(shipTo) && !reach.postBox) reasons.push(reason("rate.post-box"))
  if (isMilitary(shipTo) && !reach.military) reasons.push(reason("rate.military"))
  if (shipTo.country === tariff.country && reach.statesNotServed.includes(shipTo.state))
    reasons.push(reason("rate.state", { state: shipTo.state }))
  if (shipTo.kind === "residential" && !reach.residential) reasons.push(reason("rate.business-only"))
  // nobody has confirmed that it is a business, and the wrong choice costs a correction fee (common practice)
  if (shipTo.kind === "unknown" && !reach.residential) reasons.push(reason("rate.business-not-confirmed"))
  if (shipTo.kind === "business" && !reach.business) reasons.push(reason("rate.residential-only"))
  for (const area of reach.areasNotServed)
    if (tariff.areas[area]?.some((range) => inRange(range, shipTo)))
      reasons.push(reason("rate.area", { area, postalCode: shipTo.postalCode }))
  return reasons
}

/** Whose rules for dangerous goods hold on a service's way. */
export const regimeOf = ({ goods, mode }: Pick<Service, "goods" | "mode">): "road" | "air" =>
  goods.regime ?? (mode === "air" ? "air" : "road")

type GoodsAsked = Pick<RateRequest, "dangerous" | "value" | "categories" | "options">

/** Why a service does not take goods of a category, or what lacks for it. */
function categoriesRefused({ goods }: Service, { categories, options }: GoodsAsked): Reason[] {
  const reasons: Reason[] = []
  if (goods.only !== null && categories?.all !== goods.only)
    reasons.push(reason("rate.only-category", { category: goods.only }))
  for (const category of categories?.some ?? []) {
    const rule = goods.categories.find((one) => one.category === category)
    if (!rule && restrictedCategories.has(category)) reasons.push(reason("rate.category", { category }))
    for (const need of rule?.needs ?? []) {
      const has = need === "adult-signature" ? options?.has("signature-adult") : categories?.has.includes(need)
      if (!has) reasons.push(reason("rate.category-needs", { category, need }))
    }
  }
  return reasons
}

/** Why a service does not take such goods. */
export function goodsRefused(service: Service, request: GoodsAsked): Reason[] {
  const { goods, limits } = service
  const reasons: Reason[] = []
  const dangerous = request.dangerous ?? []
  const unNumbers = (some: typeof dangerous) => [...new Set(some.map((one) => one.unNumber))].join(", ")
  const air = regimeOf(service) === "air"
  const over = dangerous.filter((one) => !one.limitedQuantity || (air && one.regulatedByAir))
  // under all rules only where the tariff says so
  if (goods.dangerous === "none" && dangerous.length > 0)
    reasons.push(reason("rate.dangerous", { unNumbers: unNumbers(dangerous) }))
  if (goods.dangerous === "limited-quantity" && over.length > 0)
    reasons.push(reason("rate.not-limited", { unNumbers: unNumbers(over) }))
  const other = dangerous.filter((one) => goods.classes.length > 0 && !goods.classes.includes(one.hazard))
  if (goods.dangerous !== "none" && other.length > 0)
    reasons.push(reason("rate.hazard-class", { unNumbers: unNumbers(other), classes: goods.classes.join(", ") }))
  reasons.push(...categoriesRefused(service, request))
  if (limits.value !== null && request.value?.amount.gt(limits.value))
    reasons.push(reason("rate.over-value", { figure: request.value.amount.toFixed(2), limit: limits.value }))
  return reasons
}

/** Why a service does not take such packages: how they stand, weight, size, number. */
export function packagesRefused(service: Service, packages: readonly RatedPackage[]): Reason[] {
  const { limits, lengthUnit, weighing, goods } = service
  const reasons = packages.flatMap((one) => {
    const pallet = one.handling === "pallet"
    if (pallet && goods.handling === "parcel") return [reason("rate.pallet", { package: one.number })]
    if (!pallet && goods.handling === "pallet") return [reason("rate.not-on-pallet", { package: one.number })]
    const edges = edgesIn(one.size, lengthUnit)
    const facts: [`rate.over-${"weight" | "length" | "girth" | "height"}`, Decimal, string | null, string][] = [
      ["rate.over-weight", weightIn(one.weight, weighing.unit), limits.weight, weighing.unit],
      ["rate.over-length", edges[0], limits.length, lengthUnit],
      ["rate.over-girth", lengthAndGirth(edges), limits.lengthAndGirth, lengthUnit],
      ["rate.over-height", lengthIn(one.size.height, lengthUnit), limits.height, lengthUnit],
    ]
    return facts.flatMap(([code, figure, limit, unit]) =>
      limit !== null && figure.gt(limit)
        ? [reason(code, { package: one.number, figure: figure.toDecimalPlaces(1).toString(), limit, unit })]
        : [],
    )
  })
  if (limits.pieces !== null && packages.length > limits.pieces)
    reasons.push(reason("rate.too-many-pieces", { pieces: packages.length, limit: limits.pieces }))
  // added before it is converted: a pound is no whole part of a kilogram
  const weight = massIn(sumMass(packages.map((one) => one.weight)), weighing.unit)
  if (limits.total !== null && weight.gt(limits.total))
    reasons.push(
      reason("rate.over-total", {
        figure: weight.toDecimalPlaces(1).toString(),
        limit: limits.total,
        unit: weighing.unit,
      }),
    )
  return reasons
}

/** Why a service can't do what is asked for besides carrying: options, who pays. */
export function wishesRefused(
  service: Service,
  request: Pick<RateRequest, "options" | "payer" | "dutiesPayer">,
): Reason[] {
  const reasons: Reason[] = []
  const asked = request.options ?? new Set()
  for (const option of asked) {
    const rule = service.options.find((one) => one.option === option)
    if (!rule) reasons.push(reason("rate.option", { option }))
    for (const other of rule?.excludes ?? [])
      if (asked.has(other)) reasons.push(reason("rate.option-excludes", { option, other }))
    for (const other of rule?.requires ?? [])
      if (!asked.has(other)) reasons.push(reason("rate.option-requires", { option, other }))
  }
  const payer = request.payer ?? "shipper"
  if (!service.billing.freight.includes(payer)) reasons.push(reason("rate.payer", { payer }))
  const duties = request.dutiesPayer
  if (duties && !service.billing.duties.includes(duties)) reasons.push(reason("rate.duties-payer", { payer: duties }))
  return reasons
}

/** Why a service does not cover what is declared for packages. */
export const coverRefused = ({ cover }: Service, packages: readonly RatedPackage[]): Reason[] =>
  packages.flatMap(({ declared, number }) =>
    declared?.amount.gt(cover.most)
      ? [
          reason(Number(cover.most) === 0 ? "rate.no-cover" : "rate.cover", {
            package: number,
            figure: declared.amount.toFixed(2),
            most: cover.most,
          }),
        ]
      : [],
  )
