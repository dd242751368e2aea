import { elementStrings, inCases, type PickListModel, type SlipModel, slipSettings } from "core/documents/index.ts"
import { mass } from "core/units/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { readBack } from "../../tests/readBack.ts"
import { logisticLabelsPdf } from "./logisticLabel.ts"
import { pickListPdf } from "./pickList.ts"
import { slipsPdf } from "./slip.ts"

let papers: ReturnType<typeof readBack>
beforeAll(() => {
  papers = readBack()
})
afterAll(() => papers.end())
const madeAt = new Date("2026-11-24T16:42:00Z")

describe("the pick list", () => {
  // GTIN-13 629104150021 has the check digit 3 (GS1 General Specifications, from memory)
  const row = {
    bin: "C-14-2",
    item: "Hop pellets Saazer, 11 lb foil",
    sku: "HOP-SAA-5",
    lot: "H26-0917",
    gtin: "06291041500213",
    quantity: 6,
    cases: "1 × 4 + 2",
    into: "T101",
  }
  const model: PickListModel = {
    number: "R101",
    title: "Pick list",
    facts: ["door 4", "3 orders", "83 m from desk to packing bench"],
    rows: ["06291041500213", "16291041500210", "26291041500217"].map((gtin, at) => ({
      ...row,
      gtin,
      bin: `C-14-${at + 1}`,
    })),
    pieces: 18,
  }
  it("has barcodes of the run, of each bin and of each item, read back from the page", async () => {
    const { pages, results } = await papers.symbols(await pickListPdf(model, madeAt), 200)
    expect(pages).toBe(1)
    const codes = results.map((one) => one.text.replace(/[()]/g, "")).sort()
    expect(codes).toEqual([
      "0106291041500213",
      "0116291041500210",
      "0126291041500217",
      "C-14-1",
      "C-14-2",
      "C-14-3",
      "R101",
    ])
  })
  it("says where, what, how many and into what, over as many sheets as it takes", async () => {
    const long = await pickListPdf(
      { ...model, rows: Array.from({ length: 40 }, (_, at) => ({ ...row, bin: `D-${at + 1}-1` })) },
      madeAt,
    )
    expect((await papers.symbols(long, 72)).pages).toBeGreaterThan(2)
    const words = papers.words(long)
    for (const part of ["D-1-1", "D-40-1", "lot H26-0917", "1×4+2", "T101", "83 m from desk to packing bench"])
      expect(words).toContain(part)
  })
  it.each([
    [6, 4, "1 × 4 + 2"],
    [8, 4, "2 × 4"],
    [3, 4, ""],
    [9, 1, ""],
  ])("%s pieces of cases of %s are %s", (quantity, perCase, words) => expect(inCases(quantity, perCase)).toBe(words))
})

describe("the packing slip", () => {
  const model: SlipModel = {
    letterhead: ["Northlake Ferment Supply", "1 Fermenter Quay", "Duluth MN 55802", "218-555-0100"],
    number: "48254-1",
    piece: "Package 1 of 2",
    shipTo: ["Elk Run Taproom", "Back door", "14 Growler Row", "Denver CO 80205"],
    facts: [{ name: "Your order", text: "PO 5001" }],
    rows: [
      {
        line: "a",
        sku: "YST-ALE-500",
        description: "Dry ale yeast, 500 g brick",
        lots: "Y26-120",
        ordered: 6,
        shipped: 3,
        elsewhere: 1,
        backOrdered: 2,
        cancelled: 0,
        price: "74.00",
      },
      {
        line: "b",
        sku: "BUN-10",
        description: "Bungs",
        lots: "",
        ordered: 2,
        shipped: 1,
        elsewhere: 0,
        backOrdered: 0,
        cancelled: 1,
        price: "3.10",
      },
    ],
    withPrices: true,
    withLots: true,
    message: "Thank you for your order.",
  }
  it("shows what it is set to show", async () => {
    const words = papers.words(await slipsPdf([model], "48254", madeAt))
    for (const part of [
      "Package 1 of 2",
      "Y26-120",
      "74.00",
      "To come",
      "Elsewhere",
      "Canceled",
      "Thank you for your order.",
    ])
      expect(words).toContain(part)
    const bare = papers.words(
      await slipsPdf(
        [
          {
            ...model,
            withPrices: false,
            withLots: false,
            rows: model.rows.map((row) => ({ ...row, backOrdered: 0, elsewhere: 0, cancelled: 0 })),
          },
        ],
        "48254",
        madeAt,
      ),
    )
    for (const part of ["74.00", "Y26-120", "To come", "Elsewhere", "Canceled"]) expect(bare).not.toContain(part)
  })
  it("begins each on a sheet of its own, with its number as a barcode", async () => {
    const { pages, results } = await papers.symbols(
      await slipsPdf([model, { ...model, number: "48254-2" }], "48254", madeAt),
      150,
    )
    expect(pages).toBe(2)
    expect(results.map((one) => one.text).sort()).toEqual(["48254-1", "48254-2"])
  })
  it("is said by the customer before the warehouse, and as usual where nobody says", () => {
    expect(slipSettings({ prices: true, message: "x" }, { prices: false })).toMatchObject({
      prices: false,
      message: "x",
      lots: true,
      per: "shipment",
    })
  })
})

describe("the GS1 logistic label", () => {
  // application identifiers 02, 37, 17, 10, 340n, 420, 400: GS1 General Specifications, from memory
  const unit = {
    sscc: "095212340000480013",
    content: { gtin: "06291041500213", count: 24, lot: "H26-0917", expiresOn: "2028-09-01" },
    gross: mass("27.9", "lb"),
    unit: "lb" as const,
    purchaseOrder: "PO 5001",
    postalCode: "80205",
    countryNumber: null,
  }
  it("has the element strings that its data ask for", () => {
    // 27.9 lb in six digits with two decimals: 002790
    expect(elementStrings(unit)).toEqual([
      "(02)06291041500213(17)280901(37)24",
      "(10)H26-0917",
      "(3402)002790(420)80205",
      "(400)PO5001",
    ])
    // 27.9 lb = 12.655227123 kg, 12.66 rounded half up; ISO 3166-1: Canada is 124
    expect(
      elementStrings({
        ...unit,
        unit: "kg",
        content: null,
        postalCode: "G9A 1A1",
        countryNumber: "124",
        purchaseOrder: "",
      }),
    ).toEqual(["(3302)001266(421)124G9A1A1"])
  })
  it.each([
    // 9 999.99 lb are six digits with two decimals; 0.006 more would be seven, so one decimal less: 10 000.0
    ["9999.99", "(3402)999999"],
    ["9999.996", "(3401)100000"],
    ["123456.7", "(3400)123457"],
  ])("says %s lb in six digits", (gross, expected) =>
    expect(elementStrings({ ...unit, gross: mass(gross, "lb"), content: null, postalCode: "" })[0]).toBe(expected),
  )
  it.each([203, 300])("is read back at %i dpi: every symbol GS1-128, the SSCC lowest and 32 mm high", async (dpi) => {
    const pdf = await logisticLabelsPdf(
      [
        {
          sscc: unit.sscc,
          sender: ["Northlake"],
          receiver: ["Elk Run Taproom", "14 Growler Row", "Denver CO 80205"],
          facts: [
            { name: "Gross weight", text: "27.9 lb" },
            { name: "Lot", text: "H26-0917" },
          ],
          symbols: elementStrings(unit),
        },
      ],
      madeAt,
    )
    const { results } = await papers.symbols(pdf, dpi)
    expect(results.every((one) => one.symbologyIdentifier === "]C1")).toBe(true)
    // the decoder gives brackets or a function character between elements: both are taken out
    const found = results.map((one) => one.text.replace(/[()\u001d]/g, ""))
    expect(new Set(found)).toEqual(
      new Set([
        "00095212340000480013",
        "020629104150021317280901" + "3724",
        "10H26-0917",
        "340200279042080205",
        "400PO5001",
      ]),
    )
    const sscc = results.find((one) => one.text.replace(/[()]/g, "").startsWith("00"))
    const height = (one: (typeof results)[number]) => one.position.bottomLeft.y - one.position.topLeft.y
    const lowest = Math.max(...results.map((one) => one.position.bottomLeft.y))
    expect(sscc?.position.bottomLeft.y).toBe(lowest)
    expect(sscc ? (height(sscc) / dpi) * 25.4 : 0).toBeGreaterThan(30)
  })
})
