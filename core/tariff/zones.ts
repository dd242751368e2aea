import { z } from "zod"
import { type Length, lengthIn } from "../units/index.ts"
import { code, country, figure, inRange, type Place, postal, postalRange, rangeTest } from "./atoms.ts"

/** Zones by where goods come from and the postal code they go to. */
const postalChart = z.strictObject({
  by: z.literal("postal"),
  /** A list for each place that goods are sent from; the first that the sender lies in holds. */
  origins: z
    .array(
      z.strictObject({
        from: postalRange,
        /** Country, first and last beginning of a postal code, zone: `["US", "535", "588", "3"]`. The first holds. */
        ranges: z.array(z.tuple([country, postal, postal, code])).min(1),
      }),
    )
    .min(1),
})

/** Zones by the way between the two places, in bands: each the highest distance that it holds for. */
const distanceChart = z.strictObject({
  by: z.literal("distance"),
  unit: z.enum(["km", "mi"]),
  bands: z.array(z.tuple([figure, code])).min(1),
})

/** Zones by the regions that goods come from and go to. */
const laneChart = z.strictObject({
  by: z.literal("lane"),
  regions: z.record(code, z.array(postalRange).min(1)),
  /** Region from, region to, zone. One way: the other way is a lane of its own. */
  lanes: z.array(z.tuple([code, code, code])).min(1),
})

export const zoneChartSchema = z.discriminatedUnion("by", [postalChart, distanceChart, laneChart])
export type ZoneChart = z.infer<typeof zoneChartSchema>

/** Meters in an international mile: yard and pound agreement of 1959. */
const kilometresInMile = "1.609344"

export interface Way {
  readonly from: Place
  readonly to: Place
  /** The way between them; null where it is not known. */
  readonly distance: Length | null
}

/** The zone of a way, or null when the chart has none for it. */
export function zoneOf(chart: ZoneChart, { from, to, distance }: Way): string | null {
  switch (chart.by) {
    case "postal": {
      const origin = chart.origins.find((one) => inRange(one.from, from))
      const range = origin?.ranges.find(rangeTest(to))
      return range?.[3] ?? null
    }
    case "distance": {
      const far = distance === null ? null : distanceIn(distance, chart.unit)
      return far === null ? null : (chart.bands.find(([upTo]) => far.lte(upTo))?.[1] ?? null)
    }
    case "lane": {
      const regionsOf = (place: Place) =>
        Object.keys(chart.regions).filter((name) => chart.regions[name]?.some((range) => inRange(range, place)))
      const [origins, ends] = [regionsOf(from), regionsOf(to)]
      return chart.lanes.find(([start, end]) => origins.includes(start) && ends.includes(end))?.[2] ?? null
    }
  }
}

/** A distance in the unit that a chart counts in. */
export const distanceIn = (distance: Length, unit: "km" | "mi") => {
  const kilometres = lengthIn(distance, "mm").div(1_000_000)
  return unit === "km" ? kilometres : kilometres.div(kilometresInMile)
}

/** Every zone that a chart can answer with, in the order in which they stand. */
export function zonesOf(chart: ZoneChart): string[] {
  const all =
    chart.by === "postal"
      ? chart.origins.flatMap((origin) => origin.ranges.map((range) => range[3]))
      : chart.by === "distance"
        ? chart.bands.map(([, zone]) => zone)
        : chart.lanes.map(([, , zone]) => zone)
  return [...new Set(all)]
}
