import { readFileSync } from "node:fs"
import type { Address } from "core/address/index.ts"
import { moneyText } from "core/money/index.ts"
import {
  type RatedPackage,
  rateShipment,
  type Tariff,
  tariffSchema,
  type ZoneChart,
  zoneChartSchema,
} from "core/rating/index.ts"
import { lengthIn, mass, massIn, size } from "core/units/index.ts"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { NotCarried, PriceList } from "./tariff.ts"

/**
 * Two programs that share no code compute the same price: the application with exact decimals, the carrier's stand-in
 * with whole cents. Where they differ, one of them is wrong.
 */
const read = (name: string) => JSON.parse(readFileSync(`demo/tariffs/${name}.json`, "utf8"))
const codes = ["LARK", "MERI", "BORE", "CIVI", "SWIF", "IRON", "SLED"]
const carriers = codes.map((code) => ({
  charts: (read(code).zones as unknown[]).map((chart) => zoneChartSchema.parse(chart)),
  prices: new PriceList("demo/tariffs", code),
  services: (read(code).services as { code: string }[]).map((one) => ({
    code: one.code,
    tariff: tariffSchema.parse(read(one.code)),
  })),
}))
const all = carriers.flatMap((carrier) => carrier.services.map((service) => ({ ...carrier, ...service })))

const origins = ["55802", "89502"]
const places: [state: string, postalCode: string, country?: string][] = [
  ["MN", "55413"],
  ["ND", "58102"],
  ["CO", "80205"],
  ["WA", "99362"],
  ["MA", "02127"],
  ["TN", "37206"],
  ["MT", "59301"],
  ["AK", "99501"],
  ["HI", "96801"],
  ["QC", "G9A 1A1", "CA"],
  ["", "10115", "DE"],
  ["", "8005", "CH"],
  ["", "0610", "NZ"],
  ["", "75001", "FR"],
]
const boxes = ["CB1", "CB2", "CB3", null]
const carton = fc.record({
  pallet: fc.boolean(),
  box: fc.constantFrom(...boxes),
  // hundredths of a pound and sixteenths of an inch, as scales and rulers give them
  pounds: fc.integer({ min: 10, max: 7_500 }).map((n) => (n / 100).toFixed(2)),
  edges: fc.tuple(
    ...[1, 2, 3].map(() => fc.integer({ min: 48, max: 480 }).map((n) => (n / 16).toFixed(4))),
  ) as fc.Arbitrary<[string, string, string]>,
})

function ours(
  tariff: Tariff,
  chart: ZoneChart,
  address: Address,
  cartons: { pounds: string; edges: [string, string, string]; pallet: boolean; box: string | null }[],
  liftgate: boolean,
) {
  // freight is tried with pallets mostly, parcels without: what is refused is compared too
  const freight = tariff.kind === "freight"
  const packages = cartons.map(
    (one, index): RatedPackage => ({
      number: index + 1,
      // a pallet weighs ten times a carton, and is twice as large
      weight: mass(Number(one.pounds) * (freight ? 10 : 1), "lb"),
      size: freight
        ? size(...(one.edges.map((edge) => String(Number(edge) * 2)) as [string, string, string]), "in")
        : size(...one.edges, "in"),
      packaging: one.box,
      handling: (freight ? one.pallet || index > 0 : one.pallet && one.box === "CB3") ? "pallet" : "parcel",
    }),
  )
  return {
    packages,
    answer: rateShipment(tariff, chart, {
      shipTo: address,
      packages,
      shipDate: "2026-11-24",
      holidays: new Set(),
      liftgate,
    }),
  }
}

describe("the carriers' arithmetic and ours", () => {
  it.each(all.map((one) => [one.code, one] as const))(
    "%s: the same charge to the cent, or both refuse",
    (_, { charts, prices, code, tariff }) => {
      let priced = 0
      fc.assert(
        fc.property(
          fc.constantFrom(...places),
          fc.constantFrom("business", "residential", "unknown" as const),
          fc.array(carton, { minLength: 1, maxLength: 3 }),
          fc.constantFrom(...origins),
          fc.boolean(),
          ([state, postalCode, country = "US"], kind, cartons, origin, liftgate) => {
            const chart = charts.find((one) => one.origin === origin.slice(0, 3))
            if (!chart) return
            const address: Address = {
              company: "X",
              attention: "",
              street: "1 Any Street",
              street2: "",
              city: "Y",
              state,
              postalCode,
              country,
              phone: "",
              kind: kind as Address["kind"],
            }
            const { packages, answer } = ours(tariff, chart, address, cartons, liftgate)
            const ask = () =>
              prices.quote({
                service: code,
                sender: { postalCode: origin },
                liftgate,
                receiver: {
                  postalCode,
                  state,
                  country,
                  lines: ["1 Any Street"],
                  residential: kind !== "business",
                },
                packages: packages.map((one) => ({
                  weightLb: massIn(one.weight, "lb").toFixed(),
                  sizeIn: [one.size.length, one.size.width, one.size.height].map((edge) =>
                    lengthIn(edge, "in").toFixed(),
                  ),
                  packaging: one.packaging,
                  handling: one.handling,
                  freightClass: null,
                })),
              })
            if (answer.ok) {
              priced += 1
              expect(ask().amount).toBe(moneyText(answer.rate.contract).amount)
            } else if (!answer.reasons.every((one) => one.code === "rate.business-only")) {
              // the stand-in does not sort out home addresses for a business service; it corrects bills later
              expect(ask).toThrow(NotCarried)
            }
          },
        ),
        { numRuns: 700, seed: 20261124 },
      )
      expect(priced).toBeGreaterThan(20)
    },
  )
})

it("the demo's charts give every area a zone, nearer ones a lower", () => {
  for (const chart of carriers.flatMap((one) => one.charts)) {
    const ends = chart.ranges.map(([from, to]) => [from, to])
    expect(ends.every(([from, to]) => (from as string) <= (to as string))).toBe(true)
    expect(ends.slice(1).every(([from], index) => (from as string) > (ends[index]?.[1] as string))).toBe(true)
  }
})
