import { Decimal } from "decimal.js"
import { describe, expect, it } from "vitest"
import type { Address } from "../address/index.ts"
import { addressGaps, addressLines, isPostBox } from "../address/index.ts"
import { noDetails } from "../customs/index.ts"
import { mass } from "../units/index.ts"
import { allMinutes, type CheckedOrder, minutesLeft, minutesOfWork, stageOf, stopReasons } from "./index.ts"

const home: Address = {
  company: "Elk Run",
  attention: "Back door",
  street: "14 Growler Row",
  street2: "",
  city: "Denver",
  state: "CO",
  postalCode: "80205",
  country: "US",
  phone: "",
  kind: "business",
}
const line = {
  lineNumber: 1,
  sku: "X",
  quantity: 4,
  available: 10,
  item: {
    unitWeight: mass(2, "lb"),
    sized: true,
    dangerous: null,
    customs: { description: "Dry ale yeast", hsCode: "2102.10", origin: "BE", unitValue: new Decimal("78.00") },
  },
}
const order = (more: Partial<CheckedOrder> = {}): CheckedOrder => ({
  shipTo: home,
  from: "US",
  terms: { incoterm: "", place: "" },
  lines: [line],
  refusedRows: [],
  samePurchaseOrder: null,
  creditStop: null,
  screening: [],
  promise: null,
  heldByHand: false,
  sourceState: null,
  change: null,
  ...more,
})
// 49 CFR 172.101 for UN 1805 (from memory): Phosphoric acid solution, class 8, III; limited quantity up to 5 L inner
const dangerous = {
  unNumber: "UN1805",
  properShippingName: "Phosphoric acid solution",
  hazardClass: "8",
  packingGroup: "III",
  innerQuantity: "5",
  innerUnit: "L",
  limitedQuantity: true,
}
const codes = (more: Partial<CheckedOrder>) => stopReasons(order(more)).map((one) => one.code)

describe("stage", () => {
  const facts = { ordered: 10, allocated: 10, picked: 0, packed: 0, packages: [] }
  it.each([
    [{ allocated: 0 }, "received"],
    [{}, "released"],
    [{ picked: 1 }, "picking"],
    [{ picked: 10 }, "picked"],
    [{ picked: 10, packages: ["open"] }, "packing"],
    [{ picked: 10, packed: 10, packages: ["open", "closed"] }, "packing"],
    [{ picked: 10, packed: 10, packages: ["closed", "closed"] }, "packed"],
    [{ picked: 10, packed: 10, packages: ["labelled", "on-truck"] }, "labelled"],
    [{ picked: 10, packed: 10, packages: ["gone", "left-behind"] }, "labelled"],
    [{ picked: 10, packed: 10, packages: ["gone", "void", "gone"] }, "gone"],
    [{ picked: 10, packed: 10, packages: ["gone", "delivered"] }, "gone"],
    [{ picked: 10, packed: 10, packages: ["delivered", "on-truck"] }, "labelled"],
    [{ picked: 10, packed: 10, packages: ["delivered", "void"] }, "delivered"],
    [{ outside: "shipped" }, "gone"],
    [{ outside: "delivered" }, "delivered"],
    [{ cancelled: true }, "cancelled"],
  ] as const)("of %j is %s", (more, expected) => expect(stageOf({ ...facts, ...more })).toBe(expected))
})

describe("stops", () => {
  it("none for an order that can go", () => expect(codes({})).toEqual([]))
  it.each<[string, Partial<CheckedOrder>, string[]]>([
    [
      "abroad without terms and telephone",
      { shipTo: { ...home, country: "CA", state: "QC", postalCode: "G9A 1A1" } },
      ["customs.no-incoterm", "customs.no-place", "customs.no-phone"],
    ],
    ["dangerous goods of which all is known", { lines: [{ ...line, item: { ...line.item, dangerous } }] }, []],
    [
      "dangerous goods of which nothing is known",
      {
        lines: [
          {
            ...line,
            item: {
              ...line.item,
              dangerous: {
                unNumber: "UN1805",
                properShippingName: "",
                hazardClass: "",
                packingGroup: "",
                innerQuantity: null,
                innerUnit: "",
                limitedQuantity: null,
              },
            },
          },
        ],
      },
      [
        "dangerous.properShippingName",
        "dangerous.hazardClass",
        "dangerous.packingGroup",
        "dangerous.innerQuantity",
        "dangerous.limitedQuantity",
      ],
    ],
    ["no size", { lines: [{ ...line, item: { ...line.item, sized: false } }] }, ["stop.size-missing"]],
    ["credit", { creditStop: { customer: "ELKRUN", note: "two bills open" } }, ["stop.credit"]],
    [
      "a promise that nobody keeps",
      { promise: { promised: "2026-11-25", earliest: "2026-11-27", service: "Ground" } },
      ["stop.promise"],
    ],
    ["the source's state", { sourceState: "on hold" }, ["stop.source-state"]],
    ["a change that came late", { change: { kind: "changed", cameWith: "a.csv" } }, ["stop.changed-at-source"]],
    [
      "a cancellation that came late",
      { change: { kind: "cancelled", cameWith: "a.csv" } },
      ["stop.cancelled-at-source"],
    ],
    ["no weight", { lines: [{ ...line, item: { ...line.item, unitWeight: null } }] }, ["stop.weight-missing"]],
    ["stock", { lines: [{ ...line, available: 3 }] }, ["stop.stock-short"]],
    ["no house number", { shipTo: { ...home, street: "Growler Row" } }, ["address.no-house-number"]],
    ["no street", { shipTo: { ...home, street: "" } }, ["address.no-street"]],
    ["ZIP code", { shipTo: { ...home, postalCode: "8020" } }, ["address.postal-code-shape"]],
    ["state", { shipTo: { ...home, state: "XX" } }, ["address.state-unknown"]],
    ["twice", { samePurchaseOrder: "48201" }, ["stop.purchase-order-twice"]],
    ["by hand", { heldByHand: true }, ["stop.by-hand"]],
  ])("%s", (_, more, expected) => expect(codes(more)).toEqual(expected))
  it("freight goes on a pallet, and is no stop", () =>
    expect(codes({ lines: [{ ...line, item: { ...line.item, unitWeight: mass(186, "lb") } }] })).toEqual([]))
  it("abroad with everything said", () =>
    expect(
      codes({
        shipTo: { ...home, country: "CA", state: "QC", postalCode: "G9A 1A1", phone: "819-555-0142" },
        terms: { incoterm: "DAP", place: "Trois-Rivières" },
      }),
    ).toEqual([]))
})

describe("addresses", () => {
  // shapes published by the United States Postal Service: ZIP and ZIP+4
  it.each(["55802", "55802-1234"])("%s is a ZIP code", (postalCode) =>
    expect(addressGaps({ ...home, postalCode })).toEqual([]),
  )
  it.each(["5580", "558021", "55802-12", "ABCDE"])("%s is none", (postalCode) =>
    expect(addressGaps({ ...home, postalCode })).toHaveLength(1),
  )
  it.each(["PO Box 12", "P.O. Box 12", "P O BOX 7", "Post Office Box 3"])("%s is a box", (street) =>
    expect(isPostBox({ ...home, street })).toBe(true),
  )
  it("a street named Box is none", () => expect(isPostBox({ ...home, street: "12 Boxwood Lane" })).toBe(false))
  // shapes published by the posts of the four countries
  it.each([
    ["CA", "QC", "G9A 1A1", true],
    ["CA", "QC", "G9A1A1", false],
    ["CA", "QC", "D9A 1A1", false],
    ["CA", "ZZ", "G9A 1A1", false],
    ["DE", "", "10115", true],
    ["DE", "", "1011", false],
    ["CH", "", "8005", true],
    ["CH", "", "0805", false],
    ["NZ", "", "0610", true],
    ["NZ", "", "61", false],
  ])("%s %s %s is good: %s", (country, state, postalCode, good) =>
    expect(addressGaps({ ...home, country, state, postalCode }).length === 0).toBe(good),
  )
  it.each([
    ["CA", "QC", "G9A 1A1", "Trois-Rivières", "Trois-Rivières QC G9A 1A1", "CANADA"],
    ["DE", "", "10115", "Berlin", "10115 Berlin", "GERMANY"],
    ["CH", "", "8005", "Zürich", "8005 Zürich", "SWITZERLAND"],
    ["NZ", "", "0610", "Auckland", "Auckland 0610", "NEW ZEALAND"],
  ])("prints a place in %s", (country, state, postalCode, city, place, name) =>
    expect(addressLines({ ...home, country, state, postalCode, city }).slice(-2)).toEqual([place, name]),
  )
  it("prints without empty lines", () =>
    expect(addressLines(home)).toEqual(["Elk Run", "Back door", "14 Growler Row", "Denver CO 80205"]))
})

describe("an order whose export must be filed", () => {
  // 15 CFR 30.37(a) (from memory): filed over 2,500 US dollars under one Schedule B number
  const abroad = {
    ...home,
    street: "Titrierstraße 18",
    city: "Freising",
    state: "",
    postalCode: "85354",
    country: "DE",
  }
  const bound = (pieces: number, more: Partial<CheckedOrder> = {}) =>
    codes({
      shipTo: { ...abroad, phone: "+49 8161 555019" },
      terms: { incoterm: "DAP", place: "Freising" },
      lines: [{ ...line, quantity: 0, pieces, item: { ...line.item, customs: { ...line.item.customs, unitValue } } }],
      toUsd: new Decimal(1),
      ...more,
    })
  const unitValue = new Decimal("1250.00")
  it("is stopped by all that is ordered under one number, at the cent", () => {
    expect(bound(2)).toEqual([])
    expect(bound(3)).toEqual(["filing.over-value"])
    // 2 × 1250.00 × 1.00001 = 2500.025
    expect(bound(2, { toUsd: new Decimal("1.00001") })).toEqual(["filing.over-value"])
  })
  it("goes on with the number of the filing, and where nobody knows the rate is asked before it is bought", () => {
    expect(bound(3, { customs: { ...noDetails, itn: "X20261124000042" } })).toEqual([])
    expect(bound(3, { toUsd: null })).toEqual([])
  })
  it("is stopped for an invoice that is to be attached, until it is", () => {
    const customs = { ...noDetails, ownInvoice: true }
    expect(bound(1, { customs })).toEqual(["customs.nothing-attached"])
    expect(bound(1, { customs, attached: true })).toEqual([])
  })
})

describe("minutes of work", () => {
  const k = { perOrder: 3, perBin: 1.2, perLine: 0.6, perPackage: 2.5, perPaper: 1.5 }
  it("is a + b·bins + c·lines + d·packages + e·papers", () => {
    // pick 1.5 + 1.2 × 3 = 5.1; pack 1.5 + 0.6 × 4 + 2.5 × 2 = 8.9; papers 1.5 × 2 = 3; in all 17 = 3 + 3.6 + 2.4 + 5 + 3
    const work = minutesOfWork(k, { bins: 3, lines: 4, packages: 2, papers: 2 })
    expect(work.pick).toBeCloseTo(5.1)
    expect(work.pack).toBeCloseTo(8.9)
    expect(work.papers).toBe(3)
    expect(allMinutes(work)).toBeCloseTo(17)
  })
  it("shrinks by what is done, and ends with the label", () => {
    const whole = { pick: 10, pack: 10, papers: 2 }
    const left = (picked: number, packed: number, labelled = false) => minutesLeft(whole, { picked, packed, labelled })
    expect(left(0.5, 0)).toEqual({ pick: 5, pack: 10, papers: 2 })
    expect(left(1, 1)).toEqual({ pick: 0, pack: 2, papers: 2 })
    expect(left(1, 1, true)).toEqual({ pick: 0, pack: 0, papers: 0 })
  })
})
