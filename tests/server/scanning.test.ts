import { randomUUID } from "node:crypto"
import { action as dockAction } from "app/dock/dock.tsx"
import { resolveScan } from "app/shell/scan.server.ts"
import { RouterContextProvider } from "react-router"
import { load } from "server/dock/load.ts"
import { workContext } from "server/http/context.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { byCode } from "server/papers/byCode.ts"
import { quoteAsked } from "server/quotes/asked.ts"
import { makeQuote } from "server/quotes/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  closeDoor,
  formOf,
  openRig,
  type Rig,
  readyToBuy,
  row,
  value,
  workAll,
  workOf,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const to = async (text: string, context = rig.context) => (await resolveScan(await workOf(context), text)).to
async function labelled(number: string, more: Record<string, string> = {}) {
  const { orderId, shipment } = await readyToBuy(
    rig.context,
    number,
    row({ order_number: number, po_number: `PO ${number}`, ...more }),
  )
  await askForLabels(rig.context, orderId, shipment, more.country === "CA" ? "LKC" : "LKG")
  await workAll(rig.db)
  const bought = await shipmentOf(rig.db, orderId)
  if (!bought?.collectionId) throw new Error("not bought")
  return { ...bought, collectionId: bought.collectionId }
}

describe("every code on a paper", () => {
  it("of a label opens its package: tracking, SSCC, name; and its order by our number, its source's and the customer's", async () => {
    const one = await labelled("SC-1")
    const [pack] = one.packages
    const door = `/dock/${one.collectionId}`
    expect(pack?.tracking).toBeTruthy()
    for (const code of [
      pack?.tracking,
      one.masterTracking,
      `00${pack?.sscc}`,
      `(00)${pack?.sscc}`,
      `${one.orderNumber}-1`,
    ])
      expect(await to(code as string)).toBe(door)
    for (const code of [one.orderNumber, "SC-1", "PO SC-1"]) expect(await to(code)).toBe(`/shipment/${one.orderNumber}`)
    // a source's number compares byte by byte
    expect(await to("sc-1")).toBeNull()
    // the sales desk sees the order
    expect(await to(pack?.tracking as string, as(rig.context, { role: "sales" }))).toBe(`/orders/${one.orderNumber}`)
    // another warehouse knows nothing of it
    const reno = as(rig.context, { warehouseId: 2 })
    for (const code of [pack?.tracking as string, one.orderNumber, "SC-1", `${one.orderNumber}-1`])
      expect(await to(code, reno)).toBeNull()
  })

  it("of several orders of one purchase order opens the list", async () => {
    await labelled("SC-2", { po_number: "SHARED-7" })
    await labelled("SC-3", { po_number: "SHARED-7", customer: "Prairie Cellars" })
    expect(await to("SHARED-7")).toBe("/orders?find=SHARED-7")
  })

  it("of an invoice, a quote, a bin and a manifest opens what it is of; a manifest of a day before too", async () => {
    const one = await labelled("SC-4")
    await rig.db("document").insert({
      warehouse_id: 1,
      kind: "invoice",
      name: `CI-${one.orderNumber}`,
      media: "application/pdf",
      sha256: "0".repeat(64),
      bytes: Buffer.from("x"),
      made_at: rig.context.now,
      order_id: one.orderId,
    })
    expect(await to(`CI-${one.orderNumber}`)).toBe(`/orders/${one.orderNumber}`)
    expect(await to(`ci-${one.orderNumber}`)).toBe(`/orders/${one.orderNumber}`)
    const asked = quoteAsked.parse({
      shipTo: { postalCode: "80205", state: "CO", kind: "business" },
      packages: [{ weight: "20", length: "12", width: "12", height: "12" }],
    })
    const quote = value(await makeQuote(rig.context, { asked }, randomUUID()))
    expect(await to(quote.number)).toBe(`/orders/quotes/${quote.number}`)
    const [bin] = await rig.db("bin").where({ warehouse_id: 1 }).limit(1).pluck("code")
    expect(await to(bin as string)).toBe(`/set-up/stock?find=${encodeURIComponent(bin as string)}`)
    const waiting = await rig.db("package").where({ collection_id: one.collectionId, state: "labelled" })
    for (const pack of waiting)
      value(await load(rig.context, one.collectionId, { sscc: there(pack.sscc) }, randomUUID()))
    const {
      numbers: [manifestNumber = ""],
    } = await closeDoor(rig.context, one.collectionId, waiting.length)
    expect(await to(manifestNumber)).toBe(`/dock/${one.collectionId}`)
    expect(await byCode(rig.db, 2, manifestNumber)).toBeNull()
  })

  it("of the tracking puts the package on the truck at the dock", async () => {
    const one = await labelled("SC-5", { promised_on: "" })
    const context = new RouterContextProvider()
    context.set(workContext, await workOf(rig.context))
    const body = formOf({ text: one.packages[0]?.tracking ?? "", collection: one.collectionId, scanId: randomUUID() })
    const request = new Request("http://bench/dock", { method: "POST", body })
    const answer = (await dockAction({ request, context, params: {} } as never)) as {
      answer: { words: string; refused: boolean }
    }
    expect(answer.answer).toMatchObject({ refused: false, words: `${one.orderNumber}-1 is on the truck` })
    expect((await shipmentOf(rig.db, one.orderId))?.packages[0]?.state).toBe("on-truck")
  })

  it("of a case says how many pieces it is", async () => {
    const level = there(
      await rig.db("item_level").where("quantity", ">", 1).whereNotNull("gtin").first("gtin", "name", "quantity"),
    )
    const found = await resolveScan(await workOf(rig.context), there(level.gtin))
    expect(found.words).toContain(`${level.name} of ${level.quantity}`)
  })
})
