import * as fc from "fast-check"
import { describe, expect, it } from "vitest"
import { load, box as sampleBox } from "../../tests/packing/samples.ts"
import { checkPacked } from "./check.ts"
import {
  mayShare,
  notTogether,
  type PackLoad,
  type PackPiece,
  packInto,
  suggestPacking,
  type UsableBox,
} from "./index.ts"

const piece = (key: string, length: number, width: number, height: number, more: Partial<PackLoad> = {}): PackLoad =>
  load(key, [length, width, height], more)
const box = (code: string, length: number, width: number, height: number, more: Partial<UsableBox> = {}): UsableBox =>
  sampleBox(code, [length, width, height], { maxLoad: 30, ...more })
const value = <T>(outcome: { ok: true; value: T } | { ok: false; reasons: readonly unknown[] }): T => {
  if (!outcome.ok) throw new Error(JSON.stringify(outcome.reasons))
  return outcome.value
}
const codesOf = (loads: PackLoad[], boxes: UsableBox[]) =>
  value(suggestPacking({ loads, boxes })).boxes.map((one) => one.code)
const byKey = (loads: readonly PackPiece[]) => new Map(loads.map((one) => [one.key, one]))

describe("a suggestion", () => {
  const small = box("S", 200, 150, 100)
  const large = box("L", 400, 300, 200)
  it("uses the smallest carton that holds it all, and one before two", () => {
    expect(codesOf([piece("a", 200, 150, 100)], [large, small])).toEqual(["S"])
    // eight of them fill the large one exactly: 2 × 2 × 2
    expect(codesOf([piece("a", 200, 150, 100, { quantity: 8 })], [small, large])).toEqual(["L"])
    expect(codesOf([piece("a", 200, 150, 100, { quantity: 9 })], [small, large])).toEqual(["L", "S"])
  })
  it("turns a piece unless this side is up", () => {
    expect(codesOf([piece("a", 90, 190, 140)], [small])).toEqual(["S"])
    const up = value(suggestPacking({ loads: [piece("a", 90, 140, 190, { upright: true })], boxes: [small, large] }))
    expect(up.boxes.map((one) => [one.code, one.placed[0]?.height])).toEqual([["L", 190]])
  })
  it("keeps a carton's load: three of 12 kg are two cartons of 30 kg", () =>
    expect(codesOf([piece("a", 100, 100, 100, { quantity: 3, weight: 12 })], [large])).toHaveLength(2))
  it("puts nothing on what bears nothing, and no more than may stand on it", () => {
    const tall = box("T", 100, 100, 300)
    expect(codesOf([piece("glass", 100, 100, 100, { quantity: 2, loadLimit: 0 })], [tall])).toHaveLength(2)
    // 5 kg may stand on each: two of 4 kg do, the third on top of both would be 8 kg on the lowest
    expect(codesOf([piece("jar", 100, 100, 100, { quantity: 3, weight: 4, loadLimit: 5 })], [tall])).toHaveLength(2)
  })
  it("lets nothing hang in the air: a long piece does not lie on a short one", () => {
    const flat = box("F", 300, 100, 200)
    const found = value(
      suggestPacking({ loads: [piece("long", 290, 100, 90), piece("cube", 100, 100, 100)], boxes: [flat] }),
    )
    for (const one of found.boxes)
      expect(checkPacked(flat, byKey([piece("long", 290, 100, 90), piece("cube", 100, 100, 100)]), one.placed)).toEqual(
        [],
      )
  })
  it("keeps food from chemicals, and classes of dangerous goods from each other", () => {
    const goods = [
      piece("yeast", 50, 50, 50, { kind: "food" }),
      piece("acid", 50, 50, 50, { kind: "chemical", hazard: "8" }),
      piece("peroxide", 50, 50, 50, { kind: "chemical", hazard: "5.1" }),
    ]
    expect(codesOf(goods, [large, small])).toHaveLength(3)
  })
  it("leaves what ships in its own carton as it is", () => {
    const found = value(
      suggestPacking({
        loads: [piece("keg", 250, 250, 600, { ownCarton: true, quantity: 2 }), piece("a", 50, 50, 50)],
        boxes: [small],
      }),
    )
    expect(found.boxes.map((one) => one.code)).toEqual([null, null, "S"])
  })
  it("keeps whole cases whole: sent as they are, or in a larger carton where that is fewer packages", () => {
    const whole = (more: Partial<PackLoad> = {}) => piece("7x12", 200, 150, 100, { asIs: true, quantity: 2, ...more })
    const boxesOf = (loads: PackLoad[], boxes: UsableBox[], aim: "price" | "fewest" = "price") =>
      value(suggestPacking({ loads, boxes, aim })).boxes.map(
        (one) => `${one.code}: ${one.placed.map(({ key }) => key)}`,
      )
    // nothing else holds one
    expect(boxesOf([whole()], [])).toEqual(["null: 7x12", "null: 7x12"])
    // one carton for both is one package less
    expect(boxesOf([whole()], [large], "fewest")).toEqual(["L: 7x12,7x12"])
    // a case is nobody else's carton, however well a piece would fill it; and room for fill is not asked of it
    const near = box("N", 210, 160, 110)
    expect(boxesOf([whole({ quantity: 1 }), piece("3", 200, 150, 100)], [near]).sort()).toEqual(["N: 3", "null: 7x12"])
    const filled = value(suggestPacking({ loads: [whole({ quantity: 1 })], boxes: [small], fill: 0.3 }))
    expect(filled.boxes.map((one) => one.code)).toEqual([null])
    // why this carton names cartons only
    const [carton] = value(
      suggestPacking({ loads: [whole({ quantity: 1 }), piece("3", 20, 20, 20)], boxes: [large] }),
    ).boxes
    expect(carton?.why?.smaller).toBeNull()
  })
  it("takes no more of a carton than there are", () =>
    expect(
      codesOf(
        [piece("a", 400, 300, 200, { quantity: 2 })],
        [box("L", 400, 300, 200, { stock: 1 }), box("XL", 450, 320, 220)],
      ).sort(),
    ).toEqual(["L", "XL"]))
  it("says what goes into no carton, and packs the rest", () => {
    const found = value(
      suggestPacking({
        loads: [piece("pole", 2_000, 50, 50), piece("anvil", 100, 100, 100, { weight: 80 }), piece("a", 50, 50, 50)],
        boxes: [large, small],
      }),
    )
    expect(found.left.map((one) => [one.key, one.why.code])).toEqual([
      ["pole", "packing.too-large"],
      ["anvil", "packing.too-heavy"],
    ])
    expect(found.boxes.map((one) => one.code)).toEqual(["S"])
  })
  it.each([
    ["no length", piece("x", 0, 10, 10), "packing.bad-piece"],
    ["a negative edge", piece("x", 10, -1, 10), "packing.bad-piece"],
    ["an edge of a kilometre", piece("x", 1_000_000, 10, 10), "packing.bad-piece"],
    ["no number", piece("x", Number.NaN, 10, 10), "packing.bad-piece"],
    ["half a piece", piece("x", 10, 10, 10, { quantity: 1.5 }), "packing.bad-piece"],
    ["ten thousand pieces", piece("x", 10, 10, 10, { quantity: 10_000 }), "packing.too-many"],
  ])("refuses %s in words", (_, load, code) => {
    const outcome = suggestPacking({ loads: [load], boxes: [large] })
    expect(outcome.ok ? "" : outcome.reasons[0]?.code).toBe(code)
  })
  it("of nothing is nothing, and with no cartons leaves everything", () => {
    expect(value(suggestPacking({ loads: [], boxes: [large] }))).toEqual({ boxes: [], left: [], cost: null })
    expect(
      value(suggestPacking({ loads: [piece("a", 10, 10, 10)], boxes: [] })).left.map((one) => one.why.code),
    ).toEqual(["packing.too-large"])
  })
  it("fills a cube of nine pieces that are exactly as large together", () => {
    // Martello, Pisinger, Vigo (Operations Research 48, 2000) warn of this kind: six 2 × 2 × 1 and three 1 × 1 × 1 fill
    // 3 × 3 × 3
    const loads = [piece("flat", 2, 2, 1, { quantity: 6 }), piece("cube", 1, 1, 1, { quantity: 3 })]
    const cube = box("C", 3, 3, 3)
    const found = value(suggestPacking({ loads, boxes: [cube] }))
    for (const one of found.boxes) expect(checkPacked(cube, byKey(loads), one.placed)).toEqual([])
    expect(found.boxes).toHaveLength(1)
  })
})

describe("any suggestion", () => {
  const load = fc.record({
    length: fc.integer({ min: 20, max: 260 }),
    width: fc.integer({ min: 20, max: 200 }),
    height: fc.integer({ min: 20, max: 180 }),
    weight: fc.integer({ min: 1, max: 90 }),
    quantity: fc.integer({ min: 1, max: 6 }),
    upright: fc.boolean(),
    loadLimit: fc.constantFrom(null, null, 0, 3, 20),
    kind: fc.constantFrom("general" as const, "food" as const, "chemical" as const),
    hazard: fc.constantFrom(null, null, null, "8", "3"),
    ownCarton: fc.constantFrom(false, false, false, true),
  })
  const boxes = [
    box("S", 220, 160, 110, { maxLoad: 8 }),
    box("M", 300, 220, 200, { maxLoad: 18 }),
    box("L", 420, 320, 260, { maxLoad: 30 }),
  ]
  it("passes the checker, loses and doubles nothing, and needs at least what volume and weight need", () => {
    fc.assert(
      fc.property(fc.array(load, { minLength: 1, maxLength: 7 }), (some) => {
        const loads = some.map((one, index) =>
          piece(`p${index}`, one.length, one.width, one.height, { ...one, weight: one.weight / 10 }),
        )
        const found = value(suggestPacking({ loads, boxes }))
        const counted = new Map<string, number>()
        for (const one of found.boxes) {
          for (const place of one.placed) counted.set(place.key, (counted.get(place.key) ?? 0) + 1)
          const type = boxes.find((each) => each.code === one.code)
          if (type) expect(checkPacked(type, byKey(loads), one.placed)).toEqual([])
          else expect(one.placed).toHaveLength(1)
        }
        for (const one of found.left) counted.set(one.key, (counted.get(one.key) ?? 0) + one.quantity)
        for (const one of loads) expect(counted.get(one.key) ?? 0).toBe(one.quantity)
        // the lower bound of volume (L0 of Martello, Pisinger, Vigo) and of weight
        const inside = found.boxes.filter((one) => one.code !== null).flatMap((one) => one.placed)
        const room = inside.reduce((sum, place) => sum + place.length * place.width * place.height, 0)
        expect(found.boxes.filter((one) => one.code !== null).length).toBeGreaterThanOrEqual(
          Math.ceil(room / (420 * 320 * 260) - 1e-9),
        )
      }),
      { numRuns: 250 },
    )
  })
  it("of one size of cube is exact where cubes fill the box: 27 in one, 28 in two", () => {
    const cube = box("C", 300, 300, 300)
    expect(codesOf([piece("a", 100, 100, 100, { quantity: 27 })], [cube])).toHaveLength(1)
    expect(codesOf([piece("a", 100, 100, 100, { quantity: 28 })], [cube])).toHaveLength(2)
  })
  it("of one carton places the same contents", () => {
    const loads = [piece("a", 100, 100, 100, { quantity: 4 }), piece("b", 50, 50, 50, { quantity: 3 })]
    const placed = packInto(box("M", 300, 220, 200), loads)
    expect(placed).toHaveLength(7)
    expect(checkPacked(box("M", 300, 220, 200), byKey(loads), placed ?? [])).toEqual([])
    expect(packInto(box("S", 90, 90, 90), loads)).toBeNull()
  })
})

describe("the checker", () => {
  const loads = byKey([piece("a", 100, 100, 100), piece("b", 100, 100, 50, { upright: true, weight: 9, loadLimit: 0 })])
  const room = { code: "R", length: 200, width: 100, height: 200, maxLoad: 12 }
  const at = (key: string, x: number, y: number, z: number, l = 100, w = 100, h = key === "a" ? 100 : 50) => ({
    key,
    x,
    y,
    z,
    length: l,
    width: w,
    height: h,
  })
  const wrong = (...placed: ReturnType<typeof at>[]) => checkPacked(room, loads, placed).map((one) => one.code)
  it.each([
    ["a piece in another", [at("a", 0, 0, 0), at("a", 50, 0, 0)], ["check.overlap"]],
    ["one beyond the wall", [at("a", 150, 0, 0)], ["check.outside"]],
    ["one in the air", [at("a", 0, 0, 50)], ["check.unsupported"]],
    ["one half in the air", [at("a", 0, 0, 0), at("a", 50, 0, 100)], ["check.unsupported"]],
    ["one on its side", [at("b", 0, 0, 0, 100, 50, 100)], ["check.not-upright"]],
    ["one of another size", [at("a", 0, 0, 0, 90)], ["check.other-size"]],
    ["one that nobody knows", [at("z", 0, 0, 0)], ["check.unknown"]],
    ["one that stands on what bears nothing", [at("b", 0, 0, 0), at("a", 0, 0, 50)], ["check.crushed"]],
    ["too much in all", [at("b", 0, 0, 0), at("b", 100, 0, 0)], ["check.too-heavy"]],
    ["nothing wrong", [at("a", 0, 0, 0), at("b", 0, 0, 100)], []],
  ])("finds %s", (_, placed, codes) => expect(wrong(...placed)).toEqual(codes))
})

it("says which goods may not share a package", () => {
  const food = { sku: "Y", kind: "food" as const, hazard: null }
  const soap = { sku: "S", kind: "chemical" as const, hazard: null }
  const acid = { sku: "A", kind: "general" as const, hazard: "8" }
  const other = { sku: "O", kind: "general" as const, hazard: "3" }
  const plain = { sku: "P", kind: "general" as const, hazard: null }
  expect([
    mayShare(food, soap),
    mayShare(food, acid),
    mayShare(soap, acid),
    mayShare(acid, other),
    mayShare(acid, plain),
    mayShare(food, plain),
  ]).toEqual([false, false, true, false, true, true])
  expect(notTogether([food, soap, acid, food]).map((one) => [one.code, one.values.sku, one.values.other])).toEqual([
    ["flaw.not-together", "Y", "S"],
    ["flaw.not-together", "Y", "A"],
  ])
  expect(notTogether([acid, other]).map((one) => one.code)).toEqual(["flaw.classes"])
})
