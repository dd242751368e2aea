import type { ComparablePlace, Tariff, ZoneChart } from "../../tariff/index.ts"
import { distanceIn, postalIndex } from "../../tariff/index.ts"
import type { Length } from "../../units/index.ts"

/** Asks a chart for the zone of a way; null where it has none. */
export type ZoneLookup = (from: ComparablePlace, to: ComparablePlace, distance: Length | null) => string | null

/** A zone chart made ready to be asked: the same answer as `zoneOf`. */
export function chartLookup(chart: ZoneChart): ZoneLookup {
  switch (chart.by) {
    case "postal": {
      const origins = chart.origins.map((one) => ({ from: postalIndex([one.from]), to: postalIndex(one.ranges), one }))
      return (from, to) => {
        const origin = origins.find((each) => each.from(from) >= 0)
        return origin?.one.ranges[origin.to(to)]?.[3] ?? null
      }
    }
    case "distance":
      return (_from, _to, distance) => {
        const far = distance === null ? null : distanceIn(distance, chart.unit)
        return far === null ? null : (chart.bands.find(([upTo]) => far.lte(upTo))?.[1] ?? null)
      }
    case "lane": {
      const regions = Object.entries(chart.regions).map(([name, ranges]) => ({ name, holds: postalIndex(ranges) }))
      const regionsOf = (place: ComparablePlace) =>
        regions.filter((region) => region.holds(place) >= 0).map((region) => region.name)
      return (from, to) => {
        const [origins, ends] = [regionsOf(from), regionsOf(to)]
        return chart.lanes.find(([start, end]) => origins.includes(start) && ends.includes(end))?.[2] ?? null
      }
    }
  }
}

/** Whether a place lies in a tariff's named area. */
export type AreaLookup = (area: string, place: ComparablePlace) => boolean

export function areaLookup(areas: Tariff["areas"]): AreaLookup {
  const held = new Map(Object.entries(areas).map(([name, ranges]) => [name, postalIndex(ranges)]))
  return (area, place) => (held.get(area)?.(place) ?? -1) >= 0
}
