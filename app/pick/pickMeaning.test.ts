import { type PickStop, usualSteps } from "core/picking/index.ts"
import { describe, expect, it } from "vitest"
import { emptyHand, handAt, pickInWords, pickMeaning } from "./pickMeaning.ts"

const stop: PickStop = {
  allocationId: 7,
  line: "a",
  bin: "C-14-2",
  binOrder: 1,
  sku: "HOP-SAA-5",
  description: "Hop pellets",
  lot: "H26-0917",
  // GS1 General Specifications' example 6 29104 150021 3 and its case with indicator 1, check digits by hand
  levels: [
    { name: "each", gtin: "06291041500213", count: 1 },
    { name: "case", gtin: "16291041500210", count: 4 },
  ],
  quantity: 9,
  picked: 0,
  steps: { ...usualSteps, lot: true },
  totes: ["T101"],
  skippedAt: null,
  claimedBy: null,
}
const hand = { allocation: 7, bin: "", tote: "", lot: "", item: "" }
const ready = { ...hand, bin: "C-14-2", tote: "T101", lot: "H26-0917" }
const meant = (text: string, more = {}, at: Partial<PickStop> = {}) => {
  const found = pickMeaning({ ...stop, ...at }, { ...hand, ...more }, text)
  if (found === null) return null
  if (found.kind === "refused") return found.why.code
  return found.kind === "step" ? `${found.step} ${found.value}` : `take ${found.times} × ${found.item} ${found.lot}`
}

describe("at a stop", () => {
  it.each([
    ["the bin, however it is typed", "c142", {}, "bin C-14-2"],
    ["the tote before the bin", "t101", {}, "tote T101"],
    ["the lot", "H26-0917", ready, "lot H26-0917"],
    ["a lot that differs by case", "h26-0917", { bin: "C-14-2", tote: "T101" }, "pick.wrong-lot"],
    ["another bin", "C-14-4", {}, "pick.wrong-bin"],
    ["the item before the bin", "HOP-SAA-5", {}, "pick.bin-first"],
    ["a quantity before the bin", "4", {}, "pick.bin-first"],
    ["another order's tote", "T102", { bin: "C-14-2" }, "pick.wrong-tote"],
    ["the item before the tote", "HOP-SAA-5", { bin: "C-14-2" }, "pick.tote-first"],
    ["another lot", "H25-0811", { bin: "C-14-2", tote: "T101" }, "pick.wrong-lot"],
    ["the item", "hop saa 5", ready, "take 1 × hop saa 5 H26-0917"],
    ["a case by its GTIN", "16291041500210", ready, "take 1 × 16291041500210 H26-0917"],
    ["another item", "YST-ALE-500", ready, "pick.wrong-item"],
    ["a quantity before any item", "4", ready, "pick.item-first"],
    ["how many in all, after an item", "9", { ...ready, item: "HOP-SAA-5" }, "take 9 × HOP-SAA-5 H26-0917"],
    ["more than there is to take", "10", { ...ready, item: "HOP-SAA-5" }, "pick.too-many"],
    ["another order, before the bin", "48217", {}, null],
    ["a door", "door 4", ready, null],
  ])("%s", (_, text, more, expected) => expect(meant(text, more)).toBe(expected))
  it("an item's code that carries its lot confirms the lot, and refuses another", () => {
    // GS1 element string: 01 GTIN, 10 lot
    const noLot = { ...ready, lot: "" }
    expect(meant("0106291041500213" + "10H26-0917", noLot)).toBe("take 1 × 06291041500213 H26-0917")
    expect(meant("0106291041500213" + "10H25-0811", noLot)).toBe("pick.wrong-lot")
  })
  it("a third case where nine are wanted is too many: 4 + 4 are taken", () =>
    expect(meant("16291041500210", ready, { picked: 8 })).toBe("pick.too-many"))
  it("with every step switched off takes the item, or only a number", () => {
    const none = { steps: { bin: false, item: false, lot: false, tote: false } }
    expect(meant("3", {}, none)).toBe("take 3 × HOP-SAA-5 ")
    expect(meant("HOP-SAA-5", {}, none)).toBe("take 1 × HOP-SAA-5 ")
  })
  it("is told in words before Enter", () => {
    expect(pickInWords(stop, ready, { kind: "take", item: "16291041500210", times: 2, lot: "" })).toBe(
      "2 cases (8) × HOP-SAA-5 taken at C-14-2",
    )
    const step = (step: "bin" | "tote" | "lot", value: string, more = {}) =>
      pickInWords(stop, { ...hand, ...more }, { kind: "step", step, value })
    // what is next is what the plate will wait for: bin, tote, lot, item
    expect(step("bin", "C-14-2")).toBe("Bin C-14-2 confirmed. Scan tote T101")
    expect(step("tote", "T101")).toBe("Tote T101 confirmed. Scan bin C-14-2")
    expect(step("tote", "T101", { bin: "C-14-2" })).toBe("Tote T101 confirmed. Scan lot H26-0917")
    expect(step("lot", "H26-0917", { bin: "C-14-2", tote: "T101" })).toBe("Lot H26-0917 confirmed. Scan Hop pellets")
  })
})

describe("what is in hand", () => {
  it("goes along to the next stop where that is in the same bin or goes into the same tote", () => {
    const next = { ...stop, allocationId: 8 }
    expect(handAt(next, { ...ready, item: "HOP-SAA-5" })).toEqual({
      allocation: 8,
      bin: "C-14-2",
      tote: "T101",
      lot: "",
      item: "",
    })
    expect(handAt({ ...next, bin: "D-03-2" }, ready)).toMatchObject({ bin: "", tote: "T101" })
    expect(handAt({ ...next, totes: ["T102"] }, ready)).toMatchObject({ bin: "C-14-2", tote: "" })
    expect(handAt(stop, ready)).toBe(ready)
    expect(handAt(null, ready)).toEqual(emptyHand)
  })
})
