import { Readable } from "node:stream"
import type { LocalDate } from "core/calendar/index.ts"
import { type NoticePackage, noticeTotals, type ShipNotice } from "core/shipNotice/index.ts"
import { mass, size } from "core/units/index.ts"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { epcisFaults } from "../../tests/epcisSchema.ts"
import { expectStructure, readEdifact, segmentsOf } from "../../tests/readEdifact.ts"
import { readContrl } from "./contrl.ts"
import { desadv } from "./desadv.ts"
import { epcisDocument, offsetOf } from "./epcis.ts"
import { readdressed } from "./readdress.ts"

const at = new Date("2026-11-24T23:05:00Z")
const nobody = { gln: "", code: "", name: "", street: "", city: "", state: "", postalCode: "", country: "" }
const sscc = (n: number) => `09521234${String(n).padStart(10, "0")}`

const pack = (n: number, more: Partial<NoticePackage> = {}): NoticePackage => ({
  name: `48217-${n}`,
  sscc: sscc(n),
  kind: "carton",
  tracking: `LK${n}`,
  weight: mass("10.0004", "kg"),
  size: size(40, 30, 20, "cm"),
  on: null,
  loadedAt: new Date("2026-11-24T22:00:00Z"),
  contents: [{ line: 1, quantity: 2, lots: [] }],
  ...more,
})

const notice = (more: Partial<ShipNotice> = {}): ShipNotice => ({
  number: "00000012",
  shippedAt: new Date("2026-11-24T22:30:00Z"),
  packedAt: new Date("2026-11-24T15:00:00Z"),
  arrivesOn: "2026-11-27" as LocalDate,
  zone: "America/Chicago",
  door: "4",
  carrierCode: "LARK",
  carrier: "Larkspur Parcel",
  service: "Larkspur Ground",
  tracking: "LK1",
  form: "DLH-261124-4-1630",
  from: { ...nobody, gln: "0952123400001", code: "DLH", name: "Northlake Supply", country: "US" },
  buyer: { ...nobody, code: "SAWALE", name: "Sawtooth Ale: Wholesale" },
  shipTo: { ...nobody, name: "O'Hara + Sons", street: "1 Pier", city: "Duluth", postalCode: "55802", country: "US" },
  lines: [
    {
      line: 1,
      sku: "VLV-BTF-50",
      gtin: "09521234000013",
      description: "Butterfly valve",
      purchaseOrder: "PO-7",
      orderNumber: "S-1",
    },
    { line: 2, sku: "LOOSE", gtin: "", description: "Seals", purchaseOrder: "", orderNumber: "S-1" },
  ],
  packages: [pack(1)],
  ...more,
})
const sent = (one: ShipNotice) => readEdifact(desadv(one, { at, reference: "00000012", receiver: "SAWALE" }))

/** A pallet with two cartons, a carton by itself with two lines, one of them of two lots. */
const mixed = notice({
  packages: [
    pack(1, { kind: "pallet", weight: mass("61.5", "kg"), contents: [] }),
    pack(2, { on: "48217-1", contents: [{ line: 1, quantity: 12, lots: [] }] }),
    pack(3, { on: "48217-1", contents: [{ line: 1, quantity: 12, lots: [] }] }),
    pack(4, {
      contents: [
        { line: 1, quantity: 1, lots: [] },
        {
          line: 2,
          quantity: 5,
          lots: [
            { code: "L-1", expiresOn: "2027-03-01" as LocalDate, quantity: 3 },
            { code: "L+2", expiresOn: null, quantity: 2 },
          ],
        },
      ],
    }),
  ],
})

describe("an advance ship notice", () => {
  it("has the structure of DESADV, directory D.01B, for one package, a mixed pallet, and 800 packages", () => {
    for (const one of [notice(), mixed, notice({ packages: Array.from({ length: 800 }, (_, n) => pack(n + 1)) })]) {
      const found = sent(one)
      expectStructure(found, "DESADV")
      expect(segmentsOf(found, "UNB")[0]?.slice(1, 3)).toEqual([["0952123400001"], ["SAWALE"]])
      // UNCL 6069: 2 number of line items, 11 number of packages
      const contents = one.packages.flatMap((each) => each.contents)
      expect(segmentsOf(found, "CNT")).toEqual([
        [["2", String(contents.length)]],
        [["11", String(noticeTotals(one).packages)]],
      ])
      expect(segmentsOf(found, "LIN")).toHaveLength(contents.length)
      expect(segmentsOf(found, "GIN").filter(([kind]) => kind?.[0] === "BJ")).toHaveLength(one.packages.length)
    }
  })

  it("says what stands on what: consignment, pallet, its cartons, with the SSCC of each", () => {
    const found = sent(mixed)
    // level, and the level that it is in: 1 is the consignment
    expect(segmentsOf(found, "CPS")).toEqual([[["1"]], [["2"], ["1"]], [["3"], ["2"]], [["4"], ["2"]], [["5"], ["1"]]])
    expect(segmentsOf(found, "PAC").map((one) => one[2]?.[0] ?? one[0]?.[0])).toEqual(["2", "PX", "CT", "CT", "CT"])
    expect(
      segmentsOf(found, "GIN")
        .filter(([kind]) => kind?.[0] === "BJ")
        .map(([, number]) => number?.[0]),
    ).toEqual([sscc(1), sscc(2), sscc(3), sscc(4)])
  })

  it("names goods by GTIN and own number, with order, lot and date where they are known", () => {
    const found = sent(mixed)
    expect(segmentsOf(found, "LIN").map((one) => one[2]?.[0] ?? "")).toEqual([
      "09521234000013",
      "09521234000013",
      "09521234000013",
      "",
    ])
    expect(segmentsOf(found, "PIA").map((one) => one[1])).toEqual([
      ["VLV-BTF-50", "SA"],
      ["VLV-BTF-50", "SA"],
      ["VLV-BTF-50", "SA"],
      ["LOOSE", "SA"],
    ])
    const from = found.findLastIndex(([tag]) => tag === "LIN")
    expect(
      found.slice(from).map(([tag, elements]) => [tag, ...elements.map((one) => one.join(":"))].join("+")),
    ).toEqual(
      expect.arrayContaining([
        "QTY+12:5",
        "PCI+36E",
        "DTM+361:20270301:102",
        "GIN+BX+L-1",
        "QTY+12:3",
        "GIN+BX+L+2",
        "QTY+12:2",
      ]),
    )
    expect(segmentsOf(found, "NAD").map((one) => [one[0]?.[0], one[1]?.join(":") ?? "", one[3]?.[0]])).toEqual([
      ["SU", "0952123400001::9", "Northlake Supply"],
      ["BY", "SAWALE::91", "Sawtooth Ale: Wholesale"],
      ["DP", "", "O'Hara + Sons"],
    ])
  })

  it("its totals are those of what it lists, whatever is in it", () => {
    const grams = fc.integer({ min: 1, max: 900_000 })
    fc.assert(
      fc.property(
        fc.array(fc.record({ grams, pieces: fc.array(fc.integer({ min: 1, max: 999 }), { maxLength: 4 }) }), {
          minLength: 1,
          maxLength: 30,
        }),
        (units) => {
          const one = notice({
            packages: units.map((unit, n) =>
              pack(n + 1, {
                weight: mass(unit.grams / 1000, "kg"),
                contents: unit.pieces.map((quantity) => ({ line: 1, quantity, lots: [] })),
              }),
            ),
          })
          const found = sent(one)
          const measured = segmentsOf(found, "MEA").filter(([, what]) => what?.[0] === "AAB")
          const grossGrams = measured.reduce((sum, [, , value]) => sum + Math.round(Number(value?.[1]) * 1000), 0)
          expect(grossGrams).toBe(units.reduce((sum, unit) => sum + unit.grams, 0))
          const said = segmentsOf(found, "MEA").find(([, what]) => what?.[0] === "AAD")
          expect(Math.round(Number(said?.[2]?.[1]) * 1000)).toBe(grossGrams)
          const pieces = segmentsOf(found, "QTY").reduce((sum, [value]) => sum + Number(value?.[1]), 0)
          expect(pieces).toBe(units.flatMap((unit) => unit.pieces).reduce((sum, n) => sum + n, 0))
        },
      ),
      { numRuns: 60 },
    )
  })
})

describe("events of the way", () => {
  const events = (one: ShipNotice) => {
    const document = JSON.parse(epcisDocument(one, { at, domain: "northlake.example" }))
    expect(epcisFaults(document)).toEqual([])
    return document.epcisBody.eventList as Record<string, never>[]
  }

  it("are by the schema of EPCIS 2.0, and one that is not is found", () => {
    for (const one of [notice(), mixed, notice({ packages: [pack(1, { sscc: "" })] })]) events(one)
    const broken = JSON.parse(epcisDocument(notice(), { at, domain: "northlake.example" }))
    broken.epcisBody.eventList[0].action = "PACK"
    expect(epcisFaults(broken)).not.toEqual([])
  })

  it("say packed with each piece and lot, set on the pallet, loaded, shipped", () => {
    const all = events(mixed)
    expect(all.map((one) => `${one.type} ${one.bizStep} ${one.eventTime}${one.eventTimeZoneOffset}`)).toEqual([
      ...Array(4).fill("AggregationEvent packing 2026-11-24T15:00:00.000Z-06:00"),
      "ObjectEvent loading 2026-11-24T22:00:00.000Z-06:00",
      "ObjectEvent shipping 2026-11-24T22:30:00.000Z-06:00",
    ])
    const unit = (n: number) => `https://id.gs1.org/00/${sscc(n)}`
    expect(all[3]).toMatchObject({ parentID: unit(1), childEPCs: [unit(2), unit(3)] })
    expect(all[2]).toMatchObject({
      parentID: unit(4),
      childQuantityList: [
        { epcClass: "https://id.gs1.org/01/09521234000013", quantity: 1 },
        { epcClass: "https://northlake.example/items/LOOSE/lots/L-1", quantity: 3 },
        { epcClass: "https://northlake.example/items/LOOSE/lots/L%2B2", quantity: 2 },
      ],
    })
    expect(all.at(-1)).toMatchObject({ epcList: [unit(1), unit(4)], disposition: "in_transit" })
  })

  it("say the zone's offset of their own day", () => {
    expect(offsetOf(new Date("2026-07-01T12:00:00Z"), "America/Chicago")).toBe("-05:00")
    expect(offsetOf(new Date("2026-12-01T12:00:30Z"), "America/Chicago")).toBe("-06:00")
    expect(offsetOf(new Date("2026-12-01T12:00:00Z"), "Asia/Kolkata")).toBe("+05:30")
    expect(offsetOf(new Date("2026-12-01T12:00:00Z"), "UTC")).toBe("+00:00")
  })
})

describe("acknowledgments", () => {
  const contrl = (...lines: string[]) =>
    readContrl(
      Readable.from([
        Buffer.from(`UNB+UNOC:3+SAWALE+DLH+261124:1205+77'UNH+1+CONTRL:D:3:UN'${lines.join("")}UNT+3+1'UNZ+1+77'`),
      ]),
    )
  it("are read by reference and action", async () => {
    expect(await contrl("UCI+00000012+A+B+7'", "UCI+00000013+A+B+8'", "UCI+00000014+A+B+4'")).toEqual([
      { reference: "00000012", accepted: true },
      { reference: "00000013", accepted: true },
      { reference: "00000014", accepted: false },
    ])
  })
  it("are refused where they say nothing, or something else", async () => {
    await expect(contrl()).rejects.toMatchObject({ reason: { code: "edi.answer-none" } })
    await expect(contrl("UCI+00000012+A+B+9'")).rejects.toMatchObject({
      reason: { code: "edi.answer-action", values: { segment: "3", action: "9" } },
    })
  })
})

describe("a message to another receiver", () => {
  it("is the same segments under another name, counted anew, and can take itself back", async () => {
    const text = desadv(mixed, { at, reference: "1", receiver: "LARK" })
    for (const cancels of [false, true]) {
      const bytes = await readdressed(Buffer.from(text, "latin1"), { receiver: "X+Y", reference: "0099", at, cancels })
      const [before, after] = [readEdifact(text), readEdifact(bytes.toString("latin1"))]
      expectStructure(after, "DESADV")
      expect(segmentsOf(after, "UNB")[0]?.slice(1, 3)).toEqual([["0952123400001"], ["X+Y"]])
      expect(segmentsOf(after, "UNZ")).toEqual([[["1"], ["0099"]]])
      expect(segmentsOf(after, "BGM")).toEqual([[["351"], ["00000012"], [cancels ? "1" : "9"]]])
      expect(after.slice(3, -2)).toEqual(before.slice(3, -2))
    }
  })
})
