import { readdirSync, readFileSync } from "node:fs"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { freightService, parcelService, tariffOf } from "../../../tests/tariffSamples.ts"
import type { TariffDocument } from "../schema.ts"
import { tariffSchema } from "../schema.ts"
import { lintTariff } from "./index.ts"

type ServiceDocument = TariffDocument["services"][number]

/** A small tariff in which there is nothing to find. */
const sound: ServiceDocument = {
  ...parcelService,
  limits: { weight: "150", length: "108", lengthAndGirth: "165" },
  cover: { included: "100", most: "100" },
}
const around = {
  areas: {},
  taxes: {},
  charts: {
    home: {
      by: "postal" as const,
      origins: [
        {
          from: ["US", "558", "558"] as [string, string, string],
          ranges: [
            ["US", "553", "558", "2"],
            ["US", "800", "829", "5"],
          ] as [string, string, string, string][],
        },
      ],
    },
  },
  fuel: { road: { weeks: [["2026-01-01", "0.15"]] as [string, string][] } },
}
const found = (change: Partial<ServiceDocument> = {}, more: Partial<TariffDocument> = {}, base = sound) =>
  lintTariff(tariffOf(base, change, { ...around, ...more }).tariff).map((one) => [
    one.level,
    one.path.join("."),
    one.why.code.replace("lint.", ""),
  ])
const rows = (...rows: [string, ...string[]][]) => ({ by: "weight" as const, per: "package" as const, rows })
const charge = (when: object, more: object = {}) => ({
  surcharges: [{ code: "extra", amount: { basis: "package", figure: "1.00" }, when, ...more }] as never,
  fuel: { table: "road", on: ["base"] },
})

describe("a tariff with nothing wrong", () => {
  it("has no findings", () => expect(found()).toEqual([]))
  it.each(readdirSync("demo/tariffs").filter((name) => /^[A-Z]{4}\.json$/.test(name)))("%s has none", (name) =>
    expect(lintTariff(tariffSchema.parse(JSON.parse(readFileSync(`demo/tariffs/${name}`, "utf8"))))).toEqual([]),
  )
})

describe("prices", () => {
  it.each([
    ["a row without a zone's cell", rows(["1", "9.00"], ["150", "90.00", "140.00"]), "error", "rows.0", "row-length"],
    [
      "rows out of order",
      rows(["10", "9.00", "9.00"], ["5", "9.00", "9.00"], ["150", "9.00", "9.00"]),
      "error",
      "rows.1.0",
      "not-rising",
    ],
    ["a row that falls", rows(["1", "9.00", "11.00"], ["150", "9.00", "10.99"]), "warning", "rows.1.2", "row-falls"],
    ["weights without a row", rows(["1", "9.00", "11.00"], ["100", "9.00", "11.00"]), "error", "rows", "weight-gap"],
  ])("%s", (_, price, level, path, code) =>
    expect(found({ price })).toEqual([[level, `services.0.price.${path}`, code]]),
  )

  it("a break's rate that rises, a class that lacks or falls, a zone without minimum", () => {
    const price = (rates: object, minimum: object = { "5": "110.00" }) =>
      found(
        { price: { ...freightService.price, rates: { "5": rates }, minimum } as never, zones: ["5"] },
        {
          charts: {
            home: {
              ...around.charts.home,
              origins: [{ ...around.charts.home.origins[0], ranges: [["US", "800", "829", "5"]] }],
            },
          },
          fuel: { diesel: { weeks: [["2026-01-01", "0.3"]] } },
        } as never,
        freightService,
      )
    expect(price({ "100": ["20.00", "17.00", "14.00"], "70": ["15.00", "12.00", "9.00"] })).toEqual([])
    expect(price({ "100": ["20.00", "21.00", "14.00"], "70": ["15.00", "12.00", "9.00"] })).toEqual([
      ["warning", "services.0.price.rates.5.100.1", "row-rises"],
    ])
    expect(price({ "100": ["20.00", "17.00"], "70": ["15.00", "12.00", "9.00"] })).toEqual([
      ["error", "services.0.price.rates.5.100", "break-count"],
    ])
    expect(price({ "100": ["14.00", "11.00", "8.00"], "70": ["15.00", "12.00", "9.00"] })).toEqual([
      ["warning", "services.0.price.rates.5.100.0", "class-falls"],
    ])
    expect(price({ "100": ["20.00", "17.00", "14.00"] }, {})).toEqual([
      ["error", "services.0.price.minimum", "zone-no-rate"],
    ])
  })
})

describe("zones", () => {
  const ranges = (...list: [string, string, string, string][]) => ({
    charts: {
      home: {
        by: "postal" as const,
        origins: [{ from: ["US", "558", "558"] as [string, string, string], ranges: list }],
      },
    },
  })
  it("that overlap: wrong where they differ, odd where they are the same", () => {
    expect(
      found({}, ranges(["US", "553", "558", "2"], ["US", "800", "829", "5"], ["US", "82000", "82000", "2"])),
    ).toEqual([["error", "charts.home.origins.0.ranges.2", "overlap"]])
    expect(found({}, ranges(["US", "553", "558", "2"], ["US", "800", "829", "5"], ["US", "829", "830", "5"]))).toEqual([
      ["warning", "charts.home.origins.0.ranges.2", "overlap-same"],
    ])
    expect(found({}, ranges(["US", "553", "558", "2"], ["US", "829", "800", "5"]))).toEqual([
      ["error", "charts.home.origins.0.ranges.1", "range-backwards"],
    ])
    // side by side is no overlap, nor are two countries
    expect(found({}, ranges(["US", "553", "558", "2"], ["US", "559", "559", "5"], ["CA", "553", "558", "5"]))).toEqual(
      [],
    )
  })
  it("that no chart answers with, and that no service goes to", () => {
    expect(found({}, ranges(["US", "553", "558", "2"]))).toEqual([["warning", "services.0.zones.1", "zone-nowhere"]])
    expect(found({}, ranges(["US", "553", "558", "2"], ["US", "800", "829", "5"], ["US", "995", "999", "9"]))).toEqual([
      ["warning", "charts.home", "zone-unserved"],
    ])
  })
  it("of bands and lanes that are out of order, not there, or said twice", () => {
    const lanes = {
      by: "lane" as const,
      regions: { A: [["US", "558", "558"]], B: [["US", "800", "829"]] },
      lanes: [
        ["A", "B", "5"],
        ["A", "B", "2"],
        ["A", "C", "5"],
      ],
    }
    expect(found({}, { charts: { home: lanes } } as never).map((one) => one.slice(1))).toEqual([
      ["charts.home.lanes.2.1", "no-region"],
      ["charts.home.lanes.1", "lane-twice"],
    ])
    const bands = {
      by: "distance" as const,
      unit: "km" as const,
      bands: [
        ["50", "2"],
        ["20", "5"],
      ],
    }
    expect(found({}, { charts: { home: bands } } as never)).toEqual([["error", "charts.home.bands.1.0", "not-rising"]])
  })
})

describe("surcharges", () => {
  it.each([
    ["an option that the service does not know", { fact: "option", option: "saturday" }],
    ["a weight over its limit", { fact: "weight-over", figure: "150" }],
    ["dangerous goods that it does not take", { fact: "dangerous" }],
    ["a country that it does not go to", { fact: "country", countries: ["CA"] }],
    ["a season before the tariff", { fact: "season", from: "2025-11-01", until: "2025-12-31" }],
    ["one of all that never is", { all: [{ fact: "residential" }, { fact: "zone", zones: ["9"] }] }],
    [
      "none of any that ever is",
      {
        any: [{ fact: "dangerous" }, { fact: "length-over" }, { fact: "weight-over", figure: "151" }].filter(
          (one) => one.fact !== "length-over",
        ),
      },
    ],
  ])("that can't be reached for %s", (_, when) =>
    expect(found(charge(when))).toEqual([["warning", "services.0.surcharges.0.when", "unreached"]]),
  )
  it.each([
    ["a home", { fact: "residential" }],
    ["one of any", { any: [{ fact: "dangerous" }, { fact: "weight-over", figure: "149" }] }],
    ["what is not", { not: { fact: "dangerous" } }],
  ])("that can be reached for %s", (_, when) => expect(found(charge(when))).toEqual([]))
  it("that name what is not there, and figures that lack a zone", () => {
    expect(found(charge({ fact: "area", area: "remote" }))).toEqual([
      ["error", "services.0.surcharges.0.when", "no-name"],
    ])
    expect(found(charge({ fact: "residential" }, { amount: { basis: "package", figure: { "2": "1.00" } } }))).toEqual([
      ["error", "services.0.surcharges.0.amount.figure", "zone-no-rate"],
    ])
    expect(found(charge({ fact: "residential" }, { amount: { basis: "share", figure: "0.1", of: ["bse"] } }))).toEqual([
      ["error", "services.0.surcharges.0.amount.of", "no-charge"],
    ])
  })
})

describe("fuel, names and days", () => {
  it("are found where they lack", () => {
    expect(found({}, { fuel: { road: { weeks: [["2026-02-02", "0.15"]] } } })).toEqual([
      ["error", "fuel.road", "fuel-late"],
    ])
    expect(found({}, { fuel: {} })).toEqual([["error", "services.0.fuel.table", "no-fuel-table"]])
    expect(found({ fuel: { table: "road", on: ["base", "residental"] } })).toEqual([
      ["error", "services.0.fuel.on.1", "no-charge"],
    ])
    expect(found({ transit: { count: "business", days: { "2": 1 }, by: "17:00" } })).toEqual([
      ["error", "services.0.transit.days", "zone-no-days"],
    ])
    expect(found({ chart: "hom" }).map((one) => one[2])).toEqual(["no-chart", "chart-unused"])
    expect(found({}, { validTo: "2025-12-31" })).toEqual([["error", "validTo", "ends-first"]])
    expect(found({}, { taxes: { vat: { share: "0.19" } } })).toEqual([["warning", "taxes.vat", "unused"]])
    expect(found({ reach: { ...parcelService.reach, business: false, residential: false } })[0]?.[2]).toBe("nobody")
  })
})

it("never throws, whatever cells are taken out of a tariff that the schema accepts", () => {
  const whole = tariffSchema.parse(JSON.parse(readFileSync("demo/tariffs/IRON.json", "utf8")))
  fc.assert(
    fc.property(fc.nat(), fc.nat(), fc.nat(), (service, row, cell) => {
      const changed = structuredClone(whole)
      const one = changed.services[service % changed.services.length]
      if (one?.price.by !== "class") return
      const zones = Object.keys(one.price.rates)
      const classes = one.price.rates[zones[row % zones.length] as string] as Record<string, string[]>
      const names = Object.keys(classes)
      const name = names[cell % names.length] as string
      if (cell % 2 === 0) delete classes[name]
      else classes[name]?.splice(cell % 3, 1)
      expect(Array.isArray(lintTariff(changed))).toBe(true)
    }),
    { numRuns: 40 },
  )
})
