import { writeFileSync } from "node:fs"
import { dirname, join } from "node:path"
import { fileURLToPath } from "node:url"
import Holidays from "date-holidays"
import zipcodes from "zipcodes"

/**
 * Makes the invented tariffs of the demo's two carriers as JSON documents beside this file: `npm run tariffs`.
 * Prices come from a formula of our own and mean nothing outside the demo; distances are those between the centres
 * of three-digit ZIP areas (package `zipcodes`). The documents are committed, so that this need not run.
 */
const folder = dirname(fileURLToPath(import.meta.url))
const write = (name: string, body: unknown) => writeFileSync(join(folder, `${name}.json`), `${compact(body)}\n`)

/** JSON with a line for each row of numbers, so that a change of tariff can be read. */
function compact(body: unknown): string {
  return JSON.stringify(body, null, 2).replace(
    /\[\s+("[^[\]{}]*?")\s+\]/g,
    (_, inner: string) => `[${inner.replace(/\s*\n\s*/g, " ")}]`,
  )
}

const outermost = ["006", "007", "008", "009", "967", "968", "969", "995", "996", "997", "998", "999"]
const zoneByMiles = (miles: number) =>
  ["150", "300", "600", "1000", "1400", "1800"].findIndex((limit) => miles < Number(limit))

function centres(): Map<string, [number, number]> {
  const sums = new Map<string, [number, number, number]>()
  for (const place of Object.values(zipcodes.codes)) {
    if (place.country !== "US" || (place.latitude === 0 && place.longitude === 0)) continue
    const area = place.zip.slice(0, 3)
    const sum = sums.get(area) ?? [0, 0, 0]
    sums.set(area, [sum[0] + place.latitude, sum[1] + place.longitude, sum[2] + 1])
  }
  return new Map([...sums].map(([area, [lat, lon, n]]) => [area, [lat / n, lon / n]]))
}

function miles([lat1, lon1]: [number, number], [lat2, lon2]: [number, number]): number {
  const rad = Math.PI / 180
  const a =
    Math.sin(((lat2 - lat1) * rad) / 2) ** 2 +
    Math.cos(lat1 * rad) * Math.cos(lat2 * rad) * Math.sin(((lon2 - lon1) * rad) / 2) ** 2
  return 3958.76 * 2 * Math.asin(Math.sqrt(a))
}

/** Ranges of destination areas with their zone from an origin area; neighbours of one zone are joined. */
function zones(origin: string): { origin: string; ranges: [string, string, string][] } {
  const all = centres()
  const from = all.get(origin) as [number, number]
  const ranges: [string, string, string][] = []
  for (const area of [...all.keys()].sort()) {
    const index = zoneByMiles(miles(from, all.get(area) as [number, number]))
    const zone = outermost.includes(area) ? "9" : String(index < 0 ? 8 : index + 2)
    const last = ranges.at(-1)
    if (last && last[2] === zone) last[1] = area
    else ranges.push([area, area, zone])
  }
  return { origin, ranges }
}

const zoneNames = ["2", "3", "4", "5", "6", "7", "8", "9"]

function rows(limit: number, first: number, perPound: number, perZone: number): string[][] {
  return Array.from({ length: limit }, (_, index) => {
    const pounds = index + 1
    const prices = zoneNames.map((zone) => {
      const far = Number(zone) - 2
      const price = first * (1 + 0.11 * far) + (perPound + perZone * far) * (pounds - 1) * (pounds > 70 ? 0.94 : 1)
      return (Math.round(price * 100) / 100).toFixed(2)
    })
    return [String(pounds), ...prices]
  })
}

const holidays = [2026, 2027].flatMap((year) =>
  new Holidays("US")
    .getHolidays(year)
    .filter((day) => day.type === "public" && !/Columbus|Veterans|Juneteenth|Presidents|Washington/.test(day.name))
    .map((day) => day.date.slice(0, 10)),
)
const days = (values: number[]) => Object.fromEntries(zoneNames.map((zone, index) => [zone, values[index] as number]))
const remote = ["592", "593", "692", "693", "798", "821", "830", "879"]
const carrier = (name: string, account: string, services: { code: string; name: string }[]) => ({
  name,
  account,
  holidays: [...new Set(holidays)].sort(),
  services,
  zones: zones("558"),
})

write(
  "LARK",
  carrier("Larkspur Parcel", "LK-558-0042", [
    { code: "LKG", name: "Larkspur Ground" },
    { code: "LKX", name: "Larkspur Express Two" },
  ]),
)
write(
  "MERI",
  carrier("Meridian Air", "MA-77120", [
    { code: "MDS", name: "Meridian Saver" },
    { code: "MDN", name: "Meridian Next Flight" },
  ]),
)

const common = { currency: "USD", validFrom: "2026-01-05", weightStep: "1" }
write("LKG", {
  ...common,
  dimension: { step: "1", rounding: "up", divisor: "139", thresholdVolume: null },
  limits: { weight: "150", length: "108", lengthAndGirth: "165" },
  suitability: {
    postBox: false,
    residential: true,
    business: true,
    statesNotServed: ["AK", "HI", "PR", "GU", "VI", "AS", "MP"],
  },
  discount: "0.38",
  minimumNet: "8.40",
  surcharges: [
    { code: "residential", amount: "5.95", discount: "0.4", when: { fact: "residential" } },
    { code: "handling", amount: "24.00", discount: "0.25", when: { fact: "weight-over", figure: "70" } },
    { code: "handling-long", amount: "21.50", discount: "0.25", when: { fact: "longest-over", figure: "48" } },
    { code: "area", amount: "4.30", discount: "0", when: { fact: "postal-area", zip3: remote } },
  ],
  fuel: { share: "0.1575", on: ["base", "residential", "handling", "handling-long"] },
  transit: { days: days([1, 2, 2, 3, 4, 4, 5, 7]), by: "18:00", saturday: false },
  zones: zoneNames,
  rows: rows(150, 11.2, 0.42, 0.11),
})
write("LKX", {
  ...common,
  dimension: { step: "1", rounding: "up", divisor: "139", thresholdVolume: null },
  limits: { weight: "150", length: "108", lengthAndGirth: "165" },
  suitability: { postBox: false, residential: true, business: true, statesNotServed: ["GU", "AS", "MP"] },
  discount: "0.44",
  minimumNet: "16.50",
  surcharges: [
    { code: "residential", amount: "6.40", discount: "0.4", when: { fact: "residential" } },
    { code: "handling", amount: "26.00", discount: "0.25", when: { fact: "weight-over", figure: "70" } },
    { code: "handling-long", amount: "23.00", discount: "0.25", when: { fact: "longest-over", figure: "48" } },
    { code: "area", amount: "5.10", discount: "0", when: { fact: "postal-area", zip3: remote } },
  ],
  fuel: { share: "0.185", on: ["base", "residential", "handling", "handling-long", "area"] },
  transit: { days: days([2, 2, 2, 2, 2, 2, 2, 3]), by: "17:00", saturday: false },
  zones: zoneNames,
  rows: rows(150, 26.5, 1.35, 0.24),
})
write("MDS", {
  ...common,
  dimension: { step: "1", rounding: "nearest", divisor: "166", thresholdVolume: "1728" },
  limits: { weight: "70", length: "72", lengthAndGirth: "130" },
  suitability: { postBox: false, residential: false, business: true, statesNotServed: ["PR", "GU", "VI", "AS", "MP"] },
  discount: "0.35",
  minimumNet: "13.75",
  surcharges: [{ code: "handling", amount: "14.00", discount: "0.1", when: { fact: "weight-over", figure: "50" } }],
  fuel: { share: "0.14", on: ["base", "handling"] },
  transit: { days: days([2, 2, 2, 3, 3, 3, 3, 4]), by: "12:00", saturday: false },
  zones: zoneNames,
  rows: rows(70, 19.8, 0.88, 0.16),
})
write("MDN", {
  ...common,
  dimension: { step: "1", rounding: "nearest", divisor: "166", thresholdVolume: "1728" },
  limits: { weight: "70", length: "72", lengthAndGirth: "130" },
  suitability: {
    postBox: true,
    residential: true,
    business: true,
    statesNotServed: ["PR", "GU", "VI", "AS", "MP", "HI"],
  },
  discount: "0.3",
  minimumNet: "32.00",
  surcharges: [
    { code: "residential", amount: "7.10", discount: "0.2", when: { fact: "residential" } },
    { code: "handling", amount: "14.00", discount: "0.1", when: { fact: "weight-over", figure: "50" } },
  ],
  fuel: { share: "0.162", on: ["base", "residential", "handling"] },
  transit: { days: days([1, 1, 1, 1, 1, 1, 1, 2]), by: "10:30", saturday: false },
  zones: zoneNames,
  rows: rows(70, 48, 2.1, 0.31),
})
