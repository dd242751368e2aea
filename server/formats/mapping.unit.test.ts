import { Readable } from "node:stream"
import { describe, expect, it } from "vitest"
import { guessedMapping, isoDate, mapping, plainNumber } from "./mapping.ts"
import { FileRefused } from "./orderRow.ts"
import { csvSample, readOrdersCsv } from "./ordersCsv.ts"

describe("a date", () => {
  it.each([
    ["24.11.2026", "dmy", "2026-11-24"],
    ["24.11.26", "dmy", "2026-11-24"],
    ["11/24/2026", "mdy", "2026-11-24"],
    ["4/5/26", "mdy", "2026-04-05"],
    ["4/5/26", "dmy", "2026-05-04"],
    ["2026/1/2", "ymd", "2026-01-02"],
    // ISO 8601 is what it is, whatever the order
    ["2026-11-24T08:15:00Z", "dmy", "2026-11-24"],
    ["20261124", "mdy", "2026-11-24"],
    ["24.11.2026 08:15", "dmy", "2026-11-24"],
    ["tomorrow", "dmy", "tomorrow"],
    ["2026.11.24.1", "ymd", "2026.11.24.1"],
  ] as const)("%s by %s is %s", (text, order, expected) => expect(isoDate(text, order)).toBe(expected))
})

describe("a figure", () => {
  it.each([
    ["1.234,50", ",", "1234.50"],
    ["12,5", ",", "12.5"],
    ["1 234,50", ",", "1234.50"],
    ["1,234.50", ".", "1234.50"],
    ["1234.5", ".", "1234.5"],
    // groups of two are no thousands: left for the refusal to show
    ["1,23.5", ".", "1,23.5"],
    ["12,50", ".", "12,50"],
    ["12 USD", ".", "12 USD"],
  ] as const)("%s with %s is %s", (text, decimal, expected) => expect(plainNumber(text, decimal)).toBe(expected))
})

const theirs = mapping.parse({
  columns: {
    order_number: "Auftrag",
    ordered_on: "Datum",
    customer: "Kunde",
    street: "Strasse",
    city: "Ort",
    postal_code: "PLZ",
    sku: "Artikel",
    quantity: "Menge",
    unit: "ME",
    unit_price: "Preis",
  },
  fixed: { country: "DE" },
  references: [
    { column: "Kommission", name: "Commission", printed: true },
    { column: "Kst", name: "Cost centre", printed: false },
  ],
  encoding: "windows-1252",
  dateOrder: "dmy",
  decimal: ",",
  units: { ST: "each", KT: "case" },
})
const file = [
  "Auftrag;Datum;Kunde;Strasse;Ort;PLZ;Artikel;Menge;ME;Preis;Kommission;Kst",
  "A-1;24.11.2026;Brauhaus Weiß;Hafenstr. 9;Würzburg;97070;YST-ALE-500;4,00;st;1.078,50;K 77;4711",
].join("\r\n")
const read = async (text: string, by = theirs) => {
  const rows = []
  for await (const row of readOrdersCsv(Readable.from([Buffer.from(text, "latin1")]), undefined, by)) rows.push(row)
  return rows
}

describe("a source's own file", () => {
  it("is read by its mapping: columns, fixed values, units, dates, figures, encoding, references", async () => {
    const [row] = await read(file)
    expect(row?.refusals).toEqual([])
    expect(row?.row).toMatchObject({
      order_number: "A-1",
      ordered_on: "2026-11-24",
      customer: "Brauhaus Weiß",
      city: "Würzburg",
      country: "DE",
      quantity: 4,
      unit: "each",
      unit_price: "1078.50",
      references: [
        { name: "Commission", value: "K 77", printed: true },
        { name: "Cost centre", value: "4711", printed: false },
      ],
    })
  })
  it("refuses a row with what was written, not with what was made of it", async () => {
    const [row] = await read(file.replace("24.11.2026", "31.11.2026").replace("4,00", "4,5"))
    expect(row?.refusals).toEqual([
      { code: "row.not-a-date", values: { line: "2", field: "ordered_on", value: "2026-11-31" } },
      { code: "row.not-a-quantity", values: { line: "2", field: "quantity", value: "4.5" } },
    ])
  })
  it("is refused when a column that the mapping names is not there", async () => {
    const refusal = await read(file.replace("Kommission", "Komm")).catch((error) => error)
    expect(refusal).toBeInstanceOf(FileRefused)
    expect(refusal.reason).toEqual({ code: "file.columns-missing", values: { columns: "Kommission" } })
  })
  it("shows its header and first rows as they are written", async () => {
    const source = Readable.from([Buffer.from(`${file}\r\n`.repeat(1), "latin1")])
    const sample = await csvSample(source, { encoding: "windows-1252", delimiter: "auto" })
    expect(sample.header).toHaveLength(12)
    expect(sample.rows).toEqual([expect.objectContaining({ Datum: "24.11.2026", Preis: "1.078,50" })])
  })
  it("is guessed from names that such columns often have", () => {
    expect(guessedMapping(["Auftrag", "Datum", "Kunde", "PLZ", "Ort", "Artikel", "Menge", "Farbe"])).toEqual({
      order_number: "Auftrag",
      ordered_on: "Datum",
      customer: "Kunde",
      postal_code: "PLZ",
      city: "Ort",
      sku: "Artikel",
      quantity: "Menge",
    })
  })
})
