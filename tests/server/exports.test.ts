import { execFileSync } from "node:child_process"
import { randomUUID } from "node:crypto"
import { writeFileSync } from "node:fs"
import { join } from "node:path"
import { PDFDocument, StandardFonts } from "@cantoo/pdf-lib"
import type { OrderId } from "core/ids/index.ts"
import { PNG } from "pngjs"
import { splitShipment } from "server/decisions/apart.ts"
import { saveCustoms, saveLineCustoms } from "server/decisions/customs.ts"
import { addOwnPaper } from "server/decisions/ownPapers.ts"
import { documentBytes } from "server/documents/index.ts"
import { customsDetailsOf } from "server/orders/customs.ts"
import { partsOf } from "server/orders/parts.ts"
import { addPackage, closePackages, openShipment, putIn } from "server/packing/index.ts"
import { hasSignature, saveShipper, saveSignature } from "server/papers/setUp.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { answerForm } from "../../app/shell/acts.server.ts"
import { shipmentActs } from "../../app/shipment/shipmentActions.server.ts"
import { there } from "../../server/db/there.ts"
import {
  as,
  codes,
  formOf,
  openRig,
  packed,
  pickAll,
  type Rig,
  takeWith,
  tryToBuy,
  value,
  workAll,
  workOf,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

/** An order to Bremen, on terms that name the freight. */
async function take(number: string, quantity: number): Promise<OrderId> {
  const fields = {
    order_number: number,
    customer: "Nordhefe Kontor",
    street: "Speicherzeile 31",
    city: "Bremen",
    state: "",
    postal_code: "28195",
    country: "DE",
    quantity: String(quantity),
  }
  const terms = { incoterm: "CPT", incoterm_place: "Bremen", phone: "+49 421 5550177" }
  return (await takeWith(rig.context, fields, terms)).id
}

/** Buys what is closed, and answers the papers kept of it, by kind. */
async function bought(orderId: OrderId): Promise<Map<string, Buffer>> {
  value(await tryToBuy(rig.context, orderId, "MDW"))
  await workAll(rig.db)
  const rows = await rig.db("document").where({ order_id: orderId }).whereNull("void_at").select("id", "kind")
  const papers = new Map<string, Buffer>()
  for (const one of rows) papers.set(one.kind, there(await documentBytes(rig.context, one.id)).bytes)
  return papers
}

function told(tool: string, words: readonly string[], bytes: Buffer | undefined): string {
  const file = join(rig.folder, `${randomUUID()}.pdf`)
  writeFileSync(file, there(bytes))
  return execFileSync(
    tool,
    words.map((one) => (one === "FILE" ? file : one)),
  ).toString()
}
const text = (bytes: Buffer | undefined) => told("pdftotext", ["-layout", "FILE", "-"], bytes)
/** The amount at the end of a row of an invoice in German, in cents. */
const cents = (invoice: string, rowOf: string): number =>
  Number(new RegExp(`${rowOf}\\s.*?(\\d+),(\\d\\d)(?: USD)?\\s*\\n`).exec(invoice)?.slice(1).join(""))

it("the invoices of an order in parts add up to the order, goods and freight to the cent", async () => {
  const orderId = await take("X-1", 2)
  value(await saveCustoms(rig.context, orderId, { details: { freight: "10.01" } }))
  await pickAll(rig.context, orderId)
  const shipment = value(await openShipment(rig.context, orderId))
  const line = there(shipment.lines[0])
  // two at 0.335: 0.67 in all, but 0.34 for each alone
  value(
    await saveLineCustoms(rig.context, orderId, { ...line.said, unit: "", line: line.id, value: "0.335", keep: false }),
  )
  for (const carton of [1, 2]) {
    value(await addPackage(rig.context, orderId, "K12"))
    value(
      await putIn(rig.context, orderId, {
        package: carton,
        lineId: line.id,
        quantity: 1,
        scanned: true,
        scanId: randomUUID(),
      }),
    )
  }
  value(await splitShipment(rig.context, orderId, [2]))
  const parts = await partsOf(rig.db, orderId)
  expect(parts).toHaveLength(2)
  const invoices: string[] = []
  for (const part of parts) {
    value(await closePackages(rig.context, part.id))
    invoices.push(text((await bought(part.id)).get("invoice")))
  }
  expect(invoices.map((one) => cents(one, "Waren"))).toEqual([34, 33])
  const freights = invoices.map((one) => cents(one, "Fracht"))
  expect(freights.reduce((sum, one) => sum + one)).toBe(1001)
  for (const one of freights) expect(Math.abs(one - 500.5)).toBeLessThan(12)
  // each says its own sum
  expect(invoices.map((one) => cents(one, "Summe"))).toEqual([34 + (freights[0] ?? 0), 33 + (freights[1] ?? 0)])
})

it("an invoice of one's own goes instead of ours, once it is attached", async () => {
  const orderId = await take("X-2", 4)
  value(await saveCustoms(rig.context, orderId, { details: { ownInvoice: true } }))
  const stops = () => rig.db("order_stop").where({ order_id: orderId }).pluck("code")
  expect(await stops()).toEqual(["customs.nothing-attached"])
  const pdf = await PDFDocument.create()
  pdf
    .addPage([612, 792])
    .drawText("Rechnung 4711", { x: 72, y: 700, font: await pdf.embedFont(StandardFonts.Helvetica) })
  value(
    await addOwnPaper(
      as(rig.context, { role: "lead" }),
      { owner: "order", id: orderId },
      {
        name: "Rechnung 4711.pdf",
        bytes: await pdf.save(),
      },
    ),
  )
  expect(await stops()).toEqual([])
  await packed(rig.context, "X-2")
  const papers = await bought(orderId)
  expect(text(papers.get("own-paper"))).toContain("Rechnung 4711")
  expect(papers.has("invoice")).toBe(false)
  expect(papers.has("packing-list")).toBe(true)
})

it("two who fill in customs details at once keep each other's: what nobody changed in a form stays as it is stored", async () => {
  const orderId = await take("X-5", 4)
  const work = await workOf(rig.context)
  const send = (fields: Record<string, string>) =>
    answerForm(
      formOf({ intent: "customs", form: "customs-form", purpose: "sale", ...fields }),
      work,
      shipmentActs(work, orderId),
    )
  // both forms were shown before either was sent, so that each brings the other's fields empty
  const first = await send({
    incoterm: "DAP",
    incoterm_place: "Bremen",
    remarks: "keep cold",
    changed: "incoterm remarks",
  })
  expect(first.answer.refused).toBe(false)
  const second = await send({ incoterm: "CPT", receiverEori: "DE1234567", remarks: "", changed: "receiverEori" })
  expect(second.answer.refused).toBe(false)
  const order = there(await rig.db("sales_order").where({ id: orderId }).first())
  expect([order.incoterm, order.incoterm_place, order.phone]).toEqual(["DAP", "Bremen", "+49 421 5550177"])
  expect((await customsDetailsOf(rig.db, [order])).get(orderId)).toMatchObject({
    remarks: "keep cold",
    receiverEori: "DE1234567",
  })
  // a browser without scripts can't tell what was changed: what it sends is meant
  await send({ incoterm: "DAP", incoterm_place: "Bremen", phone: "+49 421 5550177", remarks: "" })
  expect((await customsDetailsOf(rig.db, [order])).get(orderId)).toMatchObject({ remarks: "", receiverEori: "" })
})

it("a signature's picture stands on papers that its owner signs, and on nobody else's", async () => {
  const picture = PNG.sync.write(new PNG({ width: 200, height: 60 }))
  const admin = as(rig.context, { role: "administrator" })
  await expect(saveSignature(rig.context, picture)).rejects.toThrow("not allowed")
  value(await saveSignature(admin, null))
  expect(codes(await saveSignature(admin, Buffer.from("a picture")))).toEqual(["signature.kind"])
  expect(await hasSignature(admin)).toBe(false)
  value(await saveSignature(admin, picture))
  expect(await hasSignature(admin)).toBe(true)
  const imagesOn = async (number: string) => {
    const orderId = await take(number, 4)
    await packed(rig.context, number)
    return told("pdfimages", ["-list", "FILE"], (await bought(orderId)).get("invoice"))
  }
  expect(await imagesOn("X-3")).toMatch(/image\s+200\s+60/)
  // nobody is named: whoever buys signs by hand
  const { shipper } = await warehouseById(rig.db, 1)
  const { version } = there(await rig.db("warehouse").where({ id: 1 }).first("version"))
  value(await saveShipper(admin, { ...shipper, signer: "", version }))
  expect(await imagesOn("X-4")).not.toContain("image")
})
