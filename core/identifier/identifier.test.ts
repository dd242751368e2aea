import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { identifier, ownCode } from "./index.ts"

describe("identifiers", () => {
  it("keep what tells one from another", () => {
    for (const text of ["aB3xQ1", "Ab3Xq1", "cafe-1", "café-1", "PO 4711", "0012", "12", "ß", "ss", "Ⅳ", "IV"])
      expect(identifier(text)).toBe(text)
    expect(new Set(["aB3xQ1", "Ab3Xq1", "café-1", "cafe-1"].map(identifier)).size).toBe(4)
  })
  it("lose what nobody sees: how spaces and accents are coded, and signs without a shape", () => {
    expect(identifier(" PO\u00a0 4711 ")).toBe("PO 4711")
    expect(identifier("A\u200b\u00ad1\ufeff")).toBe("A1")
    // UAX #15: e followed by U+0301 composes to U+00E9
    expect(identifier("cafe\u0301-1")).toBe("caf\u00e9-1")
    expect(identifier("A\u0000\u0007B\tC")).toBe("AB C")
    expect(identifier("A\ud800B")).toBe("AB")
    expect(identifier("A  B")).toBe("A B")
  })
  it("are the same when they are normalised again", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary", maxLength: 40 }), (text) => {
        expect(identifier(identifier(text))).toBe(identifier(text))
      }),
    )
  })
  it("of our own are in capitals", () => {
    expect(ownCode(" yst-ale-500")).toBe("YST-ALE-500")
  })
})
