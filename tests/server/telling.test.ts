import { once } from "node:events"
import type { AddressInfo } from "node:net"
import { instantAt } from "core/calendar/index.ts"
import { topics, ways } from "core/telling/index.ts"
import express from "express"
import { simpleParser } from "mailparser"
import pino from "pino"
import { setBusinessNow } from "server/clock/index.ts"
import { visitLimit } from "server/http/visitLimit.ts"
import { sendWaiting } from "server/mail/index.ts"
import { partyForm } from "server/orders/parties.ts"
import { mailPapers } from "server/shipping/papersOut.ts"
import { allowAgain, block, eraseAddress, unsubscribe } from "server/telling/blocks.ts"
import { listenForBounces } from "server/telling/bounces.ts"
import { defaultTemplate } from "server/telling/defaults.ts"
import { askToTell } from "server/telling/jobs.ts"
import { linkOf, receiverToken, unsubscribed } from "server/telling/links.ts"
import { messagesOf, tellAgain, waitingCounts } from "server/telling/list.ts"
import {
  contactForm,
  orderTellingForm,
  previewTemplate,
  sampleOrder,
  saveContact,
  saveOrderTelling,
  saveTelling,
  saveTemplate,
  tellingForm,
  tellingOf,
  tellReady,
  templateForm,
  testTemplate,
} from "server/telling/manage.ts"
import { checkTemplate } from "server/telling/render.ts"
import { sendMessages } from "server/telling/send.ts"
import { tell } from "server/telling/tell.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { paperLanguages } from "words/papers.ts"
import { there } from "../../server/db/there.ts"
import { expectStructure, readEdifact, segmentsOf } from "../readEdifact.ts"
import { labelledOn, pulled, type Shipped, scanned, shipped } from "./followed.ts"
import { as, closeDoor, codes, fault, openRig, orderBySource, type Rig, row, takeFile, value, workAll } from "./rig.ts"

let rig: Rig
let customer = 0
beforeAll(async () => {
  process.env.VARNOK_PUBLIC_URL = "https://ship.northlake.example"
  rig = await openRig()
  const name = "Elk Run Taproom"
  customer = there(await rig.db("customer").where({ name }).first("id")).id
})
afterAll(async () => {
  delete process.env.VARNOK_PUBLIC_URL
  await rig?.drop()
})

const lead = () => as(rig.context, { role: "lead" })
const contact = (more: object) =>
  saveContact(lead(), customer, contactForm.parse({ role: "receiving", way: "mail", topics: [...topics], ...more }))
const box = async () => {
  const at = `http://127.0.0.1:${new URL(rig.at.mail).searchParams.get("mailbox")}`
  const list = (await (await fetch(`${at}/messages`)).json()) as { number: number; to: string[]; from: string }[]
  return Promise.all(
    list.map(async (one) => ({
      ...one,
      mail: await simpleParser(Buffer.from(await (await fetch(`${at}/messages/${one.number}.eml`)).arrayBuffer())),
    })),
  )
}
const mailboxFault = (name: string | null) =>
  fault(`http://127.0.0.1:${new URL(rig.at.mail).searchParams.get("mailbox")}`, name)
const texts = async () => (await (await fetch(rig.at.text)).json()) as { to: string; text: string }[]
const denver = { street: "14 Growler Row", city: "Denver", state: "CO", postal_code: "80205" }

describe("messages to customers", () => {
  it("bring the ship notice along where the order says so, with what left and nothing before", async () => {
    const one = await labelledOn(rig, "TL-DES", "LKG", denver)
    const said = orderTellingForm.parse({ more: "edi@notice.example", attach: ["desadv", "passwd"] })
    value(await saveOrderTelling(rig.context, one.orderId, said))
    await leaveWith(one)
    const mine = (await box()).filter((mail) => mail.to.includes("edi@notice.example"))
    expect(mine.map((each) => each.mail.subject)).toEqual(["Your order TL-DES is on its way"])
    const [notice] = there(mine[0]).mail.attachments
    expect(there(notice).filename).toMatch(/^DESADV-M\d{8}\.edi$/)
    // read and held against the directory's segment table by an independent reader
    const found = readEdifact(there(notice).content.toString("latin1"))
    expectStructure(found, "DESADV")
    // two who set it at once, each something else, keep each other's
    value(await saveOrderTelling(rig.context, one.orderId, { note: "Ring twice." }))
    value(await saveOrderTelling(rig.context, one.orderId, { thanks: true }))
    expect(there(await rig.db("order_telling").where({ order_id: one.orderId }).first())).toMatchObject({
      note: "Ring twice.",
      thanks: 1,
      attach: ["desadv"],
    })
    // four pieces went out
    expect(segmentsOf(found, "QTY").map(([quantity]) => quantity?.[1])).toEqual(["4"])
  })

  it("go to each who is to be told, once, in words of his language, with the receiver's own page", async () => {
    value(await contact({ address: "dock@elkrun.example", name: "Ida", topics: ["left", "delivered"] }))
    value(await contact({ address: "einkauf@elkrun.example", language: "de", topics: ["left"] }))
    expect(codes(await contact({ address: "nobody" }))).toEqual(["tell.no-mail"])
    expect(codes(await contact({ way: "text", address: "call me" }))).toEqual(["tell.no-phone"])
    await expect(
      saveContact(rig.context, customer, contactForm.parse({ role: "billing", way: "mail" })),
    ).rejects.toThrow("not allowed")
    // thirty at most, of whom each can still be changed
    const many = await rig.db("customer").whereNot({ id: customer }).first("id")
    const to = (n: number) =>
      saveContact(
        lead(),
        there(many).id,
        contactForm.parse({ role: "billing", way: "mail", address: `n${n}@many.example`, topics: ["left"] }),
      )
    for (let n = 1; n <= 30; n += 1) value(await to(n))
    expect(codes(await to(31))).toEqual(["tell.many-contacts"])
    value(await to(30))
    await rig
      .db("customer_contact")
      .where({ customer_id: there(many).id })
      .delete()
    const one = await labelledOn(rig, "TL-1", "LKG", denver)
    value(
      await saveOrderTelling(
        rig.context,
        one.orderId,
        orderTellingForm.parse({
          note: "The <script>alert(1)</script> valve is in carton 1.\nMaren",
          thanks: "on",
          more: "+1 218 555 0199",
        }),
      ),
    )
    expect(codes(await saveOrderTelling(rig.context, one.orderId, orderTellingForm.parse({ more: "a@b" })))).toEqual([
      "tell.named-mail",
    ])
    expect(
      codes(await saveOrderTelling(as(rig.context, { warehouseId: 2 }), one.orderId, orderTellingForm.parse({}))),
    ).toEqual(["order.unknown"])
    await leaveWith(one)
    const [mine, german] = (await box()).filter((mail) => /elkrun/.test(mail.to[0] ?? ""))
    const token = await receiverToken(rig.db, one.orderId, "en", rig.context.now)
    const link = `https://ship.northlake.example/follow/${token}`
    expect(mine?.mail.subject).toBe("Your order TL-1 is on its way")
    expect(mine?.mail.from?.text).toMatch(/^"Northlake.*" <.+>$/)
    expect(mine?.mail.text).toContain("Hello Ida,")
    expect(mine?.mail.text).toContain(there(one.tracking[0]))
    expect(mine?.mail.text).toContain("Thank you for your order.")
    expect(mine?.mail.text).toContain(link)
    // what somebody typed is text, and nothing in the page is fetched or run
    const html = String(mine?.mail.html)
    expect(html).toContain("&lt;script&gt;alert(1)&lt;/script&gt; valve")
    expect(html).not.toMatch(/<script|<img|<link|<style|src=|url\(|javascript:|@import/i)
    expect([...html.matchAll(/<a href="([^"]+)"/g)].map((match) => match[1]?.split("/").slice(0, 4).join("/"))).toEqual(
      ["https://ship.northlake.example/follow", "https://ship.northlake.example/unsubscribe"],
    )
    // one press ends them (RFC 8058)
    expect(mine?.mail.headers.get("list-unsubscribe-post") ?? mine?.mail.headers.get("list")).toBeDefined()
    expect(german?.mail.subject).toBe("Ihre Bestellung TL-1 ist unterwegs")
    expect(german?.mail.text).toContain("Vielen Dank")
    expect(await texts()).toEqual([
      expect.objectContaining({ to: "+12185550199", text: expect.stringContaining(link) }),
    ])
    // once each, however often it is told
    await tell(rig.db, one.orderId, "left", rig.context.now)
    await workAll(rig.db)
    expect((await box()).filter((mail) => /elkrun/.test(mail.to[0] ?? ""))).toHaveLength(2)
    const shown = await messagesOf(rig.db, 1, one.orderId)
    expect(shown.map((message) => [message.topic, message.way, message.state])).toEqual([
      ["left", "text", "sent"],
      ["left", "mail", "sent"],
      ["left", "mail", "sent"],
    ])
    expect(await messagesOf(rig.db, 2, one.orderId)).toEqual([])
  })

  async function leaveWith(one: Shipped) {
    await closeDoor(rig.context, one.door, one.tracking.length)
    await workAll(rig.db)
  }

  it("are only of what the house tells of, and of nothing where the order says so", async () => {
    value(await contact({ address: "all@elkrun.example" }))
    const of = async (orderId: number) =>
      (await messagesOf(rig.db, 1, orderId))
        .filter((one) => one.address === "all@elkrun.example")
        .map((one) => one.topic)
    const [one] = (await shipped(rig, ["TL-2"], "LKG", denver)) as [Shipped]
    expect(await of(one.orderId)).toEqual(["left"])
    value(
      await saveTelling(
        lead(),
        tellingForm.parse({ topics: ["received", "shipped", "delivered"], quiet_from: "21:00", quiet_to: "07:00" }),
      ),
    )
    const [two] = (await shipped(rig, ["TL-3"], "LKG", denver)) as [Shipped]
    expect(await of(two.orderId)).toEqual(["shipped", "received"])
    await takeFile(rig.context, row({ order_number: "TL-4", ...denver }))
    const { id } = await orderBySource(rig.db, "TL-4")
    value(await saveOrderTelling(rig.context, id, orderTellingForm.parse({ off: "on" })))
    expect(await tell(rig.db, id, "shipped", rig.context.now)).toBe(0)
    value(
      await saveTelling(
        lead(),
        tellingForm.parse({
          topics: ["left", "delivered", "delayed", "out-for-delivery"],
          quiet_from: "21:00",
          quiet_to: "07:00",
        }),
      ),
    )
  })

  it("follow the package: late once for each new day, the driver, and the delivery when all are there", async () => {
    const [one] = (await shipped(rig, ["TL-5"], "LKG", { ...denver, promised_on: "2026-11-25" })) as [Shipped]
    const [tracking] = one.tracking as [string]
    const said = async () =>
      (await messagesOf(rig.db, 1, one.orderId))
        .filter((message) => message.address === "all@elkrun.example")
        .map((message) => message.topic)
        .toReversed()
    const scan = async (code: string, at: string, more = {}) => {
      await scanned(rig, "LARK", { trackingNumber: tracking, code, occurredAt: at, ...more })
      await pulled(rig, "LARK")
    }
    await scan("DLY", "2026-11-25T08:00:00-07:00", { estimatedDelivery: "2026-11-27" })
    await scan("ARR", "2026-11-25T09:00:00-07:00")
    expect(await said()).toEqual(["left", "delayed"])
    await scan("DLY", "2026-11-26T08:00:00-07:00", { estimatedDelivery: "2026-11-30" })
    await scan("OFD", "2026-11-30T08:00:00-07:00")
    await scan("DEL", "2026-11-30T10:00:00-07:00", { receivedBy: "Ida" })
    expect(await said()).toEqual(["left", "delayed", "delayed", "out-for-delivery", "delivered"])
    await workAll(rig.db)
    const words = (await box())
      .filter((mail) => mail.to[0] === "all@elkrun.example")
      .map((mail) => mail.mail.text ?? "")
    expect(words.filter((text) => /now expects to deliver/.test(text))[0]).toContain(
      "on Friday, November 27 instead of Wednesday, November 25",
    )
    expect(words.at(-1)).toContain("was delivered on Monday, November 30 and taken by Ida")
  })

  it("wait for the morning of the receiver, where they would ring at night", async () => {
    const { id } = await orderBySource(rig.db, "TL-4")
    value(await saveOrderTelling(rig.context, id, orderTellingForm.parse({ more: "+12185550177" })))
    const night = instantAt("2026-11-24", "23:30", "America/Denver")
    await setBusinessNow(rig.db, night)
    await tell(rig.db, id, "left", night)
    await workAll(rig.db)
    const mine = async () => (await texts()).filter((one) => one.to === "+12185550177")
    expect(await mine()).toEqual([])
    expect((await messagesOf(rig.db, 1, id)).find((one) => one.way === "text")).toMatchObject({
      state: "waiting",
      waitsUntil: instantAt("2026-11-25", "07:00", "America/Denver"),
    })
    await setBusinessNow(rig.db, instantAt("2026-11-25", "07:01", "America/Denver"))
    await askToTell(rig.db)
    await workAll(rig.db)
    expect(await mine()).toHaveLength(1)
    await setBusinessNow(rig.db, rig.context.now)
  })

  it("say that an order waits at the counter when a person asks, once a day, and not to whom wants none", async () => {
    await takeFile(rig.context, row({ order_number: "TL-CTR", customer: "Walk-in Taproom", ...denver }))
    const orderId = (await orderBySource(rig.db, "TL-CTR")).id
    const said = orderTellingForm.parse({ more: "counter@ready.example, none@ready.example", off: "on" })
    value(await saveOrderTelling(rig.context, orderId, said))
    await block(rig.db, "none@ready.example", "unsubscribed", rig.context.now)
    // also where the order is told of nothing by itself
    expect(value(await tellReady(rig.context, orderId))).toEqual({ told: 1, before: 0 })
    expect(value(await tellReady(rig.context, orderId))).toEqual({ told: 0, before: 1 })
    const mended = orderTellingForm.parse({ more: "counter@ready.example, 0142" })
    expect(await saveOrderTelling(rig.context, orderId, mended)).toMatchObject({
      reasons: [{ code: "tell.named-phone", values: { named: "0142" } }],
    })
    // tomorrow it is said once more, if it is still asked for
    const tomorrow = { ...rig.context, now: new Date(rig.context.now.getTime() + 86_400_000) }
    expect(value(await tellReady(tomorrow, orderId))).toEqual({ told: 1, before: 0 })
    await workAll(rig.db)
    const mine = (await box()).filter((mail) => mail.to.some((one) => one.endsWith("@ready.example")))
    expect(mine.map((one) => [one.to, one.mail.subject])).toEqual([
      [["counter@ready.example"], "Your order TL-CTR is ready for pickup"],
    ])
    // that of tomorrow waits until then
    expect(await rig.db("customer_message").where({ order_id: orderId, state: "waiting" }).del()).toBe(1)
    expect(codes(await tellReady(as(rig.context, { warehouseId: 2 }), orderId))).toEqual(["order.unknown"])
  })

  it("to a blind receiver come from whom he ordered of", async () => {
    const [one] = (await shipped(rig, ["TL-6"], "LKG", denver)) as [Shipped]
    const sender = {
      role: "sender",
      company: "Fermenters' Guild",
      street: "1 Guild Hall",
      city: "Boulder",
      state: "CO",
      postal_code: "80301",
      country: "US",
    }
    await rig.db("order_party").insert({ order_id: one.orderId, ...partyForm.parse(sender) })
    await tell(rig.db, one.orderId, "delivered", rig.context.now)
    await workAll(rig.db)
    const mail = (await box()).filter((one) => one.to[0] === "all@elkrun.example").at(-1)?.mail
    expect(mail?.from?.value[0]?.name).toBe("Fermenters' Guild")
    expect(`${mail?.html}${mail?.text}${mail?.subject}`).not.toContain("Northlake")
  })
})

describe("addresses", () => {
  it("that unsubscribed are not written to; only who has the link can, and a person can allow them again", async () => {
    const { id } = await orderBySource(rig.db, "TL-2")
    const mail = (await box()).filter((one) => one.to[0] === "dock@elkrun.example").at(-1)?.mail
    const token = /unsubscribe\/([\w.-]+)/.exec(mail?.text ?? "")?.[1] ?? ""
    const messageId = there(unsubscribed(token))
    expect(unsubscribed(`${messageId + 1}${token.slice(String(messageId).length)}`)).toBeNull()
    expect(unsubscribed("1.0123456789012345678901")).toBeNull()
    expect(await unsubscribe(rig.db, messageId, rig.context.now)).toEqual({ address: "dock@elkrun.example" })
    await tell(rig.db, id, "delivered", rig.context.now, { of: "again" })
    const states = async () =>
      Object.fromEntries(
        (await messagesOf(rig.db, 1, id))
          .filter((one) => one.topic === "delivered")
          .map((one) => [one.address, one.state]),
      )
    expect(await states()).toMatchObject({ "dock@elkrun.example": "blocked", "all@elkrun.example": "waiting" })
    const [blocked] = (await messagesOf(rig.db, 1, id)).filter((one) => one.state === "blocked")
    expect(codes(await tellAgain(rig.context, there(blocked).id))).toEqual(["tell.blocked"])
    value(await allowAgain(lead(), "DOCK@elkrun.example"))
    value(await tellAgain(rig.context, there(blocked).id))
    await workAll(rig.db)
    expect(await states()).toMatchObject({ "dock@elkrun.example": "sent", "all@elkrun.example": "sent" })
  })

  it("that unsubscribe while messages wait get none of them", async () => {
    const { id } = await orderBySource(rig.db, "TL-2")
    const to = [{ way: "mail" as const, address: "late@elkrun.example", name: "", language: "en" }]
    await tell(rig.db, id, "left", rig.context.now, { of: "first", to })
    await workAll(rig.db)
    await tell(rig.db, id, "left", rig.context.now, { of: "with the mail", to })
    await sendMessages(rig.db)
    await tell(rig.db, id, "left", rig.context.now, { of: "still here", to })
    const mine = () =>
      rig.db("customer_message").where({ address: "late@elkrun.example" }).orderBy("id", "desc").pluck("state")
    expect(await mine()).toEqual(["waiting", "handed-on", "handed-on"])
    const first = there(await rig.db("customer_message").where({ address: "late@elkrun.example" }).first("id"))
    await unsubscribe(rig.db, first.id, rig.context.now)
    expect(await mine()).toEqual(["blocked", "blocked", "handed-on"])
    await workAll(rig.db)
    expect((await box()).filter((one) => one.to[0] === "late@elkrun.example")).toHaveLength(1)
  })

  it("that are none are refused alone, and hold up nobody else's", async () => {
    const { id } = await orderBySource(rig.db, "TL-2")
    const named = (address: string) => ({ way: "mail" as const, address, name: "", language: "en" })
    const [odd, next] = ["ask at the gate", "next@elkrun.example"] as const
    await tell(rig.db, id, "left", rig.context.now, { of: "odd", to: [named(odd), named(next)] })
    await workAll(rig.db)
    const mail = await rig.db("mail").whereIn("recipient", [odd, next]).select("recipient", "state", "trouble")
    expect(new Map(mail.map((one) => [one.recipient, one.state]))).toEqual(
      new Map([
        [odd, "refused"],
        [next, "sent"],
      ]),
    )
    expect(there(mail.find((one) => one.recipient === odd)).trouble).not.toBeNull()
  })

  it("that do not take mail come back, are shown, and are not written to again", async () => {
    const listener = listenForBounces(rig.db, rig.returns, "127.0.0.1", pino({ level: "silent" }))
    value(await contact({ address: "gone@bounces.elkrun.example" }))
    const { id } = await orderBySource(rig.db, "TL-3")
    await tell(rig.db, id, "delayed", rig.context.now, { of: "x", told: { expected_on: "2026-12-01" } })
    await workAll(rig.db)
    const mine = async () =>
      (await messagesOf(rig.db, 1, id)).find((one) => one.address === "gone@bounces.elkrun.example")
    for (let tries = 0; tries < 100 && (await mine())?.state !== "bounced"; tries += 1)
      await new Promise((done) => setTimeout(done, 50))
    expect(await mine()).toMatchObject({ state: "bounced", trouble: "5.1.1 550 5.1.1 no such mailbox" })
    await tell(rig.db, id, "delayed", rig.context.now, { of: "y", told: { expected_on: "2026-12-02" } })
    expect(await mine()).toMatchObject({ state: "blocked" })
    await new Promise<void>((done) => listener.close(() => done()))
  })

  it("that are erased are forgotten everywhere, and never written to again", async () => {
    const { id } = await orderBySource(rig.db, "TL-5")
    value(
      await saveOrderTelling(
        rig.context,
        id,
        orderTellingForm.parse({ more: "All@elkrun.example, ann@elkrun.example" }),
      ),
    )
    const [paper] = await rig.db("document").where({ order_id: id }).pluck("id")
    const mail = { to: "all@elkrun.example", subject: "Papers", body: "" }
    value(await mailPapers(rig.context, id, [there(paper)], mail, "papers-erased"))
    const said = () => rig.db("audit").where({ action: "paper.mailed", order_id: id }).pluck("detail")
    expect(JSON.stringify(await said())).toContain("all@elkrun.example")
    expect(codes(await eraseAddress(lead(), " "))).toEqual(["tell.no-address"])
    await expect(eraseAddress(rig.context, "all@elkrun.example")).rejects.toThrow("not allowed")
    expect(value(await eraseAddress(lead(), "ALL@elkrun.example")).messages).toBeGreaterThan(5)
    for (const table of [
      "customer_contact",
      "customer_message",
      "audit",
      "mail",
      "order_party",
      "order_telling",
      "return_intent",
    ] as const)
      expect(JSON.stringify(await rig.db(table)).toLowerCase()).not.toContain("all@elkrun.example")
    expect(await said()).toMatchObject([{ to: "…" }])
    expect((await tellingOf(rig.db, id)).more.map((one) => one.address)).toEqual(["ann@elkrun.example"])
    value(await saveOrderTelling(rig.context, id, orderTellingForm.parse({ more: "all@elkrun.example" })))
    await tell(rig.db, id, "delayed", rig.context.now, { of: "z" })
    const [last] = await messagesOf(rig.db, 1, id)
    expect(last).toMatchObject({ state: "blocked", address: "" })
    expect(codes(await allowAgain(lead(), "all@elkrun.example"))).toEqual(["tell.erased"])
    // what was sent stays as a fact
    expect((await messagesOf(rig.db, 1, id)).filter((one) => one.state === "sent").length).toBeGreaterThan(3)
  })
})

describe("templates", () => {
  const form = (body: string, more: object = {}) =>
    templateForm.parse({ topic: "left", way: "mail", language: "en", subject: "S", body, ...more })
  it("that ship are good in every language and way", () => {
    for (const topic of topics)
      for (const way of ways)
        for (const language of paperLanguages)
          expect([topic, way, language, checkTemplate(way, defaultTemplate(topic, way, language))]).toEqual([
            topic,
            way,
            language,
            { ok: true, value: null },
          ])
  })

  it.each([
    ["", "template.empty"],
    ["{{ cost }}", "template.wrong"],
    ["{{ sender.constructor }}", "template.wrong"],
    ["{% if %}", "template.wrong"],
    ["{% for p in packages %}", "template.wrong"],
    ["{% include 'x' %}", "template.wrong"],
    ["{% render '/etc/passwd' %}", "template.wrong"],
    ["{% assign a = sender %}", "template.wrong"],
    ["{{ sender | nothing }}", "template.wrong"],
    ["{% for i in (1..9999999) %}x{% endfor %}", "template.range"],
    ["{% for a in lines %}{% for b in lines %}x{% endfor %}{% endfor %}", "template.nested"],
    ["x".repeat(4_001), "template.long"],
    [`{% for line in lines %}${"0123456789".repeat(20)}{% endfor %}`, "template.cost"],
  ])("%j are refused when they are saved", async (body, code) => {
    expect(codes(await saveTemplate(lead(), form(body)))).toEqual([code])
  })

  it("are previewed with an order, sent as a test, kept by one at a time, and used from then on", async () => {
    const { order_number: orderNumber, id } = await orderBySource(rig.db, "TL-5")
    const body = 'Your box {{ packages | map: "name" | join: ", " }} for {{ receiver }} is off. {{ link }}'
    const shown = value(await previewTemplate(lead(), form(body), orderNumber))
    expect(shown.body).toMatch(new RegExp(`^Your box ${orderNumber}-1 for .+ is off\\. https://`))
    expect(codes(await previewTemplate(as(lead(), { warehouseId: 2 }), form(body), orderNumber))).toEqual([
      "order.unknown",
    ])
    await expect(previewTemplate(rig.context, form(body), orderNumber)).rejects.toThrow("not allowed")
    // the order that was shipped last is offered, and none where there is none
    const units = rig.db("tracked_unit").where({ warehouse_id: 1 }).max({ id: "id" })
    const last = rig.db("sales_order").whereIn("id", rig.db("tracked_unit").whereIn("id", units).select("order_id"))
    expect(await sampleOrder(rig.db, 1)).toBe(there(await last.first("order_number")).order_number)
    expect(await sampleOrder(rig.db, 2)).toBe("")
    expect(codes(await testTemplate(lead(), form(body), orderNumber, "me", "k"))).toEqual(["papers.no-address"])
    value(await testTemplate(lead(), form(body), orderNumber, "me@northlake.example", "k"))
    value(await saveTemplate(lead(), form(body)))
    expect(codes(await saveTemplate(lead(), form(`${body}!`)))).toEqual(["template.changed"])
    value(await saveTemplate(lead(), form(`${body} Bye.`, { version: 1 })))
    await expect(saveTemplate(rig.context, form(body))).rejects.toThrow("not allowed")
    await rig.db("customer_message").where({ order_id: id }).delete()
    value(await saveOrderTelling(rig.context, id, orderTellingForm.parse({ more: "new@elkrun.example" })))
    await tell(rig.db, id, "left", rig.context.now)
    await workAll(rig.db)
    const mails = await box()
    expect(mails.find((one) => one.to[0] === "me@northlake.example")?.mail.text).toContain("is off")
    expect(mails.filter((one) => one.to[0] === "new@elkrun.example").at(-1)?.mail.text).toContain("Bye.")
  })
})

describe("an outage of the mail server", () => {
  it("loses nothing, sends nothing twice, and says what waits", async () => {
    const { id } = await orderBySource(rig.db, "TL-1")
    const before = (await box()).length
    await mailboxFault("down")
    const n = 300
    await rig.db("mail").insert(
      Array.from({ length: n }, (_, at) => ({
        once_key: `flood ${at}`,
        warehouse_id: 1,
        recipient: `f${at}@elkrun.example`,
        subject: "x",
        body: "y",
        made_by: "",
        made_at: rig.context.now,
      })),
    )
    await tell(rig.db, id, "delayed", rig.context.now, { of: "outage" })
    await expect(sendWaiting(rig.db)).rejects.toThrow()
    await workAll(rig.db, 3)
    expect((await waitingCounts(rig.db, 1)).mail).toBeGreaterThanOrEqual(n)
    expect(await rig.db("job").where({ kind: "mail.send", state: "dead" })).toEqual([])
    await mailboxFault(null)
    // two workers at once
    await Promise.all([sendWaiting(rig.db), sendWaiting(rig.db)])
    await workAll(rig.db)
    expect(await waitingCounts(rig.db, 1)).toEqual({ messages: 0, mail: 0 })
    const after = (await box()).slice(before)
    const to = after.map((one) => one.to[0])
    expect(new Set(to).size).toBe(to.length)
    expect(to.filter((one) => /^f\d+@/.test(one ?? ""))).toHaveLength(n)
  })
})

describe("a message that can't be sent now", () => {
  it("holds up no other: neither a text service that is down, nor words that can't be made", async () => {
    const { id } = await orderBySource(rig.db, "TL-1")
    const to = (way: "mail" | "text", address: string) => [{ way, address, name: "", language: "en" }]
    const last = { of: "held up" }
    await tell(rig.db, id, "left", rig.context.now, { ...last, to: to("text", "+12185550111") })
    await tell(rig.db, id, "left", rig.context.now, { ...last, to: to("mail", "broken@elkrun.example") })
    await tell(rig.db, id, "left", rig.context.now, { ...last, to: to("mail", "after@elkrun.example") })
    await rig.db("customer_message").where({ address: "broken@elkrun.example" }).update({ facts: "null" })
    await expect(sendMessages(rig.db, () => Promise.reject(new Error("ECONNREFUSED")))).rejects.toThrow()
    const states = () =>
      rig.db("customer_message").where({ order_id: id }).orderBy("id", "desc").limit(3).pluck("state")
    expect(await states()).toEqual(["handed-on", "waiting", "waiting"])
    const broken = () => rig.db("customer_message").where({ address: "broken@elkrun.example" })
    expect(there(await broken().first()).trouble).toBeTruthy()
    // it is tried again in its own time, and what was wrong may have been mended
    await broken().update({ facts: "{}", send_after: rig.context.now })
    await sendMessages(rig.db)
    expect(await states()).toEqual(["handed-on", "handed-on", "sent"])
  })
})

describe("the receiver's page", () => {
  it("is not to be guessed at: a site that asks too often waits, another does not", async () => {
    const app = express().set("trust proxy", true).use(visitLimit(rig.db))
    app.get("/follow/x", (_request, response) => void response.send("here"))
    const server = app.listen(0, "127.0.0.1")
    await once(server, "listening")
    const visit = (site: string) =>
      fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/follow/x`, {
        headers: { "x-forwarded-for": site },
      })
    const first = await visit("192.0.2.1")
    expect(first.headers.get("x-robots-tag")).toBe("noindex, nofollow")
    expect(first.headers.get("referrer-policy")).toBe("no-referrer")
    // 120 in a minute
    const next = await Promise.all(Array.from({ length: 119 }, async () => (await visit("192.0.2.1")).status))
    expect(new Set(next)).toEqual(new Set([200]))
    const over = await visit("192.0.2.1")
    expect(over.status).toBe(429)
    expect(Number(over.headers.get("retry-after"))).toBeGreaterThan(0)
    expect((await visit("192.0.2.2")).status).toBe(200)
    // whoever has a whole network of addresses is one site (a /64)
    for (let n = 0; n < 120; n += 1) await visit(`2001:db8::${n.toString(16)}`)
    expect((await visit("2001:db8::ffff")).status).toBe(429)
    expect((await visit("2001:db8:0:1::1")).status).toBe(200)
    server.close()
  })

  it("is reached by its token alone, and no longer than its time", async () => {
    const { id } = await orderBySource(rig.db, "TL-1")
    const token = await receiverToken(rig.db, id, "en", rig.context.now)
    expect(token).toMatch(/^[\w-]{22}$/)
    expect(await linkOf(rig.db, token, rig.context.now)).toMatchObject({ order_id: id })
    expect(await linkOf(rig.db, `${token.slice(0, 21)}${token.endsWith("A") ? "B" : "A"}`, rig.context.now)).toBeNull()
    expect(await linkOf(rig.db, token.toUpperCase(), rig.context.now)).toBeNull()
    expect(await linkOf(rig.db, "%", rig.context.now)).toBeNull()
    expect(await linkOf(rig.db, token, instantAt("2027-02-21", "12:00", "America/Chicago"))).not.toBeNull()
    expect(await linkOf(rig.db, token, instantAt("2027-02-22", "00:00", "America/Chicago"))).toBeNull()
  })
})
