import { randomUUID } from "node:crypto"
import ICAL from "ical.js"
import { simpleParser } from "mailparser"
import {
  type Ask,
  book,
  bookingById,
  bookingsFrom,
  bookingsOn,
  cancelBooking,
  changeBooking,
} from "server/dock/bookings.ts"
import { askCollection, calendarOf } from "server/dock/collecting.ts"
import { addAddress } from "server/dock/handover.ts"
import { load } from "server/dock/load.ts"
import { openForSupplement } from "server/dock/reopen.ts"
import { CarrierUnreachable } from "server/gateways/carrier.ts"
import { collectionById, collectionsOn } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, askForLabels, carrierAt, codes, fault, openRig, type Rig, readyToBuy, value, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
  await rig.db("closing_address").delete()
})
afterAll(() => rig?.drop())

const ask: Ask = {
  door: "12",
  day: "2026-11-24",
  ready: "13:00",
  latest: "16:00",
  pieces: 3,
  pallets: 0,
  weight: "45.5",
  place: "rear yard",
  contact: "Maren Holt",
  phone: "218-555-0142",
  instructions: "ring twice",
  tell: "",
  takes: true,
}
const wanted = (change: Partial<Ask> = {}, more: { collectionId?: number; orderId?: number; fee?: string } = {}) => ({
  carrier: "LARK",
  collectionId: null,
  orderId: null,
  fee: "12.50",
  ...more,
  ask: { ...ask, ...change },
})
const booked = async (id: number) => there(await bookingById(rig.db, 1, id))
const theirs = async (code = "LARK") =>
  (
    (await (await fetch(`${carrierAt(rig, code)}/v1/handover`)).json()) as {
      collections: { number: string; state: string; revision: number; latest: string; place: string }[]
    }
  ).collections

describe("a collection is booked", () => {
  it("once, whatever is pressed and lost: number, truck, story and messages come from one booking", async () => {
    const admin = as(rig.context, { role: "administrator" })
    value(await addAddress(admin, { email: "yard@example.com", carrier: "LARK", purpose: "collections" }))
    await fault(carrierAt(rig, "LARK"), "lose-answer", 2)
    const key = randomUUID()
    const asked = wanted({ tell: "boss@example.com, yard@example.com" })
    const both = await Promise.all([book(rig.context, asked, key), book(rig.context, asked, key)])
    const [{ id } = { id: 0 }, again] = both.map(value)
    expect(again?.id).toBe(id)
    await workAll(rig.db)
    const one = await booked(id)
    expect([one.state, one.number, one.fee]).toEqual(["booked", "LARKC00001", "12.50"])
    expect(await theirs()).toMatchObject([{ state: "booked", revision: 1, place: "Door 12, rear yard" }])
    // a truck of its own at the door, with all services of the carrier, by the latest time
    const truck = there(await collectionById(rig.db, 1, there(one.collectionId)))
    expect([truck.door, truck.onDate, truck.cutOff.toISOString(), truck.carrierCode]).toEqual([
      "12",
      "2026-11-24",
      // 16:00 in Duluth, six hours behind UTC in November
      "2026-11-24T22:00:00.000Z",
      "LARK",
    ])
    expect(truck.services).toEqual(expect.arrayContaining(["LKG", "LKX", "LKN"]))
    const told = await rig.db("mail").where("once_key", "like", `book:${id}:%`).orderBy("recipient").pluck("recipient")
    expect(told).toEqual(["boss@example.com", "yard@example.com"])
    const story = await rig.db("audit").where({ collection_id: truck.id }).pluck("action")
    expect(story).toContain("collect.booked")
    // the job run once more does nothing
    await askCollection(rig.db, id, 1, () => {
      throw new Error("asked again")
    })
  })

  it("as a calendar takes it (RFC 5545, read by an independent parser), attached to the message", async () => {
    const [one] = await bookingsFrom(rig.db, 1, "2026-11-24")
    const warehouse = await warehouseById(rig.db, 1)
    const file = there(await calendarOf(rig.db, warehouse, there(one).id))
    const calendar = new ICAL.Component(ICAL.parse(file.text))
    expect([calendar.getFirstPropertyValue("version"), calendar.getFirstPropertyValue("method")]).toEqual([
      "2.0",
      "PUBLISH",
    ])
    const event = new ICAL.Event(there(calendar.getFirstSubcomponent("vevent")))
    expect([event.startDate.toJSDate().toISOString(), event.endDate.toJSDate().toISOString(), event.sequence]).toEqual([
      "2026-11-24T19:00:00.000Z",
      "2026-11-24T22:00:00.000Z",
      0,
    ])
    expect(event.summary).toBe("Collection by Larkspur Parcel, 2026-11-24 13:00 to 16:00")
    expect(event.description).toContain("LARKC00001")
    expect(event.location).toContain("Door 12, rear yard")
    // RFC 5545, 3.1: lines end in CRLF and have no more than 75 octets
    for (const line of file.text.split("\r\n")) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75)
    expect(await calendarOf(rig.db, await warehouseById(rig.db, 2), there(one).id)).toBeNull()
    const box = new URL(rig.at.mail)
    const at = `http://${box.hostname}:${box.searchParams.get("mailbox")}`
    const list = (await (await fetch(`${at}/messages`)).json()) as { number: number; to: string[] }[]
    const own = there(list.find((message) => message.to.includes("boss@example.com")))
    const mail = await simpleParser(await (await fetch(`${at}/messages/${own.number}.eml`)).text())
    expect(mail.text).toContain("LARKC00001")
    expect(mail.attachments[0]?.contentType).toBe("text/calendar")
    // but for the moment at which it was written
    const lines = (text: string) => text.split("\r\n").filter((line) => !line.startsWith("DTSTAMP"))
    expect(lines(there(mail.attachments[0]).content.toString())).toEqual(lines(file.text))
  })

  it("not where the carrier does not, in words at the field; nothing is asked then", async () => {
    const before = (await theirs()).length
    const refusedBy = async (change: Partial<Ask>, more = {}) =>
      codes(await book(rig.context, wanted(change, more), randomUUID()))
    expect(await refusedBy({ day: "2026-11-28" })).toEqual(["collect.weekday"])
    expect(await refusedBy({ latest: "13:30" })).toEqual(["collect.window"])
    expect(await refusedBy({ tell: "somebody" })).toEqual(["collect.tell"])
    expect(await refusedBy({}, { fee: "9.00" })).toEqual(["collect.fee-changed"])
    expect(await refusedBy({})).toEqual(["collect.door-taken"])
    expect(codes(await book(rig.context, { ...wanted(), carrier: "SWIF" }, randomUUID()))).toEqual(["collect.none"])
    expect(codes(await book(rig.context, { ...wanted(), carrier: "NONE" }, randomUUID()))).toEqual([
      "tariff.no-carrier",
    ])
    expect(await refusedBy({ door: "13" }, { orderId: 999_999 })).toEqual(["order.unknown"])
    await workAll(rig.db)
    expect(await theirs()).toHaveLength(before)
  })

  it("refused by the carrier: it says so, and no truck comes", async () => {
    await fault(carrierAt(rig, "LARK"), "refuse", 1)
    const { id } = value(await book(rig.context, wanted({ door: "14" }), randomUUID()))
    await workAll(rig.db)
    const one = await booked(id)
    expect([one.state, one.collectionId, one.trouble]).toMatchObject([
      "refused",
      null,
      { code: "collect.refused", values: { why: "account on hold" } },
    ])
    expect((await collectionsOn(rig.db, 1, "2026-11-24")).some((truck) => truck.door === "14")).toBe(false)
  })

  it("for the truck of a door: it stands there, and a second time it is refused", async () => {
    const truck = there((await collectionsOn(rig.db, 1, "2026-11-24")).find((one) => one.door === "4"))
    const forDoor = wanted({ door: "4", latest: "14:15", ready: "12:00" }, { collectionId: truck.id })
    const { id } = value(await book(rig.context, forDoor, randomUUID()))
    expect(codes(await book(rig.context, forDoor, randomUUID()))).toEqual(["collect.already"])
    await workAll(rig.db)
    expect((await bookingsOn(rig.db, 1, [truck.id])).get(truck.id)).toMatchObject({ id, state: "booked" })
    expect((await bookingsOn(rig.db, 2, [truck.id])).size).toBe(0)
    const other = wanted({ door: "4", day: "2026-11-25" }, { collectionId: truck.id })
    expect(codes(await book(rig.context, other, randomUUID()))).toEqual(["collect.other-day"])
    const stranger = as(rig.context, { warehouseId: 2 })
    expect(codes(await cancelBooking(stranger, id))).toEqual(["collect.unknown"])
    expect(codes(await changeBooking(stranger, id, 1, ask))).toEqual(["collect.unknown"])
  })
})

describe("a booked collection", () => {
  it("is changed under the same number; a change that is refused leaves it as it was", async () => {
    const { id } = value(await book(rig.context, wanted({ door: "15" }), randomUUID()))
    await workAll(rig.db)
    const { number, collectionId } = await booked(id)
    value(await changeBooking(rig.context, id, 1, { ...ask, door: "15", latest: "17:00", pieces: 5 }))
    expect((await booked(id)).held).toMatchObject({ latest: "16:00" })
    await workAll(rig.db)
    expect(await booked(id)).toMatchObject({
      state: "booked",
      number,
      revision: 2,
      ask: { latest: "17:00", pieces: 5 },
    })
    expect((await theirs()).find((one) => one.number === number)).toMatchObject({ revision: 2, latest: "17:00" })
    expect((await collectionById(rig.db, 1, there(collectionId)))?.cutOff.toISOString()).toBe(
      "2026-11-24T23:00:00.000Z",
    )
    // the same again asks nobody, an older page is told
    value(await changeBooking(rig.context, id, 2, { ...ask, door: "15", latest: "17:00", pieces: 5 }))
    expect(codes(await changeBooking(rig.context, id, 1, { ...ask, door: "15" }))).toEqual([
      "collect.changed-meanwhile",
    ])
    await fault(carrierAt(rig, "LARK"), "refuse", 1)
    value(await changeBooking(rig.context, id, 2, { ...ask, door: "15", latest: "15:00" }))
    await workAll(rig.db)
    expect(await booked(id)).toMatchObject({
      state: "booked",
      ask: { latest: "17:00" },
      trouble: { code: "collect.refused" },
    })
    expect((await theirs()).find((one) => one.number === number)?.latest).toBe("17:00")
  })

  it("is canceled: its packages go with the next truck, and a loaded one keeps it", async () => {
    const { id } = value(await book(rig.context, wanted({ door: "16", ready: "09:30", latest: "11:30" }), randomUUID()))
    await workAll(rig.db)
    const { collectionId } = await booked(id)
    const { orderId, shipment } = await readyToBuy(rig.context, "CAN-1")
    await rig
      .db("sales_order")
      .where({ id: orderId })
      .update({ chosen_collection_id: there(collectionId) })
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    const pack = await rig
      .db("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .where("h.order_id", orderId)
      .first("p.id", "p.sscc", "p.collection_id")
    await rig
      .db("package")
      .where({ id: pack.id })
      .update({ collection_id: there(collectionId) })
    value(await load(rig.context, there(collectionId), { sscc: pack.sscc }, randomUUID()))
    expect(codes(await cancelBooking(rig.context, id))).toEqual(["collect.loaded"])
    await rig.db("package").where({ id: pack.id }).update({ state: "labelled" })
    value(await cancelBooking(rig.context, id))
    value(await cancelBooking(rig.context, id))
    await workAll(rig.db)
    expect((await booked(id)).state).toBe("cancelled")
    expect((await collectionsOn(rig.db, 1, "2026-11-24")).some((one) => one.door === "16")).toBe(false)
    const after = there(await rig.db("package").where({ id: pack.id }).first("collection_id", "state"))
    expect([after.state, after.collection_id === collectionId]).toEqual(["labelled", false])
    expect(codes(await openForSupplement(rig.context, there(collectionId)))).toEqual(["dock.cancelled"])
    const text = there(await calendarOf(rig.db, await warehouseById(rig.db, 1), id)).text
    const calendar = new ICAL.Component(ICAL.parse(text))
    // RFC 5546: a later sequence of the same event, with the method CANCEL
    expect(calendar.getFirstPropertyValue("method")).toBe("CANCEL")
    expect(calendar.getFirstSubcomponent("vevent")?.getFirstPropertyValue("status")).toBe("CANCELLED")
  })

  it("whose carrier is silent is canceled by its key, so that a late answer books nothing", async () => {
    await fault(carrierAt(rig, "LARK"), "down")
    const { id } = value(await book(rig.context, wanted({ door: "17" }), randomUUID()))
    await workAll(rig.db, 2)
    expect(await booked(id)).toMatchObject({ state: "asking", trouble: { code: "collect.no-answer" } })
    value(await cancelBooking(rig.context, id))
    await fault(carrierAt(rig, "LARK"), null)
    await workAll(rig.db)
    expect((await booked(id)).state).toBe("cancelled")
    const { once_key: key } = there(await rig.db("booked_collection").where({ id }).first("once_key"))
    const late = await fetch(`${carrierAt(rig, "LARK")}/v1/collections/${key}`, {
      method: "PUT",
      body: JSON.stringify({ ...ask, revision: 1, askedOn: "2026-11-24", askedAt: "09:00" }),
    })
    expect(late.status).toBe(422)
    expect((await collectionsOn(rig.db, 1, "2026-11-24")).some((one) => one.door === "17")).toBe(false)
  })

  it("of a carrier who wants another fee is canceled again, whoever is killed in between", async () => {
    const { id } = value(await book(rig.context, wanted({ door: "18" }), randomUUID()))
    const calls: string[] = []
    const dear = (fails: boolean) => () => ({
      close: async () => ({ kind: "taken" as const, number: "" }),
      findClosing: async () => null,
      collect: async () => {
        calls.push("collect")
        return { kind: "booked" as const, number: "X1", revision: 1, fee: { amount: "99.00", currency: "USD" } }
      },
      findCollection: async () => {
        calls.push("find")
        return { kind: "booked" as const, number: "X1", revision: 1, fee: { amount: "99.00", currency: "USD" } }
      },
      cancelCollection: async () => {
        calls.push("cancel")
        if (fails) throw new CarrierUnreachable("gone")
      },
    })
    await expect(askCollection(rig.db, id, 1, dear(true))).rejects.toThrow(CarrierUnreachable)
    expect((await booked(id)).state).toBe("asking")
    await askCollection(rig.db, id, 2, dear(false))
    expect(await booked(id)).toMatchObject({ state: "refused", trouble: { code: "collect.fee-differs" } })
    expect(calls).toEqual(["collect", "cancel", "find", "cancel"])
    await workAll(rig.db)
  })
})
