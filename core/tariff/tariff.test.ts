import { describe, expect, it } from "vitest"
import { hamburg, parcelService, tariffOf } from "../../tests/tariffSamples.ts"
import type { LocalDate } from "../calendar/index.ts"
import { length } from "../units/index.ts"
import { fuelOn, inRange, tariffJsonSchema, tariffSchema, type ZoneChart, zoneOf, zonesOf } from "./index.ts"

const duluth = { country: "US", postalCode: "55802" }
const at = (country: string, postalCode: string) => ({ country, postalCode })

describe("ranges of postal codes", () => {
  it.each([
    [["US", "800", "829"], at("US", "80001"), true],
    [["US", "800", "829"], at("US", "82999"), true],
    [["US", "800", "829"], at("US", "83001"), false],
    [["US", "80202", "80205"], at("US", "80205-1234"), true],
    [["US", "800", "829"], at("CA", "80001"), false],
    // letters, with or without the space that people write
    [["CA", "G9A", "G9C"], at("CA", "g9b 1a1"), true],
    [["CA", "G9A", "G9C"], at("CA", "G9D1A1"), false],
    [["DE", "", ""], at("DE", "20457"), true],
    [["DE", "", ""], at("DE", ""), true],
    // too short to be told
    [["US", "800", "829"], at("US", "80"), false],
  ] as const)("%j holds %j: %s", (range, place, expected) => expect(inRange([...range], place)).toBe(expected))
})

describe("zones", () => {
  const { tariff } = tariffOf(parcelService)
  const home = tariff.charts.home as ZoneChart
  it("by postal code, at both ends of a range, from the sender's own list", () => {
    const zone = (area: string) => zoneOf(home, { from: duluth, to: at("US", `${area}01`), distance: null })
    expect(["800", "829", "830", "552"].map(zone)).toEqual(["5", "5", null, null])
    expect(zoneOf(home, { from: at("US", "89502"), to: at("US", "80001"), distance: null })).toBeNull()
  })
  it("by distance, the band that reaches", () => {
    const chart: ZoneChart = {
      by: "distance",
      unit: "km",
      bands: [
        ["10", "near"],
        ["50", "far"],
      ],
    }
    const zone = (kilometres: number) =>
      zoneOf(chart, { from: duluth, to: hamburg, distance: length(kilometres * 1_000_000, "mm") })
    expect([10, 10.001, 50, 51].map(zone)).toEqual(["near", "far", "far", null])
    expect(zoneOf(chart, { from: duluth, to: hamburg, distance: null })).toBeNull()
  })
  it("by lane, one way", () => {
    const chart: ZoneChart = {
      by: "lane",
      regions: { North: [["US", "550", "567"]], South: [["US", "750", "799"]] },
      lanes: [["North", "South", "NS"]],
    }
    const dallas = at("US", "75201")
    expect(zoneOf(chart, { from: duluth, to: dallas, distance: null })).toBe("NS")
    expect(zoneOf(chart, { from: dallas, to: duluth, distance: null })).toBeNull()
    expect(zonesOf(chart)).toEqual(["NS"])
  })
})

describe("fuel", () => {
  it("holds from its week until the next one is published", () => {
    const table = {
      weeks: [
        ["2026-11-16", "0.155"],
        ["2026-11-02", "0.15"],
      ] as [LocalDate, string][],
    }
    expect(fuelOn(table, "2026-11-15")).toEqual({ share: "0.15", since: "2026-11-02", price: null })
    expect(fuelOn(table, "2026-11-16")?.share).toBe("0.155")
    expect(fuelOn(table, "2027-01-04")?.share).toBe("0.155")
    expect(fuelOn(table, "2026-11-01")).toBeNull()
  })
  it("goes by the step that the week's price reaches", () => {
    const table = {
      prices: [
        ["2026-11-09", "3.702"],
        ["2026-11-16", "3.4"],
        ["2026-11-23", "2.9"],
      ] as [LocalDate, string][],
      steps: [
        ["3.2", "0.242"],
        ["3.4", "0.262"],
        ["3.6", "0.282"],
      ] as [string, string][],
    }
    expect(fuelOn(table, "2026-11-10")).toEqual({ share: "0.282", since: "2026-11-09", price: "3.702" })
    expect(fuelOn(table, "2026-11-16")?.share).toBe("0.262")
    // under the first step nothing is agreed
    expect(fuelOn(table, "2026-11-24")).toBeNull()
  })
})

const firstOf = (document: Record<string, unknown>) => (document.services as [Record<string, unknown>])[0]

describe("the document", () => {
  const { tariff } = tariffOf(parcelService)
  it.each<[string, (document: Record<string, unknown>) => void, RegExp]>([
    ["a figure that is a number", (one) => (firstOf(one).leastNet = 7.5), /leastNet/],
    ["an unknown currency", (one) => (one.currency = "QQQ"), /currency/],
    ["a share over 1", (one) => (one.fuel = { road: { weeks: [["2026-01-05", "1.5"]] } }), /fuel/],
    ["a name it does not know", (one) => (one.surprise = true), /surprise/],
    ["a range that begins at its upper end", (one) => (one.areas = { remote: [["US", "829", "800"]] }), /areas/],
    ["no service", (one) => (one.services = []), /services/],
    [
      "a step of nothing",
      (one) =>
        (firstOf(one).weighing = {
          unit: "lb",
          steps: [{ upTo: null, step: "0" }],
        }),
      /step/,
    ],
  ])("refuses %s, and says where", (_, spoil, where) => {
    const document = structuredClone(tariff) as unknown as Record<string, unknown>
    spoil(document)
    const read = tariffSchema.safeParse(document)
    expect(JSON.stringify(read.error?.issues)).toMatch(where)
  })
  it("is the same read again", () => expect(tariffSchema.parse(JSON.parse(JSON.stringify(tariff)))).toEqual(tariff))
  it("is published as JSON Schema", () => {
    const schema = tariffJsonSchema() as { $schema: string; required: string[] }
    expect(schema.$schema).toBe("https://json-schema.org/draft/2020-12/schema")
    expect(schema.required).toContain("services")
  })
})
