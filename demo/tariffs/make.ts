import { writeFileSync } from "node:fs"
import { dirname, join } from "node:path"
import { fileURLToPath } from "node:url"
import Holidays from "date-holidays"
import zipcodes from "zipcodes"

/**
 * Makes the invented tariffs of the demo's carriers as JSON documents beside this file: `npm run tariffs`.
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
function zones(
  origin: string,
  countries: Record<string, string> = {},
  only?: readonly [string, string][],
): { origin: string; ranges: [string, string, string][]; countries: Record<string, string> } {
  const all = centres()
  const from = all.get(origin) as [number, number]
  const ranges: [string, string, string][] = []
  for (const area of [...all.keys()].sort()) {
    if (only && !only.some(([first, last]) => first <= area && area <= last)) continue
    const index = zoneByMiles(miles(from, all.get(area) as [number, number]))
    const zone = outermost.includes(area) ? "9" : String(index < 0 ? 8 : index + 2)
    const last = ranges.at(-1)
    if (last && last[2] === zone && !only) last[1] = area
    else ranges.push([area, area, zone])
  }
  return { origin, ranges, countries }
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
/** Where the two warehouses are. */
const origins = ["558", "895"]

interface CarrierFacts {
  name: string
  account: string
  /** How its numbers are made: `s10` is the postal item number of UPU S10. */
  numbers: "plain" | "s10"
  /** For how long after booking a label can be made void. */
  voidMinutes: number
  services: Record<string, string>
  countries?: Record<string, string>
  /** Areas served from an origin; all without it. */
  areas?: Record<string, [string, string][]>
}
const carrier = (code: string, { services, countries, areas, ...facts }: CarrierFacts) =>
  write(code, {
    ...facts,
    holidays: [...new Set(holidays)].sort(),
    services: Object.entries(services).map(([service, name]) => ({ code: service, name })),
    zones: origins
      .filter((origin) => !areas || areas[origin])
      .map((origin) => zones(origin, countries, areas?.[origin])),
  })

carrier("LARK", {
  name: "Larkspur Parcel",
  account: "LK-558-0042",
  numbers: "plain",
  voidMinutes: 24 * 60,
  services: { LKG: "Larkspur Ground", LKX: "Larkspur Express Two", LKC: "Larkspur Ground to Canada" },
  countries: { CA: "A" },
})
carrier("MERI", {
  name: "Meridian Air",
  account: "MA-77120",
  numbers: "plain",
  voidMinutes: 12 * 60,
  services: { MDS: "Meridian Saver", MDN: "Meridian Next Flight", MDW: "Meridian World Saver" },
  countries: { CA: "A", DE: "E", CH: "E", NZ: "P" },
})
carrier("BORE", {
  name: "Boreal Runner",
  account: "BR-2208",
  numbers: "plain",
  voidMinutes: 4 * 60,
  services: { BRD: "Boreal Day" },
  areas: {
    "558": [
      ["498", "499"],
      ["535", "588"],
    ],
  },
})
carrier("CIVI", {
  name: "Civic Post",
  account: "CP-55802-7",
  numbers: "s10",
  voidMinutes: 7 * 24 * 60,
  services: { CVP: "Civic Parcel", CVB: "Civic Flat Box" },
})
carrier("SWIF", {
  name: "Swiftwater Express",
  account: "SW-910044",
  numbers: "plain",
  voidMinutes: 6 * 60,
  services: { SWM: "Swiftwater Morning", SWI: "Swiftwater World" },
  countries: { CA: "A", DE: "E", CH: "E", NZ: "P" },
})
carrier("IRON", {
  name: "Ironbark Freight",
  account: "IB-40077",
  numbers: "plain",
  voidMinutes: 3 * 60,
  services: { IBS: "Ironbark Standard LTL", IBQ: "Ironbark Quick LTL" },
})
carrier("SLED", {
  name: "Sledgeway Lines",
  account: "SL-1180",
  numbers: "plain",
  voidMinutes: 3 * 60,
  services: { SLG: "Sledgeway LTL" },
})

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

const anywhere = { postBox: false, residential: true, business: true, statesNotServed: [], countries: ["US"] }
const noSurcharge = { surcharges: [] }

// regional parcel: the upper Midwest from Duluth, next day
write("BRD", {
  ...common,
  dimension: { step: "1", rounding: "nearest", divisor: "166", thresholdVolume: null },
  limits: { weight: "90", length: "84", lengthAndGirth: "140" },
  suitability: { ...anywhere, residential: false },
  discount: "0.2",
  minimumNet: "7.10",
  surcharges: [{ code: "handling", amount: "9.00", discount: "0", when: { fact: "weight-over", figure: "60" } }],
  fuel: { share: "0.11", on: ["base"] },
  transit: { days: days([1, 1, 1, 2, 2, 2, 2, 2]), by: "15:00", saturday: false },
  zones: zoneNames,
  rows: rows(90, 9.1, 0.33, 0.09),
})

// post: boxes, islands and all states, by weight or in its own boxes
write("CVP", {
  ...common,
  dimension: { step: "1", rounding: "up", divisor: "166", thresholdVolume: "1728" },
  limits: { weight: "70", length: "108", lengthAndGirth: "130" },
  suitability: { ...anywhere, postBox: true },
  discount: "0.12",
  minimumNet: "6.20",
  ...noSurcharge,
  fuel: { share: "0", on: [] },
  transit: { days: days([2, 2, 3, 3, 4, 4, 5, 6]), by: "18:00", saturday: true },
  zones: zoneNames,
  rows: rows(70, 8.4, 0.62, 0.19),
})
write("CVB", {
  ...common,
  dimension: { step: "1", rounding: "up", divisor: "166", thresholdVolume: "1728" },
  limits: { weight: "70", length: "108", lengthAndGirth: "130" },
  suitability: { ...anywhere, postBox: true },
  discount: "0.1",
  minimumNet: "0",
  flatRate: { CB1: "11.40", CB2: "19.85", CB3: "28.60" },
  ...noSurcharge,
  fuel: { share: "0", on: [] },
  transit: { days: days([2, 2, 2, 3, 3, 3, 3, 5]), by: "18:00", saturday: true },
  zones: zoneNames,
  rows: [["70", ...zoneNames.map(() => "0")]],
})

// express at home
write("SWM", {
  ...common,
  dimension: { step: "1", rounding: "up", divisor: "139", thresholdVolume: null },
  limits: { weight: "150", length: "119", lengthAndGirth: "165" },
  suitability: { ...anywhere, statesNotServed: ["GU", "AS", "MP", "VI"] },
  discount: "0.36",
  minimumNet: "36.00",
  surcharges: [
    { code: "residential", amount: "6.95", discount: "0.2", when: { fact: "residential" } },
    { code: "handling", amount: "29.00", discount: "0.2", when: { fact: "weight-over", figure: "70" } },
    { code: "area", amount: "7.40", discount: "0", when: { fact: "postal-area", zip3: remote } },
  ],
  fuel: { share: "0.19", on: ["base", "residential", "handling", "area"] },
  transit: { days: days([1, 1, 1, 1, 1, 1, 1, 2]), by: "09:00", saturday: false },
  zones: zoneNames,
  rows: rows(150, 62, 2.9, 0.42),
})

// abroad: kilograms by halves, centimetres, 5000 cm³ a kilogram
const abroadZones = ["A", "E", "P"]
const metricRows = (limitKg: number, first: readonly number[], perKg: readonly number[]) =>
  Array.from({ length: limitKg * 2 }, (_, index) => {
    const kg = (index + 1) / 2
    const price = (zone: number) => ((first[zone] as number) + (perKg[zone] as number) * (kg - 0.5)).toFixed(2)
    return [String(kg), ...abroadZones.map((_zone, zone) => price(zone))]
  })
const metric = {
  ...common,
  weightUnit: "kg",
  lengthUnit: "cm",
  weightStep: "0.5",
  dimension: { step: "1", rounding: "up", divisor: "5000", thresholdVolume: null },
  suitability: { ...anywhere, countries: ["CA", "DE", "CH", "NZ"] },
  zones: abroadZones,
}
write("SWI", {
  ...metric,
  limits: { weight: "70", length: "270", lengthAndGirth: "330" },
  discount: "0.42",
  minimumNet: "28.00",
  surcharges: [{ code: "handling", amount: "32.00", discount: "0.2", when: { fact: "weight-over", figure: "32" } }],
  fuel: { share: "0.205", on: ["base", "handling"] },
  transit: { days: { A: 2, E: 3, P: 4 }, by: "12:00", saturday: false },
  rows: metricRows(70, [58, 92, 118], [5.1, 9.4, 12.8]),
})
write("MDW", {
  ...metric,
  limits: { weight: "50", length: "175", lengthAndGirth: "300" },
  discount: "0.35",
  minimumNet: "19.50",
  ...noSurcharge,
  fuel: { share: "0.14", on: ["base"] },
  transit: { days: { A: 4, E: 6, P: 8 }, by: "18:00", saturday: false },
  rows: metricRows(50, [34, 58, 81], [3.2, 6.3, 8.9]),
})
write("LKC", {
  ...common,
  dimension: { step: "1", rounding: "up", divisor: "139", thresholdVolume: null },
  limits: { weight: "150", length: "108", lengthAndGirth: "165" },
  suitability: { ...anywhere, countries: ["CA"] },
  discount: "0.3",
  minimumNet: "17.20",
  surcharges: [{ code: "residential", amount: "6.20", discount: "0.4", when: { fact: "residential" } }],
  fuel: { share: "0.1575", on: ["base", "residential"] },
  transit: { days: { A: 4 }, by: "18:00", saturday: false },
  zones: ["A"],
  rows: Array.from({ length: 150 }, (_, index) => [String(index + 1), (24.5 + 0.98 * index).toFixed(2)]),
})

// freight: rates per 100 lb by zone, class and break
const breaks = ["0", "500", "1000", "2000", "5000", "10000"]
const fall = [1, 0.83, 0.7, 0.58, 0.43, 0.34]
const classes: [string, number][] = [
  ["50", 0.55],
  ["55", 0.6],
  ["60", 0.65],
  ["65", 0.69],
  ["70", 0.74],
  ["77.5", 0.79],
  ["85", 0.85],
  ["92.5", 0.93],
  ["100", 1],
  ["110", 1.09],
  ["125", 1.22],
  ["150", 1.44],
  ["175", 1.68],
  ["200", 1.9],
  ["250", 2.36],
  ["300", 2.8],
  ["400", 3.7],
  ["500", 4.6],
]
const freight = (base: number, perZone: number) => ({
  kind: "freight",
  currency: "USD",
  validFrom: "2026-01-05",
  suitability: { ...anywhere, statesNotServed: ["AK", "HI", "PR", "GU", "VI", "AS", "MP"] },
  breaks,
  rates: Object.fromEntries(
    zoneNames.map((zone) => [
      zone,
      Object.fromEntries(
        classes.map(([name, factor]) => [
          name,
          fall.map((share) => ((base + perZone * (Number(zone) - 2)) * factor * share).toFixed(2)),
        ]),
      ),
    ]),
  ),
  minimum: Object.fromEntries(
    zoneNames.map((zone) => [zone, (base * 4 + perZone * 4 * (Number(zone) - 2)).toFixed(2)]),
  ),
  zones: zoneNames,
})
write("IBS", {
  ...freight(41, 7.5),
  discount: "0.58",
  floor: "92.00",
  limits: { weight: "18000", pallets: 10, length: "144", height: "96" },
  surcharges: [
    { code: "liftgate", amount: "98.00", discount: "0", when: { fact: "liftgate" } },
    {
      code: "residential",
      amount: "11.50",
      discount: "0",
      when: { fact: "residential" },
      perHundredweight: { least: "78.00", most: "310.00" },
    },
    { code: "handling-long", amount: "120.00", discount: "0", when: { fact: "longest-over", figure: "96" } },
  ],
  fuel: { share: "0.282", on: ["base"] },
  transit: { days: days([1, 2, 2, 3, 4, 4, 5, 8]), by: "17:00", saturday: false },
})
write("IBQ", {
  ...freight(58, 9.2),
  discount: "0.5",
  floor: "148.00",
  limits: { weight: "10000", pallets: 6, length: "120", height: "90" },
  surcharges: [{ code: "liftgate", amount: "98.00", discount: "0", when: { fact: "liftgate" } }],
  fuel: { share: "0.282", on: ["base"] },
  transit: { days: days([1, 1, 1, 2, 2, 3, 3, 6]), by: "12:00", saturday: false },
})
write("SLG", {
  ...freight(38, 8.1),
  discount: "0.55",
  floor: "88.00",
  limits: { weight: "20000", pallets: 12, length: "144", height: "98" },
  surcharges: [
    {
      code: "liftgate",
      amount: "8.20",
      discount: "0",
      when: { fact: "liftgate" },
      perHundredweight: { least: "72.00", most: "260.00" },
    },
  ],
  fuel: { share: "0.265", on: ["base"] },
  transit: { days: days([1, 2, 3, 3, 4, 5, 6, 9]), by: "17:00", saturday: false },
})
