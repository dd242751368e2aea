import { execFileSync } from "node:child_process"
import { readFileSync, writeFileSync } from "node:fs"
import { join } from "node:path"
import {
  type LabelForm,
  type LabelModel,
  labelForms,
  labelSheets,
  type SlipModel,
  sheetsOf,
} from "core/documents/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { readBack } from "../../tests/readBack.ts"
import { barWidths } from "./barcode.ts"
import { labelsPdf } from "./label.ts"

const model: LabelModel = {
  carrier: "Larkspur Parcel",
  service: "Larkspur Ground",
  sender: ["Northlake Ferment Supply", "1 Fermenter Quay", "Duluth MN 55802", "UNITED STATES"],
  receiver: ["Elk Run Taproom", "14 Growler Row", "Denver CO 80205"],
  shipDate: "Ships 2026-11-24",
  weight: "27.9 lb",
  size: "23.5 × 16 × 16.9 in",
  piece: "2 of 5",
  references: [{ name: "Our order", text: "48254" }],
  driver: ["Signature required"],
  routingCode: "L5-80205",
  trackingNumber: "LA000000000123",
  // GS1 demonstration prefix 952; check digit as in core/barcodes' test
  sscc: "095212340000480013",
  packageName: "48254-2",
}
const slip: SlipModel = {
  letterhead: ["Northlake Ferment Supply"],
  number: "48254-2",
  piece: "",
  shipTo: ["Elk Run Taproom"],
  facts: [{ name: "Our order", text: "48254" }],
  withPrices: false,
  withLots: false,
  message: "With thanks",
  rows: Array.from({ length: 4 }, (_, at) => ({
    line: "abcd"[at] as string,
    sku: `SKU-${at}`,
    description: `Brewing aid ${at}`,
    lots: "",
    ordered: 3,
    shipped: 2,
    elsewhere: 0,
    backOrdered: 1,
    cancelled: 0,
    price: "",
  })),
}
const madeAt = new Date("2026-11-24T16:42:00Z")
let papers: ReturnType<typeof readBack>
beforeAll(() => {
  papers = readBack()
})
afterAll(() => papers.end())

/** The runs of black and white across a page's raster, along each line of a direction, as PGM gives it. */
function runsOf(pdf: Buffer, dpi: number, upright: boolean): number[][] {
  const base = join(papers.folder, `form-${dpi}-${Math.random()}`)
  writeFileSync(`${base}.pdf`, pdf)
  execFileSync("pdftoppm", ["-r", String(dpi), "-gray", "-singlefile", `${base}.pdf`, base])
  const bytes = readFileSync(`${base}.pgm`)
  const head = /^P5\s+(\d+)\s+(\d+)\s+255\s/.exec(bytes.subarray(0, 40).toString("latin1")) as RegExpExecArray
  const [wide, high] = [Number(head[1]), Number(head[2])]
  const at = (x: number, y: number) => (bytes[head[0].length + y * wide + x] ?? 255) < 128
  const [across, along] = upright ? [high, wide] : [wide, high]
  return Array.from({ length: across }, (_, line) => {
    const runs: number[] = []
    let length = 0
    let black = false
    for (let n = 0; n < along; n += 1) {
      const now = upright ? at(n, line) : at(line, n)
      if (now === black) length += 1
      else {
        runs.push(length)
        length = 1
        black = now
      }
    }
    return [...runs, length]
  })
}

/** Whether a line of the raster holds a symbol whose every bar and space is exactly so many dots. */
const holds = (lines: readonly number[][], widths: readonly number[], dots: number): boolean => {
  const wanted = widths.map((one) => one * dots).join(" ")
  return lines.some((runs) => {
    const text = runs.slice(1, -1).join(" ")
    return text.includes(wanted) || runs.slice(1, -1).reverse().join(" ").includes(wanted)
  })
}

describe("labels in every form", () => {
  const cases = labelForms.flatMap((form) => [203, 300].map((dpi) => [form, dpi] as const))
  it.each(cases)("%s at %i dpi: both symbols are read, and every bar is a whole number of dots", async (form, dpi) => {
    const pdf = await labelsPdf([{ model, slip }], { form, dpi }, madeAt)
    const { results } = await papers.symbols(pdf, dpi)
    expect(results.map((one) => one.text.replace(/[()]/g, "")).sort()).toEqual([
      "00095212340000480013",
      "LA000000000123",
    ])
    const turned = labelSheets[form].places.some((place) => place.turned)
    const lines = runsOf(pdf, dpi, !turned)
    // 4 and 3 dots of 203 in an inch are 0.50 and 0.38 mm; of 300 they are 6 and 4 (0.51 and 0.34 mm)
    const [gs1, code] = dpi === 203 ? [4, 3] : [6, 4]
    expect(holds(lines, barWidths("gs1-128", `(00)${model.sscc}`), gs1)).toBe(true)
    expect(holds(lines, barWidths("code128", model.trackingNumber), code)).toBe(true)
  })

  // ISO 216 in millimetres, ANSI letter in inches; names by PWG 5101.1
  it.each([
    ["4x6", 288, 432, "na_index-4x6_4x6in"],
    ["letter", 612, 792, "na_letter_8.5x11in"],
    ["half-letter", 612, 792, "na_letter_8.5x11in"],
    ["a4", 595.28, 841.89, "iso_a4_210x297mm"],
    ["a5", 419.53, 595.28, "iso_a5_148x210mm"],
    ["a6", 297.64, 419.53, "iso_a6_105x148mm"],
  ] as const)("%s has the size of its medium", async (form, width, height, media) => {
    const file = join(papers.folder, `${form}.pdf`)
    writeFileSync(file, await labelsPdf([{ model }], { form, dpi: 203 }, madeAt))
    const size = /Page size:\s+([\d.]+) x ([\d.]+)/.exec(execFileSync("pdfinfo", [file]).toString())
    expect(Number(size?.[1])).toBeCloseTo(width, 0)
    expect(Number(size?.[2])).toBeCloseTo(height, 0)
    expect(labelSheets[form].media).toBe(media)
  })

  it("puts two on a sheet of halves, and begins with the free half of one that is begun", async () => {
    expect(sheetsOf("half-letter", 3)).toEqual([[0, 1], [0]])
    expect(sheetsOf("half-letter", 3, true)).toEqual([[1], [0, 1]])
    expect(sheetsOf("4x6", 2, true)).toEqual([[0], [0]])
    const three = [1, 2, 3].map((n) => ({ model: { ...model, packageName: `48254-${n}` } }))
    const on = { form: "half-letter" as LabelForm, dpi: 203 }
    const { pages, results } = await papers.symbols(await labelsPdf(three, on, madeAt), 203)
    expect([pages, results.length]).toEqual([2, 6])
    const begun = await papers.symbols(await labelsPdf(three.slice(0, 2), { ...on, begun: true }, madeAt), 203)
    expect([begun.pages, begun.results.length]).toEqual([2, 4])
  })

  it("has the packing slip below the label, and goes on where it has no room", async () => {
    const on = { form: "letter-slip" as LabelForm, dpi: 203 }
    const words = papers.words(await labelsPdf([{ model, slip }], on, madeAt))
    for (const part of ["48254-2", "SKU-3", "Brewing aid 3", "With thanks"]) expect(words).toContain(part)
    const long = {
      ...slip,
      rows: Array.from({ length: 60 }, (_, at) => ({ ...(slip.rows[0] as SlipModel["rows"][0]), sku: `S-${at}` })),
    }
    const { pages } = await papers.symbols(await labelsPdf([{ model, slip: long }], on, madeAt), 203)
    expect(pages).toBe(2)
    expect(papers.words(await labelsPdf([{ model, slip: long }], on, madeAt))).toContain("S-59")
  })

  it("of several pieces says which it is and the number of all", async () => {
    const pdf = await labelsPdf([{ model: { ...model, master: "LA000000000017" } }], { form: "4x6", dpi: 203 }, madeAt)
    expect(papers.words(pdf)).toMatch(/2 of 5[\s\S]*LA000000000123 +Master +LA000000000017/)
  })

  it("says across a test label that it is none to ship with", async () => {
    const file = join(papers.folder, "test-label.pdf")
    writeFileSync(file, await labelsPdf([{ model: { ...model, test: "Test" } }], { form: "4x6", dpi: 203 }, madeAt))
    expect(execFileSync("pdftotext", ["-raw", file, "-"]).toString().replace(/\s/g, "")).toContain("Test")
  })
})
