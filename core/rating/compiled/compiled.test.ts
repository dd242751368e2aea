import { readdirSync, readFileSync } from "node:fs"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { anyOption, anyPackages, anyService, ofPackages, ofUsual, usualPackages } from "../../../tests/tariffFuzz.ts"
import { denver, hamburg, parcelService, requestOf, tariffOf } from "../../../tests/tariffSamples.ts"
import type { Address } from "../../address/index.ts"
import { money, moneyText } from "../../money/index.ts"
import { type OptionCode, type Service, type Tariff, tariffSchema } from "../../tariff/index.ts"
import { length, mass, size } from "../../units/index.ts"
import { rateShipment } from "../rate.ts"
import type { RateRequest } from "../request.ts"
import {
  type CountedPackage,
  countedPackage,
  type Lane,
  laneOf,
  laneOfPlain,
  type Priced,
  plainWay,
  quickly,
} from "./index.ts"

/** What is compared: the zone, both totals, who pays, the arrival; or that the service does not take it. */
const text = (one: Pick<Priced, "zone" | "list" | "contract" | "payer" | "arrival"> | null) =>
  one && {
    zone: one.zone,
    list: one.list.amount.toString(),
    contract: one.contract.amount.toString(),
    payer: one.payer,
    arrives: `${one.arrival.date} ${one.arrival.time}`,
  }

/** How often whole numbers answered, and with a price. */
const counts = () => ({ asked: 0, priced: 0, unsaid: 0, kinds: new Set<string>() })

function agrees(tariff: Tariff, service: Service, request: RateRequest, counted: ReturnType<typeof counts>): void {
  const quick = quickly(tariff, service, request)
  counted.asked += 1
  if (quick === undefined) {
    counted.unsaid += 1
    return
  }
  const answer = rateShipment(tariff, service, request)
  expect(text(quick)).toEqual(answer.ok ? text(answer.rate) : null)
  asPlain(tariff, service, request)
  if (!answer.ok) return
  counted.priced += 1
  counted.kinds.add(service.price.by)
}

/** A way that went through JSON has the prices of the whole tariff. */
function asPlain(tariff: Tariff, service: Service, request: RateRequest): void {
  const lane = laneOf(tariff, service, request)
  if (!lane || service.returns) return
  const packages = request.packages.map((one) => countedPackage(one) as CountedPackage)
  const carried = laneOfPlain(JSON.parse(JSON.stringify(plainWay(tariff, service, request, lane))))
  const prices = (of: Lane | null) => of && { ...of.price(packages), scale: of.scale }
  expect(prices(carried)).toEqual(prices(lane))
}

const receivers = fc.constantFrom<Address>(
  denver,
  hamburg,
  { ...denver, postalCode: "" },
  { ...denver, kind: "residential" },
  { ...denver, kind: "unknown" },
  { ...denver, postalCode: "82101" },
)
const rounding = fc.constantFrom(
  { to: null, way: "half-up" as const },
  { to: "0.05", way: "half-up" as const },
  { to: "0.1", way: "up" as const },
  { to: "0.25", way: "down" as const },
  { to: "0.001", way: "half-up" as const },
)

describe("compiled prices are to the cent those of the explained engine", () => {
  it("over any tariff that its schema accepts, with any packages", () => {
    const counted = counts()
    fc.assert(
      fc.property(
        anyService,
        rounding,
        fc.constantFrom<string[]>([], ["vat"], ["sales", "vat"]),
        fc.oneof(
          { weight: 4, arbitrary: usualPackages.map(ofUsual) },
          { weight: 1, arbitrary: anyPackages.map(ofPackages) },
        ),
        receivers,
        fc.oneof({ weight: 3, arbitrary: fc.constant([]) }, fc.array(anyOption, { maxLength: 2 })),
        (document, rounding, taxes, packages, shipTo, options) => {
          const { tariff, service } = tariffOf(
            document,
            { taxes },
            {
              rounding,
              taxes: { sales: { share: "0.0725" }, vat: { share: "0.19", countries: ["US"] } },
              areas: { remote: [["US", "821", "821"]], nowhere: [["US", "802", "802"]] },
            },
          )
          const request = requestOf(packages, {
            shipTo,
            options: new Set(options),
            value: money("700", "USD"),
            distance: length(80_467_200, "mm"),
            today: "2026-11-24",
            at: "14:00",
          })
          agrees(tariff, service, request, counted)
        },
      ),
      { numRuns: 3_000 },
    )
    // the property says something: a good part has a price, and whole numbers seldom give up
    expect(counted.priced).toBeGreaterThan(counted.asked / 8)
    expect(counted.unsaid).toBeLessThan(counted.asked / 4)
  })

  it("over every service of the demo's tariffs", () => {
    const counted = counts()
    const tariffs = readdirSync("demo/tariffs")
      .filter((name) => /^[A-Z]{4}\.json$/.test(name))
      .map((name) => tariffSchema.parse(JSON.parse(readFileSync(`demo/tariffs/${name}`, "utf8"))))
    const services = tariffs.flatMap((tariff) => tariff.services.map((service) => ({ tariff, service })))
    expect(services.length).toBeGreaterThan(25)
    const places = fc.constantFrom<Partial<Address>>(
      {},
      { state: "IL", postalCode: "60601" },
      { state: "WI", postalCode: "53703", kind: "residential" },
      { state: "CA", postalCode: "94107" },
      { state: "AK", postalCode: "99501" },
      { state: "MN", postalCode: "55802", kind: "residential" },
      { state: "ON", postalCode: "M5V 2T6", country: "CA" },
      { state: "", postalCode: "20457", country: "DE" },
      { street: "PO Box 12" },
    )
    const options = fc.oneof(
      { weight: 2, arbitrary: fc.constant<OptionCode[]>([]) },
      fc.constantFrom<OptionCode[]>(["saturday"], ["signature"], ["liftgate"], ["declared-value"], ["dry-ice"]),
    )
    const boxes = services.flatMap(({ service }) =>
      service.price.by === "box" ? Object.keys(service.price.boxes) : [],
    )
    const standing = fc.record({
      pallets: fc.boolean(),
      box: fc.constantFrom(null, null, ...boxes),
      kilometres: fc.constantFrom(3, 12, 40, 250, 900),
    })
    fc.assert(
      fc.property(usualPackages, places, options, standing, (given, place, asked, { pallets, box, kilometres }) => {
        const packages = ofUsual(
          given.map(({ edges: [a, b, c], ...one }) => ({
            ...one,
            box,
            pallet: pallets,
            edges: pallets ? [48, 40, 10 + c] : [a / 2, b / 2, c / 2],
            declared: asked.includes("declared-value") ? one.declared : null,
          })),
        )
        const request = requestOf(packages, {
          shipTo: place,
          options: new Set(asked),
          value: money("450.50", "USD"),
          distance: length(kilometres * 1_000_000, "mm"),
          today: "2026-11-24",
          at: "09:30",
        })
        for (const { tariff, service } of services) agrees(tariff, service, request, counted)
      }),
      { numRuns: 300 },
    )
    expect(counted.unsaid).toBe(0)
    expect([...counted.kinds].sort()).toEqual(["box", "class", "measure", "unit", "way", "weight"])
  })
})

// figures of docs/tariff.md and the samples: 10 lb in zone 5 are 19.95, less 30 % = 13.965, half up 13.97,
// and 15 % of fuel on it 2.0955, half up 2.10
it("prices ten pounds to Denver as it is reckoned by hand", () => {
  const { tariff, service } = tariffOf(parcelService)
  const request = requestOf([{ number: 1, weight: mass("9.5", "lb"), size: size(10, 10, 8, "in") }])
  expect(moneyText((quickly(tariff, service, request) as Priced).contract).amount).toBe("16.07")
})

it("leaves what does not fit whole numbers to decimals", () => {
  const { tariff, service } = tariffOf(parcelService)
  const ask = (kg: string) =>
    quickly(tariff, service, requestOf([{ number: 1, weight: mass(kg, "kg"), size: size(10, 10, 8, "in") }]))
  expect(ask("1.00000000001")).toBeUndefined()
  expect(ask("1.0000000001")).not.toBeUndefined()
})

describe("on an edge", () => {
  const ask = (change: Parameters<typeof tariffOf>[1], pounds = "5", edge = 10) => {
    const { tariff, service } = tariffOf(parcelService, { surcharges: [], fuel: null, discounts: [], ...change })
    const request = requestOf([{ number: 1, weight: mass(pounds, "lb"), size: size(edge, edge, edge, "in") }])
    return moneyText((quickly(tariff, service, request) as Priced).contract).amount
  }
  it("a volume at the threshold pays by the scale, one over it by size", () => {
    // 1000 in³ / 50 = 20 lb: 38.05 in zone 5; 5 lb by the scale: 19.95
    const by = (threshold: string) => ask({ dimensional: { step: "1", rounding: "up", divisor: "50", threshold } })
    expect(by("1000")).toBe("19.95")
    expect(by("999")).toBe("38.05")
  })
  it("of two equal surcharges of a group one is charged", () => {
    const one = {
      amount: { basis: "package" as const, figure: "4.00" },
      group: "size",
      when: { fact: "weight-over" as const, figure: "1" },
    }
    expect(
      ask({
        surcharges: [
          { ...one, code: "a" },
          { ...one, code: "b" },
        ],
      }),
    ).toBe("23.95")
  })
  it("a weight at a limit is taken, and over it refused", () => {
    const { tariff, service } = tariffOf(parcelService, { limits: { weight: "20" } })
    const at = (pounds: string) =>
      quickly(tariff, service, requestOf([{ number: 1, weight: mass(pounds, "lb"), size: size(9, 9, 9, "in") }]))
    expect(at("20")).not.toBeNull()
    expect(at("20.0000000001")).toBeUndefined()
    expect(at("20.01")).toBeNull()
  })
})
