import { describe, expect, it } from "vitest"
import { palette } from "./tokens.ts"

/** Relative luminance and contrast ratio by WCAG 2.2 (definitions of both terms in its glossary). */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5].map((at) => {
    const part = Number.parseInt(hex.slice(at, at + 2), 16) / 255
    return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4
  }) as [number, number, number]
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
function contrast(a: string, b: string): number {
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number]
  return (light + 0.05) / (dark + 0.05)
}

it("computes the two ends of the scale: 21 for black on white, 1 for the same", () => {
  expect(contrast("#000000", "#FFFFFF")).toBeCloseTo(21)
  expect(contrast(palette.ink, palette.ink)).toBe(1)
})

describe("type is legible (4.5:1) where the tokens allow it", () => {
  it.each([
    ["ink", "paper"],
    ["ink", "hi"],
    ["ink", "lo"],
    ["ink", "hot"],
    ["ink2", "paper"],
    ["ink2", "lo"],
    ["ink3", "paper"],
    ["ember", "paper"],
    ["bone", "ink"],
    ["ash", "ink"],
    ["hot", "ink"],
  ] as const)("%s on %s", (type, ground) =>
    expect(contrast(palette[type], palette[ground])).toBeGreaterThanOrEqual(4.5),
  )
})

it("a hot shape on paper needs its ink outline: alone it has less than 3:1", () => {
  expect(contrast(palette.hot, palette.paper)).toBeLessThan(3)
  expect(contrast(palette.hot, palette.ink)).toBeGreaterThanOrEqual(3)
})
