import { randomUUID } from "node:crypto"
import { moneyText } from "core/money/index.ts"
import { simpleParser } from "mailparser"
import { changeGroup } from "server/decisions/group.ts"
import { documentBytes } from "server/documents/index.ts"
import { httpCarrier } from "server/gateways/carrier.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { askReturn } from "server/returns/ask.ts"
import { lookForScans, scansAwaited, voidReturn } from "server/returns/book.ts"
import { type ReturnAsk, returnAsk, wholeBack } from "server/returns/goods.ts"
import { returnOffers } from "server/returns/offers.ts"
import { returnsOf } from "server/returns/read.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { reconcile } from "server/shipping/reconcile.ts"
import { askVoid } from "server/shipping/void.ts"
import { tell } from "server/telling/tell.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { type ReturnsAnswer, returnActs } from "../../app/parts/returns.server.ts"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import {
  as,
  askForLabels,
  carrierAt,
  codes,
  fault,
  formOf,
  ledger as ledgerAt,
  openRig,
  type Rig,
  readyToBuy,
  value,
  workAll,
  workOf,
} from "./rig.ts"

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

async function sent(number: string): Promise<number> {
  const { orderId, shipment } = await readyToBuy(rig.context, number)
  await askForLabels(rig.context, orderId, shipment)
  await workAll(rig.db)
  return orderId
}
const offersOf = async (orderId: number, ask: ReturnAsk = wholeBack) => {
  const shipment = there(await shipmentOf(rig.db, orderId))
  return returnOffers(rig.db, await warehouseById(rig.db, 1), shipment, ask, rig.context.now)
}
/** Asks for a label by a service at its price; answers how it stands once the worker has done what waits. */
async function back(
  orderId: number,
  serviceCode: string,
  more: { mailTo?: string; prints?: boolean; ask?: ReturnAsk } = {},
) {
  const offers = value(await offersOf(orderId, more.ask)).offers
  const rate = there(offers.find((one) => one.service.code === serviceCode)?.rate)
  const purchase = {
    serviceCode,
    expected: moneyText(rate.contract),
    prints: more.prints ?? true,
    mailTo: more.mailTo ?? "",
  }
  const key = randomUUID()
  const { returnId } = value(await askReturn(rig.context, orderId, more.ask ?? wholeBack, purchase, key))
  // pressed twice it is one
  expect(value(await askReturn(rig.context, orderId, more.ask ?? wholeBack, purchase, key)).returnId).toBe(returnId)
  await workAll(rig.db)
  return there(await rig.db("return_intent").where({ id: returnId }).first())
}
const labelsOf = (returnId: number) => rig.db("document").where({ return_intent_id: returnId }).orderBy("id")
const ledger = (carrier: string) => ledgerAt(carrierAt(rig, carrier))
const scan = (carrier: string, key: string) =>
  fetch(`${carrierAt(rig, carrier)}/v1/bookings/${key}/scan`, { method: "PUT" })

describe("a label for the way back", () => {
  it("is priced by the tariff's own return services, the zone read from us to where it comes from", async () => {
    const orderId = await sent("RT-1")
    const shipment = there(await shipmentOf(rig.db, orderId))
    const [one] = shipment.packages
    const { offers, preselected } = value(await offersOf(orderId))
    expect(offers.map((offer) => [offer.service.code, offer.rate !== null])).toEqual([
      ["LKR", true],
      ["MDR", true],
    ])
    // the zone of Denver, CO (802) in the chart from Duluth is 5; less 32 % is under the least charge, fuel 15.75 %
    const rate = there(offers[0]?.rate)
    expect([shipment.shipTo.postalCode, rate.zone]).toEqual(["80205", "5"])
    const pounds = Number(there(rate.paid[0]).weight)
    const list = there(rate.charges[0]).list.amount.toNumber()
    expect([pounds > 0, list > 0, there(one).actual.gt(0)]).toEqual([true, true, true])
    const net = Math.max(Math.round(list * 0.68 * 100) / 100, 7.9)
    expect(there(rate.charges[0]).contract.amount.toNumber()).toBe(net)
    expect(rate.contract.amount.toNumber()).toBeCloseTo(net + Math.round(net * 0.1575 * 100) / 100, 6)
    expect(preselected?.service.code).toBe("LKR")
    // out they are no service that anybody could choose
    const { offersFor } = await import("server/shipping/buy.ts")
    const out = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    expect(out.offers.filter((offer) => ["LKR", "MDR"].includes(offer.service.code))).toEqual([])
  })

  it("is booked once, printed with the receiver as sender, and costs when it is scanned", async () => {
    const orderId = await sent("RT-2")
    const shipment = there(await shipmentOf(rig.db, orderId))
    const intent = await back(orderId, "LKR")
    expect([intent.state, intent.paid]).toEqual(["booked", "when-scanned"])
    const [label] = await labelsOf(intent.id)
    expect(label?.name).toBe(`${shipment.orderNumber}-R1.1`)
    const bytes = there(await documentBytes(rig.context, there(label).id)).bytes
    const words = papers.words(bytes)
    expect(words).toContain("RETURN")
    // 60 days from the business day, 24 November 2026
    expect(words).toMatch(/Valid until .*Jan(uary)? 23|Valid until .*2027-01-23/)
    const { results } = await papers.symbols(bytes, 203)
    expect(results.map((one) => one.text)).toEqual([intent.master_tracking])
    expect(
      await rig
        .db("print_job")
        .where({ document_id: there(label).id })
        .pluck("state"),
    ).toEqual(["printed"])
    expect((await ledger("LARK")).filter((one) => one.key === intent.idempotency_key)).toHaveLength(1)
    const due = async () => there((await reconcile(rig.db)).carriers.find((one) => /Larkspur/.test(one.carrier))).amount
    const before = Number(await due())
    await scan("LARK", intent.idempotency_key)
    await lookForScans(rig.db)
    expect(Number(await due()) - before).toBeCloseTo(Number(intent.expected_amount), 6)
    expect((await reconcile(rig.db)).differences).toEqual([])
    expect(there((await returnsOf(rig.db, 1, orderId))[0]).scanned).toBe(true)
    // on its way it can't be made void
    expect(codes(await voidReturn(rig.context, intent.id))).toEqual(["return.scanned"])
  })

  it("that is paid at once counts at once, is e-mailed, and gives its charge back when it is made void", async () => {
    const orderId = await sent("RT-3")
    await rig.db("carrier").where({ code: "MERI" }).update({ prepaid_balance: "500" })
    const intent = await back(orderId, "MDR", { mailTo: "back@example.com", prints: false })
    expect([intent.state, intent.paid]).toEqual(["booked", "at-once"])
    const [label] = await labelsOf(intent.id)
    expect(await rig.db("print_job").where({ document_id: there(label).id })).toEqual([])
    const mail = there(await rig.db("mail").where({ recipient: "back@example.com" }).first())
    expect([mail.subject, mail.state]).toEqual(["Return label for your order RT-3", "sent"])
    const day = there(intent.valid_until)
    expect(mail.body).toMatch(new RegExp(`can be used until \\w+, \\w+ ${Number(day.slice(8))}\\.`))
    const number = new URL(rig.at.mail).searchParams.get("mailbox")
    const list = (await (await fetch(`http://127.0.0.1:${number}/messages`)).json()) as {
      number: number
      to: string[]
    }[]
    const [sentOne] = list.filter((one) => one.to.includes("back@example.com"))
    const source = await (await fetch(`http://127.0.0.1:${number}/messages/${sentOne?.number}.eml`)).text()
    const { attachments } = await simpleParser(source)
    expect(attachments.map((one) => one.contentType)).toEqual(["application/pdf"])
    expect(papers.words(there(attachments[0]).content)).toContain("RETURN")
    const balance = async () => Number(there(await rig.db("carrier").where({ code: "MERI" }).first()).prepaid_balance)
    expect(await balance()).toBeCloseTo(500 - Number(intent.expected_amount), 6)
    // a message that still waits goes with it
    const late = { way: "mail" as const, address: "late@example.com", name: "", language: "en" }
    const told = { return_id: intent.id }
    await tell(rig.db, orderId, "return-label", rig.context.now, { of: "late", to: [late], told })
    const waiting = () => rig.db("customer_message").where({ address: "late@example.com" })
    await waiting().update({ send_after: new Date(rig.context.now.getTime() + 86_400_000) })
    value(await voidReturn(rig.context, intent.id))
    value(await voidReturn(rig.context, intent.id))
    await workAll(rig.db)
    expect(await waiting().pluck("state")).toEqual(["blocked"])
    expect(there(await rig.db("return_intent").where({ id: intent.id }).first()).state).toBe("void")
    expect(await balance()).toBe(500)
    expect(there((await labelsOf(intent.id))[0]).void_at).not.toBeNull()
    await rig.db("carrier").where({ code: "MERI" }).update({ prepaid_balance: null })
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("is for pieces of chosen lines as well, packed as would be suggested, to another address", async () => {
    const orderId = await sent("RT-4")
    const shipment = there(await shipmentOf(rig.db, orderId))
    const line = there(shipment.lines[0])
    const other = {
      to: "other",
      company: "Repair",
      street: "1 Dock Rd",
      city: "Duluth",
      state: "MN",
      postalCode: "55802",
      country: "US",
    }
    const ask = returnAsk.parse({ pieces: { [line.id]: 1 }, ...other })
    const offers = value(await offersOf(orderId, ask))
    // one piece in the smallest carton weighs less than the whole shipment did
    expect(offers.back.packages).toHaveLength(1)
    expect(there(offers.back.packages[0]).weight.gt(line.piece.item.unitWeight)).toBe(true)
    expect(offers.back.goods).toEqual([{ sku: line.sku, pieces: 1 }])
    const intent = await back(orderId, "LKR", { ask })
    const bytes = there((await labelsOf(intent.id))[0]).bytes
    expect(papers.words(bytes)).toContain("1 Dock Rd")
    expect(codes(await offersOf(orderId, returnAsk.parse({ pieces: { [line.id]: line.packed + 1 } })))).toEqual([
      "return.not-sent",
    ])
    expect(codes(await offersOf(orderId, returnAsk.parse({ packages: [99] })))).toEqual(["return.nothing"])
    expect(codes(await offersOf(orderId, returnAsk.parse({ to: "return-to" })))).toEqual(["return.no-address"])
    expect(codes(await offersOf(orderId, returnAsk.parse({ ...other, city: "" })))).toEqual(["return.address-gap"])
  })

  it("goes along with the way out where that was settled, and becomes void with it", async () => {
    const { orderId } = await readyToBuy(rig.context, "RT-5")
    const change = { what: "return-label", label: "print" } as const
    value(await changeGroup(rig.context, await warehouseById(rig.db, 1), randomUUID(), [orderId], change))
    await askForLabels(rig.context, orderId, there(await shipmentOf(rig.db, orderId)))
    await workAll(rig.db)
    const [intent, ...others] = await rig.db("return_intent").where({ order_id: orderId })
    expect([there(intent).state, others]).toEqual(["booked", []])
    expect(
      await rig
        .db("print_job")
        .where({ document_id: there((await labelsOf(there(intent).id))[0]).id })
        .pluck("state"),
    ).toEqual(["printed"])
    value(await askVoid(rig.context, orderId))
    await workAll(rig.db)
    expect(there(await rig.db("return_intent").where({ order_id: orderId }).first()).state).toBe("void")
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("is priced from what is typed; a piece that is no number and a place that is too long are told", async () => {
    const orderId = await sent("RT-FORM")
    const work = await workOf(rig.context)
    const line = there(await rig.db("order_line").where({ order_id: orderId }).first("id")).id
    const ask = (fields: Record<string, string>) =>
      returnActs(work, orderId)["return-price"](work, formOf({ to: "warehouse", prints: "on", mailTo: "", ...fields }))
    const priced = (await ask({ what: "lines", [`back-${line}`]: "1" })) as ReturnsAnswer
    expect(priced.returnPrices?.offers.map((one) => [one.code, one.price !== null])).toEqual([
      ["LKR", true],
      ["MDR", true],
    ])
    const cases: [Record<string, string>, string][] = [
      [{ what: "lines", [`back-${line}`]: "one" }, "whole numbers"],
      [{ what: "lines", [`back-${line}`]: "1e3" }, "whole numbers"],
      [{ what: "lines", [`back-${line}`]: "-1" }, "whole numbers"],
      [{ what: "lines", [`back-${line}`]: "900000" }, "Enter no more than that"],
      [{ what: "lines" }, "Select what comes back"],
      [{ what: "packages" }, "Select what comes back"],
      [{ what: "whole", to: "other", company: "x".repeat(61) }, "too long"],
    ]
    for (const [fields, words] of cases) {
      const { answer } = await ask(fields)
      expect([answer.refused, answer.words]).toEqual([true, expect.stringContaining(words)])
    }
  })

  it("is held against what was asked for as the way out is: an answer for other packages is canceled there", async () => {
    const orderId = await sent("RT-OTHER")
    await fault(carrierAt(rig, "LARK"), "twice", 1)
    const intent = await back(orderId, "LKR")
    expect(intent.state).toBe("differs")
    expect(await labelsOf(intent.id)).toHaveLength(0)
    expect((await ledger("LARK")).find((one) => one.key === intent.idempotency_key)?.state).not.toBe("booked")
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("is asked about for its scan though another carrier does not answer, and no more a month after it ran out", async () => {
    const [first, second] = [await sent("RT-AWAY"), await sent("RT-SCAN")]
    const away = await back(first, "LKR")
    const here = await back(second, "LKR")
    await scan("LARK", here.idempotency_key)
    // the first is at a carrier of whom nothing is heard
    const carriers: string[] = []
    const at = (url: string) => {
      carriers.push(url)
      return httpCarrier(carriers.length === 1 ? "http://127.0.0.1:1/" : url)
    }
    await rig.db("return_intent").whereNotIn("id", [away.id, here.id]).update({ asked_at: rig.context.now })
    const service = there(await rig.db("service").where({ code: "MDR" }).first("id"))
    await rig.db("return_intent").where({ id: away.id }).update({ service_id: service.id })
    await lookForScans(rig.db, at)
    expect(carriers.length).toBeGreaterThan(1)
    const row = (id: number) => rig.db("return_intent").where({ id }).first().then(there)
    expect([(await row(away.id)).scanned_at, (await row(here.id)).scanned_at !== null]).toEqual([null, true])
    await rig.db("return_intent").where({ id: away.id }).update({ service_id: away.service_id })
    // 24 November and 31 days before
    await rig.db("return_intent").where({ id: away.id }).update({ valid_until: "2026-10-24" })
    expect(await scansAwaited(rig.db, rig.context.now).where({ id: away.id }).pluck("id")).toEqual([])
    await rig.db("return_intent").where({ id: away.id }).update({ valid_until: "2026-10-25" })
    expect(await scansAwaited(rig.db, rig.context.now).where({ id: away.id }).pluck("id")).toEqual([away.id])
  })

  it("is booked once where the carrier's answer is lost, and refused in words where it says no", async () => {
    const orderId = await sent("RT-6")
    await fault(carrierAt(rig, "LARK"), "lose-answer", 1)
    const intent = await back(orderId, "LKR")
    await rig
      .db("job")
      .where({ kind: "return.book", state: "waiting" })
      .update({ run_at: new Date(0) })
    await workAll(rig.db)
    expect(there(await rig.db("return_intent").where({ id: intent.id }).first()).state).toBe("booked")
    expect((await ledger("LARK")).filter((one) => one.key === intent.idempotency_key).map((one) => one.state)).toEqual([
      "booked",
    ])
    await fault(carrierAt(rig, "LARK"), "refuse", 1)
    const refusedOne = await back(orderId, "LKR")
    expect(refusedOne.state).toBe("refused")
    expect(
      (await rig.db("audit").where({ order_id: orderId }).pluck("action")).filter((one) => one === "return.none"),
    ).toHaveLength(1)
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("is asked for by who may, here, for what was bought, at the price that was seen", async () => {
    const { orderId } = await readyToBuy(rig.context, "RT-7")
    const purchase = { serviceCode: "LKR", prints: true, mailTo: "" }
    const ask = (context = rig.context, more = {}) =>
      askReturn(context, orderId, wholeBack, { ...purchase, ...more }, randomUUID())
    expect(codes(await ask())).toEqual(["return.not-bought"])
    expect(codes(await ask(as(rig.context, { warehouseId: 2 })))).toEqual(["order.unknown"])
    await expect(ask(as(rig.context, { role: "sales" }))).rejects.toThrow("shipping.buy")
    await askForLabels(rig.context, orderId, there(await shipmentOf(rig.db, orderId)))
    await workAll(rig.db)
    expect(codes(await ask(rig.context, { prints: false }))).toEqual(["return.how"])
    expect(codes(await ask(rig.context, { mailTo: "nobody" }))).toEqual(["papers.no-address"])
    expect(codes(await ask(rig.context, { serviceCode: "LKG" }))).toEqual(["return.service-cannot"])
    expect(codes(await ask(rig.context, { expected: { amount: "1.00", currency: "USD" } }))).toEqual([
      "buy.price-changed",
    ])
    expect(await rig.db("return_intent").where({ order_id: orderId })).toEqual([])
  })
})
