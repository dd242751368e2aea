import { type FigureByZone, figureFor } from "../prices.ts"
import type { Service } from "../schema.ts"
import { type Finding, notRising, odd, type Path, wrong } from "./finding.ts"

/** A service's prices: zones without a rate, cells that lack, breaks out of order, rows that fall, weights without a row. */
export function lintPrices(service: Service, path: Path): Finding[] {
  const { price, zones } = service
  const at = [...path, "price"]
  switch (price.by) {
    case "weight":
      return [
        ...table(price.rows, zones, [...at, "rows"], "fall"),
        ...(price.beyond ? everyZone(price.beyond.rate, zones, [...at, "beyond", "rate"]) : []),
        ...(price.hundredweight
          ? table(price.hundredweight.rows, zones, [...at, "hundredweight", "rows"], "rise")
          : []),
        ...weightGap(service, price, at),
      ]
    case "box":
      return Object.entries(price.boxes).flatMap(([box, figures]) => everyZone(figures, zones, [...at, "boxes", box]))
    case "unit":
      return [
        ...breaks(price.breaks, [...at, "breaks"]),
        ...everyZone(price.minimum, zones, [...at, "minimum"]),
        ...zones.flatMap((zone) => column(price.rates[zone], price.breaks, [...at, "rates", zone], { zone })),
      ]
    case "class":
      return [
        ...breaks(price.breaks, [...at, "breaks"]),
        ...everyZone(price.minimum, zones, [...at, "minimum"]),
        ...zones.flatMap((zone) => {
          const classes = price.rates[zone]
          if (!classes) return [wrong([...at, "rates"], "zone-no-rate", { zone })]
          const rated = Object.entries(classes)
          const lacking = price.fak.flatMap((rule) =>
            rated.some(([name]) => name === rule.as)
              ? []
              : [wrong([...at, "rates", zone], "class-no-rate", { zone, freightClass: rule.as })],
          )
          return [
            ...lacking,
            ...rated.flatMap(([name, figures]) =>
              column(figures, price.breaks, [...at, "rates", zone, name], { zone, freightClass: name }),
            ),
            ...falling(rated, [...at, "rates", zone]),
          ]
        }),
      ]
    case "measure":
      return everyZone(price.perTon, zones, [...at, "perTon"])
    case "way":
      return []
  }
}

/** Rows of a weight and a figure for each zone. Prices should not fall with weight, rates for 100 not rise. */
function table(
  rows: readonly (readonly string[])[],
  zones: readonly string[],
  path: Path,
  odds: "fall" | "rise",
): Finding[] {
  const order = notRising(rows.map((row) => row[0] ?? "0")).map((at) =>
    wrong([...path, at, 0], "not-rising", { figure: rows[at]?.[0] ?? "" }),
  )
  const cells = rows.flatMap((row, at) =>
    row.length === zones.length + 1
      ? []
      : [wrong([...path, at], "row-length", { weight: row[0] ?? "", has: row.length - 1, wants: zones.length })],
  )
  const turns = rows.flatMap((row, at) => {
    const before = rows[at - 1]
    if (!before) return []
    return zones.flatMap((zone, index) => {
      const [was, is] = [before[index + 1], row[index + 1]]
      if (was === undefined || is === undefined) return []
      const turned = odds === "fall" ? Number(is) < Number(was) : Number(is) > Number(was)
      return turned ? [odd([...path, at, index + 1], `row-${odds}s`, { weight: row[0] ?? "", zone, was, is })] : []
    })
  })
  return [...order, ...cells, ...turns]
}

/** Weights up to the service's limit for which the table has no row and nothing beyond it. */
function weightGap(service: Service, price: { rows: string[][]; beyond: unknown; per: string }, path: Path): Finding[] {
  const last = price.rows.at(-1)?.[0] ?? "0"
  const limit = price.per === "shipment" ? service.limits.total : service.limits.weight
  if (price.beyond !== null) return []
  if (limit === null) return [odd([...path, "rows"], "no-limit", { last })]
  return Number(limit) > Number(last) ? [wrong([...path, "rows"], "weight-gap", { last, limit })] : []
}

function breaks(figures: readonly string[], path: Path): Finding[] {
  return [
    ...notRising(figures).map((at) => wrong([...path, at], "not-rising", { figure: figures[at] ?? "" })),
    ...(Number(figures[0]) > 0 ? [odd([...path, 0], "first-break", { figure: figures[0] ?? "" })] : []),
  ]
}

/** The rates of a zone by break: as many as breaks, and none that is higher than the one before. */
function column(
  rates: readonly string[] | undefined,
  of: readonly string[],
  path: Path,
  values: { readonly zone: string; readonly freightClass?: string },
): Finding[] {
  if (!rates) return [wrong(path.slice(0, -1), "zone-no-rate", { zone: values.zone })]
  if (rates.length !== of.length) return [wrong(path, "break-count", { has: rates.length, wants: of.length })]
  return rates.flatMap((rate, at) =>
    at > 0 && Number(rate) > Number(rates[at - 1])
      ? [
          odd([...path, at], "row-rises", {
            weight: of[at] ?? "",
            zone: values.zone,
            was: rates[at - 1] ?? "",
            is: rate,
          }),
        ]
      : [],
  )
}

/** A higher class that costs less than a lower one. */
function falling(rated: readonly (readonly [string, readonly string[]])[], path: Path): Finding[] {
  const sorted = [...rated].sort(([a], [b]) => Number(a) - Number(b))
  return sorted.flatMap(([name, figures], at) => {
    const lower = sorted[at - 1]
    const index = lower ? figures.findIndex((figure, i) => Number(figure) < Number(lower[1][i])) : -1
    return lower && index >= 0
      ? [odd([...path, name, index], "class-falls", { freightClass: name, lower: lower[0] })]
      : []
  })
}

/** A figure that must stand for every zone. */
export const everyZone = (figures: FigureByZone, zones: readonly string[], path: Path): Finding[] =>
  zones.filter((zone) => figureFor(figures, zone) === null).map((zone) => wrong(path, "zone-no-rate", { zone }))
