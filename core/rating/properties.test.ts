import { Decimal } from "decimal.js"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { denver, freightService, hamburg, parcelService, requestOf, tariffOf } from "../../tests/tariffSamples.ts"
import { moneyText } from "../money/index.ts"
import { optionCodes, type TariffDocument, tariffSchema } from "../tariff/index.ts"
import { mass, size } from "../units/index.ts"
import { rateShipment } from "./index.ts"
import type { RatedPackage } from "./request.ts"

type ServiceDocument = TariffDocument["services"][number]

const figure = fc.integer({ min: 0, max: 99_999 }).map((cents) => (cents / 100).toFixed(2))
const positive = fc.integer({ min: 1, max: 60_000 }).map((cents) => (cents / 100).toFixed(2))
const share = fc.integer({ min: 0, max: 100 }).map((hundredths) => (hundredths / 100).toFixed(2))
const byZone: fc.Arbitrary<string | Record<string, string>> = fc.oneof(
  figure,
  fc.dictionary(fc.constantFrom("2", "5", "9"), figure),
)
const rows = fc.array(
  fc
    .tuple(figure, fc.array(figure, { maxLength: 3 }))
    .map(([upTo, prices]): [string, ...string[]] => [upTo, ...prices]),
  { minLength: 1, maxLength: 6 },
)
const freightRates = fc.dictionary(
  fc.constantFrom("2", "5"),
  fc.dictionary(fc.constantFrom("50", "70", "100", "250", "400"), fc.array(figure, { maxLength: 4 })),
)
const breaks = fc.array(figure, { minLength: 1, maxLength: 4 })

/** Prices of every kind, right and wrong: rows that fall, zones without a rate, breaks in no order. */
const price = fc.oneof(
  fc.record({
    by: fc.constant("weight" as const),
    per: fc.constantFrom("package" as const, "shipment" as const),
    rows,
    beyond: fc.option(fc.record({ step: positive, rate: byZone })),
    hundredweight: fc.option(
      fc.record({
        leastTotal: figure,
        leastEach: figure,
        leastPieces: fc.integer({ min: 1, max: 4 }),
        rows,
        choose: fc.constantFrom("always" as const, "lower" as const),
      }),
    ),
  }),
  fc.record({ by: fc.constant("box" as const), boxes: fc.dictionary(fc.constantFrom("B1", "B2"), byZone) }),
  fc.record({
    by: fc.constant("unit" as const),
    minimum: byZone,
    breaks,
    rates: fc.dictionary(fc.constantFrom("2", "5"), fc.array(figure, { maxLength: 4 })),
    asWeight: fc.boolean(),
  }),
  fc.record({
    by: fc.constant("class" as const),
    breaks,
    rates: freightRates as never,
    minimum: byZone,
    classFrom: fc.constantFrom("item" as const, "density" as const),
    fak: fc.array(
      fc.record({
        classes: fc.constant(["70" as const, "85" as const]),
        as: fc.constantFrom("50" as const, "92.5" as const),
      }),
      {
        maxLength: 1,
      },
    ),
    linearFoot: fc.option(fc.record({ from: figure, weightPerFoot: figure })),
    trailer: fc.record({ width: positive, height: positive }),
    cubicCapacity: fc.option(
      fc.record({
        from: figure,
        densityUnder: figure,
        weightPerFoot: figure,
        asClass: fc.constantFrom("100" as const, "125" as const),
      }),
    ),
  }),
  fc.record({ by: fc.constant("measure" as const), perTon: byZone, least: figure, step: positive }),
  fc.record({
    by: fc.constant("way" as const),
    stop: figure,
    perUnit: figure,
    unit: fc.constantFrom("km" as const, "mi" as const),
    minimum: figure,
  }),
)
const option = fc.constantFrom(...optionCodes)
const fact = fc.oneof(
  fc.constantFrom(
    { fact: "residential" as const },
    { fact: "dangerous" as const },
    { fact: "not-stackable" as const },
    { fact: "area" as const, area: "nowhere" },
    { fact: "size-class" as const, sizeClass: "large" },
  ),
  fc.record({ fact: fc.constant("option" as const), option }),
  fc.record({
    fact: fc.constantFrom(
      "weight-over" as const,
      "longest-over" as const,
      "girth-over" as const,
      "total-over" as const,
      "floor-over" as const,
      "value-over" as const,
    ),
    figure,
  }),
)
const condition = fc.oneof(
  fact,
  fc.record({ all: fc.array(fact, { minLength: 1, maxLength: 3 }) }),
  fc.record({ any: fc.array(fact, { minLength: 1, maxLength: 3 }) }),
  fc.record({ not: fact }),
)
const surcharge = fc.record({
  code: fc.constantFrom("a", "b", "c"),
  amount: fc.oneof(
    fc.record({
      basis: fc.constantFrom(
        "shipment" as const,
        "package" as const,
        "hundredweight" as const,
        "weight-unit" as const,
        "dry-ice" as const,
        "value" as const,
      ),
      figure: byZone,
      least: figure,
    }),
    fc.record({ basis: fc.constant("share" as const), figure: share, of: fc.constant(["base", "a"]) }),
  ),
  discount: share,
  when: condition,
  group: fc.option(fc.constantFrom("size", "door")),
})
const service = fc
  .record({
    price,
    surcharges: fc.array(surcharge, { maxLength: 5 }),
    discounts: fc.array(fc.tuple(figure, share), { maxLength: 3 }),
    leastNet: figure,
    sizeClasses: fc.array(fc.record({ code: fc.constant("large"), when: condition, leastWeight: fc.option(figure) }), {
      maxLength: 2,
    }),
    weighing: fc.record({
      unit: fc.constantFrom("lb" as const, "kg" as const),
      steps: fc.array(fc.record({ upTo: fc.option(figure), step: positive }), { minLength: 1, maxLength: 2 }),
    }),
    dimensional: fc.option(
      fc.record({ step: positive, rounding: fc.constantFrom("up" as const, "nearest" as const), divisor: positive }),
    ),
    options: fc.array(fc.record({ option, excludes: fc.array(option, { maxLength: 2 }) }), { maxLength: 4 }),
    handling: fc.constantFrom("any" as const, "any" as const, "any" as const, "parcel" as const, "pallet" as const),
  })
  .map(
    ({ handling, ...change }) =>
      ({
        ...parcelService,
        limits: {},
        ...change,
        goods: { handling, dangerous: "all" as const },
      }) as ServiceDocument,
  )

const packages = fc.array(
  fc.record({
    pounds: fc.oneof(fc.integer({ min: 0, max: 40_000 }), fc.integer({ min: 0, max: 90_000_000 })),
    edges: fc.tuple(
      ...[0, 1, 2].map(() => fc.oneof(fc.integer({ min: 0, max: 6_000 }), fc.integer({ min: 0, max: 4_000_000 }))),
    ) as fc.Arbitrary<[number, number, number]>,
    pallet: fc.boolean(),
    box: fc.constantFrom(null, "B1", "constructor"),
    ice: fc.option(fc.integer({ min: 0, max: 900 })),
  }),
  { maxLength: 5 },
)
const ofPackages = (
  given: { pounds: number; edges: [number, number, number]; pallet: boolean; box: string | null; ice: number | null }[],
) =>
  given.map(
    (one, index): RatedPackage => ({
      number: index + 1,
      weight: mass(one.pounds / 100, "lb"),
      size: size(one.edges[0] / 100, one.edges[1] / 100, Math.max(1, one.edges[2]) / 100, "in"),
      handling: one.pallet ? "pallet" : "parcel",
      packaging: one.box,
      dryIce: one.ice === null ? null : mass(one.ice / 10, "kg"),
    }),
  )

describe("whatever the tariff and the shipment", () => {
  it("an answer is a rate whose charges add up to the cent, or a refusal with reasons; nothing throws", () => {
    let priced = 0
    fc.assert(
      fc.property(
        service,
        packages,
        fc.constantFrom(denver, hamburg, { ...denver, postalCode: "" }, { ...denver, kind: "unknown" as const }),
        fc.oneof({ weight: 3, arbitrary: fc.constant([]) }, fc.array(option, { maxLength: 2 })),
        (document, given, shipTo, options) => {
          const { tariff, service } = tariffOf(document)
          expect(tariffSchema.parse(tariff)).toEqual(tariff)
          const answer = rateShipment(
            tariff,
            service,
            requestOf(ofPackages(given), { shipTo, options: new Set(options) }),
          )
          if (!answer.ok) {
            expect(answer.reasons.length).toBeGreaterThan(0)
            return
          }
          priced += 1
          for (const side of ["list", "contract"] as const) {
            const sum = answer.rate.charges.reduce(
              (total, one) => total.add(moneyText(one[side]).amount),
              new Decimal(0),
            )
            expect(moneyText(answer.rate[side]).amount).toBe(sum.toFixed(2))
            expect(answer.rate[side].amount.isFinite()).toBe(true)
          }
          for (const charge of answer.rate.charges) expect(charge.why.length).toBeGreaterThan(0)
          expect(answer.rate.arrival.date >= "2026-11-24").toBe(true)
        },
      ),
      { numRuns: 1500 },
    )
    expect(priced).toBeGreaterThan(30)
  })

  it("the order of the packages changes nothing", () => {
    fc.assert(
      fc.property(fc.constantFrom(parcelService, freightService), packages, fc.nat(4), (document, given, turn) => {
        const of = tariffOf({ ...document, limits: {}, goods: { handling: "any", dangerous: "all" } })
        const total = (all: readonly RatedPackage[]) => {
          const answer = rateShipment(of.tariff, of.service, requestOf(all))
          return answer.ok ? moneyText(answer.rate.contract).amount : answer.reasons.map((one) => one.code).sort()
        }
        const all = ofPackages(given)
        const turned = all.map((_, index) => all[(index + turn) % all.length] as RatedPackage)
        expect(total(turned)).toEqual(total(all))
      }),
      { numRuns: 300 },
    )
  })

  it("the unit that weights and edges were given in changes nothing", () => {
    // 1 lb = 0.45359237 kg and 1 in = 2.54 cm exactly: NIST Handbook 44, Appendix C
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 14_900 }),
        fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: 4, max: 160 }))),
        (pounds, edges) => {
          const { tariff, service } = tariffOf(parcelService)
          const price = (one: Pick<RatedPackage, "weight" | "size">) => {
            const answer = rateShipment(tariff, service, requestOf([{ number: 1, ...one }]))
            return answer.ok ? moneyText(answer.rate.contract).amount : answer.reasons.map((reason) => reason.code)
          }
          const [l, w, h] = edges.map((edge) => new Decimal(edge).div(4)) as [Decimal, Decimal, Decimal]
          const weight = new Decimal(pounds).div(100)
          const imperial = { weight: mass(weight, "lb"), size: size(l, w, h, "in") }
          const metric = {
            weight: mass(weight.mul("0.45359237"), "kg"),
            size: size(l.mul("2.54"), w.mul("2.54"), h.mul("2.54"), "cm"),
          }
          expect(price(metric)).toEqual(price(imperial))
        },
      ),
      { numRuns: 500 },
    )
  })
})
