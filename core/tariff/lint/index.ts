import { type FuelTable, fuelOn } from "../fuel.ts"
import type { Tariff } from "../schema.ts"
import { lintCharts } from "./charts.ts"
import { type Finding, notRising, odd, type Path, wrong } from "./finding.ts"
import { lintService } from "./service.ts"

export type { Finding, Path } from "./finding.ts"

/**
 * What is wrong or odd in a tariff that its schema accepts: names that stand for nothing, zones without a rate, ranges
 * that overlap, rows that fall, weights and weeks without a figure, charges that can never be due. Errors first, then by
 * place. Never throws.
 */
export function lintTariff(tariff: Tariff): Finding[] {
  const findings = [
    ...validity(tariff),
    ...lintCharts(tariff),
    ...Object.entries(tariff.fuel).flatMap(([name, table]) => lintFuel(tariff, name, table)),
    ...unused(tariff),
    ...codesTwice(tariff),
    ...tariff.services.flatMap((service, at) => lintService(tariff, service, at)),
  ]
  return findings.sort((a, b) => Number(a.level === "warning") - Number(b.level === "warning"))
}

const validity = ({ validFrom, validTo }: Tariff): Finding[] =>
  validTo !== null && validTo < validFrom ? [wrong(["validTo"], "ends-first", { from: validFrom, to: validTo })] : []

function lintFuel(tariff: Tariff, name: string, table: FuelTable): Finding[] {
  const path: Path = ["fuel", name]
  const [rows, key] = "weeks" in table ? ([table.weeks, "weeks"] as const) : ([table.prices, "prices"] as const)
  const order = rows.flatMap(([week], at) =>
    at > 0 && week <= (rows[at - 1]?.[0] ?? "") ? [wrong([...path, key, at], "weeks-order", { week })] : [],
  )
  const steps =
    "steps" in table
      ? notRising(table.steps.map(([atLeast]) => atLeast)).map((at) =>
          wrong([...path, "steps", at, 0], "not-rising", { figure: table.steps[at]?.[0] ?? "" }),
        )
      : []
  const low =
    "steps" in table
      ? table.prices.flatMap(([week, price], at) =>
          Number(price) < Number(table.steps[0]?.[0])
            ? [wrong([...path, "prices", at], "price-low", { week, price })]
            : [],
        )
      : []
  const first = fuelOn(table, tariff.validFrom)
  const late = low.length === 0 && first === null
  return [
    ...order,
    ...steps,
    ...low,
    ...(late ? [wrong(path, "fuel-late", { table: name, from: tariff.validFrom })] : []),
  ]
}

function unused(tariff: Tariff): Finding[] {
  const fuel = new Set(tariff.services.map((one) => one.fuel?.table))
  const taxes = new Set(tariff.services.flatMap((one) => one.taxes))
  const text = JSON.stringify(tariff.services.map((one) => [one.surcharges, one.sizeClasses, one.reach.areasNotServed]))
  return [
    ...Object.keys(tariff.fuel).flatMap((name) => (fuel.has(name) ? [] : [odd(["fuel", name], "unused", { name })])),
    ...Object.keys(tariff.taxes).flatMap((name) => (taxes.has(name) ? [] : [odd(["taxes", name], "unused", { name })])),
    ...Object.keys(tariff.areas).flatMap((name) =>
      text.includes(JSON.stringify(name)) ? [] : [odd(["areas", name], "unused", { name })],
    ),
  ]
}

const codesTwice = ({ services }: Tariff): Finding[] =>
  services.flatMap((service, at) =>
    services.findIndex((other) => other.code === service.code) < at
      ? [wrong(["services", at, "code"], "service-twice", { code: service.code })]
      : [],
  )
