import { PDFDocument, PDFName, PDFString, StandardFonts } from "@cantoo/pdf-lib"
import { addOwnPaper, removeOwnPaper } from "server/decisions/ownPapers.ts"
import { documentBytes } from "server/documents/index.ts"
import { type OwnedBy, ownPaperBytes, ownPapersOf, papersToGo } from "server/documents/ownPapers.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import { as, askForLabels, codes, openRig, type Rig, readyToBuy, value, workAll } from "./rig.ts"

let rig: Rig
let papers: ReturnType<typeof readBack>
beforeAll(async () => {
  rig = await openRig()
  papers = readBack()
})
afterAll(async () => {
  papers.end()
  await rig?.drop()
})

interface Made {
  readonly pages?: number
  readonly height?: number
  readonly active?: boolean
}
/** A PDF with words on each page, made by a library that is not the one that makes our papers. */
async function made(words: string, { pages = 1, height = 792, active = false }: Made = {}): Promise<Buffer> {
  const pdf = await PDFDocument.create()
  const font = await pdf.embedFont(StandardFonts.Helvetica)
  for (let at = 0; at < pages; at += 1) {
    const page = pdf.addPage([612, height])
    page.drawText(`${words} ${at + 1}`, { x: 72, y: height - 100, size: 18, font })
    if (!active) continue
    const link = pdf.context.obj({
      Type: "Annot",
      Subtype: "Link",
      Rect: [0, 0, 600, 700],
      A: { Type: "Action", S: "JavaScript", JS: PDFString.of("app.alert(1)") },
    })
    page.node.set(PDFName.of("Annots"), pdf.context.obj([pdf.context.register(link)]))
    page.node.set(PDFName.of("AA"), pdf.context.obj({ O: { S: "JavaScript", JS: PDFString.of("app.alert(2)") } }))
  }
  if (active) {
    pdf.addJavaScript("main", "app.alert(3)")
    const field = pdf.getForm().createTextField("note")
    field.setText("typed in the form")
    field.addToPage(pdf.getPage(0), { x: 72, y: 300, width: 300, height: 40 })
  }
  return Buffer.from(await pdf.save({ useObjectStreams: false }))
}
const lead = () => as(rig.context, { role: "lead" })
const add = (of: OwnedBy, bytes: Uint8Array, name = "paper.pdf") => addOwnPaper(lead(), of, { name, bytes })

describe("a paper of one's own", () => {
  it("is printed with each shipment of its order, of its customer and of its item, once for each", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "OP-1")
    const line = there(await rig.db("order_line").where({ order_id: orderId }).first())
    const customer = there(await rig.db("customer").first("id")).id
    await rig.db("sales_order").where({ id: orderId }).update({ customer_id: customer })
    value(
      await add({ owner: "item", id: line.item_id }, await made("handling sheet", { pages: 2 }), "Handling sheet.PDF"),
    )
    value(await add({ owner: "customer", id: customer }, await made("terms")))
    value(await add({ owner: "order", id: orderId }, await made("greeting"), 'C:\\grüße "1"\r\n.pdf'))
    await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    const kept = await rig.db("document").where({ order_id: orderId, kind: "own-paper" }).orderBy("id")
    expect(kept.map((one) => one.name)).toEqual(["grue 1", "paper", "Handling sheet"])
    const words = []
    for (const one of kept) words.push(papers.words(there(await documentBytes(rig.context, one.id)).bytes).trim())
    expect(words.map((one) => one.split(/\s+\d/)[0])).toEqual(["greeting", "terms", "handling sheet"])
    const prints = await rig
      .db("print_job")
      .whereIn(
        "document_id",
        kept.map((one) => one.id),
      )
      .pluck("state")
    expect(prints).toEqual(["printed", "printed", "printed"])
    // removed, it goes with no other shipment; what was printed of it can still be looked at
    const [own] = await ownPapersOf(rig.db, "order", [orderId])
    value(await removeOwnPaper(rig.context, { owner: "order", id: orderId }, there(own).id))
    expect(await papersToGo(rig.db, [orderId], [])).toMatchObject([{ name: "paper" }])
    expect(papers.words(there(await documentBytes(rig.context, there(kept[0]).id)).bytes)).toContain("greeting")
    expect(
      (await rig.db("audit").where({ order_id: orderId }).pluck("action")).filter((one) => /^own/.test(one)),
    ).toEqual(["own-paper.added", "own-paper.removed"])
  })

  it("keeps its pages and what is filled in, and leaves everything that could act behind", async () => {
    const { orderId } = await readyToBuy(rig.context, "OP-2")
    const bytes = await made("read me", { pages: 2, active: true })
    expect(bytes.toString("latin1")).toContain("JavaScript")
    value(await add({ owner: "order", id: orderId }, bytes))
    const [own] = await ownPapersOf(rig.db, "order", [orderId])
    expect(own).toMatchObject({ name: "paper", pages: 2 })
    const kept = there(await ownPaperBytes(rig.context, there(own).id)).bytes
    expect(papers.words(kept)).toMatch(/read me 1[\s\S]*read me 2/)
    expect(papers.words(kept)).toContain("typed in the form")
    const read = await PDFDocument.load(kept)
    const objects = read.context.enumerateIndirectObjects().map(([, one]) => one.toString())
    expect(objects.filter((one) => /JavaScript|\/Annots|\/AA\b|\/OpenAction|\/AcroForm/.test(one))).toEqual([])
    // the same file once more is the same paper
    value(await add({ owner: "order", id: orderId }, bytes))
    expect(await ownPapersOf(rig.db, "order", [orderId])).toHaveLength(1)
  })

  it("is refused in words where it is no PDF, locked, too large, too long, or unpacks to too much", async () => {
    const { orderId } = await readyToBuy(rig.context, "OP-3")
    const of = { owner: "order", id: orderId } as const
    const whole = await made("cut")
    const locked = await PDFDocument.load(await made("secret"))
    locked.encrypt({ userPassword: "a", ownerPassword: "b" })
    const { deflateSync } = await import("node:zlib")
    const bomb = deflateSync(Buffer.alloc(120 * 1024 * 1024))
    const head = "%PDF-1.5\n1 0 obj<</Type/ObjStm/N 1/First 4/Filter/FlateDecode>>stream\n"
    const cases: readonly (readonly [Buffer, string])[] = [
      [Buffer.from("hello"), "own-paper.no-pdf"],
      [Buffer.alloc(0), "own-paper.no-pdf"],
      [Buffer.from("%PDF-1.7\nnothing more"), "own-paper.no-pdf"],
      [whole.subarray(0, 200), "own-paper.no-pdf"],
      [Buffer.from(await locked.save()), "own-paper.locked"],
      [Buffer.concat([whole, Buffer.alloc(5 * 1024 * 1024)]), "own-paper.too-large"],
      [await made("long", { pages: 21 }), "own-paper.too-many-pages"],
      [await made("tall", { height: 14 * 72 + 72 }), "own-paper.too-large-page"],
      [Buffer.concat([Buffer.from(head), bomb, Buffer.from("\nendstream endobj")]), "own-paper.too-dense"],
      // packed twice over, in the spelling that a name may have (ISO 32000-1, 7.3.5: #61 is a)
      [
        Buffer.concat([whole, Buffer.from("\n9 0 obj<</Filter[/FlateDecode\n/Fl#61teDecode]>>")]),
        "own-paper.too-dense",
      ],
      // a list that is opened over and over and closed nowhere
      [Buffer.concat([Buffer.from("%PDF-1.7\n"), Buffer.from("/Filter[ ".repeat(10_000))]), "own-paper.no-pdf"],
    ]
    for (const [bytes, code] of cases) expect(codes(await add(of, bytes))).toEqual([code])
    // one that the reader is at for twenty seconds is given up, and the next is read
    const slow = Buffer.from(`%PDF-1.7\n${"/Filter[ ".repeat(500_000)}`)
    expect(codes(await addOwnPaper(lead(), of, { name: "slow.pdf", bytes: slow }, 300))).toEqual([
      "own-paper.too-dense",
    ])
    expect(await ownPapersOf(rig.db, "order", [orderId])).toEqual([])
    for (let at = 0; at < 5; at += 1) value(await add(of, await made(`number ${at}`)))
    expect(codes(await add(of, await made("one more")))).toEqual(["own-paper.too-many"])
  })

  it("of an order elsewhere is not there, and who may not attach does not", async () => {
    const { orderId } = await readyToBuy(rig.context, "OP-4")
    value(await add({ owner: "order", id: orderId }, await made("ours")))
    const [own] = await ownPapersOf(rig.db, "order", [orderId])
    const elsewhere = as(rig.context, { warehouseId: 2 })
    const of = { owner: "order", id: orderId } as const
    expect(await ownPaperBytes(elsewhere, there(own).id)).toBeUndefined()
    expect(codes(await removeOwnPaper(elsewhere, of, there(own).id))).toEqual(["own-paper.gone"])
    expect(codes(await addOwnPaper(elsewhere, of, { name: "x.pdf", bytes: await made("x") }))).toEqual([
      "own-paper.no-owner",
    ])
    const sales = as(rig.context, { role: "sales" })
    await expect(addOwnPaper(sales, of, { name: "x.pdf", bytes: Buffer.alloc(1) })).rejects.toThrow("orders.work")
    const clerk = as(rig.context, { role: "clerk" })
    await expect(
      addOwnPaper(clerk, { owner: "customer", id: 1 }, { name: "x.pdf", bytes: Buffer.alloc(1) }),
    ).rejects.toThrow("customers.manage")
    // a paper of this order is not removed as if it were another's
    const customer = there(await rig.db("customer").first("id")).id
    expect(codes(await removeOwnPaper(lead(), { owner: "customer", id: customer }, there(own).id))).toEqual([
      "own-paper.gone",
    ])
  })
})
