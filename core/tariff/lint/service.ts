import type { Service, Tariff } from "../schema.ts"
import { zonesOf } from "../zones.ts"
import { type Finding, notRising, odd, type Path, wrong } from "./finding.ts"
import { lintPrices } from "./prices.ts"
import { lintSurcharges } from "./surcharges.ts"

/** All that can be wrong with one service of a tariff. */
export function lintService(tariff: Tariff, service: Service, at: number): Finding[] {
  const path = ["services", at]
  return [
    ...zones(tariff, service, path),
    ...weighing(service, path),
    ...lintPrices(service, path),
    ...discounts(service, path),
    ...lintSurcharges(tariff, service, path),
    ...fuelAndTaxes(tariff, service, path),
    ...reach(tariff, service, path),
    ...options(service, path),
    ...transit(service, path),
  ]
}

function zones(tariff: Tariff, { chart, zones: served }: Service, path: Path): Finding[] {
  const known = tariff.charts[chart]
  if (!known) return [wrong([...path, "chart"], "no-chart", { chart })]
  const there = new Set(zonesOf(known))
  return served.flatMap((zone, at) => [
    ...(there.has(zone) ? [] : [odd([...path, "zones", at], "zone-nowhere", { chart, zone })]),
    ...(served.indexOf(zone) < at ? [wrong([...path, "zones", at], "zone-twice", { zone })] : []),
  ])
}

function weighing({ weighing: { steps }, limits }: Service, path: Path): Finding[] {
  const bounded = steps.map((one) => one.upTo)
  const last = bounded.at(-1)
  const inner = bounded.slice(0, -1)
  return [
    ...(last === null ? [] : [wrong([...path, "weighing", "steps"], "steps-end", { last: last ?? "" })]),
    ...(inner.includes(null) ? [wrong([...path, "weighing", "steps"], "steps-open")] : []),
    ...notRising(inner.flatMap((one) => one ?? [])).map((at) =>
      wrong([...path, "weighing", "steps", at], "not-rising", { figure: inner[at] ?? "" }),
    ),
    ...(limits.length !== null &&
    limits.lengthAndGirth !== null &&
    Number(limits.lengthAndGirth) < Number(limits.length)
      ? [
          odd([...path, "limits", "lengthAndGirth"], "girth-under-length", {
            girth: limits.lengthAndGirth,
            length: limits.length,
          }),
        ]
      : []),
  ]
}

const discounts = (service: Service, path: Path): Finding[] =>
  notRising(service.discounts.map(([from]) => from)).map((at) =>
    wrong([...path, "discounts", at, 0], "not-rising", { figure: service.discounts[at]?.[0] ?? "" }),
  )

function fuelAndTaxes(tariff: Tariff, { fuel, taxes, surcharges }: Service, path: Path): Finding[] {
  const codes = new Set(["base", ...surcharges.map((one) => one.code)])
  return [
    ...(fuel && !Object.hasOwn(tariff.fuel, fuel.table)
      ? [wrong([...path, "fuel", "table"], "no-fuel-table", { table: fuel.table })]
      : []),
    ...(fuel?.on ?? []).flatMap((code, at) =>
      codes.has(code) ? [] : [wrong([...path, "fuel", "on", at], "no-charge", { code })],
    ),
    ...taxes.flatMap((name, at) =>
      Object.hasOwn(tariff.taxes, name) ? [] : [wrong([...path, "taxes", at], "no-tax", { name })],
    ),
  ]
}

function reach(tariff: Tariff, { reach: to, goods, billing }: Service, path: Path): Finding[] {
  return [
    ...(to.business || to.residential ? [] : [wrong([...path, "reach"], "nobody")]),
    ...to.areasNotServed.flatMap((area, at) =>
      Object.hasOwn(tariff.areas, area) ? [] : [wrong([...path, "reach", "areasNotServed", at], "no-area", { area })],
    ),
    ...(goods.dangerous === "none" && goods.classes.length > 0
      ? [odd([...path, "goods", "classes"], "classes-of-none")]
      : []),
    ...(billing.freight.includes("shipper") ? [] : [odd([...path, "billing", "freight"], "no-shipper")]),
  ]
}

function options({ options: known, cover, surcharges }: Service, path: Path): Finding[] {
  const has = (option: string) => known.some((one) => one.option === option)
  const named = known.flatMap((rule, at) =>
    [...rule.excludes, ...rule.requires].flatMap((other) =>
      has(other) ? [] : [odd([...path, "options", at], "option-unknown", { option: rule.option, other })],
    ),
  )
  const twice = known.flatMap((rule, at) =>
    known.findIndex((other) => other.option === rule.option) < at
      ? [wrong([...path, "options", at], "option-twice", { option: rule.option })]
      : [],
  )
  const more = Number(cover.most) > Number(cover.included)
  return [
    ...named,
    ...twice,
    ...(has("declared-value") && !more ? [wrong([...path, "cover"], "declared-nothing", { most: cover.most })] : []),
    ...(more && !has("declared-value") ? [odd([...path, "cover", "most"], "cover-unasked", { most: cover.most })] : []),
    ...(has("declared-value") && !surcharges.some((one) => one.amount.basis === "value")
      ? [odd([...path, "options"], "declared-free")]
      : []),
  ]
}

const transit = (
  { transit: { days, departs, delivers, moves, count }, zones: served }: Service,
  path: Path,
): Finding[] => [
  ...served
    .filter((zone) => !Object.hasOwn(days, zone))
    .map((zone) => wrong([...path, "transit", "days"], "zone-no-days", { zone })),
  ...(departs !== null && count === "business" && !departs.some((day) => moves.includes(day))
    ? [wrong([...path, "transit", "departs"], "departs-still")]
    : []),
  ...(delivers.length === 0 ? [wrong([...path, "transit", "delivers"], "delivers-never")] : []),
]
