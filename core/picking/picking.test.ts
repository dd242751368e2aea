import { describe, expect, it } from "vitest"
import {
  asLevel,
  confirmBin,
  confirmItem,
  confirmLot,
  confirmQuantity,
  confirmTake,
  confirmTote,
  levelOf,
  nextStop,
  type PickStop,
  pieceGtin,
  stepsLeft,
  stepsOf,
  toteNames,
  usualSteps,
  walkOrder,
} from "./index.ts"

const stop: PickStop = {
  allocationId: 1,
  line: "a",
  bin: "A-03-1",
  binOrder: 10031,
  sku: "CLA-15-EPDM",
  description: "Clamp",
  lot: null,
  levels: [
    { name: "each", gtin: "6291041500213", count: 1 },
    { name: "case", gtin: "16291041500210", count: 24 },
  ],
  quantity: 30,
  picked: 2,
  steps: usualSteps,
  totes: [],
  skippedAt: null,
  claimedBy: null,
}
const code = (outcome: { ok: boolean; reasons?: readonly { code: string }[] }) =>
  outcome.ok ? "ok" : outcome.reasons?.[0]?.code

it("confirms the bin however its separators are typed, and refuses another", () => {
  expect(["A-03-1", "a031", "a 03 1"].map((typed) => code(confirmBin(stop, typed)))).toEqual(["ok", "ok", "ok"])
  expect(confirmBin(stop, "A-03-2")).toEqual({
    ok: false,
    reasons: [{ code: "pick.wrong-bin", values: { scanned: "A-03-2", bin: "A-03-1" } }],
  })
})

describe("an item", () => {
  const gtinCase = {
    ...stop,
    levels: [stop.levels[0] as (typeof stop.levels)[0], { name: "case", gtin: "16291041500210", count: 24 }],
  }
  it("counts what the scanned level holds", () => {
    expect(confirmItem(gtinCase, "06291041500213")).toEqual({ ok: true, value: 1 })
    expect(confirmItem(gtinCase, "16291041500210")).toEqual({ ok: true, value: 24 })
    expect(confirmItem(gtinCase, "cla-15-epdm", 3)).toEqual({ ok: true, value: 3 })
  })
  it("is known by the level that its GTIN names, in any of its lengths; a wrong check digit names none", () => {
    expect(levelOf(gtinCase.levels, "6291041500213")?.name).toBe("each")
    expect(levelOf(gtinCase.levels, "06291041500213")?.name).toBe("each")
    expect(levelOf(gtinCase.levels, "16291041500210")?.name).toBe("case")
    expect(levelOf(gtinCase.levels, "6291041500214")).toBeUndefined()
    expect(pieceGtin(gtinCase.levels)).toBe("06291041500213")
    expect(pieceGtin([{ name: "each", gtin: "6291041500214", count: 1 }])).toBeNull()
    expect(pieceGtin(gtinCase.levels.slice(1))).toBeNull()
  })
  it("is refused when it is another, or more than is needed", () => {
    expect(code(confirmItem(gtinCase, "HOP-CAS-1"))).toBe("pick.wrong-item")
    expect(code(confirmItem(gtinCase, "16291041500210", 2))).toBe("pick.too-many")
    expect(code(confirmQuantity(stop, 29))).toBe("pick.too-many")
    expect(code(confirmQuantity(stop, 28))).toBe("ok")
    expect(code(confirmQuantity(stop, 0))).toBe("pick.quantity")
    expect(code(confirmQuantity(stop, 1.5))).toBe("pick.quantity")
  })
})

it("walks by bin and stops at what is not done", () => {
  const far = { ...stop, allocationId: 2, bin: "K-08-1", binOrder: 110081 }
  const done = { ...stop, allocationId: 3, bin: "A-01-1", binOrder: 10011, picked: 30 }
  expect(walkOrder([far, stop, done]).map((one) => one.allocationId)).toEqual([3, 1, 2])
  expect(nextStop(walkOrder([far, stop, done]))?.allocationId).toBe(1)
  expect(nextStop([done])).toBeNull()
})

describe("what is scanned", () => {
  it("is said by the item, then the warehouse, then as usual", () =>
    expect(stepsOf({ lot: true, tote: false }, { lot: false })).toEqual({
      bin: true,
      item: true,
      lot: false,
      tote: false,
    }))
  const all: PickStop = { ...stop, lot: "H26-0917", totes: ["C1-4", "C1-5"], steps: { ...usualSteps, lot: true } }
  const nothing = { bin: "", lot: "", tote: "" }
  it("is asked for in the order of the hands: bin, tote, lot", () => {
    expect(stepsLeft(all, nothing)).toEqual(["bin", "tote", "lot"])
    expect(stepsLeft(all, { ...nothing, bin: "A-03-1", lot: "H26-0917" })).toEqual(["tote"])
    // an order without a tote, an item without a lot
    expect(stepsLeft({ ...all, lot: null, totes: [] }, nothing)).toEqual(["bin"])
    expect(stepsLeft({ ...all, steps: { bin: false, item: true, lot: false, tote: false } }, nothing)).toEqual([])
  })
  const attempt = { bin: "a031", lot: "H26-0917", tote: "c1-5", item: "16291041500210", times: 1 }
  it.each([
    ["all of it right", {}, "ok"],
    ["no bin", { bin: "" }, "pick.bin-first"],
    ["no tote", { tote: "" }, "pick.tote-first"],
    ["no lot", { lot: "" }, "pick.lot-first"],
    ["the wrong bin", { bin: "A-03-2" }, "pick.wrong-bin"],
    ["another order's tote", { tote: "C1-6" }, "pick.wrong-tote"],
    ["another lot", { lot: "H25-0811" }, "pick.wrong-lot"],
    ["a lot that differs by a hyphen", { lot: "H260917" }, "pick.wrong-lot"],
    ["another item", { item: "YST" }, "pick.wrong-item"],
    ["two cases where 28 are left", { times: 2 }, "pick.too-many"],
    ["a click, which stands for all of it", { item: null, bin: "", lot: "", tote: "" }, "ok"],
  ])("%s", (_, more, expected) => expect(code(confirmTake(all, { ...attempt, ...more }))).toBe(expected))
  it("a lot that is scanned where the item has none, and a wrong one though nobody asked for it, are refused", () => {
    expect(code(confirmLot(stop, "X"))).toBe("pick.no-lot")
    expect(code(confirmTake({ ...all, steps: usualSteps }, { ...attempt, lot: "H25-0811" }))).toBe("pick.wrong-lot")
    expect(confirmTote(all, "c15")).toEqual({ ok: true, value: "C1-5" })
  })
})

describe("the next stop", () => {
  const at = (id: number, more: Partial<PickStop> = {}): PickStop => ({ ...stop, allocationId: id, picked: 0, ...more })
  const next = (stops: PickStop[], user: number | null = 1) => nextStop(stops, user)?.allocationId ?? null
  it("is the first that is open", () => expect(next([at(1, { picked: 30 }), at(2), at(3)])).toBe(2))
  it("is not one that was passed over, until nothing else is left; then the longest ago", () => {
    const early = { skippedAt: new Date(1_000) }
    const late = { skippedAt: new Date(2_000) }
    expect(next([at(1, late), at(2, early), at(3)])).toBe(3)
    expect(next([at(1, late), at(2, early)])).toBe(2)
  })
  it("is not where another works, unless nothing else is left", () => {
    expect(next([at(1, { claimedBy: 2 }), at(2)])).toBe(2)
    expect(next([at(1, { claimedBy: 1 }), at(2)])).toBe(1)
    expect(next([at(1, { claimedBy: 2 })])).toBe(1)
    // who was sent somewhere is not sent elsewhere when something before it becomes free
    expect(next([at(1), at(2, { claimedBy: 1 })])).toBe(2)
    expect(next([at(1), at(2, { claimedBy: 1 })], null)).toBe(1)
  })
  it("comes in the order of the bins that the walk names", () =>
    expect(
      walkOrder([at(1, { bin: "A" }), at(2, { bin: "B" }), at(3, { bin: "Q" })], ["B", "A"]).map(
        (one) => one.allocationId,
      ),
    ).toEqual([2, 1, 3]))
})

it.each([
  [["T101", "T102", "T103"], "T101–T103"],
  [["T101", "T103", "T104"], "T101 T103–T104"],
  [["T9", "T10"], "T9–T10"],
  [["A", "B"], "A B"],
  [[], ""],
])("names totes %j as %s", (totes, names) => expect(toteNames(totes)).toBe(names))

it("counts pieces as the level of their code does", () => {
  const levels = [
    { name: "each", gtin: "06291041500213", count: 1 },
    { name: "case", gtin: "16291041500210", count: 24 },
    { name: "box", gtin: "26291041500217", count: 6 },
  ]
  const counted = (code: string, pieces: number) => asLevel(levels, code, pieces)
  expect(counted("16291041500210", 48)).toEqual({ name: "cases", n: 2 })
  expect(counted("16291041500210", 24)).toEqual({ name: "case", n: 1 })
  expect(counted("26291041500217", 12)).toEqual({ name: "boxes", n: 2 })
  expect([counted("06291041500213", 48), counted("16291041500210", 30), counted("YST", 48)]).toEqual([null, null, null])
})
