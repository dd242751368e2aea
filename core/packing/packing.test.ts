import { describe, expect, it } from "vitest"
import { mass, massIn, size } from "../units/index.ts"
import {
  actualWeight,
  calculatedWeight,
  explainWeight,
  faceDrawing,
  fitsInside,
  type Packed,
  type PackedItem,
  packageFlaws,
  suggestPackaging,
} from "./index.ts"

const item: PackedItem = {
  sku: "X",
  kind: "general",
  hazard: null,
  upright: false,
  loadLimit: null,
  ownCarton: false,
  freightOnly: false,
  unitWeight: mass(2, "lb"),
  unitSize: size(6, 4, 3, "in"),
}
const pack = (more: Partial<Packed> = {}): Packed => ({
  outer: size("12.4", "12.4", "12.8", "in"),
  inner: size(12, 12, 12, "in"),
  tare: mass("0.5", "lb"),
  maxLoad: mass(50, "lb"),
  contents: [{ line: "a", quantity: 6, item }],
  carried: mass(0, "lb"),
  measured: null,
  ...more,
})
const lb = (value: ReturnType<typeof mass>) => massIn(value, "lb").toString()
const codes = (one: Packed) => packageFlaws(one).map((flaw) => flaw.code)

describe("weight", () => {
  // common practice, no published source: 6 items of 2 lb = 12 lb, measured 14 lb wins
  it("is contents and tare, until it is measured", () => {
    expect(lb(calculatedWeight(pack()))).toBe("12.5")
    expect(lb(calculatedWeight(pack({ tare: mass(0, "lb") })))).toBe("12")
    expect(lb(actualWeight(pack({ measured: mass(14, "lb") })))).toBe("14")
  })
  it("is doubted over a tenth", () => {
    expect(codes(pack({ measured: mass("13.75", "lb") }))).toEqual([])
    expect(codes(pack({ measured: mass("13.76", "lb") }))).toEqual(["flaw.weight"])
    expect(codes(pack({ measured: mass("11.2", "lb") }))).toEqual(["flaw.weight"])
  })
})

it("names what keeps a package from closing", () => {
  expect(codes(pack({ contents: [] }))).toEqual(["flaw.empty"])
  expect(codes(pack({ maxLoad: mass(11, "lb") }))).toEqual(["flaw.overloaded"])
  expect(codes(pack({ inner: size(5, 4, 3, "in"), contents: [{ line: "a", quantity: 1, item }] }))).toEqual([
    "flaw.too-large",
    "doubt.volume",
  ])
})

it("turns a piece to make it fit", () => {
  expect(fitsInside(size(3, 6, 4, "in"), size(6, 4, 3, "in"))).toBe(true)
  expect(fitsInside(size("6.1", 1, 1, "in"), size(6, 4, 3, "in"))).toBe(false)
})

describe("suggested packaging", () => {
  const type = (code: string, edge: number, load: number) => ({
    kind: "carton" as const,
    code,
    name: code,
    inner: size(edge, edge, edge, "in"),
    outer: size(edge + 1, edge + 1, edge + 1, "in"),
    tare: mass(1, "lb"),
    maxLoad: mass(load, "lb"),
  })
  const types = [type("L", 20, 60), type("S", 8, 20), type("M", 12, 40)]
  const contents = (quantity: number) => [{ line: "a", quantity, item }]
  it("is the smallest that takes volume, load and edges", () => {
    // a piece is 72 in³; four fifths of 8³ is 409.6 → 5 pieces; of 12³ 1382.4 → 19 pieces
    expect(suggestPackaging(types, contents(5))?.code).toBe("S")
    expect(suggestPackaging(types, contents(6))?.code).toBe("M")
    expect(suggestPackaging(types, contents(19))?.code).toBe("M")
    // by load: 21 pieces are 42 lb
    expect(suggestPackaging(types, contents(21))?.code).toBe("L")
  })
  it("is the largest when none takes all, and none without a catalogue", () => {
    expect(suggestPackaging(types, contents(400))?.code).toBe("L")
    expect(suggestPackaging([], contents(1))).toBeNull()
  })
})

describe("the drawn face", () => {
  const content = { line: "a", quantity: 6, length: 6, width: 4, height: 3, weight: 2 }
  it("shows every piece once, to scale and inside the box", () => {
    const pieces = faceDrawing({ length: 12, width: 12, height: 12 }, [content, { ...content, line: "b", quantity: 5 }])
    const count = (line: string) =>
      pieces.filter((piece) => piece.line === line).reduce((sum, piece) => sum + piece.deep, 0)
    expect([count("a"), count("b")]).toEqual([6, 5])
    for (const piece of pieces) {
      expect(piece.x + piece.width).toBeLessThanOrEqual(12)
      expect(piece.y + piece.height).toBeLessThanOrEqual(12)
    }
  })
  it("counts behind what finds no room in front", () => {
    const pieces = faceDrawing({ length: 6, width: 4, height: 3 }, [content])
    expect(pieces).toEqual([{ line: "a", x: 0, y: 0, width: 6, height: 3, deep: 6 }])
  })
})

describe("a weight that does not fit", () => {
  const line = (letter: string, pounds: string, quantity: number) => ({
    line: letter,
    quantity,
    item: { ...item, sku: letter.toUpperCase(), unitWeight: mass(pounds, "lb") },
  })
  const inside = [line("a", "1.15", 6), line("b", "2.4", 3)]
  const others = [...inside, line("c", "11.2", 1)]
  const told = (measured: string, calculated: string) => {
    const found = explainWeight({ measured: mass(measured, "lb"), calculated: mass(calculated, "lb") }, inside, others)
    return found && `${found.pieces} ${found.line} ${found.way}`
  }
  it.each([
    // 6 × 1.15 + 3 × 2.4 + 1 = 15.1
    ["one jar too many", "17.5", "1 b more"],
    ["one jar missing", "12.7", "1 b fewer"],
    ["three bricks missing", "11.65", "3 a fewer"],
    ["a foil of another line, which is not in it", "26.3", "1 c more"],
    ["so little that no piece explains it", "15.6", null],
    ["more bricks missing than are in it", "1.15", null],
  ])("is explained by %s", (_, measured, expected) => expect(told(measured, "15.1")).toBe(expected))
  it("is said with the flaw", () => {
    const flaw = packageFlaws(pack({ measured: mass("14.5", "lb") })).find((one) => one.code.startsWith("flaw.weight"))
    expect(flaw).toMatchObject({ code: "flaw.weight-more", values: { line: "a", sku: "X", n: "1" } })
  })
  it("is a matter of the tolerance that is set", () =>
    expect(codes(pack({ measured: mass("12.9", "lb"), tolerance: 0.02 }))).toEqual(["flaw.weight"]))
})
