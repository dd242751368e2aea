import { describe, expect, it } from "vitest"
import { lines, parcelService, rated, refusals, small, tariffOf, whyOf } from "../../tests/tariffSamples.ts"
import { money, moneyText } from "../money/index.ts"
import { mass, size, sumMass } from "../units/index.ts"
import { billedWeight } from "./index.ts"

const ground = tariffOf(parcelService)
const cover = money(0, "USD")

describe("billed weight", () => {
  // common practice of parcel carriers, no published source
  it("3900 in³ / 139 = 28.06 bills 29 lb", () => {
    const weight = sumMass([mass(12, "lb"), mass(7, "oz")])
    const billed = billedWeight(weight, size("19.5", "14.0625", "12.375", "in"), ground.service)
    expect(billed.edges.map(String)).toEqual(["20", "15", "13"])
    expect([billed.actual, billed.dimensional, billed.billed].map(String)).toEqual(["13", "29", "29"])
  })
  it("is the actual weight where the volume is at or under the threshold", () => {
    const { service } = tariffOf(parcelService, {
      dimensional: { step: "1", rounding: "up", divisor: "139", threshold: "1728" },
    })
    expect(billedWeight(mass(2, "lb"), size(12, 12, 12, "in"), service).billed.toString()).toBe("2")
    // 1728 / 139 = 12.43
    expect(billedWeight(mass(2, "lb"), size(12, 12, 12, "in"), ground.service).billed.toString()).toBe("13")
  })
  it("goes by actual weight alone where the service has no divisor", () => {
    const { service } = tariffOf(parcelService, { dimensional: null })
    expect(billedWeight(mass(2, "lb"), size(40, 30, 20, "in"), service).billed.toString()).toBe("2")
  })
  it("lies on the whole pound that a converted weight means", () => {
    const billed = billedWeight(mass("4.5359237", "kg"), size(1, 1, 1, "in"), ground.service)
    expect(billed.actual.toString()).toBe("10")
  })
  it("counts ounces below a pound where the post does", () => {
    const { service } = tariffOf(parcelService, {
      weighing: {
        unit: "lb",
        steps: [
          { upTo: "1", step: "0.0625" },
          { upTo: null, step: "1" },
        ],
      },
      dimensional: null,
    })
    const billed = (ounces: string) => billedWeight(mass(ounces, "oz"), size(1, 1, 1, "in"), service).billed.toString()
    // 7.2 oz → 8 oz = 0.5 lb; 16 oz = 1 lb; 16.1 oz → 2 lb
    expect(["7.2", "16", "16.1"].map(billed)).toEqual(["0.5", "1", "2"])
  })
  it("is in half kilograms by 5000 cm³ where the service is metric", () => {
    const { service } = tariffOf(parcelService, {
      lengthUnit: "cm",
      weighing: { unit: "kg", steps: [{ upTo: null, step: "0.5" }] },
      dimensional: { step: "1", rounding: "up", divisor: "5000" },
    })
    // 40 × 30 × 25 cm = 30 000 cm³ / 5000 = 6.0 kg; with 26 cm 6.24 → 6.5 kg
    expect(billedWeight(mass("5.2", "kg"), size(40, 30, 25, "cm"), service).billed.toString()).toBe("6")
    expect(billedWeight(mass("5.2", "kg"), size(40, 30, 26, "cm"), service).billed.toString()).toBe("6.5")
  })
})

describe("price", () => {
  it("is table, discount, surcharges and fuel, each rounded, with the total their sum", () => {
    const rate = rated(ground, [small], { shipTo: { kind: "residential" } })
    // zone 5, 10 lb: 19.95 less 30 % = 13.965 → 13.97; residential 5.95 less half = 2.975 → 2.98;
    // fuel 15 % of 16.95 = 2.5425 → 2.54; total 19.49. List: 19.95 + 5.95 + 3.885 → 3.89 = 29.79
    expect(lines(rate)).toEqual([
      ["base", "13.97"],
      ["residential", "2.98"],
      ["fuel", "2.54"],
    ])
    expect([moneyText(rate.contract).amount, moneyText(rate.list).amount]).toEqual(["19.49", "29.79"])
    expect(rate.zone).toBe("5")
  })
  it("is not under the least net charge, and says so", () => {
    // zone 2, 1 lb: 9.00 less 30 % = 6.30, least 7.50; fuel 1.125 → 1.13
    const light = { ...small, weight: mass("0.4", "lb"), size: size(4, 4, 4, "in") }
    const rate = rated(ground, [light], { shipTo: { postalCode: "55802", state: "MN" } })
    expect(moneyText(rate.contract).amount).toBe("8.63")
    expect(whyOf(rate, "base")).toContain("why.least-net")
  })
  it("counts each package by itself", () => {
    // 2 × 13.97 = 27.94, fuel 4.191 → 4.19
    const rate = rated(ground, [small, small])
    expect(moneyText(rate.contract).amount).toBe("32.13")
    expect(rate.paid.map((one) => [one.package, one.weight.toString()])).toEqual([
      [1, "10"],
      [2, "10"],
    ])
  })
  it("or the shipment at the sum of its billed weights", () => {
    const express = tariffOf(parcelService, {
      price: { ...parcelService.price, per: "shipment" } as never,
      fuel: null,
    })
    // 10 + 10 lb at once: the row to 29, 38.05 less 30 % = 26.635 → 26.64
    expect(lines(rated(express, [small, small]))).toEqual([["base", "26.64"]])
  })
  it("goes on beyond its last row by started steps", () => {
    const express = tariffOf(parcelService, {
      price: {
        by: "weight",
        per: "package",
        rows: [["5", "8.00", "10.00"]],
        beyond: { step: "2", rate: { "5": "1.50" } },
      },
      discounts: [],
      fuel: null,
      leastNet: "0",
    })
    // 10 lb: 10.00 and three started steps of 2 lb over 5 (5 / 2 = 2.5) at 1.50 = 14.50
    expect(lines(rated(express, [small]))).toEqual([["base", "14.50"]])
    // no rate in zone 2: refused, not free
    const near = { shipTo: { postalCode: "55802", state: "MN" } }
    expect(refusals(express, [small], near)).toEqual(["rate.no-price"])
    // of every package that has none
    expect(refusals(express, [small, { ...small, number: 2 }], near)).toEqual(["rate.no-price", "rate.no-price"])
  })
  it("has a discount by the height of the charge", () => {
    const stepped = tariffOf(parcelService, {
      discounts: [
        ["0", "0.1"],
        ["38.05", "0.4"],
      ],
      fuel: null,
    })
    // 19.95 less 10 % = 17.955 → 17.96; 38.05 less 40 % = 22.83
    expect(lines(rated(stepped, [small]))).toEqual([["base", "17.96"]])
    expect(lines(rated(stepped, [{ ...small, weight: mass(29, "lb") }]))).toEqual([["base", "22.83"]])
  })
  it("is one price for the carrier's own box, by zone or not", () => {
    const box = tariffOf(parcelService, {
      price: { by: "box", boxes: { B1: "11.40", B2: { "2": "14.00", "5": "19.50" } } },
      discounts: [],
      fuel: null,
      leastNet: "0",
    })
    expect(
      lines(
        rated(box, [
          { ...small, packaging: "B1" },
          { ...small, packaging: "B2" },
        ]),
      ),
    ).toEqual([
      ["base", "11.40"],
      ["base", "19.50"],
    ])
    expect(refusals(box, [{ ...small, packaging: "K12" }])).toEqual(["rate.own-box-only"])
    const [first, second] = [
      { ...small, packaging: "K12" },
      { ...small, number: 2, packaging: null },
    ]
    expect(refusals(box, [first, second])).toEqual(["rate.own-box-only", "rate.own-box-only"])
    expect(refusals(box, [{ ...small, packaging: "toString" }])).toEqual(["rate.own-box-only"])
  })
  it("rounds a line as the tariff says", () => {
    const coarse = tariffOf(parcelService, { fuel: null }, { rounding: { to: "0.05", way: "up" } })
    // 19.95 less 30 % = 13.965 → 14.00
    expect(lines(rated(coarse, [small]))).toEqual([["base", "14.00"]])
    const down = tariffOf(parcelService, { fuel: null }, { rounding: { to: null, way: "down" } })
    expect(lines(rated(down, [small]))).toEqual([["base", "13.96"]])
  })
  it("adds a tax where the country has it, on all before it", () => {
    const abroad = tariffOf(parcelService, {
      chart: "abroad",
      zones: ["E"],
      reach: { ...parcelService.reach, countries: ["DE"] },
      price: { by: "weight", per: "package", rows: [["10", "40.00"]] },
      transit: { count: "business", days: { E: 4 }, by: "17:00" },
      discounts: [],
      taxes: ["vat"],
    })
    // 40.00 and fuel 15 % 6.00 = 46.00; 19 % = 8.74
    const shipTo = { country: "DE", state: "", postalCode: "20457" }
    expect(lines(rated(abroad, [small], { shipTo }))).toEqual([
      ["base", "40.00"],
      ["fuel", "6.00"],
      ["tax", "8.74"],
    ])
  })
})

describe("several packages per hundredweight", () => {
  const hundred = (choose: "always" | "lower") =>
    tariffOf(parcelService, {
      price: {
        by: "weight",
        per: "package",
        rows: [["150", "90.00", "140.00"]],
        hundredweight: {
          leastTotal: "200",
          leastEach: "15",
          leastPieces: 2,
          rows: [
            ["200", "30.00", "50.00"],
            ["500", "25.00", "42.00"],
          ],
          choose,
        },
      },
      discounts: [],
      leastNet: "0",
      fuel: null,
    })
  const heavy = { ...small, weight: mass(120, "lb") }
  it("at the rate of the break that the total reaches, each piece with its least weight", () => {
    // 120 + 120 = 240 lb at 50.00 per 100 = 120.00, instead of 2 × 140.00
    expect(lines(rated(hundred("lower"), [heavy, heavy]))).toEqual([["base", "120.00"]])
    // with a piece of 10 lb that counts 15: 255 × 50.00 / 100 = 127.50
    expect(lines(rated(hundred("lower"), [heavy, heavy, small]))).toEqual([["base", "127.50"]])
  })
  it("not for one piece, nor under the least total", () => {
    expect(lines(rated(hundred("always"), [{ ...small, weight: mass(150, "lb") }]))).toEqual([["base", "140.00"]])
    expect(lines(rated(hundred("always"), [small, small]))).toHaveLength(2)
  })
  it("only where it costs less, unless it always holds", () => {
    const cheapRows = (choose: "always" | "lower") =>
      tariffOf(parcelService, {
        price: {
          by: "weight",
          per: "package",
          rows: [["150", "20.00", "30.00"]],
          hundredweight: {
            leastTotal: "200",
            leastEach: "15",
            leastPieces: 2,
            rows: [["200", "30.00", "50.00"]],
            choose,
          },
        },
        discounts: [],
        leastNet: "0",
        fuel: null,
      })
    expect(moneyText(rated(cheapRows("lower"), [heavy, heavy]).contract).amount).toBe("60.00")
    expect(moneyText(rated(cheapRows("always"), [heavy, heavy]).contract).amount).toBe("120.00")
  })
})

describe("size classes", () => {
  const sized = tariffOf(parcelService, {
    sizeClasses: [{ code: "large", when: { fact: "girth-over", figure: "130" }, leastWeight: "90" }],
    surcharges: [
      {
        code: "large",
        amount: { basis: "package", figure: "78.00" },
        when: { fact: "size-class", sizeClass: "large" },
        group: "size",
      },
      {
        code: "handling",
        amount: { basis: "package", figure: "20.00" },
        when: { fact: "weight-over", figure: "70" },
        group: "size",
      },
      {
        code: "long",
        amount: { basis: "package", figure: "18.00" },
        when: { fact: "longest-over", figure: "48" },
        group: "size",
      },
    ],
    discounts: [],
    leastNet: "0",
    fuel: null,
  })
  it("bills the least weight of a large package", () => {
    // 50 + 2 × (21 + 20) = 132 in; 50 × 21 × 20 = 21 000 / 139 = 151.08: over the table, so a flatter one:
    // 60 + 2 × (30 + 6) = 132 in, 10 800 in³ / 139 = 77.7 → 78 lb, billed as 90 lb
    const flat = { ...small, size: size(60, 30, 6, "in") }
    const rate = rated(sized, [flat])
    expect(rate.paid[0]?.weight.toString()).toBe("90")
    expect(rate.packages[0]?.sizeClass).toBe("large")
  })
  it("charges of a group only the largest, for each package by itself", () => {
    const both = { ...small, weight: mass(75, "lb"), size: size(60, 30, 6, "in") }
    const heavy = { ...small, weight: mass("70.1", "lb") }
    const long = { ...small, size: size("48.1", 5, 5, "in") }
    expect(lines(rated(sized, [both])).slice(1)).toEqual([["large", "78.00"]])
    expect(lines(rated(sized, [heavy, long])).slice(2)).toEqual([
      ["handling", "20.00"],
      ["long", "18.00"],
    ])
  })
  it("begin just above their limits, not at them", () => {
    const at = { ...small, weight: mass(70, "lb"), size: size(48, 5, 5, "in") }
    expect(lines(rated(sized, [at])).map(([code]) => code)).toEqual(["base"])
  })
})

describe("surcharges and options", () => {
  const withOptions = tariffOf(parcelService, {
    options: [
      { option: "signature", excludes: ["signature-adult"] },
      { option: "signature-adult", excludes: ["signature"] },
      { option: "dry-ice" },
      { option: "declared-value" },
      { option: "saturday", requires: ["signature"] },
    ],
    surcharges: [
      {
        code: "signature",
        amount: { basis: "shipment", figure: "5.40" },
        when: { fact: "option", option: "signature" },
      },
      {
        code: "dry-ice",
        amount: { basis: "dry-ice", figure: "0.80", least: "6.50" },
        when: { fact: "option", option: "dry-ice" },
      },
      {
        code: "declared-value",
        amount: { basis: "value", figure: "1.20", least: "3.60" },
        when: { fact: "option", option: "declared-value" },
      },
      {
        code: "area",
        amount: { basis: "package", figure: { "5": "4.00", "2": "2.00" } },
        when: { fact: "area", area: "remote" },
      },
      {
        code: "peak",
        amount: { basis: "share", figure: "0.1", of: ["base", "signature"] },
        when: { fact: "season", from: "2026-12-01", until: "2026-12-24" },
      },
    ],
    discounts: [],
    leastNet: "0",
    fuel: null,
  })
  const asked = (options: Parameters<typeof rated>[2]) => lines(rated(withOptions, [small], options)).slice(1)
  it("cost what the tariff says when they are asked for", () => {
    expect(asked({ options: new Set(["signature"]) })).toEqual([["signature", "5.40"]])
    expect(asked({})).toEqual([])
  })
  it("that it does not know, that exclude or need another, are refused with their names", () => {
    expect(refusals(withOptions, [small], { options: new Set(["liftgate"]) })).toEqual(["rate.option"])
    expect(refusals(withOptions, [small], { options: new Set(["signature", "signature-adult"]) })).toEqual([
      "rate.option-excludes",
      "rate.option-excludes",
    ])
    expect(refusals(withOptions, [small], { options: new Set(["saturday"]) })).toEqual(["rate.option-requires"])
  })
  it("dry ice by the started kilogram of it, at least so much", () => {
    const icy = (kilograms: string) =>
      lines(rated(withOptions, [{ ...small, dryIce: mass(kilograms, "kg") }], { options: new Set(["dry-ice"]) })).slice(
        1,
      )
    // 9.2 → 10 kg × 0.80 = 8.00; 2 kg 1.60, at least 6.50; none: nothing
    expect(icy("9.2")).toEqual([["dry-ice", "8.00"]])
    expect(icy("2")).toEqual([["dry-ice", "6.50"]])
    expect(icy("0")).toEqual([])
  })
  it("more cover by every started 100 over what is included", () => {
    const declared = (figure: string) =>
      lines(
        rated(withOptions, [{ ...small, declared: { ...cover, amount: cover.amount.add(figure) } }], {
          options: new Set(["declared-value"]),
        }),
      ).slice(1)
    // 100 is included; 850: 750 over, 8 started hundreds × 1.20 = 9.60; 250: 2 × 1.20 = 2.40, at least 3.60
    expect(declared("850")).toEqual([["declared-value", "9.60"]])
    expect(declared("250")).toEqual([["declared-value", "3.60"]])
    expect(declared("100")).toEqual([])
    expect(() => declared("5000.01")).toThrow("rate.cover")
  })
  it("by zone and area", () => {
    expect(asked({ shipTo: { postalCode: "82190", state: "WY" } })).toEqual([["area", "4.00"]])
  })
  it("a share of other charges in its season", () => {
    // 19.95 and 5.40, 10 % of 25.35 = 2.535 → 2.54; both days included
    for (const shipDate of ["2026-12-01", "2026-12-24"] as const)
      expect(asked({ shipDate, options: new Set(["signature"]) })).toEqual([
        ["signature", "5.40"],
        ["peak", "2.54"],
      ])
    expect(asked({ shipDate: "2026-12-28" })).toEqual([])
  })
  it("takes an address that nobody confirmed as residential, and says so", () => {
    expect(whyOf(rated(ground, [small], { shipTo: { kind: "unknown" } }), "residential")).toContain(
      "fact.residential-unconfirmed",
    )
    expect(lines(rated(ground, [small])).map(([code]) => code)).not.toContain("residential")
  })
  it("conditions join with all, any and not", () => {
    const joined = tariffOf(parcelService, {
      surcharges: [
        {
          code: "odd",
          amount: { basis: "package", figure: "3.00" },
          when: {
            all: [
              {
                any: [
                  { fact: "weight-over", figure: "50" },
                  { fact: "longest-over", figure: "9" },
                ],
              },
              { not: { fact: "residential" } },
              { fact: "zone", zones: ["5"] },
            ],
          },
        },
      ],
    })
    const codes = (kind: "business" | "residential") =>
      lines(rated(joined, [small], { shipTo: { kind } })).map(([code]) => code)
    expect(codes("business")).toContain("odd")
    expect(codes("residential")).not.toContain("odd")
    expect(whyOf(rated(joined, [small]), "odd")).toEqual(["why.package", "fact.longest-over", "fact.zone"])
  })
  it("refuses where an amount is due and the zone has none", () => {
    const gap = tariffOf(parcelService, {
      surcharges: [
        { code: "area", amount: { basis: "package", figure: { "2": "4.00" } }, when: { fact: "area", area: "remote" } },
      ],
    })
    expect(refusals(gap, [small], { shipTo: { postalCode: "82190", state: "WY" } })).toEqual(["rate.no-surcharge-rate"])
  })
})

describe("what a service can't take", () => {
  it.each<[string, Parameters<typeof rated>[2], string[]]>([
    ["a PO box", { shipTo: { street: "P.O. Box 12" } }, ["rate.post-box"]],
    ["a state", { shipTo: { state: "AK", postalCode: "99501" } }, ["rate.state", "rate.zone-not-served"]],
    ["abroad", { shipTo: { country: "CA" } }, ["rate.country"]],
    ["an area without a zone", { shipTo: { postalCode: "10001" } }, ["rate.no-zone"]],
    ["an unreadable postal code", { shipTo: { postalCode: "" } }, ["rate.no-zone"]],
    ["another's account", { payer: "third-party" }, ["rate.payer"]],
    ["duties", { dutiesPayer: "receiver" }, ["rate.duties-payer"]],
    ["before the tariff holds", { shipDate: "2025-12-31" }, ["rate.not-yet-valid", "rate.no-fuel"]],
    [
      "dangerous goods",
      { dangerous: [{ unNumber: "UN1805", hazard: "8", limitedQuantity: true }] },
      ["rate.dangerous"],
    ],
  ])("%s", (_, asked, expected) => expect(refusals(ground, [small], asked)).toEqual(expected))
  it("too heavy, too long, too large, too many, with every reason", () => {
    const heavy = { ...small, weight: mass("150.1", "lb") }
    expect(refusals(ground, [small, heavy])).toEqual(["rate.over-weight"])
    expect(refusals(ground, [{ ...small, size: size(109, 5, 5, "in") }])).toEqual(["rate.over-length"])
    // 60 + 2 × (30 + 23) = 166
    expect(refusals(ground, [{ ...small, size: size(60, 30, 23, "in") }])).toEqual(["rate.over-girth"])
    const few = tariffOf(parcelService, { limits: { pieces: 1, total: "15", value: "500" } })
    const value = money(501, "USD")
    expect(refusals(few, [small, small], { value })).toEqual([
      "rate.too-many-pieces",
      "rate.over-total",
      "rate.over-value",
    ])
  })
  it("a pallet", () => expect(refusals(ground, [{ ...small, handling: "pallet" }])).toEqual(["rate.pallet"]))
  it("nothing", () => expect(refusals(ground, [])).toEqual(["rate.no-packages"]))
  it("a business by a service for homes, and a home by one for businesses", () => {
    const homes = tariffOf(parcelService, { reach: { ...parcelService.reach, business: false } })
    const offices = tariffOf(parcelService, { reach: { ...parcelService.reach, residential: false } })
    expect(refusals(homes, [small])).toEqual(["rate.residential-only"])
    expect(refusals(offices, [small], { shipTo: { kind: "residential" } })).toEqual(["rate.business-only"])
    expect(refusals(offices, [small], { shipTo: { kind: "unknown" } })).toEqual(["rate.business-not-confirmed"])
  })
  it("goods over the limited quantity, and other hazards than it names", () => {
    const limited = tariffOf(parcelService, {
      goods: { handling: "parcel", dangerous: "limited-quantity", classes: ["3", "8"] },
    })
    const good = (hazard: string, limitedQuantity: boolean) => ({ unNumber: "UN1805", hazard, limitedQuantity })
    expect(refusals(limited, [small], { dangerous: [good("8", true)] })).toEqual([])
    expect(refusals(limited, [small], { dangerous: [good("8", false)] })).toEqual(["rate.not-limited"])
    expect(refusals(limited, [small], { dangerous: [good("9", true)] })).toEqual(["rate.hazard-class"])
  })
})
