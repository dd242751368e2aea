import { describe, expect, it } from "vitest"
import { inHandOf, inWords, meaning } from "./packingMeaning.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

// GTIN-13 629104150021 has the check digit 3 (GS1 General Specifications, from memory); its case with indicator 1 has 0
const lines = [
  {
    id: 11,
    letter: "a",
    sku: "YST-ALE-500",
    picked: 9,
    packed: 4,
    lots: ["H26-0917", "H26-1004"],
    levels: [
      { name: "each", gtin: "06291041500213", count: 1 },
      { name: "case", gtin: "16291041500210", count: 6 },
    ],
  },
  { id: 12, letter: "b", sku: "BUN-10", picked: 2, packed: 2, lots: [], levels: [] },
]
const pack = (number: number, more: Record<string, unknown> = {}) => ({
  number,
  state: "open",
  planned: {},
  contents: [],
  flaws: [],
  sscc: null,
  ...more,
})
const view = (more: Record<string, unknown> = {}) =>
  ({
    orderNumber: "48217",
    catalogue: [{ code: "K12" }],
    lines,
    packages: [
      pack(1, {
        contents: [
          { lineId: 11, line: "a", quantity: 4 },
          { lineId: 12, line: "b", quantity: 2 },
        ],
      }),
      pack(2, { sscc: "0 9521234 000048001 3" }),
    ],
    ...more,
  }) as unknown as ShipmentView
const told = (text: string, hand: number | null = 2, more: Record<string, unknown> = {}, from?: number) => {
  const meant = meaning(view(more), text, hand, from)
  if (!meant) return null
  if (meant.kind === "refused") return meant.why.code
  return inWords(view(more), meant)
}

describe("at packing", () => {
  it.each([
    ["an item by its GTIN", "06291041500213", "1 × YST-ALE-500 into carton 2"],
    ["an item with a lot that was picked", "010629104150021310H26-1004", "1 × YST-ALE-500 into carton 2"],
    ["an item with a lot that differs by case", "010629104150021310h26-1004", "pack.wrong-lot"],
    ["an item with a lot that was not picked", "010629104150021310H25-0811", "pack.wrong-lot"],
    ["a line with a quantity", "a 3", "3 × YST-ALE-500 into carton 2"],
    ["a line alone: all that is left of it", "a", "5 × YST-ALE-500 into carton 2"],
    ["a case of six where five are left", "16291041500210", "pack.too-many"],
    ["a line of which nothing is left", "b 1", "pack.too-many"],
    ["an item of another order", "26291041500217", "pack.wrong-item"],
    ["a carton of the catalogue", "k12", "Add carton K12"],
    ["pieces out of another package", "a 2 from 1", "2 × YST-ALE-500 from package 1 into 2"],
    ["all of a line out of another package", "b from 1", "2 × BUN-10 from package 1 into 2"],
    ["more than is in it", "a 9 from 1", "pack.not-inside"],
    ["out of itself", "a 1 from 2", "pack.not-inside"],
    ["out of a package that is not there", "a 1 from 7", "pack.no-such-package"],
    ["the scale", "w", "Weigh package 2 on the scale"],
    ["a package of its own by its name", "48217-1", "Make current: 1"],
    ["a package by its SSCC", "(00)095212340000480013", "Make current: 2"],
    ["another order", "48218", null],
  ])("%s", (_, text, expected) => expect(told(text)).toBe(expected))
  it.each([
    ["one by its number", "from 1", "Scans move from package 1 into 2"],
    ["one by its name, as it is scanned", "from 48217-1", "Scans move from package 1 into 2"],
    ["the one in hand by its SSCC", "from 00095212340000480013", "pack.same-package"],
    ["one of another shipment", "from 48218-1", "pack.no-such-package"],
    ["one that is not there", "from 7", "pack.no-such-package"],
  ])("scans are to take out of %s", (_, text, expected) => expect(told(text)).toBe(expected))
  it.each([
    ["a piece by its GTIN", "06291041500213", "1 × YST-ALE-500 from package 1 into 2"],
    ["a piece of which all is packed", "BUN-10", "1 × BUN-10 from package 1 into 2"],
    ["a case of six of which four are in it", "16291041500210", "pack.not-inside"],
    ["a lot that was not picked", "010629104150021310H25-0811", "pack.wrong-lot"],
    ["a line by its letter: that is picked and in no package yet", "a 3", "3 × YST-ALE-500 into carton 2"],
    ["another package, which ends it", "48217-1", "Make current: 1"],
  ])("while scans take out of another, %s", (_, text, expected) => expect(told(text, 2, {}, 1)).toBe(expected))
  it("counts what is in a package whose weight is off, before the one in hand", () => {
    const off = { packages: [pack(1, { flaws: [{ code: "flaw.weight-fewer", values: {} }] }), pack(2, { flaws: [] })] }
    expect(told("count a 3 b 2", 2, off)).toBe("Carton 1 holds 3 a, 2 b")
    expect(told("count a 3 b 2")).toBe("Carton 2 holds 3 a, 2 b")
    expect(told("count x 3")).toBe("pack.no-such-letter")
  })
  it("the letter w packs where a line has it, and weighs where none has", () => {
    const many = { lines: [...lines, { ...lines[0], id: 33, letter: "w", sku: "HYD-TRI", picked: 3, packed: 1 }] }
    expect(told("w", 2, many)).toBe("2 × HYD-TRI into carton 2")
    expect(told("weigh", 2, many)).toBe("Weigh package 2 on the scale")
  })
  it("letters and all go where the plans lack it, and only then into the one in hand", () => {
    const planned = {
      packages: [
        pack(1, { planned: { 11: 6 }, contents: [{ lineId: 11, quantity: 4 }] }),
        pack(2, { planned: { 11: 2 } }),
        pack(3, { planned: { 12: 1 } }),
      ],
      lines: [lines[0], { ...lines[1], packed: 0 }],
    }
    // five are left: two that carton 1 lacks, two that carton 2 lacks, one that nobody planned
    expect(told("a", 2, planned)).toBe("3 × YST-ALE-500 into carton 2; 2 × YST-ALE-500 into carton 1")
    expect(told("a 2", 2, planned)).toBe("2 × YST-ALE-500 into carton 2")
    expect(told("all", 3, planned)).toBe(
      "2 × YST-ALE-500 into carton 1; 2 × YST-ALE-500 into carton 2; 1 × YST-ALE-500 into carton 3; 2 × BUN-10 into carton 3",
    )
    // who took a carton without a plan packs as he likes
    const free = { ...planned, packages: [...planned.packages, pack(4)] }
    expect(told("a", 4, free)).toBe("5 × YST-ALE-500 into carton 4")
  })
  it("one carton is in hand: the planned one that lacks something, unless another was asked for", () => {
    const planned = view({
      packages: [
        pack(1, { planned: { 11: 4 }, contents: [{ lineId: 11, quantity: 4 }] }),
        pack(2, { planned: { 11: 2 } }),
        pack(3, { planned: { 11: 3 } }),
      ],
    })
    expect([null, 1, 2, 3, 9].map((asked) => inHandOf(planned, asked))).toEqual([2, 2, 2, 3, 2])
    expect([null, 1].map((asked) => inHandOf(view(), asked))).toEqual([2, 1])
    expect(inHandOf(view({ packages: [pack(1, { state: "closed" })] }), 1)).toBeNull()
  })
  it("nothing is taken out of a package that has it no more", () =>
    expect(told("BUN-10", 1, {}, 2)).toBe("pack.not-inside"))
  it("nothing goes anywhere without a carton in hand", () => {
    expect(["a 1", "all", "w", "12 lb", "a from 1", "from 1"].map((text) => told(text, null))).toEqual(
      Array(6).fill("ship.no-carton-in-hand"),
    )
  })
  it("a wrong item is let go elsewhere once all is packed: it belongs to another order", () =>
    expect(told("26291041500217", 2, { lines: lines.map((line) => ({ ...line, packed: line.picked })) })).toBeNull())
  it("a scan goes into the carton whose plan lacks it, whichever of the planned ones is in hand", () => {
    const planned = {
      packages: [
        pack(1, { planned: { 11: 3 }, contents: [{ lineId: 11, quantity: 3 }] }),
        pack(2, { planned: { 11: 2 } }),
        pack(3, { planned: { 12: 2 } }),
      ],
    }
    expect(told("06291041500213", 3, planned)).toBe("1 × YST-ALE-500 into carton 2")
    expect(told("06291041500213", 1, planned)).toBe("1 × YST-ALE-500 into carton 2")
    // a carton that was taken without a plan takes what its clerk puts in
    expect(told("06291041500213", 4, { packages: [...planned.packages, pack(4)] })).toBe(
      "1 × YST-ALE-500 into carton 4",
    )
  })
})
