import { randomUUID } from "node:crypto"
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { parse } from "csv-parse/sync"
import fc from "fast-check"
import { shipmentOf } from "server/packages/shipment.ts"
import { closePackages } from "server/packing/index.ts"
import {
  makeReportSecret,
  reportForm,
  saveReporting,
  searchReports,
  sendReports,
  testReporting,
  waitingReports,
} from "server/reports/list.ts"
import { sendOutbox } from "server/reports/send.ts"
import { freightLineForm, freightLineOf, setFreightLine } from "server/shipping/freightLine.ts"
import { askVoid } from "server/shipping/void.ts"
import { Webhook } from "standardwebhooks"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { labelledOn, pulled, type Shipped, scanned, shipped } from "./followed.ts"
import {
  as,
  askForLabels,
  closeDoor,
  codes,
  fault,
  openRig,
  orderBySource,
  packed,
  type Rig,
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
let source = 0
const out = mkdtempSync(join(tmpdir(), "varnok-reports-"))
beforeAll(async () => {
  process.env.VARNOK_OUT = out
  rig = await openRig()
  source = there(await rig.db("order_source").where({ code: "file" }).first("id")).id
})
afterAll(async () => {
  delete process.env.VARNOK_OUT
  rmSync(out, { recursive: true, force: true })
  await rig?.drop()
})

interface Got {
  readonly key: string
  readonly times: number
  readonly body: { readonly [name: string]: unknown }
}
const got = async (path = "reports"): Promise<Got[]> =>
  (await fetch(`${rig.at.orderSource}/${path}`)).json() as Promise<Got[]>
const of = async (number: string) => (await got()).filter((one) => one.body.orderNumber === number)
const admin = () => as(rig.context, { role: "administrator" })
const set = async (more: object) => {
  const { version } = there(await rig.db("order_source").where({ id: source }).first("version"))
  return saveReporting(
    admin(),
    reportForm.parse({
      id: source,
      version,
      way: "http",
      fields: ["service", "lines", "lots", "contents", "sscc", "charge", "ship-from", "papers"],
      ...more,
    }),
  )
}
const all = { text: "", state: "" as const, page: 1 }

describe("what a source is told", () => {
  it("is all that it chose, with contents by package and lots, and no cost", async () => {
    const one = await labelledOn(rig, "RP-1", "LKG")
    await closeDoor(rig.context, one.door, 1)
    await workAll(rig.db)
    const [report] = await of("RP-1")
    const sscc = there(await rig.db("package").where({ tracking: one.tracking[0] }).first("sscc")).sscc
    expect(report?.body).toMatchObject({
      topic: "order.gone",
      carrier: "Larkspur Parcel",
      trackingNumber: one.tracking[0],
      freightCharged: "here",
      shippedOn: "2026-11-24",
      shipFrom: { city: "Duluth", country: "US" },
      packages: [{ trackingNumber: one.tracking[0], sscc }],
    })
    expect(report?.body.cost).toBeUndefined()
    // pieces told by package are those of the lines
    const lines = report?.body.lines as { sku: string; shipped: number }[]
    const packages = report?.body.packages as { contents: { sku: string; quantity: number }[] }[]
    const packedOf = (sku: string) =>
      packages
        .flatMap((each) => each.contents)
        .filter((each) => each.sku === sku)
        .reduce((sum, each) => sum + each.quantity, 0)
    expect(lines.length).toBeGreaterThan(0)
    for (const line of lines) expect(packedOf(line.sku)).toBe(line.shipped)
  })

  it("is under its own names, and with cost where it is set so; wrong names are refused", async () => {
    expect(codes(await set({ names: "orderNumber" }))).toEqual(["report.name"])
    expect(codes(await set({ names: "password = x" }))).toEqual(["report.name"])
    expect(codes(await set({ names: "charge = amount\nlist = amount" }))).toEqual(["report.name-twice"])
    expect(codes(await set({ names: "charge = list" }))).toEqual(["report.name-twice"])
    value(await set({ names: "charge = list\nlist = charge" }))
    expect(codes(await set({ way: "folder-csv", folder: "../etc" }))).toEqual(["source.folder"])
    await expect(saveReporting(rig.context, reportForm.parse({ id: source, way: "http" }))).rejects.toThrow(
      "not allowed",
    )
    value(await set({ names: "orderNumber = order_id\ntrackingNumber = tracking", fields: ["cost"] }))
    await shipped(rig, ["RP-2"])
    const [report] = (await got()).filter((one) => one.body.order_id === "RP-2")
    expect(Object.keys(report?.body ?? {}).sort()).toEqual(["cost", "order_id", "packages", "topic", "tracking"])
    value(await set({}))
  })

  it("waits for somebody where it is set so, is counted, and goes by hand: chosen ones or all", async () => {
    value(await set({ by_hand: "on" }))
    await shipped(rig, ["RP-3", "RP-4", "RP-5"])
    expect(await of("RP-3")).toEqual([])
    expect(await waitingReports(rig.db, 1)).toEqual([expect.objectContaining({ sourceId: source, n: 3, byHand: true })])
    expect(await waitingReports(rig.db, 2)).toEqual([])
    const waiting = await searchReports(rig.db, 1, { ...all, state: "waiting" })
    const four = there(waiting.find((one) => one.sourceNumber === "RP-4"))
    expect(codes(await sendReports(rig.context, { ids: [] }))).toEqual(["report.choose"])
    expect(value(await sendReports(as(rig.context, { warehouseId: 2 }), { ids: [four.id] }))).toEqual({ reports: 0 })
    expect(value(await sendReports(rig.context, { ids: [four.id] }))).toEqual({ reports: 1 })
    await workAll(rig.db)
    expect([(await of("RP-3")).length, (await of("RP-4")).length]).toEqual([0, 1])
    expect(value(await sendReports(rig.context, { sourceId: source }))).toEqual({ reports: 2 })
    await workAll(rig.db)
    expect(await waitingReports(rig.db, 1)).toEqual([])
    expect((await of("RP-3")).map((one) => one.times)).toEqual([1])
    value(await set({}))
  })

  it("is kept over an outage, and said where the source refuses it; then sent again under its own id", async () => {
    await fault(rig.at.orderSource, "down")
    await shipped(rig, ["RP-6"])
    await workAll(rig.db, 3)
    expect((await searchReports(rig.db, 1, { ...all, text: "RP-6" }))[0]).toMatchObject({
      state: "waiting",
      trouble: expect.stringContaining("503"),
    })
    expect(await rig.db("job").where({ kind: "outbox.send", state: "dead" })).toEqual([])
    await fault(rig.at.orderSource, "refuse")
    await workAll(rig.db, 3)
    const [refused] = await searchReports(rig.db, 1, { ...all, state: "refused" })
    expect(refused).toMatchObject({ sourceNumber: "RP-6" })
    await fault(rig.at.orderSource, null)
    await workAll(rig.db, 3)
    expect(await of("RP-6")).toEqual([])
    value(await sendReports(rig.context, { ids: [there(refused).id] }))
    await workAll(rig.db)
    expect((await of("RP-6")).map((one) => one.times)).toEqual([1])
    // and once more: the source has it
    value(await sendReports(rig.context, { ids: [there(refused).id] }))
    await workAll(rig.db)
    expect((await of("RP-6")).map((one) => one.times)).toEqual([2])
  })

  it("lies in a folder as JSON or as rows that add up", async () => {
    value(
      await set({
        way: "folder-csv",
        folder: "shop-reports",
        fields: ["service", "contents", "lots", "charge", "cost"],
        names: "order_number = Order\ntracking = Tracking no",
      }),
    )
    await shipped(rig, ["RP-7"])
    const [name] = readdirSync(join(out, "shop-reports")).filter((file) => file.endsWith(".csv"))
    const rows = parse(readFileSync(join(out, "shop-reports", there(name)), "utf8"), {
      columns: true,
      bom: true,
    }) as Record<string, string>[]
    expect(rows.length).toBeGreaterThan(0)
    expect(rows.every((one) => one.Order === "RP-7" && one["Tracking no"] !== "")).toBe(true)
    expect(rows.filter((one) => one.cost !== "")).toHaveLength(1)
    value(await set({ way: "folder-json", folder: "shop-reports" }))
    await shipped(rig, ["RP-8"])
    const json = readdirSync(join(out, "shop-reports")).filter((file) => file.endsWith(".json"))
    expect(JSON.parse(readFileSync(join(out, "shop-reports", there(json[0])), "utf8"))).toMatchObject({
      orderNumber: "RP-8",
    })
    value(await set({}))
  })
})

describe("signed messages", () => {
  it("agree with the specification's own example", () => {
    // Standard Webhooks, "Verifying webhooks": secret, id, timestamp, body and signature of its example
    const secret = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw"
    const body = '{"test": 2432232314}'
    const at = new Date(1614265330 * 1000)
    expect(new Webhook(secret).sign("msg_p5jXN8AQM9LWM0D4loKWxJek", at, body)).toBe(
      "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=",
    )
  })

  it("are taken once, tested, and checked by the new secret or the one before", async () => {
    await rig
      .db("order_source")
      .where({ id: source })
      .update({ report_url: `${rig.at.orderSource}/webhooks` })
    value(await set({ way: "webhook", delivery: "on" }))
    expect(codes(await testReporting(admin(), source))).toEqual(["report.test-failed"])
    const first = value(await makeReportSecret(admin(), source)).secret
    await fetch(`${rig.at.orderSource}/secret`, { method: "PUT", body: JSON.stringify({ secret: first }) })
    value(await testReporting(admin(), source))
    const [one] = (await shipped(rig, ["RP-9"])) as [Shipped]
    // changed here first: the other side still checks by the one before
    value(await makeReportSecret(admin(), source))
    await scanned(rig, "LARK", {
      trackingNumber: one.tracking[0],
      code: "DEL",
      occurredAt: "2026-11-25T09:00:00-06:00",
      receivedBy: "Ida",
    })
    await pulled(rig, "LARK")
    await workAll(rig.db)
    const mine = (await got("webhooks")).filter(
      (each) => (each.body.data as { orderNumber?: string }).orderNumber === "RP-9",
    )
    expect(mine.map((each) => [each.body.type, each.times])).toEqual([
      ["order.gone", 1],
      ["order.delivered", 1],
    ])
    expect(mine[1]?.body.data).toMatchObject({ receivedBy: "Ida", packages: [{ trackingNumber: one.tracking[0] }] })
    await expect(makeReportSecret(rig.context, source)).rejects.toThrow("not allowed")
    await rig
      .db("order_source")
      .where({ id: source })
      .update({ report_url: `${rig.at.orderSource}/reports` })
    value(await set({}))
  })
})

describe("the freight line of an order", () => {
  const lead = () => as(rig.context, { role: "lead" })
  const sets = (orderId: number, amount: string, why = "agreed by phone", who = lead()) =>
    setFreightLine(who, orderId, freightLineForm.parse({ amount, why }), randomUUID())

  it("is changed by right until the order goes, and its source hears of it once", async () => {
    value(await set({ labels: "on" }))
    const one = await labelledOn(rig, "FL-1", "LKG")
    await workAll(rig.db)
    await expect(sets(one.orderId, "3.21", "x", rig.context)).rejects.toThrow("not allowed")
    expect(codes(await sets(one.orderId, "3.21", ""))).toEqual(["charging.why-needed"])
    expect(codes(await sets(one.orderId, "3.21", "x", as(lead(), { warehouseId: 2 })))).toEqual(["order.unknown"])
    expect(freightLineForm.safeParse({ amount: "3.215", why: "x" }).success).toBe(false)
    value(await sets(one.orderId, "3.21"))
    value(await sets(one.orderId, "3.21"))
    await workAll(rig.db)
    expect((await of("FL-1")).map((each) => [each.body.topic, each.body.charge])).toEqual([
      ["order.labelled", expect.anything()],
      ["order.charged", { amount: "3.21", currency: "USD" }],
    ])
    await closeDoor(rig.context, one.door, 1)
    await workAll(rig.db)
    const last = (await of("FL-1")).at(-1)
    expect([last?.body.topic, last?.body.charge]).toEqual(["order.gone", { amount: "3.21", currency: "USD" }])
    expect(codes(await sets(one.orderId, "4.00"))).toEqual(["freight.told"])
    expect(await freightLineOf(rig.db, one.orderId)).toEqual({ settable: false, byHand: null })
    value(await set({}))
  })

  it("is the same on the shipment, and outlasts labels that are made void and bought again", async () => {
    const one = await labelledOn(rig, "FL-3", "LKG")
    value(await sets(one.orderId, "9.80"))
    const shipment = async () => there(await rig.db("shipment").where({ order_id: one.orderId }).first())
    expect((await shipment()).charged_amount).toBe("9.8000")
    // it is on the truck: off again before it can be made void
    await rig
      .db("package")
      .where({ shipment_id: (await shipment()).id })
      .update({ state: "labelled" })
    value(await askVoid(rig.context, one.orderId))
    await workAll(rig.db)
    if ((await shipmentOf(rig.db, one.orderId))?.packages.some((each) => each.state === "open"))
      value(await closePackages(rig.context, one.orderId))
    await askForLabels(rig.context, one.orderId, there(await shipmentOf(rig.db, one.orderId)))
    await workAll(rig.db)
    const last = await rig.db("order_freight").where({ order_id: one.orderId }).orderBy("intent_id", "desc").first()
    expect([last?.charged_amount, (await shipment()).charged_amount]).toEqual(["9.8000", "9.8000"])
  })

  it("is set for the shipment before its labels are bought, and stays with them", async () => {
    await takeFile(rig.context, row({ order_number: "FL-2" }))
    const before = (await orderBySource(rig.db, "FL-2")).id
    expect(codes(await sets(before, "7.00"))).toEqual(["freight.no-shipment"])
    const { orderId } = await packed(rig.context, "FL-2")
    value(await sets(orderId, "7"))
    expect(await freightLineOf(rig.db, orderId)).toEqual({
      settable: true,
      byHand: { amount: "7.00", why: "agreed by phone" },
    })
    await askForLabels(rig.context, orderId, there(await shipmentOf(rig.db, orderId)))
    await workAll(rig.db)
    expect((await rig.db("order_freight").where({ order_id: orderId }).first())?.charged_amount).toBe("7.0000")
  })

  it("is no more changed once it left, also where its source is told nothing; nor of combined orders before they have labels", async () => {
    const one = await labelledOn(rig, "FL-4", "LKG")
    const charged = there(await rig.db("order_freight").where({ order_id: one.orderId }).first()).charged_amount
    await rig
      .db("package")
      .whereIn("shipment_id", rig.db("shipment").where({ order_id: one.orderId }).select("id"))
      .update({ state: "gone" })
    expect(codes(await sets(one.orderId, "4.00"))).toEqual(["freight.gone"])
    expect((await freightLineOf(rig.db, one.orderId)).settable).toBe(false)
    expect((await rig.db("order_freight").where({ order_id: one.orderId }).first())?.charged_amount).toBe(charged)

    await takeFile(rig.context, row({ order_number: "FL-5" }), row({ order_number: "FL-6" }))
    const lead = await packed(rig.context, "FL-5")
    const member = (await orderBySource(rig.db, "FL-6")).id
    await rig.db("sales_order").where({ id: member }).update({ joined_to_id: lead.orderId })
    for (const id of [lead.orderId, member]) expect(codes(await sets(id, "4.00"))).toEqual(["freight.combined"])
    await rig.db("sales_order").where({ id: member }).update({ joined_to_id: null })
    expect(codes(await sets(999_999, "4.00"))).toEqual(["order.unknown"])
  })
})

describe("whatever happens in between", () => {
  it("a source is told each fact once, in order: property over buying, voiding, outages and lost answers", {
    timeout: 240_000,
  }, async () => {
    value(await set({ labels: "on", delivery: "on" }))
    let serial = 0
    const step = fc.constantFrom("buy", "void", "down", "up", "work", "again")
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 3, maxLength: 10 }), async (steps) => {
        serial += 1
        const number = `PR-${serial}`
        await takeFile(rig.context, row({ order_number: number }))
        const { orderId } = await packed(rig.context, number)
        const expected: string[] = []
        const finish = async () => {
          await fault(rig.at.orderSource, null)
          await workAll(rig.db)
        }
        for (const one of steps) {
          const shipment = there(await shipmentOf(rig.db, orderId))
          if (one === "buy" && shipment.state === "open") {
            if (shipment.packages.some((each) => each.state === "open"))
              value(await closePackages(rig.context, orderId))
            await askForLabels(rig.context, orderId, there(await shipmentOf(rig.db, orderId)))
            await workAll(rig.db, 2)
            expected.push("order.labelled")
          }
          if (one === "void" && shipment.state === "bought") {
            value(await askVoid(rig.context, orderId))
            await workAll(rig.db, 2)
            expected.push("order.voided")
          }
          if (one === "down") await fault(rig.at.orderSource, "down")
          if (one === "up") await fault(rig.at.orderSource, null)
          if (one === "work") await workAll(rig.db, 1)
          if (one === "again") {
            // somebody presses for all that waits, and two workers are at it
            const ids: number[] = await rig.db("outbox").where({ order_id: orderId, state: "waiting" }).pluck("id")
            if (ids.length > 0) value(await sendReports(rig.context, { ids }))
            await Promise.allSettled(ids.map((id) => sendOutbox(rig.db, id)))
          }
        }
        await finish()
        const told = await of(number)
        expect(told.map((one) => one.body.topic)).toEqual(expected)
        // each voids the one before it
        const byId = new Map(told.map((one) => [one.key, one]))
        for (const one of told)
          if (one.body.topic === "order.voided")
            expect(byId.get(String(one.body.voids))?.body.topic).toBe("order.labelled")
      }),
      { numRuns: 8 },
    )
    value(await set({}))
    expect((await orderBySource(rig.db, "PR-1")).id).toBeGreaterThan(0)
  })
})
