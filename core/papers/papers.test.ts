import { Decimal } from "decimal.js"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { express, facts, home, line, made, pack, party, phosphoric } from "../../tests/paperSamples.ts"
import { incoterms, noDetails, purposes } from "../customs/index.ts"
import type { DangerousFacts } from "../dangerous/index.ts"
import { exchangeTable } from "../exchange/index.ts"
import { money, moneyText } from "../money/index.ts"
import { mass } from "../units/index.ts"
import {
  billOfLading,
  dangerousGoods,
  definitions,
  invoice,
  type PaperFacts,
  paperGaps,
  papersNeeded,
  postalFormOf,
} from "./index.ts"

const kinds = (more: Partial<PaperFacts>) => papersNeeded(facts(more)).map((one) => one.kind)
const gaps = (more: Partial<PaperFacts>) => paperGaps(papersNeeded(facts(more))).map((one) => one.code)

describe("which papers a shipment needs", () => {
  it.each<[string, Partial<PaperFacts>, string[]]>([
    ["at home none", { shipTo: home }, []],
    ["goods abroad", {}, ["invoice", "packing-list"]],
    ["a gift too", { customs: { ...noDetails, purpose: "gift" } }, ["invoice", "packing-list"]],
    ["documents none", { customs: { ...noDetails, purpose: "documents" } }, []],
    [
      "a certificate where it is wanted",
      { customs: { ...noDetails, certificateOfOrigin: true } },
      ["invoice", "packing-list", "certificate-of-origin"],
    ],
    [
      "freight by air a letter",
      { service: { ...express, mode: "air", regime: "air" } },
      ["invoice", "packing-list", "letter-of-instruction"],
    ],
    [
      "the post its declaration",
      { service: { ...express, mode: "post", postal: "parcel" } },
      ["invoice", "packing-list", "postal-declaration"],
    ],
    ["a pallet at home", { shipTo: home, packages: [pack({ kind: "pallet" })] }, ["bill-of-lading", "pallet-label"]],
    ["limited quantity at home a mark", { shipTo: home, lines: [line({ dangerous: phosphoric })] }, ["goods-mark"]],
    [
      "the same by air a declaration instead",
      { shipTo: home, lines: [line({ dangerous: phosphoric })], service: { ...express, mode: "air", regime: "air" } },
      ["dangerous-goods"],
    ],
    [
      "what is no limited quantity by road a shipping paper",
      { shipTo: home, lines: [line({ dangerous: { ...phosphoric, limitedQuantity: false } })] },
      ["dangerous-goods"],
    ],
    ["dry ice a mark", { shipTo: home, options: new Set(["dry-ice"]), dryIceKg: "2" }, ["goods-mark"]],
    [
      "an invoice of one's own none of ours",
      { customs: { ...noDetails, ownInvoice: true }, attached: true },
      ["packing-list"],
    ],
  ])("%s", (_name, more, expected) => expect(kinds(more)).toEqual(expected))

  // Switzerland: documents over 0.5 kg count as goods (common practice)
  it.each([
    ["0.5", []],
    ["0.501", ["invoice", "packing-list"]],
  ])("documents of %s kg to Switzerland", (kg, expected) =>
    expect(
      kinds({
        shipTo: { ...facts().shipTo, country: "CH" },
        customs: { ...noDetails, purpose: "documents" },
        packages: [pack({ gross: mass(kg, "kg") })],
      }),
    ).toEqual(expected),
  )

  it("prints three invoices outside and one to keep, or as many as the customer wants, or sends data", () => {
    expect(papersNeeded(facts())[0]).toMatchObject({ copies: 4, electronic: false })
    expect(papersNeeded(facts({ copies: { invoice: 6 } }))[0]).toMatchObject({ copies: 6 })
    const sends = { ...express, electronic: [{ paper: "invoice" as const, countries: ["DE"] }] }
    expect(papersNeeded(facts({ service: sends }))[0]).toMatchObject({ electronic: true })
    expect(
      papersNeeded(facts({ service: { ...sends, electronic: [{ paper: "invoice", countries: ["CH"] }] } }))[0],
    ).toMatchObject({ electronic: false })
  })
})

describe("what they lack", () => {
  it.each<[string, Partial<PaperFacts>, string[]]>([
    ["nothing", {}, []],
    ["DDP without an importer", { terms: { incoterm: "DDP", place: "Berlin" } }, ["customs.no-importer"]],
    ["CIP without insurance", { terms: { incoterm: "CIP", place: "Berlin" } }, ["customs.no-insurance"]],
    // 2 × 0.5 kg would stand on the invoice as 2 kg
    ["kilograms that are pieces", { lines: [line({ unit: "KGM" })] }, ["customs.unit-net"]],
    ["goods that are sold by the kilogram", { lines: [line({ unit: "KGM", unitNet: mass("1", "kg") })] }, []],
    ["no net weight", { lines: [line({ unitNet: null })] }, ["customs.no-net"]],
    ["no description", { lines: [line({ description: "parts" })] }, ["customs.vague-description"]],
    [
      "a currency without a rate",
      {
        currency: "EUR",
        charges: {
          discount: money(0, "EUR"),
          packing: money(0, "EUR"),
          freight: money(0, "EUR"),
          insurance: money(0, "EUR"),
        },
      },
      ["exchange.missing"],
    ],
    ["an attachment that is not there", { customs: { ...noDetails, ownInvoice: true } }, ["customs.nothing-attached"]],
    [
      "a discount over the goods",
      { charges: { ...facts().charges, discount: money("297.00", "USD") } },
      ["customs.discount-over"],
    ],
    [
      "a telephone for emergencies",
      {
        shipTo: home,
        lines: [line({ dangerous: { ...phosphoric, limitedQuantity: false } })],
        shipper: { ...facts().shipper, emergencyPhone: "" },
      },
      ["shipper.no-emergency-phone"],
    ],
    [
      "a tax number for a forwarder",
      { service: { ...express, mode: "air" }, shipper: { ...facts().shipper, party: { ...party, taxNumber: "" } } },
      ["shipper.no-tax-number"],
    ],
    ["the mass of dry ice", { shipTo: home, options: new Set(["dry-ice"]) }, ["dangerous.no-ice-mass"]],
  ])("%s", (_name, more, expected) => expect(gaps(more)).toEqual(expected))
})

describe("the export filing on the invoice", () => {
  // 15 CFR 30.37(a): over 2500 dollars under one number is filed, 2500 itself is not (from memory)
  const of = (value: string, more: Partial<PaperFacts> = {}) =>
    gaps({ lines: [line({ quantity: 1, unitValue: new Decimal(value) })], ...more })
  it.each([
    ["2499.99", []],
    ["2500.00", []],
    ["2500.01", ["filing.over-value"]],
  ])("%s dollars: %s", (value, expected) => expect(of(value)).toEqual(expected))
  it("counts what leaves besides, and asks nothing for Canada", () => {
    const exportedAlso = [{ code: "2102.10", usd: new Decimal("0.01") }]
    expect(of("2500.00", { exportedAlso })).toEqual(["filing.over-value"])
    const canada = { ...facts().shipTo, country: "CA" }
    expect(of("9000.00", { shipTo: canada })).toEqual([])
    expect(of("10.00", { shipTo: canada, customs: { ...noDetails, licence: "D1" } })).toEqual(["filing.licence"])
    expect(of("9000.00", { shipTo: canada, customs: { ...noDetails, transit: true } })).toEqual(["filing.over-value"])
    expect(of("9000.00", { customs: { ...noDetails, itn: "X20261124000042" } })).toEqual([])
  })
})

describe("the postal declaration", () => {
  const letter = { ...express, mode: "post" as const, postal: "letter" as const }
  const form = (value: string, kg = "1", service = letter) =>
    postalFormOf(
      facts({ service, lines: [line({ unitValue: new Decimal(value), quantity: 1 })] }),
      pack({ gross: mass(kg, "kg"), contents: [{ line: 1, quantity: 1 }] }),
    )
  // UPU, from memory: letter post up to 300 SDR (here 375 dollars) and 2 kg takes CN22
  it.each([
    ["374.99", "2", "CN22"],
    ["375.00", "2", "CN22"],
    ["375.01", "2", "CN23"],
    ["10.00", "2.001", "CN23"],
  ])("%s dollars at %s kg: %s", (value, kg, expected) => expect(form(value, kg)).toBe(expected))
  it("is CN23 for a parcel whatever it is worth, and unknown without a rate", () => {
    expect(form("1.00", "0.1", { ...letter, postal: "parcel" as never })).toBe("CN23")
    expect(gaps({ service: letter, exchange: exchangeTable([]), packages: [pack({ gross: mass(1, "kg") })] })).toEqual([
      "exchange.missing",
    ])
  })
})

it("an invoice in parts adds up to the whole to the cent", () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 6 }),
      fc.integer({ min: 1, max: 1_000_000 }),
      (parts, thousandths) => {
        const unitValue = new Decimal(thousandths).div(1000)
        const total = (quantity: number, before: number) =>
          invoice.model(facts({ lines: [line({ quantity, before, unitValue })] }), made).total.amount
        let before = 0
        let sum = new Decimal(0)
        for (const quantity of parts) {
          sum = sum.add(total(quantity, before))
          before += quantity
        }
        expect(sum.toFixed(2)).toBe(total(before, 0).toFixed(2))
      },
    ),
  )
})

it("an invoice adds freight and insurance only where the terms have the seller pay, and takes the discount off", () => {
  const charges = {
    discount: money("10.00", "USD"),
    packing: money("2.50", "USD"),
    freight: money("40.00", "USD"),
    insurance: money("3.00", "USD"),
  }
  const total = (incoterm: string) =>
    moneyText(invoice.model(facts({ charges, terms: { incoterm, place: "Berlin" } }), made).total).amount
  // 4 × 74.00 = 296.00; − 10.00 + 2.50 = 288.50; + 40.00 + 3.00 = 331.50
  expect(total("FCA")).toBe("288.50")
  expect(total("EXW")).toBe("288.50")
  expect(total("DAP")).toBe("331.50")
})

describe("dangerous goods on papers", () => {
  const full = { ...phosphoric, limitedQuantity: false }
  it("are described in the order of 49 CFR 172.202, with total quantity and packages", () => {
    const model = dangerousGoods.model(
      facts({
        lines: [line({ dangerous: full, quantity: 6 })],
        packages: [
          pack({ contents: [{ line: 1, quantity: 4 }] }),
          pack({ number: 2, name: "48217-2", contents: [{ line: 1, quantity: 2 }] }),
        ],
      }),
      made,
    )
    // six jugs of 5 L
    expect(model.entries).toEqual([
      {
        description: "UN1805, Phosphoric acid solution, 8, PG III",
        unNumber: "UN1805",
        shippingName: "Phosphoric acid solution",
        hazardClass: "8",
        quantity: "30 L",
        packages: 2,
        kind: "carton",
        names: ["48217-1", "48217-2"],
      },
    ])
  })
  // 49 CFR 173.156(b): a package of limited quantities weighs at most 30 kg
  it.each([
    ["29.99", ["goods-mark"]],
    ["30", ["goods-mark"]],
    ["30.01", ["dangerous-goods"]],
  ])("in a package of %s kg: %s", (kg, expected) =>
    expect(
      kinds({ shipTo: home, lines: [line({ dangerous: phosphoric })], packages: [pack({ gross: mass(kg, "kg") })] }),
    ).toEqual(expected),
  )
  it("on a pallet are in the bill of lading, each carton counted by itself", () => {
    const model = billOfLading.model(
      facts({
        shipTo: home,
        service: { ...express, mode: "freight", handling: "pallet" },
        lines: [line({ dangerous: full, quantity: 6, itemNumber: "48580" })],
        packages: [
          pack({ on: 3, contents: [{ line: 1, quantity: 4 }] }),
          pack({ number: 2, name: "48217-2", on: 3, contents: [{ line: 1, quantity: 2 }] }),
          pack({ number: 3, name: "48217-3", kind: "pallet", pieces: 2, contents: [], gross: mass(80, "kg") }),
        ],
      }),
      made,
    )
    expect(model.units).toMatchObject([
      { name: "48217-3", pieces: 2, kindOfPieces: "carton", hazardous: true, itemNumber: "48580" },
    ])
    expect(model.hazardous).toMatchObject([{ quantity: "30 L", packages: 2, kind: "carton" }])
    expect([model.pieces, model.emergencyPhone, model.excepted]).toEqual([2, "+1 800 555 0199", []])
  })
  it("that go as limited quantities on a pallet are no entry of the bill of lading, and are named as excepted", () => {
    const model = billOfLading.model(
      facts({
        shipTo: home,
        service: { ...express, mode: "freight", handling: "pallet" },
        lines: [line({ dangerous: phosphoric, quantity: 4 })],
        packages: [
          pack({ on: 2, gross: mass(25, "kg") }),
          pack({ number: 2, name: "48217-2", kind: "pallet", pieces: 1, contents: [], gross: mass(80, "kg") }),
        ],
      }),
      made,
    )
    expect([model.hazardous, model.units.map((one) => one.hazardous), model.excepted]).toEqual([
      [],
      [false],
      ["UN1805"],
    ])
  })
})

it("no combination of destination, goods and service is without a paper that it needs, once nothing is missing", () => {
  const battery: DangerousFacts = {
    ...phosphoric,
    unNumber: "UN3480",
    properShippingName: "Lithium ion batteries",
    hazardClass: "9",
    packingGroup: "",
    innerQuantity: null,
    innerUnit: "",
    limitedQuantity: false,
    lithium: { unit: "battery", count: 1, wattHours: "90", grams: null, button: false },
  }
  const goods: (DangerousFacts | null)[] = [null, phosphoric, { ...phosphoric, limitedQuantity: false }, battery]
  fc.assert(
    fc.property(
      fc.constantFrom("US", "CA", "DE", "CH", "NZ"),
      fc.constantFrom(...goods),
      fc.constantFrom("parcel", "post", "freight", "air", "groupage"),
      fc.constantFrom("carton", "pallet"),
      fc.constantFrom(...purposes),
      fc.constantFrom(...Object.keys(incoterms)),
      fc.integer({ min: 1, max: 60 }),
      (country, dangerous, mode, kind, purpose, incoterm, quantity) => {
        const own = facts({
          shipTo: { ...facts().shipTo, country },
          customs: { ...noDetails, purpose },
          terms: { incoterm, place: "There" },
          lines: [line({ dangerous, quantity })],
          packages: [pack({ kind: kind as "carton", contents: [{ line: 1, quantity }] })],
          service: {
            ...express,
            mode: mode as "air",
            regime: mode === "air" ? "air" : "road",
            postal: "parcel",
            handling: kind === "pallet" ? "pallet" : "parcel",
          },
        })
        const needed = papersNeeded(own)
        if (paperGaps(needed).length > 0) return
        const has = new Set<string>(needed.map((one) => one.kind))
        // three kilograms of documents are goods in Switzerland
        const border = country !== "US" && !(purpose === "documents" && country !== "CH")
        expect(has.has("invoice")).toBe(border)
        expect(has.has("postal-declaration")).toBe(border && mode === "post")
        expect(has.has("bill-of-lading")).toBe(kind === "pallet")
        // dangerous goods are declared, marked, or in the lading
        if (dangerous)
          expect(has.has("dangerous-goods") || has.has("goods-mark") || has.has("bill-of-lading")).toBe(true)
        // what is needed can be written
        for (const one of definitions) if (one.need(own)) expect(() => one.model(own, made)).not.toThrow()
      },
    ),
    { numRuns: 400 },
  )
})
