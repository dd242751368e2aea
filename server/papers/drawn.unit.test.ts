import { execFileSync } from "node:child_process"
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { noDetails } from "core/customs/index.ts"
import { money } from "core/money/index.ts"
import { definitions, type PaperFacts, type PaperKind } from "core/papers/index.ts"
import { mass } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { express, facts, home, line, made, pack, party, phosphoric } from "../../tests/paperSamples.ts"
import { readBack } from "../../tests/readBack.ts"
import { drawPapers, unprintableOn } from "./drawn.ts"

let folder: string
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "varnok-papers-"))
})
afterAll(() => rmSync(folder, { recursive: true }))

const how = (language: string) => ({ language, madeAt: new Date("2026-11-24T16:00:00Z"), picture: null })
/** What an independent reader finds on a paper, blanks taken together. */
function words(bytes: Buffer, order = "-layout"): string {
  writeFileSync(join(folder, "one.pdf"), bytes)
  return execFileSync("pdftotext", [order, join(folder, "one.pdf"), "-"])
    .toString()
    .replace(/\s+/g, " ")
}
const sheets = (bytes: Buffer): number => {
  writeFileSync(join(folder, "one.pdf"), bytes)
  return Number(/Pages:\s+(\d+)/.exec(execFileSync("pdfinfo", [join(folder, "one.pdf")]).toString())?.[1])
}

const long = "Vereinigte Kellerei- und Brauereibedarfsgesellschaft mbH & Co. KG"
/** So many lines, each in a package of its own, with what a shipment must have to need a paper. */
function many(count: number, more: Partial<PaperFacts> = {}): PaperFacts {
  return facts({
    shipTo: { ...facts().shipTo, company: long, attention: "Пивоварня Ёлка" },
    lines: Array.from({ length: count }, (_, at) =>
      line({
        id: at + 1,
        lineNumber: at + 1,
        sku: `SKU-${at + 1}`,
        description: `Goods number ${at + 1} with words enough to go on in a second row of its column`,
        quantity: 2,
        unitValue: new Decimal("1.25"),
        unitNet: mass("0.1", "kg"),
      }),
    ),
    packages: Array.from({ length: count }, (_, at) =>
      pack({
        number: at + 1,
        name: `48217-${at + 1}`,
        gross: mass("1", "kg"),
        contents: [{ line: at + 1, quantity: 2 }],
      }),
    ),
    ...more,
  })
}
const hazard = { ...phosphoric, limitedQuantity: false }
const withHazard = (count: number, more: Partial<PaperFacts>): PaperFacts => {
  const own = many(count, more)
  return { ...own, lines: own.lines.map((one) => ({ ...one, dangerous: hazard })) }
}

/** For each kind a shipment that needs it, and what its last line reads as. */
const cases: Readonly<Record<PaperKind, (count: number) => { facts: PaperFacts; last: string }>> = {
  invoice: (n) => ({ facts: many(n), last: `Goods number ${n} with` }),
  "packing-list": (n) => ({ facts: many(n), last: `48217-${n}` }),
  "postal-declaration": (n) => ({
    facts: many(n, { service: { ...express, mode: "post", postal: "parcel" } }),
    last: `Goods number ${n} with`,
  }),
  "certificate-of-origin": (n) => ({
    facts: many(n, { customs: { ...noDetails, certificateOfOrigin: true } }),
    last: `Goods number ${n} with`,
  }),
  "letter-of-instruction": (n) => ({
    facts: many(n, { service: { ...express, mode: "air", regime: "air" } }),
    last: `Goods number ${n} with`,
  }),
  "dangerous-goods": (n) => ({ facts: withHazard(n, {}), last: `48217-${n}` }),
  "goods-mark": (n) => {
    const own = many(n)
    return {
      facts: { ...own, lines: own.lines.map((one) => ({ ...one, dangerous: phosphoric })) },
      last: `48217-${n}`,
    }
  },
  "bill-of-lading": (n) => {
    const own = withHazard(n, { shipTo: home })
    return {
      facts: { ...own, packages: own.packages.map((one) => ({ ...one, kind: "pallet" as const })) },
      last: `48217-${n}`,
    }
  },
  "pallet-label": (n) => {
    const own = many(n, { shipTo: home })
    return {
      facts: { ...own, packages: own.packages.map((one) => ({ ...one, kind: "pallet" as const })) },
      last: `48217-${n}`,
    }
  },
}

describe.each(Object.keys(cases) as PaperKind[])("a %s", (kind) => {
  it.each([1, 30, 300])(
    "of %i lines says all of them, on as many sheets as it takes",
    async (count) => {
      const { facts: own, last } = cases[kind](count)
      const papers = await drawPapers(own, { ...made, tracking: new Map() }, how("en"))
      const paper = papers.find((one) => one.kind === kind)
      expect(paper).toBeDefined()
      const text = words((paper as NonNullable<typeof paper>).bytes)
      expect(text).toContain(last)
      // nothing is cut, nothing is left out
      expect(text).not.toContain("…")
      if (count === 300) expect(sheets((paper as NonNullable<typeof paper>).bytes)).toBeGreaterThan(2)
      expect(text).not.toMatch(/\{|\}|undefined|NaN|\[object/)
    },
    30_000,
  )
})

it("every kind has a case here, so that a new paper is tried too", () => {
  expect(Object.keys(cases).sort()).toEqual(definitions.map((one) => one.kind).sort())
})

describe("an invoice", () => {
  const of = async (more: Partial<PaperFacts>, language = "en") => {
    const papers = await drawPapers(many(30, more), made, how(language))
    return papers.find((one) => one.kind === "invoice")?.bytes as Buffer
  }
  it("adds up: 30 × 2 × 1.25 = 75.00, in the language of the customer with its numbers and dates", async () => {
    expect(words(await of({}))).toMatch(/Total 75\.00 USD.*Nov 24, 2026/)
    expect(words(await of({}, "de"))).toMatch(/Summe 75,00 USD.*24\.11\.2026/)
    expect(words(await of({}, "fr"))).toMatch(/Total 75,00 USD.*24 nov\. 2026/)
  })
  it("names every party in Latin, Greek or Cyrillic as it is written", async () => {
    const text = words(
      await of({
        parties: {
          importer: { ...party, company: "Ζυθοποιία Αθηνών" },
          buyer: { ...party, company: long },
          notify: { ...party, company: "Пивные дрожжи" },
        },
      }),
      "-raw",
    )
    for (const name of ["Ζυθοποιία Αθηνών", long, "Пивные дрожжи", "Пивоварня Ёлка"]) expect(text).toContain(name)
  })
  it("has bars that read as its number", async () => {
    const reader = readBack()
    try {
      const { results } = await reader.symbols(await of({}), 200)
      expect(results.map((one) => one.text)).toContain("CI-48217")
    } finally {
      reader.end()
    }
  })
  it("totals what is of one code and origin together", async () => {
    const own = many(3)
    const lines = own.lines.map((one, at) => ({ ...one, origin: at === 2 ? "FR" : "BE" }))
    const text = words(await of({ ...own, lines }))
    // two lines of 2.50 and one
    expect(text).toMatch(/2102\.10 BE 4 0\.40 5\.00 2102\.10 FR 2 0\.20 2\.50/)
  })
})

it("a name that is written from the right is told before anything is made, on whatever paper it stands", () => {
  const told = (more: Partial<PaperFacts>) => unprintableOn(facts(more)).map((one) => one.values.signs)
  expect(told({})).toEqual([])
  expect(told({ shipTo: { ...facts().shipTo, company: "مصنع" } })).toEqual(["مصنع"])
  expect(
    told({
      parties: { importer: { ...party, city: "חיפה" } },
      charges: { ...facts().charges, freight: money(1, "USD") },
    }),
  ).toEqual(["חיפה"])
  expect(told({ lines: [line({ description: "啤酒 yeast" })] })).toEqual(["啤酒"])
})

describe("a bill of lading", () => {
  const says = async (limitedQuantity: boolean | null) => {
    const dangerous = limitedQuantity === null ? null : { ...phosphoric, limitedQuantity }
    const own = facts({
      shipTo: home,
      service: { ...express, mode: "freight", handling: "pallet" },
      lines: [line({ dangerous })],
      packages: [
        pack({ on: 2 }),
        pack({ number: 2, name: "48217-2", kind: "pallet", pieces: 1, contents: [], gross: mass("40", "kg") }),
      ],
    })
    const papers = await drawPapers(own, made, how("en"))
    return words(papers.find((one) => one.kind === "bill-of-lading")?.bytes as Buffer)
  }
  it("states that there is no hazardous material only where there is none", async () => {
    const none = "contains no hazardous material"
    const certified = "are properly classified"
    const [plain, limited, full] = [await says(null), await says(true), await says(false)]
    expect([plain, limited, full].map((text) => text.includes(none))).toEqual([true, false, false])
    expect([plain, limited, full].map((text) => text.includes(certified))).toEqual([false, false, true])
    expect(limited).toContain("(UN1805) goes as limited quantity")
  })
})

describe("a mark", () => {
  it("is as large as it must be: 100 mm a side on the label", async () => {
    const papers = await drawPapers(cases["goods-mark"](1).facts, made, how("en"))
    const bytes = papers.find((one) => one.kind === "goods-mark")?.bytes as Buffer
    writeFileSync(join(folder, "one.pdf"), bytes)
    // 254 dots an inch are 10 a millimeter: the label is 1016 wide
    execFileSync("pdftoppm", [
      "-r",
      "254",
      "-gray",
      "-f",
      "1",
      "-l",
      "1",
      join(folder, "one.pdf"),
      join(folder, "mark"),
    ])
    const [name = ""] = readdirSync(folder).filter((one) => /^mark.*\.pgm$/.test(one))
    const file = readFileSync(join(folder, name))
    const [, width, , offset] = header(file)
    const dark = (x: number, y: number) => (file[offset + y * width + x] as number) < 128
    const row = 500
    const xs = Array.from({ length: width }, (_, x) => x).filter((x) => dark(x, row))
    // from the outer edge of one side to that of the other
    expect((xs.at(-1) as number) - (xs[0] as number)).toBeGreaterThan(985)
    expect((xs.at(-1) as number) - (xs[0] as number)).toBeLessThan(1016)
  })
})

/** Width and height of a portable graymap, and where its dots begin. */
function header(file: Buffer): [string, number, number, number] {
  const text = file.subarray(0, 40).toString("latin1")
  const [all = "", kind = "", width = "0", height = "0"] = /^(P5)\s+(\d+)\s+(\d+)\s+\d+\s/.exec(text) ?? []
  return [kind, Number(width), Number(height), all.length]
}
