import { describe, expect, it } from "vitest"
import { readItems, readPackages } from "./lines.ts"

const plain = { count: 1, weightUnit: "lb", lengthUnit: "in", pallet: false, freightClass: "", stackable: false }

describe("packages as people write them", () => {
  it.each([
    ["3 × 22 lb 20 × 15 × 13 in", { count: 3, weight: "22", length: "20", width: "15", height: "13" }],
    ["22.5 lbs, 20x15x13", { weight: "22.5", length: "20", width: "15", height: "13" }],
    [
      "12,4 kg 40*30*20",
      { weight: "12.4", weightUnit: "kg", length: "40", width: "30", height: "20", lengthUnit: "cm" },
    ],
    ["12 kg 16 x 12 x 8 in", { weight: "12", weightUnit: "kg", length: "16", width: "12", height: "8" }],
    [
      "2 pallets 480 lb 48 × 40 × 50 in class 92.5 stackable",
      {
        count: 2,
        pallet: true,
        weight: "480",
        length: "48",
        width: "40",
        height: "50",
        freightClass: "92.5",
        stackable: true,
      },
    ],
  ])("%s", (text, expected) => expect(readPackages(text)).toEqual({ ok: true, value: [{ ...plain, ...expected }] }))

  it("are read line by line, blank ones passed over, and every bad one is told", () => {
    const outcome = readPackages("1 × 5 lb 8 × 8 × 8 in\n\nfive pounds\n3 lb 4 × 4\n")
    expect(outcome.ok ? [] : outcome.reasons.map((one) => [one.values.n, one.values.text])).toEqual([
      ["3", "five pounds"],
      ["4", "3 lb 4 × 4"],
    ])
    expect(readPackages(" \n")).toEqual({ ok: true, value: [] })
  })
})

describe("items as people write them", () => {
  it.each([
    ["6 HOP-CAS-1", [{ sku: "HOP-CAS-1", quantity: 6 }]],
    ["hop-cas-1 6", [{ sku: "HOP-CAS-1", quantity: 6 }]],
    [
      "6 x HOP-CAS-1\nYST-ALE-500",
      [
        { sku: "HOP-CAS-1", quantity: 6 },
        { sku: "YST-ALE-500", quantity: 1 },
      ],
    ],
  ])("%s", (text, expected) => expect(readItems(text)).toEqual({ ok: true, value: expected }))
  it.each(["6 HOP 6", "0 HOP-CAS-1", "some hops please"])("%s is refused", (text) =>
    expect(readItems(text).ok).toBe(false),
  )
})
