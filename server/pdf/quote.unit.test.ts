import { afterAll, describe, expect, it } from "vitest"
import { readBack } from "../../tests/readBack.ts"
import { type QuoteModel, quotePdf } from "./quote.ts"

const back = readBack()
afterAll(() => back.end())

const model: QuoteModel = {
  number: "Q100042",
  date: "2026-11-24",
  validUntil: "2026-12-08",
  seller: ["Northlake Supply", "400 Canal Park Drive", "Duluth MN 55802"],
  customer: ["Gooseberry Works", "31 Tannin Terrace", "Des Moines IA 50309"],
  goods: ["2 packages, 22 lb, 20 × 15 × 13 in"],
  options: ["signature"],
  currency: "USD",
  services: [
    { name: "Larkspur Parcel, Larkspur Ground", arrives: "2026-11-27 by 18:00", charged: "39.78" },
    { name: "Larkspur Parcel, Larkspur Noon", arrives: "2026-11-25 by 12:00", charged: "171.65" },
  ],
  note: "",
}
const words = async (more: Partial<QuoteModel> = {}) => {
  const text = back.words(await quotePdf({ ...model, ...more }, new Date("2026-11-24T16:42:00Z")))
  // a form feed ends each sheet
  return { text, sheets: text.split("\f").filter((sheet) => sheet.trim()) }
}
const rowsOf = (text: string) => text.split("\n").map((line) => line.trim().replace(/\s{2,}/g, " | "))

describe("the paper of a quote", () => {
  it("says for whom, until when, with what, and each service's charge beside its arrival", async () => {
    const { text, sheets } = await words()
    expect(sheets).toHaveLength(1)
    expect(rowsOf(text)).toEqual(
      expect.arrayContaining([
        "Larkspur Parcel, Larkspur Ground | 2026-11-27 by 18:00 | 39.78",
        "Larkspur Parcel, Larkspur Noon | 2026-11-25 by 12:00 | 171.65",
        "2 packages, 22 lb, 20 × 15 × 13 in",
      ]),
    )
    for (const said of ["Q100042", "Gooseberry Works", "Good until 2026-12-08", "Amounts in USD", "signature"])
      expect(text).toContain(said)
  })
  it("goes on over as many sheets as goods and services need, each with its heads, and loses no line", async () => {
    const goods = Array.from({ length: 200 }, (_, at) => `${at + 1} × ITEM-${at + 1}`)
    const { text, sheets } = await words({ goods })
    // some 660 points of a sheet hold 47 rows of 14 points: 200 rows take five sheets with the head of the first
    expect(sheets).toHaveLength(5)
    for (const one of goods) expect(rowsOf(text)).toContain(one)
    for (const sheet of sheets) expect(sheet).toMatch(/^ *Goods$/m)
    sheets.forEach((sheet, at) => expect(sheet).toContain(`Q100042, sheet ${at + 1}`))
  })
  it("breaks a long note into lines and keeps every word", async () => {
    const note = Array.from({ length: 83 }, (_, at) => `w${String(at).padStart(3, "0")}`).join(" ")
    const { text } = await words({ note })
    const found = text.match(/\bw\d{3}\b/g)
    expect(found).toEqual(note.split(" "))
  })
})
