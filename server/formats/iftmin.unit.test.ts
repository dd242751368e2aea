import { readFileSync } from "node:fs"
import { createRequire } from "node:module"
import { billOfLading, type PaperFacts } from "core/papers/index.ts"
import { mass } from "core/units/index.ts"
import { Configuration } from "ts-edifact/lib/configuration.js"
import { Parser } from "ts-edifact/lib/parser.js"
import { type MessageType, Tracker } from "ts-edifact/lib/tracker.js"
import { describe, expect, it } from "vitest"
import { express, facts, home, line, made, pack, party, phosphoric } from "../../tests/paperSamples.ts"
import { iftmin } from "./iftmin.ts"

/** Segment table of IFTMIN, directory D.01B, as the package ts-edifact ships it. */
const table = JSON.parse(
  readFileSync(createRequire(import.meta.url).resolve("ts-edifact/lib/messageSpec/IFTMIN.struct.json"), "utf8"),
) as MessageType[]

/** The segments as the independent parser ts-edifact reads them. */
function read(text: string): [string, string[][]][] {
  const found: [string, string[][]][] = []
  const parser = new Parser(new Configuration({ charset: "UNOC" }))
  parser.onOpenSegment = (name: string) => void found.push([name, []])
  parser.onElement = () => void found.at(-1)?.[1].push([])
  parser.onComponent = (value: string) => void found.at(-1)?.[1].at(-1)?.push(value)
  parser.write(text)
  parser.end()
  return found.filter(([name]) => name !== "UNA")
}

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
    const tracker = new Tracker(table)
    for (const [tag] of found) if (tag !== "UNB" && tag !== "UNZ") expect(() => tracker.accept(tag), tag).not.toThrow()
    const of = (tag: string) => found.filter(([name]) => name === tag).map(([, elements]) => elements)
    // UNT counts all segments from UNH to itself
    expect(of("UNT")[0]?.[0]).toEqual([String(found.length - 2)])
    expect(of("UNZ")[0]?.[0]).toEqual(["1"])
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
    const tracker = new Tracker(table)
    for (const [tag] of found) if (tag !== "UNB" && tag !== "UNZ") expect(() => tracker.accept(tag), tag).not.toThrow()
  })
})
