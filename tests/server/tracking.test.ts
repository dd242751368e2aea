import { instantAt } from "core/calendar/index.ts"
import { setBusinessNow } from "server/clock/index.ts"
import { clearUp } from "server/jobs/clearUp.ts"
import { summaryById } from "server/orders/facts.ts"
import { recordElsewhere } from "server/outside/elsewhere.ts"
import { onTimeBy } from "server/rating/onTime.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { askVoid } from "server/shipping/void.ts"
import { casesOf, letCasesGo, openCases, searchCases, watchCases } from "server/tracking/cases.ts"
import { setCode, trackingCodes } from "server/tracking/codes.ts"
import { followAll } from "server/tracking/follow.ts"
import { noteByHand } from "server/tracking/own.ts"
import { endPushes, makePushSecret, takePush } from "server/tracking/push.ts"
import { readdress } from "server/tracking/readdress.ts"
import { followDue } from "server/tracking/take.ts"
import { Webhook } from "standardwebhooks"
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { labelledOn, pulled, type Shipped, scanned, shipped } from "./followed.ts"
import { as, carrierAt, codes, fault, openRig, orderBySource, type Rig, row, takeFile, value, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(async () => {
  await rig?.drop()
})

const start = instantAt("2026-11-24", "09:00", "America/Chicago")
/** So many hours after the morning of the rig, as a carrier in Denver writes it. */
const hours = (n: number) =>
  new Date(start.getTime() + n * 3_600_000 - 7 * 3_600_000).toISOString().replace(/\.\d+Z$/, "-07:00")
const at = (n: number) => new Date(start.getTime() + n * 3_600_000)
const stageOf = async (orderId: number) => (await summaryById(rig.db, await warehouseById(rig.db, 1), orderId))?.stage
const unit = async (tracking: string) =>
  there(await rig.db("tracked_unit").where({ tracking }).whereNull("void_at").first())
const story = async (orderId: number) =>
  (await rig
    .db("audit")
    .where({ order_id: orderId })
    .where("action", "like", "tracking.%")
    .orderBy("id")
    .pluck("action")) as string[]
const denver = { street: "14 Growler Row", city: "Denver", state: "CO", postal_code: "80205" }

describe("what became of packages", () => {
  it("comes from the carrier, once, in whatever order, and ends in a delivery with who took it", async () => {
    const [one] = (await shipped(rig, ["TR-1"], "LKG", denver)) as [Shipped]
    const [tracking] = one.tracking as [string]
    expect(await unit(tracking)).toMatchObject({
      state: "announced",
      zone: "America/Denver",
      lane: "US-CO",
      name: expect.stringMatching(/-1$/),
    })
    expect((await unit(tracking)).left_at).not.toBeNull()
    await scanned(
      rig,
      "LARK",
      {
        id: "x3",
        trackingNumber: tracking,
        code: "OFD",
        occurredAt: hours(70),
        place: { city: "Denver", state: "CO" },
      },
      { id: "x1", trackingNumber: tracking, code: "PU", occurredAt: hours(9), place: { city: "Duluth", state: "MN" } },
    )
    expect(await pulled(rig, "LARK")).toBe(2)
    expect(await pulled(rig, "LARK")).toBe(0)
    expect(await unit(tracking)).toMatchObject({ state: "out-for-delivery", place: "Denver, CO" })
    // older than what is known, and once more: neither changes where it is
    await scanned(
      rig,
      "LARK",
      { id: "x2", trackingNumber: tracking, code: "ARR", occurredAt: hours(40) },
      { id: "x3again", trackingNumber: tracking, code: "OFD", occurredAt: hours(70) },
    )
    expect(await pulled(rig, "LARK")).toBe(1)
    expect(await unit(tracking)).toMatchObject({ state: "out-for-delivery" })
    expect(await stageOf(one.orderId)).toBe("gone")
    await scanned(rig, "LARK", {
      id: "x4",
      trackingNumber: tracking,
      code: "DEL",
      occurredAt: hours(74),
      receivedBy: "  I. Brook\u0007 ",
      picture: "door",
    })
    await pulled(rig, "LARK")
    expect(await unit(tracking)).toMatchObject({ state: "delivered", delivered_to: "I. Brook", delivered_at: at(74) })
    expect(await stageOf(one.orderId)).toBe("delivered")
    expect(await story(one.orderId)).toEqual(["tracking.delivered"])
    // its own clock showed an hour less than ours, and its picture is one
    const event = there(await rig.db("tracking_event").where({ code: "DEL", tracking }).first())
    expect(event).toMatchObject({ zone_offset: -420, picture_media: "image/png" })
    // 74 hours after Tuesday nine o'clock is Friday noon: what the comparison measures knows it
    expect(await rig.db("delivery").where({ tracking }).first("delivered_on", "lane")).toEqual({
      delivered_on: "2026-11-27",
      lane: "US-CO",
    })
    const legs = await rig
      .db("delivery_leg")
      .where({ lane: "US-CO" })
      .orderBy("state")
      .select("state", "days", "packages")
    // from Tuesday evening to Friday there are three business days, but for Thanksgiving, on which this carrier rests
    expect(legs).toEqual([
      { state: "accepted", days: 2, packages: 1 },
      { state: "in-transit", days: 1, packages: 1 },
      { state: "out-for-delivery", days: 0, packages: 1 },
    ])
  })

  it("tells the comparison how a service keeps its days on a lane, where enough was measured there", async () => {
    const { service_id } = await unit(
      there((await rig.db("delivery").where({ lane: "US-CO" }).first("tracking"))?.tracking),
    )
    const rows = (lane: string, late: number, n: number) =>
      Array.from({ length: n }, (_, index) => ({
        tracking: `${lane} ${index}`,
        service_id: there(service_id),
        lane,
        ship_date: "2026-11-02" as const,
        promised_on: "2026-11-05" as const,
        delivered_on: (index < late ? "2026-11-06" : "2026-11-05") as "2026-11-05",
      }))
    await rig.db("delivery").insert([...rows("US-TX", 15, 20), ...rows("US-OH", 0, 19)])
    const inTime = async (lane: string) => (await onTimeBy(rig.db, "2026-11-24", lane)).get(there(service_id))
    expect(await inTime("US-TX")).toMatchObject({ of: 20, inTime: 5 })
    // 19 are too few: of all 20 + 19 + 1, those of Texas with them, 25 were in time
    expect(await inTime("US-OH")).toMatchObject({ of: 40, inTime: 25 })
    await rig.db("delivery").where("tracking", "like", "US-%").delete()
  })

  it("is of all packages of a shipment where only its number is named, and part of an order may be delivered", async () => {
    const [one] = (await shipped(rig, ["TR-2"], "LKG", denver)) as [Shipped]
    const units = await rig.db("tracked_unit").where({ order_id: one.orderId })
    // a second piece, as a carton more would be
    const first = there(units[0])
    const { id: _, ...same } = first
    await rig.db("tracked_unit").insert({ ...same, piece: 2, tracking: "LA999", package_id: null })
    await scanned(rig, "LARK", { masterTrackingNumber: first.master, code: "PU", occurredAt: hours(9) })
    await pulled(rig, "LARK")
    const states = () => rig.db("tracked_unit").where({ order_id: one.orderId }).orderBy("piece").pluck("state")
    expect(await states()).toEqual(["accepted", "accepted"])
    await scanned(rig, "LARK", { trackingNumber: "LA999", code: "DEL", occurredAt: hours(50) })
    await pulled(rig, "LARK")
    expect(await states()).toEqual(["accepted", "delivered"])
  })

  it("takes no harm from what can't be read, and keeps what nobody knows until somebody says what it means", async () => {
    const [one] = (await shipped(rig, ["TR-3"], "LKG", denver)) as [Shipped]
    const [tracking] = one.tracking as [string]
    await scanned(
      rig,
      "LARK",
      { id: "bad time", trackingNumber: tracking, code: "PU", occurredAt: "yesterday" },
      { id: "b2", code: "PU", occurredAt: hours(9) },
      { id: "b3", trackingNumber: "NOBODYS", code: "PU", occurredAt: hours(9) },
      { id: "b4", trackingNumber: tracking, code: "WXD", occurredAt: hours(20), description: "<b>Snow</b>" },
      { id: "b5", trackingNumber: tracking, code: "DEL", occurredAt: hours(60), picture: "bm90IGEgcGljdHVyZQ==" },
    )
    // of five one is nobody's and one of an unknown code; three are none
    expect(await pulled(rig, "LARK")).toBe(2)
    expect(await unit(tracking)).toMatchObject({ state: "announced" })
    expect((await trackingCodes(rig.db))[0]).toMatchObject({ code: "WXD", kind: null, text: "<b>Snow</b>" })
    const lark = there(await rig.db("carrier").where({ code: "LARK" }).first("id")).id
    const ada = as(rig.context, { role: "administrator" })
    expect(codes(await setCode(ada, lark, "WXD", "snowed in"))).toEqual(["tracking.no-kind"])
    await expect(setCode(rig.context, lark, "WXD", "delayed")).rejects.toThrow("not allowed")
    value(await setCode(ada, lark, "WXD", "arrived"))
    await workAll(rig.db)
    expect(await unit(tracking)).toMatchObject({ state: "in-transit", seen_at: at(20) })
    value(await setCode(ada, lark, "WXD", "delayed"))
    await workAll(rig.db)
    expect(await unit(tracking)).toMatchObject({ state: "announced", seen_at: at(20) })
  })

  it("is not forgotten by somebody who was waiting meanwhile", async () => {
    const [one] = (await shipped(rig, ["TR-13"], "LKG", denver)) as [Shipped]
    const { id } = await unit(there(one.tracking[0]))
    // somebody works on the order; whoever looks at its packages waits for him
    const working = await rig.db.transaction()
    await working("sales_order").where({ id: one.orderId }).forUpdate().first("id")
    const looking = followAll(rig.db, [id], rig.context.now)
    await new Promise((done) => setTimeout(done, 300))
    await rig.db("tracking_event").insert({
      once_key: "meanwhile",
      unit_id: id,
      way: "own",
      code: "delivered",
      kind: "delivered",
      at: at(2),
      taken_at: at(2),
    })
    await working.commit()
    await looking
    expect(await unit(there(one.tracking[0]))).toMatchObject({ state: "delivered" })
  })

  it("is followed no longer once its label is void", async () => {
    const one = await labelledOn(rig, "TR-4", "LKG", denver)
    await rig.db("package").where({ tracking: one.tracking[0] }).update({ state: "labelled" })
    value(await askVoid(rig.context, one.orderId))
    await workAll(rig.db)
    expect(await rig.db("tracked_unit").where({ order_id: one.orderId }).whereNull("void_at").first()).toBeUndefined()
    await scanned(rig, "LARK", { trackingNumber: one.tracking[0], code: "DEL", occurredAt: hours(50) })
    await pulled(rig, "LARK")
    expect(await stageOf(one.orderId)).not.toBe("delivered")
  })

  it("is the same for another carrier's number, by hand where no carrier of ours has it", async () => {
    for (const number of ["TR-5", "TR-6"]) await takeFile(rig.context, row({ order_number: number, ...denver }))
    const said = (carrier: string, tracking: string) => ({
      carrier,
      service: "",
      tracking,
      shippedOn: "2026-11-24",
      cost: "",
      currency: "",
    })
    const [five, six] = [(await orderBySource(rig.db, "TR-5")).id, (await orderBySource(rig.db, "TR-6")).id]
    const { name } = there(await rig.db("carrier").where({ code: "LARK" }).first("name"))
    value(await recordElsewhere(rig.context, five, said(name, "LA5550001")))
    value(await recordElsewhere(rig.context, six, said("Uncle Ned", "NED100001")))
    expect(await stageOf(five)).toBe("gone")
    await scanned(rig, "LARK", { trackingNumber: "LA5550001", code: "DEL", occurredAt: hours(50), receivedBy: "Ida" })
    await pulled(rig, "LARK")
    expect(await stageOf(five)).toBe("delivered")
    const ned = await unit("NED100001")
    expect(
      codes(await noteByHand(as(rig.context, { warehouseId: 2 }), ned.id, { kind: "delivered", name: "", note: "" })),
    ).toEqual(["tracking.unknown"])
    value(await noteByHand(rig.context, ned.id, { kind: "delivered", name: "Ida", note: "phoned" }))
    value(await noteByHand(rig.context, ned.id, { kind: "delivered", name: "Ida", note: "phoned" }))
    expect(await stageOf(six)).toBe("delivered")
    expect(await story(six)).toEqual(["tracking.by-hand", "tracking.delivered"])
  })
})

describe("messages that a carrier sends by himself", () => {
  let secret = ""
  const ada = () => as(rig.context, { role: "administrator" })
  const lark = async () => there(await rig.db("carrier").where({ code: "LARK" }).first("id")).id
  const send = (body: string, by: string, change: Partial<Record<string, string>> = {}, when = new Date()) =>
    takePush(rig.db, "LARK", Buffer.from(body), {
      "webhook-id": "msg_1",
      "webhook-timestamp": String(Math.floor(when.getTime() / 1000)),
      "webhook-signature": new Webhook(by).sign("msg_1", when, body),
      ...change,
    } as Record<string, string>)
  beforeEach(async () => {
    if (!secret) secret = value(await makePushSecret(ada(), await lark())).secret
  })

  it("are taken once where they are signed, whatever the secret was before", async () => {
    const [one] = (await shipped(rig, ["TR-7"], "LKG", denver)) as [Shipped]
    const [tracking] = one.tracking as [string]
    const body = (id: string, code: string, n: number) =>
      JSON.stringify({ events: [{ id, trackingNumber: tracking, code, occurredAt: hours(n) }] })
    expect(await send(body("p1", "PU", 9), secret)).toBe("taken")
    expect(await send(body("p1", "PU", 9), secret)).toBe("taken")
    expect(await rig.db("tracking_event").where({ tracking }).pluck("way")).toEqual(["pushed"])
    const next = value(await makePushSecret(ada(), await lark())).secret
    expect(await send(body("p2", "ARR", 20), secret)).toBe("taken")
    expect(await send(body("p3", "OFD", 40), next)).toBe("taken")
    value(await makePushSecret(ada(), await lark()))
    expect(await send(body("p4", "DEL", 44), secret)).toBe("unsigned")
    expect(await unit(tracking)).toMatchObject({ state: "out-for-delivery" })
    secret = next
  })

  it("leave out what can't be read, say so, and take the rest", async () => {
    const [one] = (await shipped(rig, ["TR-40"], "LKG", denver)) as [Shipped]
    const [tracking] = one.tracking as [string]
    const event = (id: string, more: object = {}) => ({
      id,
      trackingNumber: tracking,
      code: "PU",
      occurredAt: hours(9),
      ...more,
    })
    const events = [
      event("u1", { occurredAt: "soon" }),
      event("u2", { occurredAt: "2099-01-01T00:00:00Z" }),
      event("u3"),
    ]
    expect(await send(JSON.stringify({ events: [...events, 7, event("u4", { trackingNumber: "" })] }), secret)).toBe(
      "taken",
    )
    expect(await rig.db("tracking_event").where({ tracking }).pluck("once_key")).toEqual([`${await lark()}:u3`])
    const noted = there(
      await rig.db("audit").where({ action: "tracking.unreadable" }).orderBy("id", "desc").first("detail"),
    )
    expect(noted.detail).toEqual({ carrier: "Larkspur Parcel", n: 4 })
  })

  it("are refused unsigned, changed on the way, too old, from the future, and for a carrier who sends none", async () => {
    const body = JSON.stringify({ events: [] })
    expect(await send(body, secret)).toBe("taken")
    expect(await send(body, "whsec_bm90IG91ciBzZWNyZXQgYXQgYWxs")).toBe("unsigned")
    expect(await send(body, secret, { "webhook-id": "msg_2" })).toBe("unsigned")
    const six = 6 * 60_000
    expect(await send(body, secret, {}, new Date(Date.now() - six))).toBe("unsigned")
    expect(await send(body, secret, {}, new Date(Date.now() + six))).toBe("unsigned")
    expect(await send(body, secret, {}, new Date(Date.now() - 4 * 60_000))).toBe("taken")
    expect(await send("no json", secret)).toBe("unreadable")
    expect(await send(JSON.stringify({ events: {} }), secret)).toBe("unreadable")
    expect(await takePush(rig.db, "MERI", Buffer.from(body), {})).toBe("unknown")
    // kept as nobody can read it
    const kept = there(await rig.db("carrier").where({ code: "LARK" }).first("pushes")).pushes
    expect(there(kept).toString("latin1")).not.toContain(secret.slice(6, 20))
    value(await endPushes(ada(), await lark()))
    expect(await send(body, secret)).toBe("unknown")
    await expect(makePushSecret(rig.context, await lark())).rejects.toThrow("not allowed")
  })
})

describe("what a person has to see to", () => {
  it("is opened by an event, ended by another, watched for a while, and let go for good", async () => {
    const [one] = (await shipped(rig, ["TR-8"], "LKG", denver)) as [Shipped]
    const [tracking] = one.tracking as [string]
    await scanned(
      rig,
      "LARK",
      { trackingNumber: tracking, code: "PU", occurredAt: hours(9) },
      { trackingNumber: tracking, code: "ADR", occurredAt: hours(30) },
    )
    await pulled(rig, "LARK")
    const [open] = await casesOf(rig.db, 1, one.orderId)
    expect(open).toMatchObject({
      kind: "address",
      state: "open",
      unit: { tracking, state: "held" },
      company: "Elk Run Taproom",
    })
    expect(await casesOf(rig.db, 2, one.orderId)).toEqual([])
    expect((await openCases(rig.db, 1)).get("address")).toBe(1)
    expect(codes(await watchCases(rig.context, [], { until: "1d", note: "" }))).toEqual(["tracking.choose"])
    expect(
      value(await watchCases(as(rig.context, { warehouseId: 2 }), [there(open).id], { until: "4h", note: "" })),
    ).toEqual({ cases: 0 })
    await expect(letCasesGo(as(rig.context, { role: "sales" }), [there(open).id], "why")).rejects.toThrow("not allowed")
    value(await watchCases(rig.context, [there(open).id], { until: "4h", note: "asked the customer" }))
    expect(await casesOf(rig.db, 1, one.orderId)).toMatchObject([{ state: "watched", note: "asked the customer" }])
    // four hours later nothing has come of it
    await setBusinessNow(rig.db, at(5))
    await followDue(rig.db, at(5))
    expect(await casesOf(rig.db, 1, one.orderId)).toMatchObject([{ state: "open" }])
    expect(codes(await letCasesGo(rig.context, [there(open).id], "  "))).toEqual(["tracking.no-reason"])
    value(await letCasesGo(rig.context, [there(open).id], "customer fetches it"))
    await rig
      .db("tracked_unit")
      .where({ tracking })
      .update({ look_at: at(6) })
    await followDue(rig.db, at(7))
    expect(await casesOf(rig.db, 1, one.orderId)).toEqual([])
    // the same trouble once more is another case, and the delivery ends it
    await scanned(
      rig,
      "LARK",
      { trackingNumber: tracking, code: "OFD", occurredAt: hours(40) },
      { trackingNumber: tracking, code: "NHM", occurredAt: hours(44) },
    )
    await pulled(rig, "LARK")
    expect(await casesOf(rig.db, 1, one.orderId)).toMatchObject([{ kind: "attempted" }])
    await scanned(rig, "LARK", { trackingNumber: tracking, code: "DEL", occurredAt: hours(50) })
    await pulled(rig, "LARK")
    expect(await casesOf(rig.db, 1, one.orderId)).toEqual([])
    const over = await searchCases(rig.db, 1, { text: tracking, kind: "", state: "over", page: 1 })
    expect(over.map((row) => row.kind)).toEqual(["attempted"])
    expect(await story(one.orderId)).toEqual([
      "tracking.trouble",
      "tracking.watched",
      "tracking.let-go",
      "tracking.trouble",
      "tracking.delivered",
    ])
    await setBusinessNow(rig.db, start)
  })

  it("is told by time alone: never seen, no movement, late; and ends when it moves", async () => {
    const [one] = (await shipped(rig, ["TR-9"], "LKG", { ...denver, promised_on: "2026-12-02" })) as [Shipped]
    const [tracking] = one.tracking as [string]
    const look = async (day: string) => {
      await rig
        .db("tracked_unit")
        .where({ tracking })
        .update({ look_at: new Date(0) })
      const now = instantAt(day as never, "12:00", "America/Denver")
      await followDue(rig.db, now)
      return (await casesOf(rig.db, 1, one.orderId)).map((found) => found.kind)
    }
    // Thanksgiving is no business day: Friday is the second after Tuesday, Monday the third
    expect(await look("2026-11-27")).toEqual([])
    expect(await look("2026-11-30")).toEqual(["not-seen"])
    await scanned(rig, "LARK", { trackingNumber: tracking, code: "PU", occurredAt: "2026-11-30T18:00:00-06:00" })
    await pulled(rig, "LARK")
    expect(await look("2026-12-02")).toEqual([])
    // Thursday is the day after the promise, and the third business day since the pickup
    expect((await look("2026-12-03")).sort()).toEqual(["late", "no-movement"])
    await scanned(rig, "LARK", { trackingNumber: tracking, code: "DEL", occurredAt: "2026-12-04T11:00:00-07:00" })
    await pulled(rig, "LARK")
    expect(await look("2026-12-04")).toEqual([])
  })

  it("is foreseen from what others took, and from the day that the carrier says", async () => {
    const [one] = (await shipped(rig, ["TR-10"], "LKG", { ...denver, promised_on: "2026-12-01" })) as [Shipped]
    const [tracking] = one.tracking as [string]
    const { service_id } = await unit(tracking)
    // of 24 packages 16 took three business days from the pickup, 8 took two
    await rig.db("delivery_leg").where({ lane: "US-CO" }).delete()
    for (const [days, packages] of [
      [3, 16],
      [2, 8],
    ] as const)
      await rig.db("delivery_leg").insert({
        service_id: there(service_id),
        lane: "US-CO",
        state: "accepted",
        month: "2026-11-01",
        days,
        packages,
      })
    await scanned(rig, "LARK", { trackingNumber: tracking, code: "PU", occurredAt: "2026-11-27T16:00:00-06:00" })
    await pulled(rig, "LARK")
    // until Tuesday there are two business days: two thirds took longer
    expect(await casesOf(rig.db, 1, one.orderId)).toMatchObject([
      { kind: "likely-late", figures: { due: "2026-12-01", percent: "67" } },
    ])
    await scanned(rig, "LARK", {
      trackingNumber: tracking,
      code: "DLY",
      occurredAt: "2026-11-28T16:00:00-06:00",
      estimatedDelivery: "2026-12-03",
    })
    await pulled(rig, "LARK")
    expect(await casesOf(rig.db, 1, one.orderId)).toMatchObject([
      { kind: "late", figures: { due: "2026-12-01", estimated: "2026-12-03" } },
    ])
  })
})

describe("another address for what a carrier can't deliver", () => {
  const address = {
    company: "Elk Run",
    attention: "",
    street: "16 Growler Row",
    street2: "",
    city: "Denver",
    state: "CO",
    postalCode: "80205",
    phone: "",
  }
  it("goes to the carrier once, also when its answer is lost, and its refusal is said", async () => {
    const [one, two] = (await shipped(rig, ["TR-11", "TR-12"], "LKG", denver)) as [Shipped, Shipped]
    for (const { tracking } of [one, two])
      await scanned(rig, "LARK", { trackingNumber: tracking[0], code: "ADR", occurredAt: hours(30) })
    await pulled(rig, "LARK")
    const first = await unit(there(one.tracking[0]))
    expect(codes(await readdress(rig.context, first.id, { ...address, street: "" }, "k1"))).toEqual([
      "return.address-gap",
    ])
    expect(codes(await readdress(as(rig.context, { warehouseId: 2 }), first.id, address, "k1"))).toEqual([
      "tracking.unknown",
    ])
    value(await readdress(rig.context, first.id, address, "k1"))
    value(await readdress(rig.context, first.id, address, "k1"))
    await fault(carrierAt(rig, "LARK"), "lose-answer", 1)
    await workAll(rig.db)
    expect(await rig.db("tracking_readdress").where({ unit_id: first.id }).pluck("state")).toEqual(["taken"])
    expect(await casesOf(rig.db, 1, one.orderId)).toMatchObject([{ state: "watched", readdressed: "taken" }])
    const second = await unit(there(two.tracking[0]))
    value(await readdress(rig.context, second.id, address, "k2"))
    await fault(carrierAt(rig, "LARK"), "refuse", 1)
    await workAll(rig.db)
    expect(await casesOf(rig.db, 1, two.orderId)).toMatchObject([{ state: "open", readdressed: "refused" }])
    expect(await story(two.orderId)).toEqual(["tracking.trouble", "tracking.address-sent", "tracking.address-refused"])
  })
})

it("forgets events after their time, and not what they said", async () => {
  const [one] = (await shipped(rig, ["TR-99"], "LKG", denver)) as [Shipped]
  const [tracking] = one.tracking as [string]
  await scanned(rig, "LARK", { trackingNumber: tracking, code: "DEL", occurredAt: hours(50), receivedBy: "Ida" })
  await pulled(rig, "LARK")
  const { id } = await unit(tracking)
  const events = () => rig.db("tracking_event").where({ tracking }).pluck("code")
  // more than 400 days ago
  const old = at(-401 * 24)
  await rig.db("tracking_event").where({ tracking }).update({ taken_at: old })
  await rig.db("tracked_unit").where({ id }).update({ seen_at: old })
  const others = Number((await rig.db("tracking_event").count({ n: "*" }).first())?.n)
  await clearUp(rig.db, [])
  expect(await events()).toEqual([])
  // what is younger is still there
  expect(Number((await rig.db("tracking_event").count({ n: "*" }).first())?.n)).toBe(others - 1)
  await scanned(rig, "LARK", { trackingNumber: tracking, code: "ARR", occurredAt: hours(60) })
  await pulled(rig, "LARK")
  expect(await unit(tracking)).toMatchObject({ state: "delivered", delivered_to: "Ida" })
})
