import { randomUUID } from "node:crypto"
import { simpleParser } from "mailparser"
import { RouterContextProvider } from "react-router"
import { workContext } from "server/http/context.ts"
import { saveDraft, takeDraft } from "server/intake/typed.ts"
import { chargedOf } from "server/packages/charged.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { type QuoteAsked, quoteAsked } from "server/quotes/asked.ts"
import { makeQuote, quoteByNumber, quotes, withdrawQuote } from "server/quotes/index.ts"
import { draftOfQuote } from "server/quotes/order.ts"
import { quoteModel } from "server/quotes/paper.ts"
import { mailQuote, mailsOf } from "server/quotes/send.ts"
import { shipQuote } from "server/quotes/ship.ts"
import { changeCharging, chargingRows, saveCharging } from "server/rating/charging.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { setCharged } from "server/shipping/charged.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { loader as quoteLoader } from "../../app/quotes/quote.tsx"
import { there } from "../../server/db/there.ts"
import {
  as,
  codes,
  openRig,
  orderBySource,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  value,
  workAll,
  workOf,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
  await rig.db("charging_rule").delete()
})
afterAll(() => rig?.drop())

const denver = { street: "1 Any Street", city: "Denver", state: "CO", postalCode: "80205", kind: "business" as const }
const asked = (more: Record<string, unknown> = {}): QuoteAsked =>
  quoteAsked.parse({
    shipTo: denver,
    packages: [{ count: 2, weight: "22", length: "20", width: "15", height: "13" }],
    ...more,
  })
const admin = () => as(rig.context, { role: "administrator" })
const quote = async (number: string) => {
  const found = await quoteByNumber(rig.db, await warehouseById(rig.db, 1), number, rig.context.now)
  if (!found) throw new Error("no quote")
  return found
}
const make = async (more: Record<string, unknown> = {}, key: string = randomUUID()) =>
  quote(value(await makeQuote(rig.context, { asked: asked(more) }, key)).number)

describe("what customers are charged", () => {
  it("is set up by the administrator, kept once, and in the order of the rules", async () => {
    const form = { id: null, version: 0, name: "All plus ten", on: true, body: { from: "contract", percent: "10" } }
    await expect(saveCharging(rig.context, form)).rejects.toThrow("charging.manage")
    const { id } = value(await saveCharging(admin(), form))
    expect(codes(await saveCharging(admin(), { ...form, name: " " }))).toEqual(["charging.no-name"])
    expect(codes(await saveCharging(admin(), { ...form, body: { from: "flat", flat: "a" } }))).toEqual([
      "charging.figure",
    ])
    expect(codes(await saveCharging(admin(), { ...form, id, version: 9, name: "Other" }))).toEqual([
      "charging.changed-meanwhile",
    ])
    const second = value(await saveCharging(admin(), { ...form, name: "Flat", body: { from: "flat", flat: "12.50" } }))
    value(await changeCharging(admin(), second.id, "up"))
    expect((await chargingRows(rig.db)).map((one) => one.name)).toEqual(["Flat", "All plus ten"])
    value(await changeCharging(admin(), second.id, "drop"))
    value(await changeCharging(admin(), second.id, "drop"))
    expect((await chargingRows(rig.db)).map((one) => one.name)).toEqual(["All plus ten"])
  })

  it("is kept with what is bought, and set by hand by the lead with a reason alone", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "CH-1")
    await expect(setCharged(rig.context, orderId, "20", "loyal", randomUUID())).rejects.toThrow("charging.override")
    const lead = as(rig.context, { role: "lead" })
    expect(codes(await setCharged(lead, orderId, "20", " ", randomUUID()))).toEqual(["charging.why-needed"])
    expect(codes(await setCharged(lead, orderId, "2,5", "x", randomUUID()))).toEqual(["charging.figure"])
    const warehouse = await warehouseById(rig.db, 1)
    const of = async () => {
      const now = await shipmentOf(rig.db, orderId)
      if (!now) throw new Error("no shipment")
      const rated = await offersFor(rig.db, warehouse, now, rig.context.now)
      const offer = rated.offers.find((one) => one.service.code === "LKG")
      if (!offer?.rate) throw new Error("no rate")
      return {
        shipment: now,
        contract: offer.rate.contract,
        charged: chargedOf(rated.charging, warehouse, now, offer.service, offer.rate),
      }
    }
    const byRule = await of()
    // 10 % over our cost
    expect(byRule.charged.amount.amount.toFixed(2)).toBe(
      byRule.contract.amount.mul("1.1").toDecimalPlaces(2, 4).toFixed(2),
    )
    value(await setCharged(lead, orderId, "20.00", "loyal", randomUUID()))
    const byHand = await of()
    expect([byHand.charged.amount.amount.toFixed(2), byHand.charged.why[0]?.values.why]).toEqual(["20.00", "loyal"])
    expect(byHand.shipment.version).toBe(shipment.version + 1)
    value(
      await buy(rig.context, orderId, {
        version: byHand.shipment.version,
        serviceCode: "LKG",
        expected: { amount: byHand.contract.amount.toFixed(2), currency: "USD" },
      }),
    )
    await workAll(rig.db)
    const kept = there(await rig.db("shipment").where({ order_id: orderId }).first("charged_amount", "contract_amount"))
    expect([Number(kept.charged_amount), Number(kept.contract_amount)]).toEqual([20, byHand.contract.amount.toNumber()])
    const share = there(await rig.db("order_freight").where({ order_id: orderId }).first("charged_amount"))
    expect(Number(share.charged_amount)).toBe(20)
  })
})

describe("a quote", () => {
  it("says of every service what is charged, or why it can't take it; the same key is the same quote", async () => {
    const key = randomUUID()
    const one = await make({}, key)
    expect((await make({}, key)).id).toBe(one.id)
    expect(one.quoted.services).toHaveLength(31)
    const [best] = one.quoted.services
    expect([best?.best, one.quoted.services.filter((service) => service.best).length]).toEqual([true, 1])
    for (const service of one.quoted.services) {
      expect(service.charged === null).toBe(service.refusals.length > 0)
      // our cost and ten percent, half up
      if (service.charged !== null && service.contract !== null)
        expect(Math.round(Number(service.charged) * 100)).toBe(
          Math.round(Math.round(Number(service.contract) * 100) * 1.1 + 1e-6),
        )
    }
    expect(one.validUntil).toBe("2026-12-08")
    const warehouse = await warehouseById(rig.db, 1)
    const found = async (words: string) =>
      (await quotes(rig.db, warehouse, words, rig.context.now)).map((each) => each.number)
    expect(await found("denver 80205")).toContain(one.number)
    expect(await found("denver nowhere")).toEqual([])
  })

  it("gives the same figures as a shipment of the same goods", async () => {
    const { shipment } = await readyToBuy(rig.context, "Q-2")
    const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    const pack = shipment.packages[0]
    if (!pack) throw new Error("no package")
    const inches = (edge: { div: (by: number) => { toString: () => string } }) =>
      Number(edge.div(25.4).toString()).toFixed(4)
    const one = await make({
      shipTo: {
        ...denver,
        kind: shipment.shipTo.kind,
        state: shipment.shipTo.state,
        postalCode: shipment.shipTo.postalCode,
      },
      packages: [
        {
          weight: Number(pack.actual.div("0.45359237")).toFixed(4),
          length: inches(pack.outer.length),
          width: inches(pack.outer.width),
          height: inches(pack.outer.height),
        },
      ],
    })
    const contract = (code: string) => one.quoted.services.find((service) => service.code === code)?.contract
    for (const code of ["LKG", "LKX", "CVP"])
      expect([code, contract(code)]).toEqual([
        code,
        offers.find((offer) => offer.service.code === code)?.rate?.contract.amount.toFixed(2),
      ])
  })

  it.each([
    ["nothing to send", { packages: [] }, ["quote.nothing"]],
    ["packages and items", { lines: [{ sku: "YST-ALE-500", quantity: 1 }] }, ["quote.both"]],
    ["an item that is not known", { packages: [], lines: [{ sku: "NO-SUCH", quantity: 1 }] }, ["quote.no-item"]],
    ["a postal code that is none", { shipTo: { ...denver, postalCode: "8O205" } }, ["address.postal-code-shape"]],
    ["a customer that is none", { customer: "NOBODY" }, ["quote.no-customer"]],
    [
      "what nobody takes",
      { packages: [{ weight: "99999", length: "999", width: "999", height: "999" }] },
      ["quote.no-service"],
    ],
  ])("is refused for %s", async (_, more, expected) => {
    const outcome = await makeQuote(rig.context, { asked: asked(more) }, randomUUID())
    expect(codes(outcome).slice(0, 1)).toEqual(expected)
  })

  it("of items is packed as they probably would be", async () => {
    const one = await make({ packages: [], lines: [{ sku: "yst-ale-500", quantity: 12 }] })
    expect(one.quoted.services.find((service) => service.code === "LKG")?.charged).toMatch(/^\d+\.\d\d$/)
  })

  it("shows the sales desk what is charged, never what it costs us", async () => {
    const one = await make()
    const read = async (role: "sales" | "clerk") => {
      const context = new RouterContextProvider()
      context.set(workContext, await workOf(as(rig.context, { role })))
      const request = new Request(`http://bench/orders/quotes/${one.number}`)
      return JSON.stringify(await quoteLoader({ params: { number: one.number }, request, context } as never))
    }
    expect(await read("clerk")).toContain('"contract"')
    const sales = await read("sales")
    expect(sales).toContain('"charged"')
    expect(sales).not.toMatch(/contract|margin|"list"/)
  })
})

describe("a quote is used", () => {
  it("for an order that goes there, at the quoted charge, once", async () => {
    const one = await make({ options: ["signature"] })
    expect(quoteModel(await warehouseById(rig.db, 1), one).options).toEqual(["signature"])
    await takeFile(
      rig.context,
      row({ order_number: "QS-1" }),
      row({ order_number: "QS-2", postal_code: "60601", state: "IL", city: "Chicago" }),
    )
    const order = await orderBySource(rig.db, "QS-1")
    const other = await orderBySource(rig.db, "QS-2")
    const use = (number: string, service = "LKG") => shipQuote(rig.context, one.id, number, service)
    expect(codes(await use("99999"))).toEqual(["quote.no-order"])
    expect(codes(await use(other.order_number))).toEqual(["quote.elsewhere"])
    expect(codes(await use(order.order_number, "HLG"))).toEqual(["quote.not-quoted"])
    value(await use(order.order_number))
    value(await use(order.order_number))
    expect(codes(await use(order.order_number, "LKX"))).toEqual(["quote.shipped"])
    const shipment = await shipmentOf(rig.db, order.id)
    const service = there(await rig.db("service").where({ code: "LKG" }).first("id"))
    expect(shipment).toMatchObject({
      wishes: { options: ["signature"] },
      chosenServiceId: service.id,
      chargedByHand: { amount: one.quoted.services.find((each) => each.code === "LKG")?.charged },
    })
    expect((await quote(one.number)).shippedWith).toBe(order.order_number)
    expect(codes(await withdrawQuote(rig.context, one.id))).toEqual(["quote.shipped"])
  })

  it("for what weighs as much as was quoted, a tenth more at most; the lead lets more pass", async () => {
    const one = await make({ packages: [{ weight: "10", length: "12", width: "12", height: "12" }] })
    // an item of 1.15 lb: 9 weigh 10.35 lb, ten 11.5 lb, and 10 lb and a tenth are 11 lb
    await takeFile(
      rig.context,
      row({ order_number: "QS-4", quantity: "10" }),
      row({ order_number: "QS-5", quantity: "9" }),
    )
    const { order_number: heavy } = await orderBySource(rig.db, "QS-4")
    const { order_number: light } = await orderBySource(rig.db, "QS-5")
    const outcome = await shipQuote(rig.context, one.id, heavy, "LKG")
    expect(codes(outcome)).toEqual(["quote.heavier"])
    expect(outcome.ok ? null : outcome.reasons[0]?.values).toMatchObject({ quoted: "10 lb", order: "11.5 lb" })
    expect((await quote(one.number)).state).toBe("open")
    value(await shipQuote(rig.context, one.id, light, "LKG"))
    const other = await make({ packages: [{ weight: "10", length: "12", width: "12", height: "12" }] })
    value(await shipQuote(as(rig.context, { role: "lead" }), other.id, heavy, "LKG"))
  })

  it("for an order that is written for it: customer, place, day and items are in the draft already", async () => {
    const one = await make({
      customer: "SAWALE",
      packages: [],
      lines: [{ sku: "yst-ale-500", quantity: 3 }],
      promisedOn: "2026-12-02",
      note: "ring first",
    })
    const work = await workOf(rig.context)
    const draft = await draftOfQuote(work, one.number)
    expect(draft).toMatchObject({
      quote: one.number,
      customer: one.customer.name,
      street: "1 Any Street",
      postal_code: "80205",
      address_kind: "business",
      promised_on: "2026-12-02",
      ordered_on: "2026-11-24",
      notes: "ring first",
      lines: [{ sku: "YST-ALE-500", quantity: "3", unit: "each", unit_price: "" }],
    })
    expect(await draftOfQuote(work, "Q1")).toBeNull()
    await expect(draftOfQuote(await workOf(as(rig.context, { role: "sales" })), one.number)).rejects.toThrow()
    const id = randomUUID()
    if (!draft) throw new Error("no draft")
    value(await saveDraft(rig.context, id, 0, draft))
    const taken = value(await takeDraft(rig.context, id))
    expect(taken.quote).toBe(one.number)
    // the quote's page waits with the order in its field
    const context = new RouterContextProvider()
    context.set(workContext, work)
    const request = new Request(`http://bench/orders/quotes/${one.number}?orderNumber=${taken.orderNumber}`)
    const page = await quoteLoader({ params: { number: one.number }, request, context } as never)
    expect(page.orderNumber).toBe(taken.orderNumber)
    value(await shipQuote(rig.context, one.id, taken.orderNumber, "LKG"))
    expect((await quote(one.number)).shippedWith).toBe(taken.orderNumber)
  })

  it("not when its time is over, or it was taken back", async () => {
    const one = await make()
    await takeFile(rig.context, row({ order_number: "QS-3" }))
    const { order_number: number } = await orderBySource(rig.db, "QS-3")
    await rig.db("quote").where({ id: one.id }).update({ valid_until: "2026-11-23" })
    expect(codes(await shipQuote(rig.context, one.id, number, "LKG"))).toEqual(["quote.over"])
    value(await withdrawQuote(rig.context, one.id))
    value(await withdrawQuote(rig.context, one.id))
    expect(codes(await shipQuote(rig.context, one.id, number, "LKG"))).toEqual(["quote.withdrawn"])
  })
})

describe("a quote is sent by e-mail", () => {
  const box = () => {
    const { hostname, searchParams } = new URL(rig.at.mail)
    return `http://${hostname}:${searchParams.get("mailbox")}`
  }
  const fault = (name: string | null) =>
    fetch(`${box()}/faults`, { method: "PUT", body: JSON.stringify({ fault: name }) })
  const list = async () => (await (await fetch(`${box()}/messages`)).json()) as { number: number; to: string[] }[]

  it("once, with its paper, after the server was busy", async () => {
    const one = await make()
    expect(codes(await mailQuote(rig.context, one.number, "anna", randomUUID()))).toEqual(["quote.no-address"])
    await fault("busy")
    const key = randomUUID()
    value(await mailQuote(rig.context, one.number, "anna@example.com", key))
    value(await mailQuote(rig.context, one.number, "anna@example.com", key))
    const told = await rig.db("audit").where({ action: "quote.mailed" }).count({ n: "*" }).first()
    expect(Number(told?.n)).toBe(1)
    await workAll(rig.db, 2)
    expect((await mailsOf(rig.context, one.id)).map((mail) => [mail.state, mail.trouble !== null])).toEqual([
      ["waiting", true],
    ])
    await fault(null)
    await workAll(rig.db)
    expect(await mailsOf(rig.context, one.id)).toMatchObject([{ state: "sent", trouble: null }])
    const messages = (await list()).filter((message) => message.to.includes("anna@example.com"))
    expect(messages).toHaveLength(1)
    // read back by an independent parser (RFC 5322, MIME): the paper is attached whole
    const mail = await simpleParser(await (await fetch(`${box()}/messages/${messages[0]?.number}.eml`)).text())
    expect([mail.subject, mail.from?.value[0]?.address]).toEqual([
      `Freight quote ${one.number}`,
      "shipping@northlake.example",
    ])
    expect(mail.text).toContain(`our freight quote ${one.number} is attached. It holds until Tuesday, December 8.`)
    const [paper] = mail.attachments
    expect([paper?.filename, paper?.contentType, paper?.content.subarray(0, 5).toString()]).toEqual([
      `${one.number}.pdf`,
      "application/pdf",
      "%PDF-",
    ])
  })

  it("in the words of its template, in the language of its customer", async () => {
    const customer = there(await rig.db("customer").first("id", "code", "name"))
    await rig.db("customer").where({ id: customer.id }).update({ language: "de" })
    const one = await make({ customer: customer.code })
    value(await mailQuote(rig.context, one.number, "de@example.com", randomUUID()))
    const subject = async () =>
      there(await rig.db("mail").where({ quote_id: one.id }).orderBy("id", "desc").first()).subject
    expect(await subject()).toBe(`Frachtangebot ${one.number}`)
    await rig.db("message_template").insert({
      topic: "quote",
      way: "mail",
      language: "de",
      subject: "{{ quote }} für {{ customer }}",
      body: "Bis {{ valid_until }}",
    })
    value(await mailQuote(rig.context, one.number, "de@example.com", randomUUID()))
    expect(await subject()).toBe(`${one.number} für ${customer.name}`)
  })

  it("and what the server refuses for good is said and not tried again", async () => {
    const one = await make()
    value(await mailQuote(rig.context, one.number, "no@refused.example", randomUUID()))
    await workAll(rig.db, 2)
    expect(await mailsOf(rig.context, one.id)).toMatchObject([
      { state: "refused", trouble: expect.stringContaining("550") },
    ])
  })
})
