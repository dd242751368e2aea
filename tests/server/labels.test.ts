import { randomUUID } from "node:crypto"
import { moneyText } from "core/money/index.ts"
import { documentBytes } from "server/documents/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { isTestNumber } from "server/papers/label.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { mailPapers, papersInForce, printPapers } from "server/shipping/papersOut.ts"
import { printTestLabels } from "server/shipping/testLabel.ts"
import { askFor } from "server/shipping/wishes.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { resolveScan } from "../../app/shell/scan.server.ts"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import { as, codes, openRig, type Rig, readyToBuy, row, value, workAll, workOf } from "./rig.ts"

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
const printsOf = (documentId: number) => rig.db("print_job").where({ document_id: documentId })
const mails = () => rig.db("mail").orderBy("id")
const buyWith = async (number: string, option?: "counter-code", prints = true) => {
  const { orderId, shipment } = await readyToBuy(rig.context, number)
  const asked = option ? value(await askFor(rig.context, orderId, { options: [option] }, randomUUID())) : shipment
  const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), asked, rig.context.now)
  const offer = offers.find((one) => one.service.code === "LKG")
  const expected = moneyText(there(offer?.rate).contract)
  value(await buy(rig.context, orderId, { version: asked.version, serviceCode: "LKG", expected, prints }))
  await workAll(rig.db)
  return orderId
}

describe("a test label", () => {
  it("is printed without a carrier, has no number that can be booked, and is refused wherever it is scanned", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "TL-1")
    const key = randomUUID()
    value(await printTestLabels(rig.context, orderId, "LKG", key))
    value(await printTestLabels(rig.context, orderId, "LKG", key))
    await workAll(rig.db)
    const made = await rig.db("document").where({ order_id: orderId, kind: "test-label" })
    expect(made).toHaveLength(1)
    expect(await printsOf(made[0]?.id ?? 0)).toMatchObject([{ state: "printed" }])
    expect(await rig.db("buy_intent").where({ shipment_id: shipment.id })).toEqual([])
    expect((await shipmentOf(rig.db, orderId))?.state).toBe("open")
    // its one symbol is the number that says what it is; there is no SSCC
    const { results } = await papers.symbols(there(made[0]).bytes, 203)
    expect(results.map((one) => one.text)).toEqual([there(made[0]).name])
    expect(isTestNumber(there(made[0]).name)).toBe(true)
    const scanned = await resolveScan(await workOf(rig.context), there(made[0]).name)
    expect([scanned.fits, scanned.to]).toEqual([false, null])
    expect(scanned.words).toContain("test label")
    expect(codes(await printTestLabels(rig.context, orderId, "NONE", randomUUID()))).toEqual(["buy.service-cannot"])
  })
})

describe("labels that are bought", () => {
  it("without printing are printed when somebody asks, and each printing after the first is on the story", async () => {
    const orderId = await buyWith("LB-1", undefined, false)
    const [label] = await papersInForce(rig.db, orderId)
    expect(label).toMatchObject({ kind: "label", printed: 0, waiting: 0 })
    const id = there(label).id
    const key = randomUUID()
    expect(value(await printPapers(rig.context, orderId, [id], key)).n).toBe(1)
    value(await printPapers(rig.context, orderId, [id], key))
    value(await printPapers(rig.context, orderId, [id], randomUUID()))
    await workAll(rig.db)
    expect((await papersInForce(rig.db, orderId))[0]?.printed).toBe(2)
    const story = await rig.db("audit").where({ order_id: orderId }).orderBy("id").pluck("action")
    expect(story.filter((one) => one.startsWith("paper."))).toEqual(["paper.printed", "paper.reprinted"])
    expect(codes(await printPapers(rig.context, orderId, [], randomUUID()))).toEqual(["papers.choose"])
    expect(codes(await printPapers(as(rig.context, { warehouseId: 2 }), orderId, [id], randomUUID()))).toEqual([
      "papers.choose",
    ])
  })

  it("are sent by e-mail, several as one PDF, once for a key", async () => {
    const orderId = await buyWith("LB-2")
    const all = await papersInForce(rig.db, orderId)
    const ids = all.map((one) => one.id)
    const mail = { to: "dealer@example.com", subject: "Labels", body: "Here they are" }
    const key = randomUUID()
    value(await mailPapers(rig.context, orderId, ids, mail, key))
    value(await mailPapers(rig.context, orderId, ids, mail, key))
    const [sent, ...others] = (await mails()).filter((one) => one.recipient === mail.to)
    expect(others).toEqual([])
    expect(there(sent?.attachment).subarray(0, 5).toString()).toBe("%PDF-")
    expect(codes(await mailPapers(rig.context, orderId, ids, { ...mail, to: "nobody" }, key))).toEqual([
      "papers.no-address",
    ])
    expect(await rig.db("audit").where({ order_id: orderId, action: "paper.mailed" })).toHaveLength(1)
  })

  it("by a code for the carrier's counter: the page has it, and nothing is printed here unasked", async () => {
    const orderId = await buyWith("LB-3", "counter-code")
    const all = await papersInForce(rig.db, orderId)
    expect(all.map((one) => [one.kind, one.printed])).toEqual([
      ["label", 0],
      ["counter-code", 0],
    ])
    const page = there(all.find((one) => one.kind === "counter-code"))
    const bytes = there(await documentBytes(rig.context, page.id)).bytes
    // the page's own barcode, read back, is the code that the carrier gave
    const { results } = await papers.symbols(bytes, 200)
    expect(results.map((one) => one.text)).toContain(page.name)
    expect(papers.words(bytes)).toContain(page.name)
    expect(page.name).toMatch(/^LARK-\d{8}$/)
  })
})

it("the order is of this warehouse, or nothing is known of it", async () => {
  const { orderId } = await readyToBuy(rig.context, "TL-2", row({ order_number: "TL-2" }))
  const elsewhere = as(rig.context, { warehouseId: 2 })
  expect(codes(await printTestLabels(elsewhere, orderId, "LKG", randomUUID()))).toEqual(["order.unknown"])
  await expect(printTestLabels(as(rig.context, { role: "sales" }), orderId, "LKG", "x")).rejects.toThrow("orders.work")
})
