import zipcodes from "zipcodes"

/** Where the two warehouses are, as the first three digits of their ZIP codes. */
export const origins = ["558", "895"] as const

/** Islands and Alaska, whatever the distance. */
const outermost = ["006", "007", "008", "009", "967", "968", "969", "995", "996", "997", "998", "999"]
/** States and territories that only the post and air carriers reach. */
export const offshore = ["AK", "HI", "PR", "GU", "VI", "AS", "MP"]
export const remote = ["592", "593", "692", "693", "798", "821", "830", "879"]

export type Range = [country: string, from: string, to: string, zone: string]
type Point = readonly [latitude: number, longitude: number]

const miles = (limits: readonly number[]) => (far: number) => limits.findIndex((limit) => far < limit)
const zoneByMiles = miles([150, 300, 600, 1000, 1400, 1800])

/** Centres of three-digit ZIP areas, from package `zipcodes`; entries without a place are left out. */
function centresOf(): Map<string, Point> {
  const sums = new Map<string, [number, number, number]>()
  for (const place of Object.values(zipcodes.codes)) {
    if (place.country !== "US" || (place.latitude === 0 && place.longitude === 0)) continue
    const area = place.zip.slice(0, 3)
    const sum = sums.get(area) ?? [0, 0, 0]
    sums.set(area, [sum[0] + place.latitude, sum[1] + place.longitude, sum[2] + 1])
  }
  return new Map([...sums].map(([area, [lat, lon, n]]) => [area, [lat / n, lon / n] as const]))
}
const centres = centresOf()

function distance([lat1, lon1]: Point, [lat2, lon2]: Point): number {
  const rad = Math.PI / 180
  const a =
    Math.sin(((lat2 - lat1) * rad) / 2) ** 2 +
    Math.cos(lat1 * rad) * Math.cos(lat2 * rad) * Math.sin(((lon2 - lon1) * rad) / 2) ** 2
  return 3958.76 * 2 * Math.asin(Math.sqrt(a))
}

/** Ranges of ZIP areas with their zone from an origin; neighbors of one zone are joined. */
function ranges(origin: string, only?: readonly (readonly [string, string])[]): Range[] {
  const from = centres.get(origin) as Point
  const found: Range[] = []
  for (const area of [...centres.keys()].sort()) {
    if (only && !only.some(([first, last]) => first <= area && area <= last)) continue
    const index = zoneByMiles(distance(from, centres.get(area) as Point))
    const zone = outermost.includes(area) ? "9" : String(index < 0 ? 8 : index + 2)
    const last = found.at(-1)
    if (last && last[3] === zone && !only) last[2] = area
    else found.push(["US", area, area, zone])
  }
  return found
}

/** A postal zone chart from both warehouses, or from those with areas of their own, with zones by country abroad. */
export function postalChart({
  countries = {},
  areas,
}: {
  countries?: Record<string, string>
  areas?: Record<string, readonly (readonly [string, string])[]>
} = {}) {
  return {
    by: "postal" as const,
    origins: origins
      .filter((origin) => !areas || areas[origin])
      .map((origin) => ({
        from: ["US", origin, origin] as [string, string, string],
        ranges: [
          ...ranges(origin, areas?.[origin]),
          ...Object.entries(countries).map(([country, zone]): Range => [country, "", "", zone]),
        ],
      })),
  }
}

/** Zones by country alone, from anywhere at home. */
export const countryChart = (countries: Record<string, string>) => ({
  by: "postal" as const,
  origins: [
    {
      from: ["US", "", ""] as [string, string, string],
      ranges: Object.entries(countries).map(([country, zone]): Range => [country, "", "", zone]),
    },
  ],
})

export const homeZones = ["2", "3", "4", "5", "6", "7", "8", "9"]

/** Prices by whole pound and home zone, from a formula of our own. */
export function poundRows(limit: number, first: number, perPound: number, perZone: number): [string, ...string[]][] {
  return Array.from({ length: limit }, (_, index) => {
    const pounds = index + 1
    const prices = homeZones.map((zone) => {
      const far = Number(zone) - 2
      // over 70 lb each pound more costs less
      const steps = Math.min(pounds - 1, 69) + 0.94 * Math.max(0, pounds - 70)
      const price = first * (1 + 0.11 * far) + (perPound + perZone * far) * steps
      return (Math.round(price * 100) / 100).toFixed(2)
    })
    return [String(pounds), ...prices]
  })
}

/** Prices by half kilogram and zone. */
export const halfKiloRows = (
  limit: number,
  first: readonly number[],
  perKilo: readonly number[],
): [string, ...string[]][] =>
  Array.from({ length: limit * 2 }, (_, index) => {
    const kilos = (index + 1) / 2
    return [
      String(kilos),
      ...first.map((start, zone) => (start + (perKilo[zone] as number) * (kilos - 0.5)).toFixed(2)),
    ]
  })

export const byZone = <T>(zones: readonly string[], values: readonly T[]): Record<string, T> =>
  Object.fromEntries(zones.map((zone, index) => [zone, values[index] as T]))

/** A fuel table by week: what holds in the demo's week, after two lower ones. */
export const fuelWeeks = (share: string) => ({
  weeks: [
    ["2026-01-05", (Number(share) - 0.0125).toFixed(4)],
    ["2026-10-05", (Number(share) - 0.005).toFixed(4)],
    ["2026-11-16", share],
  ] as [string, string][],
})
