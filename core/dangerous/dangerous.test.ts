import { describe, expect, it } from "vitest"
import { mass } from "../units/index.ts"
import {
  basicDescription,
  type DangerousFacts,
  dangerousFlaws,
  isSmallLithium,
  type LithiumFacts,
  mannerOf,
  needsLithiumMark,
  tooHeavyForLimited,
  withinLimitedPackage,
} from "./index.ts"

const acid: DangerousFacts = {
  unNumber: "UN1805",
  properShippingName: "Phosphoric acid solution",
  hazardClass: "8",
  packingGroup: "III",
  innerQuantity: "5",
  innerUnit: "L",
  limitedQuantity: true,
}
const at = { line: 1, sku: "X" }
const flaws = (more: Partial<DangerousFacts>) => dangerousFlaws({ ...acid, ...more }, at).map((one) => one.code)

describe("a limited quantity", () => {
  // UN 1805 III: 5 L in an inner packaging (49 CFR 173.154, ADR 3.2 column 7a; from memory)
  it.each([
    ["4999", "mL", []],
    ["5", "L", []],
    ["5000", "mL", []],
    ["5.001", "L", ["dangerous.over-limit"]],
    ["1", "kg", ["dangerous.over-limit"]],
  ])("of %s %s: %s", (innerQuantity, innerUnit, expected) =>
    expect(flaws({ innerQuantity, innerUnit })).toEqual(expected),
  )
  it("has no limit where its entry is not known, and claims none where it is not marked so", () => {
    expect(flaws({ unNumber: "UN9999" })).toEqual(["dangerous.no-limit"])
    expect(flaws({ unNumber: "UN9999", limitedQuantity: false })).toEqual([])
  })
  // 49 CFR 173.156(b) and ADR 3.4.2: 30 kg gross; ADR 3.4.3: 20 kg for trays (from memory)
  it.each([
    ["30", false, true],
    ["30.001", false, false],
    ["20", true, true],
    ["20.001", true, false],
  ])("in a package of %s kg, tray %s, is light enough: %s", (kg, tray, expected) =>
    expect(withinLimitedPackage(mass(kg, "kg"), tray)).toBe(expected),
  )
  it("says the package that is too heavy", () => {
    expect(tooHeavyForLimited(mass("30", "kg"), 2)).toEqual([])
    expect(tooHeavyForLimited(mass("30.06", "kg"), 2)).toEqual([
      { code: "dangerous.limited-weight", values: { package: "2", figure: "30.1" } },
    ])
  })
  it("goes as such by road alone", () => {
    expect([mannerOf(acid, "road"), mannerOf(acid, "air")]).toEqual(["limited", "full"])
    expect(mannerOf({ ...acid, innerQuantity: "6" }, "road")).toBe("full")
  })
})

describe("lithium cells", () => {
  const cell = (more: Partial<LithiumFacts> = {}): LithiumFacts => ({
    unit: "cell",
    count: 1,
    wattHours: null,
    grams: null,
    button: false,
    ...more,
  })
  // 49 CFR 173.185(c)(1), from memory: ion 20 Wh a cell, 100 Wh a battery; metal 1 g a cell, 2 g a battery
  it.each([
    ["UN3480", { wattHours: "19.99" }, true],
    ["UN3480", { wattHours: "20" }, true],
    ["UN3480", { wattHours: "20.01" }, false],
    ["UN3481", { unit: "battery", wattHours: "100" }, true],
    ["UN3481", { unit: "battery", wattHours: "100.1" }, false],
    ["UN3090", { grams: "1" }, true],
    ["UN3090", { grams: "1.001" }, false],
    ["UN3091", { unit: "battery", grams: "2" }, true],
    ["UN3091", { unit: "battery", grams: "2.01" }, false],
  ] as const)("%s with %o are small: %s", (unNumber, more, small) =>
    expect(isSmallLithium(unNumber, cell(more))).toBe(small),
  )
  const inside = (unNumber: "UN3480" | "UN3481", pieces: number, more: Partial<LithiumFacts> = {}) => [
    { unNumber, pieces, facts: cell({ wattHours: "5", ...more }) },
  ]
  // 49 CFR 173.185(c)(3), from memory: up to four cells or two batteries in equipment, at most two packages
  it.each([
    ["four cells in equipment, two packages", inside("UN3481", 4), 2, false],
    ["four cells in equipment, three packages", inside("UN3481", 4), 3, true],
    ["five cells in equipment", inside("UN3481", 5), 1, true],
    ["two batteries in equipment", inside("UN3481", 2, { unit: "battery" }), 2, false],
    ["three batteries in equipment", inside("UN3481", 3, { unit: "battery" }), 1, true],
    ["button cells in equipment", inside("UN3481", 400, { button: true }), 9, false],
    ["one cell by itself", inside("UN3480", 1), 1, true],
    ["nothing", [], 1, false],
  ] as const)("%s: mark %s", (_name, cells, packages, marked) => expect(needsLithiumMark(cells, packages)).toBe(marked))
  it("by themselves are small by road, and under all rules by air", () => {
    const battery: DangerousFacts = {
      ...acid,
      unNumber: "UN3480",
      hazardClass: "9",
      packingGroup: "",
      innerQuantity: null,
      limitedQuantity: false,
      lithium: cell({ wattHours: "10" }),
    }
    expect([mannerOf(battery, "road"), mannerOf(battery, "air")]).toEqual(["small-lithium", "full"])
    expect([mannerOf({ ...battery, unNumber: "UN3481" }, "air")]).toEqual(["small-lithium"])
    expect(dangerousFlaws(battery, at)).toEqual([])
    expect(dangerousFlaws({ ...battery, lithium: null }, at).map((one) => one.code)).toEqual(["dangerous.wattHours"])
  })
})

it("a basic description has its parts in the order of 49 CFR 172.202(a)", () => {
  expect(basicDescription(acid)).toBe("UN1805, Phosphoric acid solution, 8, PG III")
  const mixture = {
    ...acid,
    unNumber: "UN3264",
    properShippingName: "Corrosive liquid, acidic, inorganic, n.o.s.",
    technicalName: "phosphoric acid",
    subsidiary: "6.1",
    packingGroup: "II",
  }
  expect(basicDescription(mixture)).toBe(
    "UN3264, Corrosive liquid, acidic, inorganic, n.o.s. (phosphoric acid), 8 (6.1), PG II",
  )
  expect(dangerousFlaws({ ...mixture, innerQuantity: "1", technicalName: "" }, at).map((one) => one.code)).toEqual([
    "dangerous.technicalName",
  ])
})

it("explosives and radioactive goods have papers that are not made here", () => {
  expect(flaws({ hazardClass: "1.4S", packingGroup: "", limitedQuantity: false })).toEqual(["dangerous.special"])
})
