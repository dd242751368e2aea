import { billOfLading, type PaperFacts } from "core/papers/index.ts"
import { mass } from "core/units/index.ts"
import { describe, expect, it } from "vitest"
import { express, facts, home, line, made, pack, party, phosphoric } from "../../tests/paperSamples.ts"
import { expectStructure, readEdifact as read, segmentsOf } from "../../tests/readEdifact.ts"
import { iftmin } from "./iftmin.ts"

const pallets = (count: number, more: Partial<PaperFacts> = {}) =>
  billOfLading.model(
    facts({
      shipTo: { ...home, company: "O'Hara + Sons: Brewing?", street: "1 Straße" },
      service: { ...express, mode: "freight", handling: "pallet", carrierCode: "IRON" },
      lines: [line({ quantity: 4 * count })],
      packages: Array.from({ length: count }, (_, at) =>
        pack({
          number: at + 1,
          name: `48217-${at + 1}`,
          kind: "pallet",
          gross: mass("120.5", "kg"),
          contents: [{ line: 1, quantity: 4 }],
        }),
      ),
      ...more,
    }),
    made,
  )
const at = new Date("2026-11-24T15:04:00Z")
const text = (model: ReturnType<typeof pallets>) =>
  iftmin(model, { at, ssccs: new Map([["48217-1", "095212340000480179"]]) })

describe("an instruction to a freight carrier", () => {
  it.each([1, 30, 300])("of %i pallets has the structure of IFTMIN, directory D.01B, and right counts", (count) => {
    const found = read(text(pallets(count)))
    expectStructure(found, "IFTMIN")
    const of = (tag: string) => segmentsOf(found, tag)
    expect(of("GID")).toHaveLength(count)
    expect(of("CNT")).toEqual([[["7", (120.5 * count).toFixed(1), "KGM"]], [["11", String(count)]]])
    expect(of("GIN")).toEqual([[["BJ"], ["095212340000480179"]]])
  })
  it("releases the signs that mean something, and keeps what the character set has", () => {
    const found = read(text(pallets(1)))
    const consignee = found.find(([tag, elements]) => tag === "NAD" && elements[0]?.[0] === "CN")
    expect(consignee?.[1][3]).toEqual(["O'Hara + Sons: Brewing?"])
    expect(text(pallets(1))).toContain("O?'Hara ?+ Sons?: Brewing??")
    expect(text(pallets(1))).toContain("1 Straße")
  })
  it("names dangerous goods by number, class and quantity", () => {
    const model = pallets(1, {
      lines: [line({ quantity: 4, dangerous: { ...phosphoric, limitedQuantity: false } })],
      shipper: { ...facts().shipper, party },
    })
    const found = read(text(model))
    expect(found.find(([tag]) => tag === "DGS")?.[1]).toEqual([["CFR"], ["8"], ["1805"]])
    // 49 CFR 172.101: shipping names have commas of their own
    const acid = {
      ...phosphoric,
      unNumber: "UN3264",
      properShippingName: "Corrosive liquid, acidic, inorganic, n.o.s.",
      technicalName: "phosphoric acid",
      subsidiary: "6.1",
      limitedQuantity: false,
    }
    const named = read(text(pallets(1, { lines: [line({ quantity: 4, dangerous: acid })] })))
    expect(named.find(([tag]) => tag === "DGS")?.[1]).toEqual([["CFR"], ["8"], ["3264"]])
    expect(
      named
        .filter(([tag]) => tag === "FTX")
        .at(-1)?.[1]
        .at(-1),
    ).toEqual(["Corrosive liquid, acidic, inorganic, n.o.s. (phosphoric acid), 20 L"])
    expectStructure(found, "IFTMIN")
  })
})
