import { describe, expect, it } from "vitest"
import { isSigned, type Strokes, signatureSvg, strokesFrom } from "./index.ts"

const cross: Strokes = [
  [
    [100, 50],
    [160, 130],
  ],
  [
    [160, 50],
    [100, 130],
  ],
]

describe("a signature", () => {
  it("is read from the points that a form sends, and from nothing else", () => {
    expect(strokesFrom(JSON.stringify(cross))).toEqual(cross)
    expect(strokesFrom("")).toEqual([])
    for (const bad of [
      "nonsense",
      "{}",
      "[[]]",
      "[[[1]]]",
      "[[[1,2,3]]]",
      "[[[-1,2]]]",
      "[[[601,2]]]",
      "[[[1,201]]]",
      "[[[1.5,2]]]",
      '[[["1","2"]]]',
      JSON.stringify(Array.from({ length: 101 }, () => [[1, 1]])),
      JSON.stringify([Array.from({ length: 2_001 }, () => [1, 1])]),
      JSON.stringify(Array.from({ length: 4 }, () => Array.from({ length: 1_600 }, () => [1, 1]))),
      `"${"x".repeat(120_001)}"`,
    ])
      expect([bad.slice(0, 20), strokesFrom(bad)]).toEqual([bad.slice(0, 20), null])
  })
  it("is more than a touch", () => {
    // two lines of 100: √(60² + 80²)
    expect(isSigned(cross)).toBe(true)
    expect(isSigned([[[10, 10]]])).toBe(false)
    expect(isSigned([])).toBe(false)
    expect(
      isSigned([
        [
          [0, 0],
          [59, 0],
        ],
      ]),
    ).toBe(false)
    expect(
      isSigned([
        [
          [0, 0],
          [60, 0],
        ],
      ]),
    ).toBe(true)
  })
  it("is a picture of lines alone", () => {
    const svg = signatureSvg([...cross, [[7, 8]]])
    expect(svg).toContain('d="M100 50L160 130M160 50L100 130M7 8l.1 0"')
    expect(svg.match(/<\w+/g)).toEqual(["<svg", "<path"])
  })
})
