import { money } from "core/money/index.ts"
import type { RatedPackage } from "core/rating/index.ts"
import { optionCodes, type TariffDocument } from "core/tariff/index.ts"
import { mass, size } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import fc from "fast-check"
import { parcelService } from "./tariffSamples.ts"

/** For tests: tariffs and packages of every kind, right and wrong. */

type ServiceDocument = TariffDocument["services"][number]

const figure = fc.integer({ min: 0, max: 99_999 }).map((cents) => (cents / 100).toFixed(2))
const positive = fc.integer({ min: 1, max: 60_000 }).map((cents) => (cents / 100).toFixed(2))
const share = fc.integer({ min: 0, max: 100 }).map((hundredths) => (hundredths / 100).toFixed(2))
const byZone: fc.Arbitrary<string | Record<string, string>> = fc.oneof(
  fc.constant("5.00"),
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
export const anyOption = fc.constantFrom(...optionCodes)
const fact = fc.oneof(
  fc.constantFrom(
    { fact: "residential" as const },
    { fact: "dangerous" as const },
    { fact: "not-stackable" as const },
    { fact: "area" as const, area: "nowhere" },
    { fact: "size-class" as const, sizeClass: "large" },
    { fact: "country" as const, countries: ["US"] },
    { fact: "zone" as const, zones: ["5"] },
    { fact: "packaging" as const, packaging: ["B1"] },
    { fact: "pieces-over" as const, figure: "1" },
    { fact: "season" as const, from: "2026-11-01" as const, until: "2026-11-24" as const },
  ),
  fc.record({ fact: fc.constant("option" as const), option: anyOption }),
  fc.record({
    fact: fc.constantFrom(
      "weight-over" as const,
      "longest-over" as const,
      "second-over" as const,
      "volume-over" as const,
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
      least: fc.option(figure, { nil: undefined }),
      most: fc.option(figure, { nil: undefined }),
    }),
    fc.record({
      basis: fc.constant("share" as const),
      figure: share,
      of: fc.constant(["base", "a"]),
      least: fc.option(figure, { nil: undefined }),
      most: fc.option(figure, { nil: undefined }),
    }),
  ),
  discount: share,
  when: condition,
  group: fc.option(fc.constantFrom("size", "door")),
})
export const anyService = fc
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
      fc.record({
        step: fc.oneof(fc.constantFrom("1", "0.5"), positive),
        rounding: fc.constantFrom("up" as const, "nearest" as const),
        divisor: positive,
        threshold: fc.constantFrom(null, "1000", "1728"),
      }),
    ),
    options: fc.array(fc.record({ option: anyOption, excludes: fc.array(anyOption, { maxLength: 2 }) }), {
      maxLength: 4,
    }),
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

export const anyPackages = fc.array(
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

/** Packages as they come over a bench: weights and edges that often lie on a step, in pounds or kilograms. */
export const usualPackages = fc.array(
  fc.record({
    weight: fc.oneof(
      fc.integer({ min: 1, max: 160 }),
      fc.integer({ min: 1, max: 16_000 }).map((one) => one / 100),
    ),
    metric: fc.boolean(),
    edges: fc.tuple(
      ...[0, 1, 2].map(() =>
        fc.oneof(
          fc.integer({ min: 1, max: 60 }),
          fc.integer({ min: 4, max: 240 }).map((one) => one / 4),
        ),
      ),
    ) as fc.Arbitrary<[number, number, number]>,
    pallet: fc.boolean(),
    box: fc.constantFrom<string | null>(null, "B1"),
    ice: fc.option(fc.integer({ min: 0, max: 900 })),
    declared: fc.option(fc.integer({ min: 0, max: 120_000 })),
    freightClass: fc.constantFrom(null, null, "70" as const, "100" as const),
    stackable: fc.boolean(),
  }),
  { minLength: 1, maxLength: 6 },
)
type Usual = typeof usualPackages extends fc.Arbitrary<infer T> ? T : never
export const ofUsual = (given: Usual): RatedPackage[] =>
  given.map((one, index) => ({
    number: index + 1,
    weight: mass(one.weight, one.metric ? "kg" : "lb"),
    size: size(...one.edges, one.metric ? "cm" : "in"),
    handling: one.pallet ? "pallet" : "parcel",
    packaging: one.box,
    dryIce: one.ice === null ? null : mass(one.ice / 10, "kg"),
    declared: one.declared === null ? null : money(new Decimal(one.declared).div(100), "USD"),
    freightClass: one.freightClass,
    stackable: one.stackable,
  }))

export const ofPackages = (
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
