import { expect, it } from "vitest"
import { lineLetter, readings } from "./index.ts"

const kinds = (text: string) => readings(text).map((reading) => reading.kind)

// GS1 General Specifications: AI (00) SSCC, (01) GTIN, (10) lot; ]C1 is the symbology identifier of GS1-128
it("reads element strings with and without identifier and brackets", () => {
  for (const text of [
    "]C100106141412345678908",
    "(00)106141412345678908",
    "00106141412345678908",
    "106141412345678908",
  ]) {
    expect(readings(text)[0]).toEqual({ kind: "sscc", sscc: "106141412345678908" })
  }
  expect(readings("010629104150021310H26-0917")[0]).toEqual({ kind: "gtin", gtin: "06291041500213", lot: "H26-0917" })
})
// AI (17): use by, six digits; (10), of no fixed length, ends at FNC1, which scanners send as character 29 (from memory)
it.each([
  ["after a date", "0106291041500213" + "17270201" + "10H26-0917"],
  ["after two dates", "0106291041500213" + "11260101" + "17270201" + "10H26-0917"],
  ["before a count", "0106291041500213" + "10H26-0917" + "\x1d" + "3024"],
  ["as people read it", "(01)06291041500213(17)270201(10)H26-0917"],
  ["as people read it, not at the end", "(01) 06291041500213 (10) H26-0917 (17) 270201"],
])("reads the lot %s", (_, text) =>
  expect(readings(text)[0]).toEqual({ kind: "gtin", gtin: "06291041500213", lot: "H26-0917" }),
)
it("takes no number with a wrong check digit for an SSCC", () =>
  expect(kinds("106141412345678907")).not.toContain("sscc"))
it.each([
  ["48217", "order"],
  ["48217-3", "package"],
  // short numbers grow beyond five digits
  ["100417", "order"],
  ["100417-12", "package"],
  ["1234", "number"],
  ["door 4", "door"],
  ["door d1", "door"],
  ["b 4", "line"],
  ["12.4 lb", "weight"],
  ["6", "number"],
  ["A-03-1", "code"],
  ["6291041500213", "gtin"],
])("%s is first of all a(n) %s", (text, kind) => expect(kinds(text)[0]).toBe(kind))
it("reads nothing from nothing, and keeps a code as it is", () => {
  expect(readings("  ")).toEqual([])
  expect(readings(" K12 ").at(-1)).toEqual({ kind: "code", code: "K12" })
})
it("names lines a to z, then aa", () => expect([0, 25, 26, 27].map(lineLetter)).toEqual(["a", "z", "aa", "ab"]))
