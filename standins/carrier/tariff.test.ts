import { readFileSync } from "node:fs"
import type { Address } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import { money, moneyText } from "core/money/index.ts"
import { type RatedPackage, rateShipment } from "core/rating/index.ts"
import { type OptionCode, type Service, type Tariff, tariffSchema, zoneOf } from "core/tariff/index.ts"
import { length, lengthIn, mass, massIn, size } from "core/units/index.ts"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { NotCarried } from "./published.ts"
import { PriceList } from "./tariff.ts"

/**
 * Two programs that share no code compute the same price: the application with exact decimals, the carrier's stand-in
 * with whole cents. Where they differ, one of them is wrong.
 */
const read = (name: string) => JSON.parse(readFileSync(`demo/tariffs/${name}.json`, "utf8"))
const codes = (read("carriers") as { code: string }[]).map((one) => one.code)
const carriers = codes.map((code) => ({
  prices: new PriceList("demo/tariffs", code),
  tariff: tariffSchema.parse(read(code)),
}))
const all = carriers.flatMap((carrier) => carrier.tariff.services.map((service) => ({ ...carrier, service })))

const origins = ["55802", "89502"]
const places: [state: string, postalCode: string, country?: string][] = [
  ["MN", "55413"],
  ["MN", "55802"],
  ["ND", "58102"],
  ["WI", "53202"],
  ["IL", "60614"],
  ["CO", "80205"],
  ["NV", "89436"],
  ["CA", "94107"],
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
const carton = fc.record({
  pallet: fc.oneof({ weight: 5, arbitrary: fc.constant(true) }, fc.constant(false)),
  box: fc.constantFrom("CB1", "CB2", "CB3", null),
  // hundredths of a pound and sixteenths of an inch, as scales and rulers give them
  pounds: fc.integer({ min: 10, max: 7_500 }).map((n) => (n / 100).toFixed(2)),
  edges: fc.tuple(
    ...[1, 2, 3].map(() => fc.integer({ min: 48, max: 480 }).map((n) => (n / 16).toFixed(4))),
  ) as fc.Arbitrary<[string, string, string]>,
  stackable: fc.boolean(),
  dryIce: fc.option(fc.integer({ min: 1, max: 90 }).map((n) => (n / 10).toFixed(1))),
  declared: fc.oneof(
    { weight: 6, arbitrary: fc.constant(null) },
    fc.integer({ min: 1, max: 90_000 }).map((n) => (n / 100).toFixed(2)),
  ),
})
type Carton = typeof carton extends fc.Arbitrary<infer T> ? T : never

/** How much smaller than the cartons of a parcel service a service's own are; a pallet weighs ten times a carton. */
function scaled({ goods, limits, weighing }: Service): { weight: number; edge: number } {
  if (goods.handling !== "parcel") return { weight: 10, edge: 2 }
  const pounds = Number(limits.weight ?? 1e6) / (weighing.unit === "kg" ? 0.45359237 : 1)
  if (pounds < 5) return { weight: 0.02, edge: 0.25 }
  return pounds < 30 ? { weight: 0.2, edge: 0.5 } : { weight: 1, edge: 1 }
}

/** Freight is tried with pallets mostly, parcels without: what is refused is compared too. */
function packagesFor(service: Service, cartons: readonly Carton[]): RatedPackage[] {
  const freight = service.goods.handling !== "parcel"
  const scale = scaled(service)
  return cartons.map((one, index): RatedPackage => {
    const pallet = freight ? one.pallet || index > 0 : one.pallet && one.box === "CB3"
    return {
      number: index + 1,
      weight: mass((Number(one.pounds) * scale.weight).toFixed(4), "lb"),
      size: size(
        ...(one.edges.map((edge) => (Number(edge) * scale.edge).toFixed(4)) as [string, string, string]),
        "in",
      ),
      packaging: one.box,
      handling: pallet ? "pallet" : "parcel",
      stackable: one.stackable,
      dryIce: one.dryIce === null ? null : mass(one.dryIce, "kg"),
      declared: one.declared === null ? null : money(one.declared, "USD"),
    }
  })
}

/** What a service is asked for: of its own options mostly, now and then another's. */
const wishes = ({ options }: Service) => {
  const known = options.map((one) => one.option)
  return fc.oneof(
    fc.constant([] as OptionCode[]),
    fc.subarray(known, { maxLength: Math.min(2, known.length) }),
    fc.constantFrom<OptionCode[]>(["saturday"], ["liftgate"]),
  )
}

/** Where a service goes mostly, and everywhere now and then. */
function placesFor({ tariff, service }: { tariff: Tariff; service: Service }) {
  const goes = ([, postalCode, country = "US"]: (typeof places)[number]) =>
    origins.some((origin) => {
      const chart = tariff.charts[service.chart]
      const way = { from: { country: "US", postalCode: origin }, to: { country, postalCode }, distance: kilometre }
      return chart && service.zones.includes(zoneOf(chart, way) ?? "")
    })
  return fc.oneof({ weight: 4, arbitrary: fc.constantFrom(...places.filter(goes)) }, fc.constantFrom(...places))
}
const kilometre = length("1e6", "mm")

function compare(
  { prices, tariff, service }: { prices: PriceList; tariff: Tariff; service: Service },
  address: Address,
  packages: readonly RatedPackage[],
  more: {
    origin: string
    options: readonly OptionCode[]
    hazard: string | null
    kilometres: string
    shipDate: LocalDate
  },
): boolean {
  const { origin, options, hazard, kilometres, shipDate } = more
  // what comes back goes the other way
  const ours = { ...address, postalCode: origin, country: "US", state: origin === "55802" ? "MN" : "NV" }
  const [from, to] = service.returns ? [address, ours] : [{ country: "US", postalCode: origin }, address]
  const dangerous = hazard === null ? [] : [{ unNumber: "UN1805", hazard, limitedQuantity: true }]
  // of a rate for goods of one category alone, and of restricted goods, half are such
  const taken = service.goods.categories.some((one) => one.category === "alcohol")
  const category = service.goods.only ?? (taken && packages.length === 1 ? "alcohol" : null)
  const categories = category
    ? { some: [category], all: category, has: ["receiver-licence" as const, "shipper-declaration" as const] }
    : undefined
  const answer = rateShipment(tariff, service, {
    categories,
    from,
    shipTo: to,
    distance: length(`${kilometres}e6`, "mm"),
    packages,
    shipDate,
    options: new Set(options),
    dangerous,
  })
  const ask = () =>
    prices.quote({
      service: service.code,
      shipDate,
      sender: { country: from.country, postalCode: from.postalCode },
      distanceKm: kilometres,
      options,
      dangerous,
      categories: categories ?? null,
      receiver: {
        postalCode: to.postalCode,
        state: to.state,
        country: to.country,
        lines: [to.street],
        residential: to.kind !== "business",
      },
      packages: packages.map((one) => ({
        weightLb: massIn(one.weight, "lb").toFixed(),
        sizeIn: [one.size.length, one.size.width, one.size.height].map((edge) => lengthIn(edge, "in").toFixed()),
        packaging: one.packaging,
        handling: one.handling,
        freightClass: null,
        stackable: one.stackable,
        dryIceKg: one.dryIce ? massIn(one.dryIce, "kg").toFixed() : null,
        declared: one.declared ? moneyText(one.declared).amount : null,
      })),
    })
  if (answer.ok) {
    expect(ask().amount).toBe(moneyText(answer.rate.contract).amount)
    return true
  }
  // the stand-in does not sort out homes and businesses; it corrects bills later
  if (
    !answer.reasons.every((one) =>
      ["rate.business-only", "rate.business-not-confirmed", "rate.residential-only"].includes(one.code),
    )
  )
    expect(ask).toThrow(NotCarried)
  return false
}

describe("the carriers' arithmetic and ours", () => {
  it.each(all.map((one) => [one.service.code, one] as const))(
    "%s: the same charge to the cent, or both refuse",
    (_, one) => {
      let priced = 0
      fc.assert(
        fc.property(
          placesFor(one),
          fc.constantFrom("business", "residential", "unknown" as const),
          fc.array(carton, { minLength: 1, maxLength: 5 }),
          fc.constantFrom(...origins),
          wishes(one.service),
          fc.oneof({ weight: 4, arbitrary: fc.constant(null) }, fc.constantFrom("3", "8", "5.1")),
          fc.integer({ min: 1, max: 160 }).map(String),
          fc.constantFrom("2026-11-24", "2026-10-06", "2026-12-03"),
          ([state, postalCode, country = "US"], kind, cartons, origin, options, hazard, kilometres, shipDate) => {
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
            const packages = packagesFor(one.service, cartons)
            if (compare(one, address, packages, { origin, options, hazard, kilometres, shipDate })) priced += 1
          },
        ),
        { numRuns: 700, seed: 20261124 },
      )
      expect(priced).toBeGreaterThan(10)
    },
  )
})

it("the demo has twelve carriers and thirty services of every mode", () => {
  expect(carriers).toHaveLength(12)
  expect(all.length).toBeGreaterThanOrEqual(30)
  expect(new Set(all.map((one) => one.service.mode))).toEqual(
    new Set(["parcel", "post", "freight", "air", "groupage", "own"]),
  )
  expect(new Set(all.map((one) => one.service.code)).size).toBe(all.length)
})
