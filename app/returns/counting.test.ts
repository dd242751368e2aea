import { describe, expect, it } from "vitest"
import {
  type Counting,
  countingSchema,
  foundIn,
  type Items,
  lessRecorded,
  noneTyped,
  noOther,
  nothingCounted,
  piecesIn,
  rowsOf,
  scannedInto,
  type Typed,
  wrongIn,
} from "./counting.ts"

const item = (itemId: number, sku: string, lots: readonly [number, string][] = []): Items[number] => ({
  itemId: itemId as Items[number]["itemId"],
  sku,
  description: sku,
  announced: 4,
  sent: 10,
  before: 0,
  sound: 0,
  damaged: 0,
  missing: 4,
  surplus: 0,
  lots: lots.map(([id, code]) => ({ id: id as Items[number]["lots"][number]["id"], code, sent: 5 })),
  codes: [],
})
const rows = rowsOf([
  item(7, "BOT-AMB-500"),
  item(8, "YST-ALE-500", [
    [21, "A1"],
    [22, "A2"],
  ]),
])
const typed = (more: Readonly<Record<string, Partial<Typed>>>, other: Partial<Counting["other"]> = {}): Counting => ({
  typed: Object.fromEntries(Object.entries(more).map(([key, one]) => [key, { ...noneTyped, ...one }])),
  other: { ...noOther, ...other },
})

describe("what is counted of a return", () => {
  it("has a row for each lot, and the figures of an item in its first alone", () => {
    expect(rows.map(({ key, first, lot }) => [key, first, lot?.code])).toEqual([
      ["7-0", true, undefined],
      ["8-21", true, "A1"],
      ["8-22", false, "A2"],
    ])
    expect(rowsOf([])).toEqual([])
  })

  it.each([
    ["", 0],
    [" ", 0],
    ["3", 3],
    [" 12 ", 12],
    ["0", 0],
    ["1000000", 1_000_000],
    ["1000001", null],
    ["2.5", null],
    ["-1", null],
    ["3o", null],
    ["1e3", null],
    ["٣", null],
  ])("reads %j as %s pieces", (text, pieces) => expect(piecesIn(text)).toBe(pieces))

  it("is recorded by item, lot and condition, a note with what is damaged", () => {
    const counting = typed(
      { "7-0": { sound: "3", damaged: "1", note: "cracked" }, "8-22": { sound: "2", note: "open box" } },
      { goods: "garden hose", quantity: "2" },
    )
    expect(foundIn(counting, rows)).toEqual([
      { itemId: 7, lotId: null, state: "sound", quantity: 3, note: "" },
      { itemId: 7, lotId: null, state: "damaged", quantity: 1, note: "cracked" },
      { itemId: 8, lotId: 22, state: "sound", quantity: 2, note: "open box" },
      { sku: "", lot: "", goods: "garden hose", quantity: 2, state: "other" },
    ])
    expect(foundIn(nothingCounted, rows)).toEqual([])
  })

  it("says what can't be recorded as it is typed, each item once", () => {
    expect(wrongIn(nothingCounted, rows)).toEqual([])
    expect(wrongIn(typed({ "7-0": { sound: "3" }, "8-21": { damaged: "0" } }), rows)).toEqual([])
    expect(wrongIn(typed({ "8-21": { sound: "2x" }, "8-22": { damaged: "." }, "7-0": { sound: "-1" } }), rows)).toEqual(
      ["BOT-AMB-500", "YST-ALE-500"],
    )
    // goods that nobody said the number of would be lost
    expect(wrongIn(typed({}, { goods: "garden hose" }), rows)).toEqual(["garden hose"])
    expect(wrongIn(typed({}, { sku: "HOSE", quantity: "0" }), rows)).toEqual(["HOSE"])
    expect(wrongIn(typed({}, { quantity: "two" }), rows)).toEqual(["two"])
    expect(wrongIn(typed({}, { goods: "garden hose", quantity: "2" }), rows)).toEqual([])
  })

  it("grows with each scan, and leaves alone what is typed wrongly", () => {
    const one = scannedInto(noneTyped, "sound", 1)
    expect(scannedInto(one, "sound", 24)).toEqual({ sound: "25", damaged: "", note: "" })
    expect(scannedInto(one, "damaged", 2)).toEqual({ sound: "1", damaged: "2", note: "" })
    expect(scannedInto({ ...noneTyped, sound: "x" }, "sound", 1)).toEqual({ ...noneTyped, sound: "x" })
  })
})

describe("what is left to record", () => {
  const sent = typed(
    { "7-0": { sound: "3", damaged: "1", note: "cracked" }, "8-21": { sound: "2" } },
    { goods: "garden hose", quantity: "1" },
  )

  it("is nothing where nothing came meanwhile", () => {
    expect(lessRecorded(sent, sent)).toEqual(nothingCounted)
    expect(lessRecorded(nothingCounted, nothingCounted)).toEqual(nothingCounted)
  })

  it("is what was scanned or typed while it was on its way", () => {
    const now = typed(
      {
        "7-0": { sound: "5", damaged: "1", note: "cracked" },
        "8-21": { sound: "2", note: "wet" },
        "8-22": { damaged: "4" },
      },
      { goods: "garden hose", quantity: "2" },
    )
    expect(lessRecorded(now, sent)).toEqual(
      typed(
        { "7-0": { sound: "2" }, "8-21": { note: "wet" }, "8-22": { damaged: "4" } },
        { goods: "garden hose", quantity: "2" },
      ),
    )
  })

  it("is a note on what was not counted, and what was made less or wrong", () => {
    const noted = typed({ "8-22": { note: "ask about it" }, "7-0": { sound: "3" } })
    expect(lessRecorded(noted, noted)).toEqual(typed({ "8-22": { note: "ask about it" } }))
    // fewer than were sent are no debt
    expect(lessRecorded(typed({ "7-0": { sound: "1" } }), sent).typed).toEqual({})
    expect(lessRecorded(typed({ "7-0": { sound: "1o" } }), sent).typed).toEqual({
      "7-0": { ...noneTyped, sound: "1o" },
    })
  })

  it("is kept in a form that is read again, and nothing else is", () => {
    expect(countingSchema.parse(JSON.parse(JSON.stringify(sent)))).toEqual(sent)
    for (const wrong of [
      null,
      [],
      {},
      { typed: { a: { sound: 3 } }, other: noOther },
      { typed: {}, other: { sku: "" } },
    ])
      expect(countingSchema.safeParse(wrong).success).toBe(false)
  })
})
