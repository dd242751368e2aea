import { execFileSync } from "node:child_process"
import { readFileSync, writeFileSync } from "node:fs"
import { join } from "node:path"
import { type LabelModel, manifest, noLading } from "core/documents/index.ts"
import type { BillOfLadingModel } from "core/papers/index.ts"
import { mass, size } from "core/units/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { paperLanguages, paperWords } from "words/papers.ts"
import { readBack } from "../../tests/readBack.ts"
import { barWidths } from "./barcode.ts"
import { billOfLadingPdf } from "./billOfLading.ts"
import { labelPdf, mustFitLabel } from "./label.ts"
import { manifestPdf } from "./manifest.ts"

const model: LabelModel = {
  carrier: "Larkspur Parcel",
  service: "Larkspur Ground",
  sender: ["Northlake Ferment Supply", "1 Fermenter Quay", "Duluth MN 55802", "218-555-0100"],
  receiver: ["Elk Run Taproom", "Back door", "14 Growler Row", "Denver CO 80205"],
  shipDate: "Shipped 2026-11-24",
  weight: "27.9 lb",
  size: "23.5 × 16 × 16.9 in",
  piece: "1 of 2",
  references: [
    { name: "Your order", text: "PO 5001" },
    { name: "Our order", text: "48254" },
  ],
  driver: ["Signature required", "Gate 3"],
  routingCode: "L5-80205",
  trackingNumber: "LA000000000123",
  // GS1 demonstration prefix 952; check digit as in core/barcodes' test
  sscc: "095212340000480013",
  packageName: "48254-1",
}
const madeAt = new Date("2026-11-24T16:42:00Z")
let papers: ReturnType<typeof readBack>
let folder: string
beforeAll(() => {
  papers = readBack()
  folder = papers.folder
})
afterAll(() => papers.end())
const read = (pdf: Buffer, dpi: number) => papers.symbols(pdf, dpi)
const text = (pdf: Buffer): string => papers.words(pdf)

describe("parcel label", () => {
  it.each([203, 300])("is read back from the page at %i dpi, the SSCC as GS1-128", async (dpi) => {
    const { pages, results } = await read(await labelPdf(model, madeAt), dpi)
    expect(pages).toBe(1)
    const found = Object.fromEntries(results.map((one) => [one.symbologyIdentifier, one.text]))
    // ]C1 proves the function character that makes Code 128 a GS1-128 symbol; ]C0 is plain Code 128
    expect(found["]C1"]?.replace(/[()]/g, "")).toBe("00095212340000480013")
    expect(found["]C0"]).toBe("LA000000000123")
  })

  it("has modules of whole dots and quiet zones within 4 in at 203 dpi", () => {
    // 156 modules + 2 × 10 quiet at 4 dots are 704 of the 812 dots of a 4 in label (GS1 General Specifications)
    const modules = barWidths("gs1-128", `(00)${model.sscc}`).reduce((sum, one) => sum + one, 0)
    expect((modules + 20) * 4).toBeLessThanOrEqual(812)
  })

  it("says who sends, who receives, what, and which of how many", async () => {
    const words = text(await labelPdf(model, madeAt))
    for (const part of [
      "Northlake Ferment Supply",
      "Elk Run Taproom",
      "14 Growler Row",
      "Denver CO 80205",
      "Larkspur Ground",
      "27.9 lb",
      "1 of 2",
      "PO 5001",
      "Signature required · Gate 3",
      "LA000000000123",
      "0 9521234 000048001 3",
    ]) {
      expect(words).toContain(part)
    }
  })

  it("is 4 × 6 in: 288 × 432 points", async () => {
    writeFileSync(join(folder, "size.pdf"), await labelPdf(model, madeAt))
    expect(execFileSync("pdfinfo", [join(folder, "size.pdf")]).toString()).toMatch(/Page size:\s+288 x 432 pts/)
  })
})

/** The darkest pixel, 0 black to 255 white, in a frame of so many millimetres around a page. */
function darkestInFrame(pdf: Buffer, dpi: number, mm: number): number {
  const base = join(folder, `frame-${Math.random()}`)
  writeFileSync(`${base}.pdf`, pdf)
  execFileSync("pdftoppm", ["-r", String(dpi), "-gray", "-singlefile", `${base}.pdf`, base])
  const bytes = readFileSync(`${base}.pgm`)
  const [, width = "", height = ""] = /^P5\s+(\d+)\s+(\d+)\s+255\s/.exec(bytes.subarray(0, 40).toString("latin1")) ?? []
  const [w, h] = [Number(width), Number(height)]
  const pixels = bytes.subarray(bytes.length - w * h)
  const frame = Math.floor((mm / 25.4) * dpi)
  let darkest = 255
  for (let y = 0; y < h; y += 1)
    for (let x = 0; x < w; x += 1)
      if (x < frame || y < frame || x >= w - frame || y >= h - frame)
        darkest = Math.min(darkest, pixels[y * w + x] as number)
  return darkest
}

describe("what a printer can't reach", () => {
  it("is left white: nothing within 3 mm of the edge, on labels and papers", async () => {
    expect(darkestInFrame(await labelPdf(model, madeAt), 203, 3)).toBe(255)
    const full = {
      ...model,
      sender: [...model.sender, "Second line", "UNITED STATES"],
      driver: ["Hold for pickup at Central depot, 12 Station Road", "Adult signature required", "Saturday delivery"],
      receiver: ["Company", "Attention", "Street 1", "Second line", "10115 Berlin", "GERMANY"],
    }
    expect(darkestInFrame(await labelPdf(full, madeAt), 203, 3)).toBe(255)
    const party = (company: string) => ({
      company,
      attention: "",
      street: "1 Street",
      street2: "",
      city: "Duluth",
      state: "MN",
      postalCode: "55802",
      country: "US",
      phone: "218-555-0142",
      taxNumber: "",
      eori: "",
    })
    const lading: BillOfLadingModel = {
      number: "DLH-48258",
      proNumber: "IR000000000024",
      carrier: "Ironbark Freight",
      carrierCode: "IRON",
      service: "Ironbark Standard LTL",
      shipDate: "2026-11-24",
      shipper: party("Northlake"),
      consignee: party("Halvard Brewing"),
      sourceNumber: "SO-1",
      purchaseOrder: "PO 1",
      payer: "prepaid",
      account: "",
      accessorials: ["liftgate"],
      units: Array.from({ length: 60 }, (_, index) => ({
        name: `48258-${index}`,
        kind: "pallet" as const,
        pieces: 8,
        kindOfPieces: "carton" as const,
        hazardous: false,
        description: "Pilsner malt in sacks, with a description that goes on below since it is long",
        size: size(48, 40, 61, "in"),
        freightClass: "85",
        itemNumber: "",
        weight: mass(873.2, "lb"),
      })),
      pieces: 480,
      weight: mass("52392", "lb"),
      hazardous: [],
      excepted: [],
      emergencyPhone: "",
      lading: noLading,
    }
    // 60 × 8 = 480 pieces, 60 × 873.2 = 52392.0 lb
    const pdf = await billOfLadingPdf(lading, madeAt)
    expect(darkestInFrame(pdf, 150, 3)).toBe(255)
    const words = text(pdf)
    expect(words).toContain("60 handling units, 480 pieces")
    expect(words).toContain("52,392.0 lb gross")
    expect((await read(pdf, 150)).results.map((one) => one.text)).toEqual(["DLH-48258"])
  })
  it("shows all that a sender abroad has, and all that the driver must do", async () => {
    const sender = [
      "Company of the sender",
      "Street 12",
      "Second line",
      "8005 Zürich",
      "SWITZERLAND",
      "+41 44 555 01 42",
    ]
    const driver = [
      "Hold for pickup at Central depot, 12 Station Road",
      "Adult signature required",
      "Saturday delivery",
      "Building 7",
      "Ring at the cellar door, not at the front",
      "Mon to Fri 7 to 15",
    ]
    const words = text(await labelPdf({ ...model, sender, driver }, madeAt)).replace(/\s+/g, " ")
    for (const part of [...sender, ...driver.slice(1)]) expect(words).toContain(part)
    await expect(labelPdf({ ...model, driver: Array(40).fill("a long instruction") }, madeAt)).rejects.toThrow("driver")
  })
  it.each(paperLanguages)("has room for its own words in %s", (language) => {
    const words = paperWords(language)
    const driver = (["signature-adult", "saturday", "hold-at-location", "dry-ice"] as const).map((option) =>
      words.say(`print.driver.${option}`),
    )
    const own: LabelModel = {
      ...model,
      language,
      shipDate: words.say("print.ships", { day: words.date("2026-11-24") }),
      piece: words.say("print.piece-of", { n: 60, of: 60 }),
      references: (["print.your-order", "print.our-order", "print.reference"] as const).map((key) => ({
        name: words.say(key),
        text: "PO 5001",
      })),
      driver,
      master: "LA000000000999",
    }
    expect(() => mustFitLabel(own)).not.toThrow()
  })
  it("prints no text that does not fit: it is named instead of cut", async () => {
    const wide = { ...model, receiver: ["W".repeat(60), "14 Growler Row", "Denver CO 80205"] }
    await expect(labelPdf(wide, madeAt)).rejects.toThrow(`receiver “${"W".repeat(60)}”`)
    await expect(labelPdf({ ...model, service: "W".repeat(40) }, madeAt)).rejects.toThrow("service")
  })
})

describe("manifest", () => {
  const rows = Array.from({ length: 90 }, (_, index) => ({
    package: `482${String(index).padStart(2, "0")}-1`,
    order: `A-${index}`,
    trackingNumber: `LA${String(index).padStart(12, "0")}`,
    service: index % 3 ? "Larkspur Ground" : "Larkspur Express Two",
    receiver: "Elk Run Taproom",
    place: "Denver CO",
    weight: mass("10.5", "lb"),
  }))
  const made = manifest(
    {
      number: "DLH-261124-4-1415",
      one: false,
      service: null,
      supplement: false,
      booking: "",
      driver: null,
      carrier: "Larkspur Parcel",
      account: "LK-558-0042",
      door: "4",
      sender: model.sender,
      closedAt: "2026-11-24 14:10",
      closedBy: "Maren Holt",
    },
    rows,
  )

  it("adds up by service and over all", () => {
    // 90 packages of 10.5 lb: 945 lb; every third (30) by express: 315 lb, 60 by ground: 630 lb
    expect(made.totals.map((one) => [one.service, one.packages, one.weight.toString()])).toEqual([
      ["Larkspur Express Two", 30, mass(315, "lb").toString()],
      ["Larkspur Ground", 60, mass(630, "lb").toString()],
    ])
    expect([made.packages, made.weight.toString()]).toEqual([90, mass(945, "lb").toString()])
  })

  it("holds one barcode of its number and a row for every package, over as many sheets as it takes", async () => {
    const pdf = await manifestPdf(made, madeAt)
    const { pages, results } = await read(pdf, 150)
    expect(pages).toBe(3)
    expect(results.map((one) => one.text)).toEqual(["DLH-261124-4-1415"])
    const words = text(pdf)
    for (const row of rows) expect(words).toContain(row.trackingNumber)
    expect(words).toContain("945.0 lb")
  })

  it.each([1, 60, 800])(
    "of %i packages is read back whole: one barcode for all of them, every row, the sum",
    async (n) => {
      const many = Array.from({ length: n }, (_, at) => ({
        package: `${48_200 + at}-1`,
        order: `SO-${70_000 + at}`,
        trackingNumber: `LA${String(at).padStart(12, "0")}`,
        service: "Larkspur Ground",
        receiver: "Elk Run Taproom",
        place: "Denver CO",
        weight: mass("2.5", "lb"),
      }))
      const number = "9521234DLH-261124-4-1415"
      const pdf = await manifestPdf(manifest({ ...made, number, one: true }, many), madeAt)
      const { results } = await read(pdf, 150)
      // GS1 General Specifications: AI 401, the consignment number
      expect(results.map((one) => one.text)).toEqual([`(401)${number}`])
      const words = text(pdf)
      for (const row of many) expect(words.includes(row.trackingNumber) && words.includes(row.order)).toBe(true)
      // 2.5 lb each
      expect(words).toContain(`${(n * 2.5).toFixed(1)} lb`)
    },
  )
})
