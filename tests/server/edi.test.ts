import { randomUUID } from "node:crypto"
import { mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from "node:fs"
import { createServer, type Server } from "node:http"
import type { AddressInfo } from "node:net"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { Readable } from "node:stream"
import type { CollectionId } from "core/ids/index.ts"
import { massIn } from "core/units/index.ts"
import { simpleParser } from "mailparser"
import { saveRouting } from "server/decisions/customers.ts"
import { leaveBehind, load } from "server/dock/load.ts"
import { openForSupplement, reopen } from "server/dock/reopen.ts"
import { acknowledgeByHand, readAnswers, sendAgain, takeAnswers } from "server/edi/answers.ts"
import { messageFile, messagesOf, searchMessages } from "server/edi/list.ts"
import { sendEdi } from "server/edi/send.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { closePackages, palletise } from "server/packing/index.ts"
import { askVoid } from "server/shipping/void.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { newId, there } from "../../server/db/there.ts"
import { epcisFaults } from "../epcisSchema.ts"
import { expectStructure, readEdifact, segmentsOf } from "../readEdifact.ts"
import { as, askForLabels, closeDoor, codes, openRig, type Rig, readyToBuy, row, value, workAll } from "./rig.ts"

let rig: Rig
let partner: Server
let customer: number
let out: string
/** What the customer's own system was posted, and how it answers. */
const posted: { key: string; type: string; body: string }[] = []
let answers = 201

beforeAll(async () => {
  rig = await openRig()
  out = mkdtempSync(join(tmpdir(), "varnok-out-"))
  process.env.VARNOK_OUT = out
  partner = createServer((request, response) => {
    const parts: Buffer[] = []
    request.on("data", (part: Buffer) => parts.push(part))
    request.on("end", () => {
      posted.push({
        key: String(request.headers["idempotency-key"]),
        type: String(request.headers["content-type"]),
        body: Buffer.concat(parts).toString("latin1"),
      })
      response.writeHead(answers).end("kept")
    })
  })
  await new Promise<void>((done) => partner.listen(0, "127.0.0.1", done))
  const { port } = partner.address() as AddressInfo
  process.env.VARNOK_REACHABLE = `${process.env.VARNOK_REACHABLE ?? ""},127.0.0.1:${port}`
  customer = newId(await rig.db("customer").insert({ code: "EDICEL", name: "Edi Cellars" }))
  await routed([
    { kind: "desadv", way: "http", to: `http://127.0.0.1:${port}/in`, receiver: "4012345000009" },
    { kind: "desadv", way: "folder", to: "edi-cellars" },
    { kind: "desadv", way: "mail", to: "edi@cellars.example" },
    { kind: "epcis", way: "folder", to: "edi-cellars" },
    { kind: "iftmin", way: "folder", to: "forwarder" },
  ])
})
afterAll(async () => {
  delete process.env.VARNOK_OUT
  await new Promise((done) => partner.close(done))
  await rig?.drop()
  rmSync(out, { recursive: true, force: true })
})

const admin = () => as(rig.context, { role: "administrator" })
const lead = () => as(rig.context, { role: "lead" })

async function routed(messages: object[]) {
  const { version } = there(await rig.db("customer").where({ id: customer }).first("version"))
  return saveRouting(admin(), { id: customer, version }, { messages })
}

/** An order of the customer with labels: its packages, as the dock knows them. */
async function labelled(number: string, service = "MDN", more: Parameters<typeof row>[0] = {}) {
  const { orderId, shipment } = await readyToBuy(
    rig.context,
    number,
    row({ order_number: number, customer: "Edi Cellars", po_number: `PO-${number}`, ...more }),
  )
  if (service === "IBS") value(await palletise(rig.context, orderId, "P10"))
  const ready = service === "IBS" ? value(await closePackages(rig.context, orderId)) : shipment
  await askForLabels(rig.context, orderId, ready, service)
  await workAll(rig.db)
  const packs = await rig
    .db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where("h.order_id", orderId)
    .select("p.id", "p.sscc", "p.collection_id as collection")
  return { orderId, packs: packs as { id: number; sscc: string; collection: number }[], pack: there(packs[0]) }
}

const on = (one: { sscc: string | null; collection: CollectionId | null }) =>
  load(rig.context, there(one.collection), { sscc: there(one.sscc) }, randomUUID())
const told = (orderId: number) => messagesOf(rig.db, 1, orderId)
const files = (folder: string) => readdirSync(join(out, folder)).filter((name) => name !== "answers")
const textOf = (folder: string, name: string) => readFileSync(join(out, folder, name), "latin1")

describe("goods that have left", () => {
  it("are told of once, as the routing instruction says: over HTTP, into a folder, by e-mail", async () => {
    const { orderId, pack } = await labelled("EDI-1")
    value(await on(pack))
    await closeDoor(rig.context, pack.collection, 1)
    expect(await told(orderId)).toEqual([])
    await workAll(rig.db)
    const messages = await told(orderId)
    expect(messages.map((one) => `${one.kind} ${one.way} ${one.state}`)).toEqual([
      "epcis folder sent",
      "desadv mail sent",
      "desadv folder sent",
      "desadv http acknowledged",
    ])
    // the customer's system has it once, under the message's own key
    expect(posted).toHaveLength(1)
    const found = readEdifact(there(posted[0]).body)
    expectStructure(found, "DESADV")
    expect(posted[0]).toMatchObject({ type: "application/edifact", key: expect.stringMatching(/^[0-9a-f-]{36}$/) })
    expect(segmentsOf(found, "UNB")[0]?.[2]).toEqual(["4012345000009"])
    // what it says adds up to what was shipped
    const shipment = there(await shipmentOf(rig.db, orderId))
    const gross = massIn(there(shipment.packages[0]).actual, "kg").toDecimalPlaces(3).toFixed()
    expect(segmentsOf(found, "MEA").find(([, what]) => what?.[0] === "AAD")?.[2]).toEqual(["KGM", gross])
    expect(segmentsOf(found, "QTY").map(([one]) => one?.[1])).toEqual(
      shipment.lines.map((line) => String(line.ordered)),
    )
    expect(segmentsOf(found, "GIN")).toContainEqual([["BJ"], [pack.sscc]])
    expect(segmentsOf(found, "RFF").map(([one]) => one)).toContainEqual(["ON", "PO-EDI-1"])
    // the folder has the same notice to its own receiver, and the events; the mail has it attached
    const [notice, events] = ["DESADV", "EPCIS"].map((kind) =>
      there(messages.find((m) => m.way === "folder" && m.name.startsWith(kind))),
    )
    expect(files("edi-cellars").sort()).toEqual([notice?.name, events?.name])
    expectStructure(readEdifact(textOf("edi-cellars", there(notice).name)), "DESADV")
    const document = JSON.parse(textOf("edi-cellars", there(events).name))
    expect(epcisFaults(document)).toEqual([])
    expect(document.epcisBody.eventList.map((one: { bizStep: string }) => one.bizStep)).toEqual([
      "packing",
      "loading",
      "shipping",
    ])
    const mail = there(await rig.db("mail").where({ recipient: "edi@cellars.example" }).first())
    expect(mail.state).toBe("sent")
    const box = await (
      await fetch(`http://127.0.0.1:${new URL(rig.at.mail).searchParams.get("mailbox")}/messages`)
    ).json()
    const last = (box as { number: number }[]).at(-1)
    const eml = await fetch(
      `http://127.0.0.1:${new URL(rig.at.mail).searchParams.get("mailbox")}/messages/${last?.number}.eml`,
    )
    const read = await simpleParser(Buffer.from(await eml.arrayBuffer()))
    expect(read.attachments[0]?.filename).toBe(mail.attachment_name)
    expectStructure(readEdifact(there(read.attachments[0]).content.toString("latin1")), "DESADV")
    // done again, nothing is told again
    for (const message of messages) await sendEdi(rig.db, message.id)
    await workAll(rig.db)
    expect(posted).toHaveLength(1)
    expect(await told(orderId)).toHaveLength(4)
  })

  it("are told of by truck: nothing of a door that was reopened, what came later by itself", async () => {
    const [goes, stays] = [await labelled("EDI-2", "MDS"), await labelled("EDI-3", "MDS")]
    const door = goes.pack.collection
    value(await on(goes.pack))
    await leaveBehind(rig.context, door, [stays.pack.id], true)
    await closeDoor(rig.context, door, 1)
    value(await reopen(lead(), door))
    await workAll(rig.db)
    expect(await told(goes.orderId)).toEqual([])
    await closeDoor(rig.context, door, 1)
    await workAll(rig.db)
    expect(await told(goes.orderId)).toHaveLength(4)
    expect(await told(stays.orderId)).toEqual([])
    const { cut_off: cutOff } = there(await rig.db("collection").where({ id: door }).first("cut_off"))
    const onDay = { ...rig.context, now: new Date(cutOff.getTime() - 3_600_000) }
    value(await openForSupplement(onDay, door))
    value(await on({ ...stays.pack, collection: door }))
    await closeDoor(onDay, door, 1)
    await workAll(rig.db)
    expect(await told(goes.orderId)).toHaveLength(4)
    expect(await told(stays.orderId)).toHaveLength(4)
    expect((await told(stays.orderId)).every((one) => one.packages === 1)).toBe(true)
  })

  it("are not told of where the customer asks for none", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "PLAIN-1")
    await askForLabels(rig.context, orderId, shipment, "MDN")
    await workAll(rig.db)
    const pack = there(await rig.db("package").where({ shipment_id: shipment.id }).first())
    value(await on({ sscc: pack.sscc, collection: pack.collection_id }))
    await closeDoor(rig.context, there(pack.collection_id), 1)
    await workAll(rig.db)
    expect(await told(orderId)).toEqual([])
  })
})

describe("a customer's system", () => {
  const message = async (number: string) => {
    const { orderId, pack } = await labelled(number)
    value(await on(pack))
    await closeDoor(rig.context, pack.collection, 1)
    await workAll(rig.db)
    return {
      orderId,
      of: async (way: string) => there((await told(orderId)).find((one) => one.way === way && one.kind === "desadv")),
    }
  }

  it("that is down is posted again under the same key; one that refuses is shown, and asked again by hand", async () => {
    answers = 503
    const before = posted.length
    const { of } = await message("EDI-4")
    expect((await of("http")).state).toBe("waiting")
    const tries = posted.slice(before)
    expect(tries.length).toBeGreaterThan(1)
    expect(new Set(tries.map((one) => `${one.key} ${one.body}`)).size).toBe(1)
    answers = 422
    await workAll(rig.db)
    await rig.db("job").where({ kind: "edi.send" }).whereNot({ state: "done" }).update({ state: "waiting", tries: 0 })
    await workAll(rig.db)
    expect(await of("http")).toMatchObject({
      state: "refused",
      trouble: { code: "edi.refused", values: { status: "422" } },
    })
    answers = 202
    const { id } = await of("http")
    value(await sendAgain(rig.context, id))
    value(await sendAgain(rig.context, id))
    await workAll(rig.db)
    expect(await of("http")).toMatchObject({ state: "sent", trouble: null })
    expect(posted.at(-1)).toEqual(tries[0])
    answers = 201
    value(await acknowledgeByHand(rig.context, id))
    value(await acknowledgeByHand(rig.context, id))
    expect(await of("http")).toMatchObject({ state: "acknowledged", answeredBy: rig.context.actor.name })
    expect(codes(await sendAgain(rig.context, id))).toEqual(["edi.had"])
    const story = await rig.db("audit").where("action", "like", "edi.%").orderBy("id").pluck("action")
    expect(story.slice(-3)).toEqual(["edi.again", "edi.sent", "edi.acknowledged"])
  })

  it("answers by acknowledgments in its folder, or in a file that somebody imports", async () => {
    const { of } = await message("EDI-5")
    const notice = await of("folder")
    const ref = (id: number) => String(id).padStart(8, "0")
    const contrl = (...uci: string[]) =>
      `UNB+UNOC:3+THEM+US+261124:1205+9'UNH+1+CONTRL:D:3:UN'${uci.map((one) => `UCI+${one}'`).join("")}UNT+3+1'UNZ+1+9'`
    const put = (name: string, text: string) => {
      const path = join(out, "edi-cellars", "answers", name)
      writeFileSync(path, text)
      utimesSync(path, new Date(Date.now() - 10_000), new Date(Date.now() - 10_000))
    }
    put("no.edi", "hello")
    put("yes.edi", contrl(`${ref(notice.id)}+US+THEM+4`, "99999999+US+THEM+7"))
    await readAnswers(rig.db)
    expect(await of("folder")).toMatchObject({ state: "refused", trouble: { code: "edi.rejected" } })
    expect(readdirSync(join(out, "edi-cellars", "answers")).sort()).toEqual(["read", "refused"])
    expect(readdirSync(join(out, "edi-cellars", "answers", "refused"))).toEqual([expect.stringMatching(/-no\.edi$/)])
    // what came while it was not written down that it was sent counts as well
    value(await sendAgain(rig.context, notice.id))
    value(await takeAnswers(rig.context, Readable.from([Buffer.from(contrl(`${ref(notice.id)}+A+B+4`))])))
    expect(await of("folder")).toMatchObject({ state: "refused" })
    // sent again and taken; a rejection that comes late changes nothing
    value(await sendAgain(rig.context, notice.id))
    await workAll(rig.db)
    const mailed = await of("mail")
    const file = (...uci: string[]) => Readable.from([Buffer.from(contrl(...uci))])
    expect(
      value(await takeAnswers(rig.context, file(`${ref(notice.id)}+A+B+7`, `${ref(mailed.id)}+A+B+8`, "1+A+B+7"))),
    ).toEqual({
      known: 2,
      unknown: 1,
    })
    value(await takeAnswers(rig.context, file(`${ref(notice.id)}+A+B+4`)))
    expect([await of("folder"), await of("mail")].map((one) => one.state)).toEqual(["acknowledged", "acknowledged"])
    await expect(takeAnswers(rig.context, Readable.from([Buffer.from("hello")]))).rejects.toMatchObject({
      reason: { code: "file.not-edifact" },
    })
  })

  it("is found by order, number and state; another warehouse's messages are nobody's here", async () => {
    const { orderId, of } = await message("EDI-6")
    const { id, name } = await of("folder")
    const search = (text: string, state: "open" | "" = "") =>
      searchMessages(rig.db, 1, { text, kind: "", state, page: 1 }).then((all) => all.map((one) => one.id))
    const { order_number: number } = there(await rig.db("sales_order").where({ id: orderId }).first("order_number"))
    expect(await search(number)).toHaveLength(4)
    expect(await search("po-EDI-6")).toEqual([])
    expect(await search("PO-EDI-6")).toHaveLength(4)
    expect(await search(name)).toEqual([id])
    expect(await search("cellars")).not.toEqual([])
    expect(await search(number, "open")).toHaveLength(3)
    const other = as(rig.context, { warehouseId: 2 })
    expect(codes(await sendAgain(other, id))).toEqual(["edi.unknown"])
    expect(codes(await acknowledgeByHand(other, id))).toEqual(["edi.unknown"])
    expect(await messageFile(rig.db, 2, id)).toBeNull()
    expect(there(await messageFile(rig.db, 1, id)).name).toBe(name)
    await expect(sendAgain(as(rig.context, { role: "sales" }), id)).rejects.toThrow("not allowed: dock.work")
  })
})

describe("an instruction to a freight carrier", () => {
  it("goes where the routing instruction says when it is booked, and is canceled when the booking is void", async () => {
    const { orderId } = await labelled("EDI-7", "IBS")
    const [sent] = await told(orderId)
    expect(sent).toMatchObject({ kind: "iftmin", way: "folder", to: "forwarder", state: "sent", cancels: false })
    const found = readEdifact(textOf("forwarder", there(sent).name))
    expectStructure(found, "IFTMIN")
    expect(segmentsOf(found, "UNB")[0]?.[2]).toEqual(["EDICEL"])
    const [, number] = there(segmentsOf(found, "BGM")[0])
    value(await askVoid(lead(), orderId))
    await workAll(rig.db)
    const [cancels] = await told(orderId)
    expect(cancels).toMatchObject({ kind: "iftmin", state: "sent", cancels: true })
    const back = readEdifact(textOf("forwarder", there(cancels).name))
    expectStructure(back, "IFTMIN")
    // UNCL 1225: 1 cancellation
    expect(segmentsOf(back, "BGM")).toEqual([[["610"], number, ["1"]]])
    expect(await told(orderId)).toHaveLength(2)
  })
})

describe("a cancellation", () => {
  it("never overtakes what it cancels, and what is void is not sent again", async () => {
    const { orderId } = await labelled("EDI-8", "IBS")
    const { id } = there((await told(orderId))[0])
    // the other side has not answered yet
    await rig.db("edi_message").where({ id }).update({ state: "waiting", sent_at: null })
    value(await askVoid(lead(), orderId))
    await workAll(rig.db)
    expect((await told(orderId)).map((one) => [one.cancels, one.state])).toEqual([
      [true, "waiting"],
      [false, "waiting"],
    ])
    await sendEdi(rig.db, id)
    await workAll(rig.db)
    expect((await told(orderId)).map((one) => one.state)).toEqual(["sent", "sent"])
    expect(codes(await sendAgain(rig.context, id))).toEqual(["edi.void"])
  })
})

describe("a mail server that refuses a message", () => {
  it("makes it a refused one, in the list and in its search", async () => {
    value(await routed([{ kind: "desadv", way: "mail", to: "edi@refused.example" }]))
    const { orderId, pack } = await labelled("EDI-9")
    value(await on(pack))
    await closeDoor(rig.context, pack.collection, 1)
    await workAll(rig.db)
    expect(await told(orderId)).toMatchObject([{ state: "refused", trouble: { code: "edi.mail-refused" } }])
    const found = (state: "refused" | "sent" | "open") =>
      searchMessages(rig.db, 1, { text: "PO-EDI-9", kind: "", state, page: 1 })
    expect([(await found("refused")).length, (await found("sent")).length, (await found("open")).length]).toEqual([
      1, 0, 1,
    ])
  })
})

describe("where messages go", () => {
  it("is refused in words where it can't be", async () => {
    for (const [route, code] of [
      [{ kind: "desadv", way: "mail", to: "nobody" }, "routing.message-mail"],
      [{ kind: "desadv", way: "folder", to: "../etc" }, "routing.message-folder"],
      [{ kind: "epcis", way: "http", to: "file:///etc/passwd" }, "routing.message-http"],
      [{ kind: "epcis", way: "folder", to: "a", receiver: "Ä" }, "routing.message-receiver"],
      [{ kind: "orders", way: "folder", to: "a" }, "routing.shape"],
    ] as const)
      expect(codes(await routed([route]))).toEqual([code])
    expect(codes(await routed(Array.from({ length: 10 }, () => ({ kind: "epcis", way: "folder", to: "a" }))))).toEqual([
      "routing.shape",
    ])
  })
})
