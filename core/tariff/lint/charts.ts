import type { PostalRange } from "../atoms.ts"
import type { Tariff } from "../schema.ts"
import { type ZoneChart, zonesOf } from "../zones.ts"
import { type Finding, notRising, odd, type Path, wrong } from "./finding.ts"

/** Charts: overlaps, bands out of order, regions that are not there, zones that no service goes to. */
export function lintCharts(tariff: Tariff): Finding[] {
  return Object.entries(tariff.charts).flatMap(([name, chart]) => {
    const path = ["charts", name]
    const users = tariff.services.filter((service) => service.chart === name)
    if (users.length === 0) return [odd(path, "chart-unused", { chart: name })]
    const served = new Set(users.flatMap((service) => service.zones))
    const idle = zonesOf(chart).filter((zone) => !served.has(zone))
    return [...inside(chart, path), ...idle.map((zone) => odd(path, "zone-unserved", { zone }))]
  })
}

function inside(chart: ZoneChart, path: Path): Finding[] {
  switch (chart.by) {
    case "postal":
      return [
        ...overlaps(
          chart.origins.map((origin) => ({ range: origin.from, zone: "" })),
          [...path, "origins"],
        ),
        ...chart.origins.flatMap((origin, at) =>
          overlaps(
            origin.ranges.map(([country, first, last, zone]) => ({ range: [country, first, last], zone })),
            [...path, "origins", at, "ranges"],
          ),
        ),
      ]
    case "distance":
      return notRising(chart.bands.map(([upTo]) => upTo)).map((at) =>
        wrong([...path, "bands", at, 0], "not-rising", { figure: chart.bands[at]?.[0] ?? "" }),
      )
    case "lane": {
      const missing = chart.lanes.flatMap((lane, at) =>
        [lane[0], lane[1]].flatMap((region, side) =>
          Object.hasOwn(chart.regions, region) ? [] : [wrong([...path, "lanes", at, side], "no-region", { region })],
        ),
      )
      const twice = chart.lanes.flatMap((lane, at) =>
        chart.lanes.findIndex((other) => other[0] === lane[0] && other[1] === lane[1]) < at
          ? [wrong([...path, "lanes", at], "lane-twice", { from: lane[0], to: lane[1] })]
          : [],
      )
      const ranges = Object.entries(chart.regions).flatMap(([zone, list]) => list.map((range) => ({ range, zone })))
      return [...missing, ...twice, ...overlaps(ranges, [...path, "regions"])]
    }
  }
}

/**
 * Ranges that share a postal code. They may be written with different numbers of characters; where both lead to the same
 * zone it is odd, else it is wrong, since only the first holds.
 */
function overlaps(rows: readonly { readonly range: PostalRange; readonly zone: string }[], path: Path): Finding[] {
  const findings: Finding[] = rows.flatMap(({ range }, at) =>
    range[1].length === range[2].length && range[1] <= range[2]
      ? []
      : [wrong([...path, at], "range-backwards", { range: shown(range) })],
  )
  if (findings.length > 0) return findings
  const bounds = rows.map(({ range: [country, first, last] }) => ({
    country,
    from: `${first}`.padEnd(10, "0"),
    to: `${last}`.padEnd(10, "Z"),
  }))
  const byStart = bounds
    .map((bound, at) => ({ ...bound, at }))
    .sort((a, b) => compare(a.country, b.country) || compare(a.from, b.from))
  let open = byStart[0]
  for (const next of byStart.slice(1)) {
    if (open && open.country === next.country && next.from <= open.to) {
      const [one, two] = [rows[open.at], rows[next.at]] as const
      const values = { a: shown(one?.range), b: shown(two?.range), zoneA: one?.zone ?? "", zoneB: two?.zone ?? "" }
      const place = [...path, next.at]
      findings.push(one?.zone === two?.zone ? odd(place, "overlap-same", values) : wrong(place, "overlap", values))
    }
    if (!open || open.country !== next.country || next.to > open.to) open = next
  }
  return findings
}

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)
const shown = (range: PostalRange | undefined): string =>
  range ? `${range[0]} ${range[1]}${range[2] === range[1] ? "" : `–${range[2]}`}`.trim() : ""
