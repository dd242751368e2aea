import { Decimal } from "decimal.js"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { freightService, lines, pallet, rated, refusals, tariffOf, whyOf } from "../../tests/tariffSamples.ts"
import { moneyText } from "../money/index.ts"
import { mass, size } from "../units/index.ts"
import { classOfDensity, cubicFeet, density, floorLength, freightClasses, rateByClass } from "./index.ts"

describe("density and class", () => {
  // NMFTA density scale of 13 steps, effective July 2025 (from memory): each lower bound, and just under it
  it.each([
    ["0.5", "400"],
    ["1", "300"],
    ["1.999", "300"],
    ["2", "250"],
    ["4", "175"],
    ["6", "125"],
    ["8", "100"],
    ["10", "92.5"],
    ["12", "85"],
    ["15", "70"],
    ["22.5", "65"],
    ["30", "60"],
    ["35", "55"],
    ["49.99", "55"],
    ["50", "50"],
    ["120", "50"],
  ])("%s lb/ft³ is class %s", (figure, expected) => expect(classOfDensity(figure)).toBe(expected))
  it("48 × 40 × 50 in is 55.56 ft³; at 500 lb 9.0 lb/ft³, class 100", () => {
    const pallet = size(48, 40, 50, "in")
    expect(cubicFeet(pallet).toFixed(2)).toBe("55.56")
    expect(density(mass(500, "lb"), pallet).toFixed(6)).toBe("9.000000")
    expect(classOfDensity(density(mass(500, "lb"), pallet))).toBe("100")
  })
  it("knows 18 classes, ascending", () => {
    expect(freightClasses).toHaveLength(18)
    expect([...freightClasses].sort((a, b) => Number(a) - Number(b))).toEqual([...freightClasses])
  })
})

const one = (pounds: number, freightClass: "100" | "70" = "100") => ({ freightClass, pounds: new Decimal(pounds) })
const breaks = ["0", "500", "1000"]
const rates = { "100": ["20.00", "17.00", "14.00"], "70": ["15.00", "12.00", "9.00"] }
const amount = (...weights: ReturnType<typeof one>[]) => {
  const answer = rateByClass(rates, breaks, weights)
  return answer.ok ? answer.value : null
}

describe("as-weight rating", () => {
  // transport textbooks, common practice: 460 lb at 20.00 = 92.00, 500 lb at 17.00 = 85.00
  it("460 lb cost as 500 lb", () => {
    expect(amount(one(460))).toMatchObject({ at: "500", deficit: new Decimal(40) })
    expect(amount(one(460))?.amount.toString()).toBe("85")
  })
  // break-even 500 × 17 / 20 = 425 lb: there both cost 85.00, and the own break holds
  it.each([
    [425, "85", null],
    [426, "85", "74"],
    [424, "84.8", null],
  ])("%d lb cost %s", (pounds, expected, deficit) => {
    expect(amount(one(pounds))?.amount.toString()).toBe(expected)
    expect(amount(one(pounds))?.deficit?.toString() ?? null).toBe(deficit)
  })
  it("pays the missing weight at the lowest class rate", () => {
    // 300 lb class 100 and 160 lb class 70: 60.00 + 24.00 = 84.00; at 500: 51.00 + 19.20 + 40 × 12.00 / 100 = 75.00
    expect(amount(one(300), one(160, "70"))?.amount.toString()).toBe("75")
  })
  it("may reach over a break", () => {
    // 499 lb: 99.80; as 500: 85.00; with 1000 at 5.00 it would be 50.00
    const answer = rateByClass({ "100": ["20.00", "17.00", "5.00"] }, breaks, [one(499)])
    expect(answer.ok && answer.value.amount.toString()).toBe("50")
  })
  it("refuses a class without rates", () => expect(rateByClass({}, breaks, [one(10)]).ok).toBe(false))
  it("never costs more for less: the price does not fall as weight grows", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1500 }), fc.integer({ min: 0, max: 300 }), (pounds, more) => {
        expect(amount(one(pounds + more))?.amount.gte(amount(one(pounds))?.amount ?? 0)).toBe(true)
      }),
    )
  })
})

const ltl = tariffOf(freightService)
const class100 = (pounds: string) => pallet(pounds, { freightClass: "100" })

describe("freight price", () => {
  it("is class and break, discount and fuel", () => {
    // 799.2 → 800 lb × 17.00 / 100 = 136.00; as 1000: 140.00, more expensive. Less half 68.00; fuel 30 % of 68.00 = 20.40
    const rate = rated(ltl, [class100("799.2")])
    expect(lines(rate)).toEqual([
      ["base", "68.00"],
      ["fuel", "20.40"],
    ])
    expect(whyOf(rate, "base")).toEqual(["why.zone", "why.class", "why.discount"])
  })
  it("is at least the lane's minimum before discount and the absolute minimum after it", () => {
    // 460 lb as 500: 85.00, minimum 110.00, less half 55.00, absolute minimum 60.00; fuel 18.00
    const rate = rated(ltl, [class100("460")])
    expect(lines(rate)).toEqual([
      ["base", "60.00"],
      ["fuel", "18.00"],
    ])
    expect(whyOf(rate, "base")).toEqual(["why.zone", "why.minimum", "why.discount", "why.least-net"])
  })
  it("rates as the next break where that is less, and says so", () => {
    const cheap = tariffOf(freightService, { price: { ...freightService.price, minimum: "0" } as never, leastNet: "0" })
    // 900 lb: 153.00; as 1000 at 14.00: 140.00, less half 70.00
    const rate = rated(cheap, [class100("900")])
    expect(lines(rate)[0]).toEqual(["base", "70.00"])
    expect(whyOf(rate, "base")).toContain("why.as-weight")
  })
  it("adds accessorials by the hundredweight within their bounds, and once", () => {
    const more = tariffOf(freightService, {
      options: [{ option: "liftgate" }],
      surcharges: [
        {
          code: "liftgate",
          amount: { basis: "shipment", figure: "85.00" },
          when: { fact: "option", option: "liftgate" },
        },
        {
          code: "residential",
          amount: { basis: "hundredweight", figure: "9.00", least: "40.00", most: "120.00" },
          when: { fact: "residential" },
        },
        { code: "long", amount: { basis: "shipment", figure: "55.00" }, when: { fact: "longest-over", figure: "90" } },
      ],
    })
    const home = { shipTo: { kind: "residential" as const }, options: new Set(["liftgate" as const]) }
    // 800 lb × 9.00 / 100 = 72.00 within 40 and 120
    expect(lines(rated(more, [class100("799.2")], home))).toEqual([
      ["base", "68.00"],
      ["liftgate", "85.00"],
      ["residential", "72.00"],
      ["fuel", "20.40"],
    ])
    const residential = (pounds: string) =>
      lines(rated(more, [class100(pounds)], home)).find(([code]) => code === "residential")?.[1]
    // 300 lb: 27.00, at least 40.00; 2000 lb: 180.00, at most 120.00
    expect([residential("300"), residential("2000")]).toEqual(["40.00", "120.00"])
    // two long pallets are one over-length charge
    const long = { ...class100("400"), size: size(92, 40, 50, "in") }
    expect(lines(rated(more, [long, long])).filter(([code]) => code === "long")).toEqual([["long", "55.00"]])
  })
  it("takes the class of the density where the goods have none, or always where the tariff says", () => {
    // 500 lb in 55.56 ft³ = 9.0 lb/ft³: class 100
    expect(rated(ltl, [pallet("500")]).paid[0]?.freightClass).toBe("100")
    const byDensity = tariffOf(freightService, { price: { ...freightService.price, classFrom: "density" } as never })
    expect(rated(byDensity, [pallet("500", { freightClass: "70" })]).paid[0]?.freightClass).toBe("100")
    expect(rated(ltl, [pallet("500", { freightClass: "70" })]).paid[0]?.freightClass).toBe("70")
  })
  it("rates classes agreed as one (FAK) at that one, and says so", () => {
    const fak = tariffOf(freightService, {
      price: { ...freightService.price, fak: [{ classes: ["85", "100", "125"], as: "70" }] } as never,
    })
    // 800 lb class 100 as 70: 800 × 12.00 = 96.00; as 1000 at 9.00: 90.00; minimum 110.00, less half 55.00, floor 60.00
    // so 1200 lb: 108.00 → 110.00; 2000 lb: 180.00, less half 90.00
    const rate = rated(fak, [class100("2000")])
    expect(lines(rate)[0]).toEqual(["base", "90.00"])
    expect(whyOf(rate, "base")).toContain("why.fak")
  })
  it("mixes classes, the missing weight at the lowest rate", () => {
    const free = tariffOf(freightService, {
      price: { ...freightService.price, minimum: "0" } as never,
      discounts: [],
      leastNet: "0",
      fuel: null,
    })
    // 300 lb class 100 and 160 lb class 70: 60.00 + 24.00 = 84.00; at 500: 51.00 + 19.20 + 40 × 12.00 / 100 = 75.00
    const mixed = [pallet("300", { freightClass: "100" }), pallet("160", { freightClass: "70" })]
    expect(lines(rated(free, mixed))).toEqual([["base", "75.00"]])
    expect(lines(rated(free, [...mixed].reverse()))).toEqual([["base", "75.00"]])
  })
  it.each<[string, Parameters<typeof rated>[1], Parameters<typeof rated>[2], string[]]>([
    ["a loose carton", [pallet("40", { handling: "parcel" })], {}, ["rate.not-on-pallet"]],
    ["too many", Array.from({ length: 7 }, () => pallet("500")), {}, ["rate.too-many-pieces"]],
    ["too heavy", [pallet("12000.1")], {}, ["rate.over-total"]],
    ["too high", [pallet("500", { size: size(48, 40, 85, "in") })], {}, ["rate.over-height"]],
    ["too long", [pallet("500", { size: size(97, 40, 50, "in") })], {}, ["rate.over-length"]],
    ["a class without a rate", [pallet("500", { freightClass: "250" })], {}, ["rate.no-class"]],
    ["abroad", [pallet("500")], { shipTo: { country: "DE", state: "" } }, ["rate.country"]],
  ])("refuses %s", (_, packages, asked, expected) => expect(refusals(ltl, packages, asked)).toEqual(expected))
})

describe("cubic capacity", () => {
  // common practice, no published source: 750 ft³ or more and under 6 lb/ft³ pays 6 lb for each ft³
  const cubic = tariffOf(freightService, {
    price: {
      ...freightService.price,
      minimum: "0",
      cubicCapacity: { from: "750", densityUnder: "6", weightPerFoot: "6", asClass: "100" },
    } as never,
    limits: { total: "12000", pieces: 30 },
    discounts: [],
    leastNet: "0",
    fuel: null,
  })
  const many = (count: number, pounds: string, freightClass: "70" | "100" = "70") =>
    Array.from({ length: count }, () => pallet(pounds, { freightClass }))
  it("pays by volume at the class that the tariff names", () => {
    // 14 pallets of 55.5556 ft³ = 777.8 ft³, 14 × 200 = 2800 lb: 3.6 lb/ft³. 6 × 777.78 = 4666.67 → 4667 lb at 14.00
    const rate = rated(cubic, many(14, "200"))
    expect(lines(rate)).toEqual([["base", "653.38"]])
    expect(whyOf(rate, "base")).toContain("why.cubic")
  })
  it("not below the volume, nor at the density", () => {
    // 13 pallets are 722.2 ft³: 13 × 200 = 2600 lb class 70 at 9.00 = 234.00
    expect(lines(rated(cubic, many(13, "200")))).toEqual([["base", "234.00"]])
    // 14 × 333.34 lb → 334 lb = 4676 lb: 6.01 lb/ft³: by class 70, 420.84
    expect(lines(rated(cubic, many(14, "333.34")))).toEqual([["base", "420.84"]])
  })
})

describe("linear foot", () => {
  // common practice, no published source: from 10 ft of floor on, at least 1000 lb for each foot
  const linear = tariffOf(freightService, {
    price: { ...freightService.price, minimum: "0", linearFoot: { from: "10", weightPerFoot: "1000" } } as never,
    limits: { total: "30000", pieces: 30 },
    discounts: [],
    leastNet: "0",
    fuel: null,
  })
  it("is paid for from the length on", () => {
    // six pallets of 48 × 40, not stackable: three pairs of 40 in = 120 in = 10 ft: 10 000 lb at 14.00
    const six = Array.from({ length: 6 }, () => class100("500"))
    const rate = rated(linear, six)
    expect(lines(rate)).toEqual([["base", "1400.00"]])
    expect(whyOf(rate, "base")).toContain("why.linear-foot")
    // four take 80 in: 2000 lb at 14.00
    expect(lines(rated(linear, six.slice(0, 4)))).toEqual([["base", "280.00"]])
  })
  it("is halved where pallets may be stacked", () => {
    // 50 in high each, 100 in the two: six in three places, 80 in: 3000 lb at 14.00
    const six = Array.from({ length: 6 }, () => pallet("500", { freightClass: "100", stackable: true }))
    expect(lines(rated(linear, six))).toEqual([["base", "420.00"]])
  })
  it("counts the floor by hand-drawn loads", () => {
    const trailer = { width: 96, height: 108 }
    const spot = (l: number, w: number, stackable = false, h = 50) => ({ size: size(l, w, h, "in"), stackable })
    expect(floorLength([spot(48, 40)], trailer).toString()).toBe("40")
    expect(floorLength([spot(48, 40), spot(48, 40)], trailer).toString()).toBe("40")
    expect(floorLength([spot(48, 40), spot(48, 40), spot(48, 40)], trailer).toString()).toBe("80")
    // 60 in wide pieces do not fit side by side
    expect(floorLength([spot(60, 60), spot(60, 60)], trailer).toString()).toBe("120")
    // longer than the trailer is wide: it lies along it
    expect(floorLength([spot(120, 40)], trailer).toString()).toBe("120")
    // too high together to be stacked
    expect(
      floorLength([spot(48, 40, true, 60), spot(48, 40, true, 60), spot(48, 40, true, 60)], trailer).toString(),
    ).toBe("80")
    expect(floorLength([], trailer).toString()).toBe("0")
  })
  it("does not hang on the order of the pallets", () => {
    const one = fc.record({
      l: fc.integer({ min: 20, max: 130 }),
      w: fc.integer({ min: 20, max: 96 }),
      h: fc.integer({ min: 10, max: 100 }),
      stackable: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(one, { maxLength: 8 }), fc.integer(), (loads, seed) => {
        const pallets = loads.map(({ l, w, h, stackable }) => ({ size: size(l, w, h, "in"), stackable }))
        const turned = pallets.map(
          (_, index) => pallets[(index + Math.abs(seed)) % pallets.length] as (typeof pallets)[number],
        )
        const trailer = { width: 96, height: 108 }
        expect(floorLength(turned, trailer).toString()).toBe(floorLength(pallets, trailer).toString())
      }),
    )
  })
})

describe("linehaul after as-weight rating", () => {
  it("never falls as the weight grows, with class, size and service fixed", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 11_000 }),
        fc.integer({ min: 1, max: 900 }),
        fc.constantFrom("70" as const, "100" as const),
        (pounds, more, freightClass) => {
          const base = (weight: number) =>
            new Decimal(
              moneyText(rated(ltl, [pallet(String(weight), { freightClass })]).charges[0]?.contract as never).amount,
            )
          expect(base(pounds + more).gte(base(pounds))).toBe(true)
        },
      ),
      { numRuns: 300 },
    )
  })
})
