import fc from "fast-check"
import { describe, expect, it } from "vitest"
import {
  code128Check,
  gs1CheckDigit,
  gtin14,
  hasGs1CheckDigit,
  isPostalItemNumber,
  s10CheckDigit,
  showSscc,
  sscc,
} from "./index.ts"

describe("GS1 check digit", () => {
  // GS1 General Specifications, check digit calculation; the worked SSCC and GTIN-13 (values from memory)
  it.each([
    ["37610425002123456", 9],
    ["629104150021", 3],
  ])("of %s is %i", (digits, expected) => expect(gs1CheckDigit(digits)).toBe(expected))

  // the linter of the barcode library bwip-js calls the first good and the second bad
  it("tells a good SSCC from a bad one", () => {
    expect(hasGs1CheckDigit("106141412345678908")).toBe(true)
    expect(hasGs1CheckDigit("106141412345678907")).toBe(false)
  })

  it("finds every single wrong digit", () => {
    fc.assert(
      fc.property(fc.stringMatching(/^\d{7,17}$/), fc.nat(), fc.integer({ min: 1, max: 9 }), (digits, at, by) => {
        const good = `${digits}${gs1CheckDigit(digits)}`
        const place = at % good.length
        const bad = good.slice(0, place) + ((Number(good[place]) + by) % 10) + good.slice(place + 1)
        expect(hasGs1CheckDigit(bad)).toBe(false)
      }),
    )
  })

  it("refuses what is no digit", () => expect(() => gs1CheckDigit("12A4")).toThrow(/12A4/))
})

describe("SSCC", () => {
  it("holds extension, prefix and serial in 18 digits with its check digit", () => {
    const made = sscc(0, "9521234", 48001n)
    // digits 0 9 5 2 1 2 3 4 0 0 0 0 4 8 0 0 1, weights 3 1 3 1 … from the right (and so 3 on the first):
    // 0·3+9·1+5·3+2·1+1·3+2·1+3·3+4·1+0+0+0+0+4·3+8·1+0+0+1·3 = 67 → 3
    expect(made).toEqual({ ok: true, value: "095212340000480013" })
  })

  it("refuses a serial that has no room beside the prefix", () => {
    expect(sscc(0, "9521234", 999_999_999n).ok).toBe(true)
    expect(sscc(0, "9521234", 1_000_000_000n)).toMatchObject({ ok: false, reasons: [{ code: "sscc.used-up" }] })
  })

  it("is shown in the parts that people compare", () =>
    expect(showSscc("095212340000480013")).toBe("0 9521234 000048001 3"))
})

describe("GTIN", () => {
  it("is the same item in every length", () => {
    expect(gtin14("6291041500213")).toBe("06291041500213")
    expect(gtin14("06291041500213")).toBe("06291041500213")
  })
  it("is none with a wrong check digit or length", () => {
    expect(gtin14("6291041500214")).toBeNull()
    expect(gtin14("62910415002")).toBeNull()
  })
})

// ISO/IEC 15417, check character: start A (103), "PJJ123C" = 48 42 42 17 18 19 35 → 54 (value from memory)
it("Code 128 check symbol of the standard's example", () =>
  expect(code128Check(103, [48, 42, 42, 17, 18, 19, 35])).toBe(54))

describe("postal item numbers", () => {
  // UPU S10, worked example from memory: RR 47312482 9 GB
  it("have the check digit of the standard", () => {
    expect(s10CheckDigit("47312482")).toBe(9)
    expect(isPostalItemNumber("RR473124829GB")).toBe(true)
    expect(isPostalItemNumber("RR473124828GB")).toBe(false)
    expect(isPostalItemNumber("RR47312482GB")).toBe(false)
  })
  it("write a remainder of 10 as 0 and of 11 as 5", () => {
    // 6 × 2 = 12 = 1 mod 11, 11 − 1 = 10 → 0; all zero: 11 − 0 = 11 → 5
    expect(s10CheckDigit("02000000")).toBe(0)
    expect(s10CheckDigit("00000000")).toBe(5)
  })
})
