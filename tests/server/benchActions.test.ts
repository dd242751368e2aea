import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { movementsOf } from "server/decisions/stock.ts"
import type { Work } from "server/http/context.ts"
import type { Shipment } from "server/packages/shipment.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { makeRuns } from "server/picking/buildRuns.ts"
import { type OrderStop, pickStops, runWalk } from "server/picking/index.ts"
import { carts, runs } from "server/picking/runs.ts"
import { enterRun } from "server/picking/walkRuns.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { type PickAnswer, pickActs, pickScan } from "../../app/pick/pickActions.server.ts"
import { pickView } from "../../app/pick/pickView.server.ts"
import { answerForm } from "../../app/shell/acts.server.ts"
import { resolveScan } from "../../app/shell/scan.server.ts"
import { type ShipmentAnswer, shipmentActs, shipmentScan } from "../../app/shipment/shipmentActions.server.ts"
import { shipmentViewOf } from "../../app/shipment/shipmentView.server.ts"
import { there } from "../../server/db/there.ts"
import { as, formOf, openRig, orderBySource, pickAll, type Rig, row, takeFile, value, workOf } from "./rig.ts"

/** What the screens of floor and bench send, and what they are told: the same forms, without the browser. */
let rig: Rig
let work: Work
beforeAll(async () => {
  rig = await openRig()
  work = await workOf(rig.context)
})
afterAll(() => rig?.drop())

const ordered = async (number: string, ...lines: [string, number][]) => {
  await takeFile(
    rig.context,
    ...lines.map(([sku, quantity]) =>
      row({ order_number: number, po_number: number, sku, quantity: String(quantity), promised_on: "2026-12-04" }),
    ),
  )
  const order = await orderBySource(rig.db, number)
  return { id: order.id as number, number: order.order_number as string }
}
/** Where a scan leads, when it leads away. */
const led = async (to: Promise<unknown>): Promise<string | null> =>
  to.then(
    () => null,
    (thrown) => (thrown as Response).headers.get("location"),
  )

const atShipment = (who: Work, orderId: OrderId, form: FormData): Promise<ShipmentAnswer> =>
  answerForm(form, who, shipmentActs(who, orderId), (text, sent) => shipmentScan(who, orderId, text, sent))

describe("at a stop", () => {
  let order: { id: number; number: string }
  beforeAll(async () => {
    order = await ordered("A-1", ["YST-LAG-500", 24], ["PH-METER", 1])
  })
  const stops = () => pickStops(rig.db, order.id)
  /** What travels with each scan; what was confirmed comes back in the answer. */
  const send = async (stop: OrderStop, fields: Record<string, string | number>) =>
    at(
      work,
      formOf({ intent: "scan", allocation: stop.allocationId, bin: "", tote: "", lot: "", item: "", ...fields }),
      await stops(),
    )
  const at = (who: Work, form: FormData, stops: readonly OrderStop[]): Promise<PickAnswer> =>
    answerForm(
      form,
      who,
      pickActs({ orderId: order.id }, async () => stops),
      (text, sent) => pickScan(who, text, sent, stops),
    )
  const yeast = async () => (await stops()).find((one) => one.sku === "YST-LAG-500") as OrderStop

  it("the bin comes first; another bin is refused and stands on the order's story", async () => {
    const stop = await yeast()
    expect((await send(stop, { text: stop.sku })).answer).toMatchObject({ refused: true })
    const wrong = await send(stop, { text: "A-99-9" })
    expect(wrong.answer.words).toBe(`A-99-9 is not this bin. Go to ${stop.bin}.`)
    expect(await rig.db("audit").where({ order_id: order.id, action: "pick.refused" })).toHaveLength(1)
    const right = await send(stop, { text: stop.bin.toLowerCase() })
    expect([right.answer.refused, right.hand?.bin]).toEqual([false, stop.bin])
  })
  it("a case counts its pieces, a number is how many in all, and too many are none", async () => {
    const stop = await yeast()
    // a case of this yeast holds 20 (demo data): of 24, one more case would be 40
    const box = stop.levels.find((level) => level.count === 20)?.gtin ?? ""
    const taken = await send(stop, { text: box, bin: stop.bin })
    expect(taken.answer.words).toBe(`1 case (20) × YST-LAG-500 taken at ${stop.bin}`)
    expect((await send(stop, { text: box, bin: stop.bin })).answer.refused).toBe(true)
    expect((await send(stop, { text: "25", bin: stop.bin, item: stop.sku })).answer.refused).toBe(true)
    expect((await send(stop, { text: "22", bin: stop.bin, item: stop.sku })).answer.words).toBe(
      `2 × YST-LAG-500 taken at ${stop.bin}`,
    )
    expect((await yeast()).picked).toBe(22)
  })
  it("the same press sent twice takes once, and is told the same", async () => {
    const stop = await yeast()
    const fields = { intent: "by-hand", key: randomUUID(), quantity: 1 }
    const [first, second] = [await send(stop, fields), await send(stop, fields)]
    expect(second.answer.words).toBe(first.answer.words)
    expect(await yeast()).toMatchObject({ picked: 23, unverified: 1 })
  })
  it("is passed over and comes last; what was taken last is put back once", async () => {
    const stop = await yeast()
    const search = new URLSearchParams()
    const seen = async () =>
      pickView(
        work,
        { orderId: order.id },
        { stops: await stops(), metres: 1, plainMetres: 1, proof: null, wish: null },
        search,
      )
    await send(stop, { intent: "skip" })
    expect((await seen()).stop?.sku).toBe("PH-METER")
    const { last } = await seen()
    expect(last).toMatchObject({ quantity: 1, sku: "YST-LAG-500" })
    const undo = { intent: "undo", take: last?.scanId ?? "" }
    expect((await send(stop, undo)).answer.words).toBe(`1 × YST-LAG-500 put back into ${stop.bin}`)
    expect((await send(stop, undo)).answer.words).toBe("That was already put back.")
    expect((await yeast()).picked).toBe(22)
    const moved = await movementsOf(rig.context, stop.stockId)
    expect(moved.slice(0, 4).map((one) => [one.cause, one.quantity])).toEqual([
      ["put-back", 1],
      ["pick", -1],
      ["pick", -2],
      ["pick", -20],
    ])
  })
  it("missing pieces need a reason and a way that there are", async () => {
    const stop = await yeast()
    expect((await send(stop, { intent: "short", why: "gone", way: "elsewhere" })).answer.refused).toBe(true)
    expect((await send(stop, { intent: "short", why: "empty", way: "away" })).answer.refused).toBe(true)
    const done = await send(stop, { intent: "short", why: "empty", way: "back-order" })
    expect(done.answer.words).toMatch(/2.*\d{5}/)
    expect((await yeast()).quantity).toBe(22)
  })
  it("of another warehouse, or gone, nothing is done", async () => {
    const other = { ...work, ...as(rig.context, { warehouseId: 2 }) }
    const form = formOf({ intent: "skip", allocation: (await yeast()).allocationId })
    expect((await at(other, form, [])).answer.refused).toBe(true)
    expect((await at(work, formOf({ intent: "by-hand", allocation: 99_999 }), [])).answer.refused).toBe(true)
  })
  it("another order's number leads there", async () => {
    const next = await ordered("A-2", ["PH-METER", 1])
    expect(await led(send(await yeast(), { text: next.number, bin: (await yeast()).bin }))).toBe(`/pick/${next.number}`)
  })
})

describe("at the bench", () => {
  let order: { id: number; number: string }
  beforeAll(async () => {
    order = await ordered("B-1", ["YST-ALE-500", 6], ["PH-METER", 2])
    await pickAll(rig.context, order.id)
  })
  const send = (fields: Record<string, string | number>): Promise<ShipmentAnswer> =>
    atShipment(work, order.id, formOf(fields))
  const scan = (text: string, hand?: number, more: Record<string, string | number> = {}) =>
    send({ intent: "scan", text, scanId: randomUUID(), hand: hand ?? "", ...more })
  const now = async () => (await shipmentOf(rig.db, order.id)) as Shipment
  const told = async () =>
    (await now()).packages.map((one) => one.contents.map((each) => `${each.quantity}${each.line}`).join(" "))

  it("a carton is taken by its code and is in hand; pressed twice it is one", async () => {
    expect(await scan("K12")).toMatchObject({ hand: 1, answer: { refused: false } })
    const add = { intent: "add", packaging: "K05", key: randomUUID() }
    expect([(await send(add)).hand, (await send(add)).hand]).toEqual([2, 2])
    expect((await send({ intent: "add", packaging: "K99" })).answer.refused).toBe(true)
  })
  it("scans put in, and out of another package while that is said; Enter ends it", async () => {
    await scan("a 4", 1)
    await scan("PH-METER", 1)
    expect(await told()).toEqual(["4a 1b", ""])
    expect(await scan("from 1", 2)).toMatchObject({ hand: 2, from: 1 })
    expect(await scan("PH-METER", 2, { from: 1 })).toMatchObject({ hand: 2, from: 1, answer: { refused: false } })
    expect(await told()).toEqual(["4a", "1b"])
    // it is in there no more; the other one was never in
    expect(await scan("PH-METER", 2, { from: 1 })).toMatchObject({ from: 1, answer: { refused: true } })
    const ended = await send({ intent: "put-again", package: 2 })
    expect([ended.hand, ended.from]).toEqual([2, undefined])
    await scan("PH-METER", 2)
    expect(await told()).toEqual(["4a", "2b"])
  })
  it("moves, copies, splits, merges and empties by form, each once", async () => {
    const line = (await now()).lines[0]?.id ?? 0
    const move = { intent: "move", package: 1, to: 2, line, quantity: 1, key: randomUUID() }
    await send(move)
    await send(move)
    expect(await told()).toEqual(["3a", "1a 2b"])
    expect((await send({ intent: "copy", package: 2, times: 1, key: randomUUID() })).answer.refused).toBe(true)
    await send({ intent: "split", package: 1, key: randomUUID() })
    expect(await told()).toEqual(["2a", "1a 2b", "1a"])
    await send({ intent: "merge", package: 3, to: 1 })
    await send({ intent: "put", package: 2, line, quantity: -1 })
    await send({ intent: "empty", package: 1 })
    expect(await told()).toEqual(["", "2b"])
    expect((await scan("all", 1)).answer.refused).toBe(false)
    expect(await told()).toEqual(["6a", "2b"])
  })
  it("weight and size are taken as typed, in either unit, and refused where they are none", async () => {
    await send({ intent: "weigh", package: 1, weight: "5,5", unit: "kg" })
    expect((await now()).packages[0]?.measured?.toString()).toBe("5.5")
    await send({ intent: "weigh", package: 1, weight: "" })
    expect((await now()).packages[0]?.measured).toBeNull()
    for (const weight of ["heavy", "-1", "0", "1e3", "6000"])
      expect((await send({ intent: "weigh", package: 1, weight, unit: "lb" })).answer.refused).toBe(true)
    for (const length of ["", "0", "x", "201"])
      expect(
        (await send({ intent: "resize", package: 1, length, width: 5, height: 5, unit: "in" })).answer.refused,
      ).toBe(true)
    await send({ intent: "resize", package: 1, length: "30.48", width: "20", height: "10", unit: "cm" })
    // 30.48 cm are 304.8 mm
    expect((await now()).packages[0]?.outer.length.toString()).toBe("304.8")
    await fetch(`${rig.at.scale}/load`, { method: "PUT", body: JSON.stringify({ weight: "7.5", unit: "lb" }) })
    expect((await scan("w", 1)).answer.refused).toBe(false)
    expect((await now()).packages[0]?.measured?.toNumber()).toBeCloseTo(7.5 * 0.45359237, 9)
    expect((await scan("12 lb", 1)).answer.refused).toBe(false)
    await send({ intent: "weigh", package: 1, weight: "" })
  })
  it("another size and a bad suggestion are refused in words, and nothing is there", async () => {
    const before = (await now()).packages.length
    for (const boxes of ["", "{", "[]", '[{"code":"K12"}]', '[{"code":"K12","placed":[{"key":"1"}]}]'])
      expect((await send({ intent: "suggested", boxes, fill: "yes" })).answer.refused).toBe(true)
    expect((await send({ intent: "one-off", length: 1, width: 2, height: "", unit: "in" })).answer.refused).toBe(true)
    expect(
      (await send({ intent: "one-off", length: 9, width: 9, height: 9, tare: "x", unit: "in" })).answer.refused,
    ).toBe(true)
    expect((await now()).packages).toHaveLength(before)
    const added = await send({ intent: "one-off", length: 9, width: 9, height: 9, tare: "1,5", unit: "in" })
    expect(added.answer.refused).toBe(false)
    await send({ intent: "remove", package: added.hand ?? 0 })
    expect((await now()).packages).toHaveLength(before)
  })
  it("a flaw is let pass by the lead only, and packages go on a pallet and off it", async () => {
    expect(
      (await send({ intent: "override", package: 1, flaw: "flaw.too-large PH", why: "fits" })).answer.refused,
    ).toBe(true)
    await send({ intent: "palletise" })
    const pallet = (await now()).packages.find((one) => one.kind === "pallet")
    expect((await now()).packages.filter((one) => one.on === pallet?.number)).toHaveLength(2)
    await send({ intent: "stand-on", package: 1, pallet: "" })
    expect((await now()).packages.filter((one) => one.on === pallet?.number)).toHaveLength(1)
    await send({ intent: "take-apart" })
    expect((await now()).packages.every((one) => one.on === null && one.kind !== "pallet")).toBe(true)
  })
  it("is closed, printed once a press, opened again; what is bought needs the rate that was seen", async () => {
    expect((await send({ intent: "close" })).answer.refused).toBe(false)
    expect((await now()).packages.map((one) => one.sscc?.length)).toEqual([18, 18])
    const print = { intent: "print", paper: "logistic", key: randomUUID() }
    expect((await send(print)).answer.words).toBe(`logistic-labels-${order.number} is printing.`)
    await send(print)
    expect(await rig.db("document").where({ order_id: order.id, kind: "logistic-label" })).toHaveLength(1)
    expect((await send({ intent: "print", paper: "poem" })).answer.refused).toBe(true)
    const { version } = await now()
    const buy = { intent: "buy", service: "LKG", amount: "0.01", currency: "USD" }
    expect((await send({ ...buy, version })).answer.refused).toBe(true)
    expect((await send({ ...buy, version: version - 1 })).answer.refused).toBe(true)
    await send({ intent: "reopen" })
    expect((await now()).packages.every((one) => one.state === "open")).toBe(true)
  })
  it("what is packed goes by itself, what is chosen apart; both say the new number", async () => {
    await send({ intent: "empty", package: 2 })
    const rest = await send({ intent: "partial" })
    expect(rest.answer.words).toMatch(/\d{5}/)
    expect((await send({ intent: "partial" })).answer.refused).toBe(true)
    expect((await send({ intent: "split-off" })).answer.refused).toBe(true)
    await send({ intent: "remove", package: 2 })
    expect((await send({ intent: "split-off", chosen: 1 })).answer.refused).toBe(true)
    expect(await reconcileStock(rig.db)).toEqual([])
  })
  it("shows what stands there, and a new key each time it is shown", async () => {
    const [first, second] = [await shipmentViewOf(work, order.number), await shipmentViewOf(work, order.number)]
    expect(first).toMatchObject({ orderNumber: order.number, toPick: 0, state: "open", pieces: 1, plannedLeft: 0 })
    expect(first?.packages[0]?.contents).toMatchObject([{ line: "a", quantity: 6 }])
    expect(first?.key).not.toBe(second?.key)
    expect(await shipmentViewOf(work, "1")).toBeNull()
  })
})

describe("a scan anywhere", () => {
  const to = async (text: string, who: Work = work) => (await resolveScan(who, text)).to
  it("leads an order to where its work stands, and who may not work there to the order", async () => {
    const order = await ordered("C-1", ["BUN-10", 1])
    expect(await to(order.number)).toBe(`/pick/${order.number}`)
    expect(await to(order.number, { ...work, ...as(rig.context, { role: "sales" }) })).toBe(`/orders/${order.number}`)
    await pickAll(rig.context, order.id)
    expect(await to(order.number)).toBe(`/shipment/${order.number}`)
    await atShipment(work, order.id, formOf({ intent: "add", packaging: "K12", fill: "yes" }))
    await atShipment(work, order.id, formOf({ intent: "close" }))
    const { packages } = (await shipmentOf(rig.db, order.id)) as Shipment
    for (const text of [packages[0]?.sscc ?? "", `(00)${packages[0]?.sscc}`, `${order.number}-1`])
      expect(await to(text)).toBe(`/shipment/${order.number}`)
    expect(await to(`${order.number}-7`)).toBeNull()
  })
  it("leads a run to its walk, a tote to its order; of a run of single items the item opens the order", async () => {
    const order = await ordered("C-2", ["BUN-10", 2])
    const cart = (await carts(rig.db, 1)).find((one) => one.totes > 0)
    const wish = { by: "hand" as const, value: "", cartId: cart?.id ?? null, atMost: 5 }
    const [number] = value(await makeRuns(rig.context, { ...wish, orderIds: [order.id] })) as [number]
    value(await enterRun(rig.context, number, cart?.id ?? null))
    expect(await to(`R${number}`)).toBe(`/pick/runs/${number}`)
    expect(await to("R9999")).toBeNull()
    const [run] = await runs(rig.db, 1, { number })
    const { stops } = await runWalk(rig.db, 1, run?.id ?? 0)
    const tote = stops[0]?.totes[0] ?? ""
    expect(tote).not.toBe("")
    expect(await to(tote)).toBe(`/pick/${order.number}`)
    const free = there(await rig.db("tote").where({ warehouse_id: 1 }).whereNull("order_id").first("code"))
    expect(await resolveScan(work, free.code)).toMatchObject({ fits: false, to: null })
    const single = await ordered("C-3", ["THM-DIG-12", 1])
    const made = await makeRuns(rig.context, { ...wish, by: "single", cartId: null, orderIds: [] })
    expect(value(made).length).toBeGreaterThan(0)
    const [stop] = await pickStops(rig.db, single.id)
    const gtin = stop?.levels[0]?.gtin ?? ""
    // before it is picked the item is only an item
    expect(await to(gtin)).toBe("/orders?find=THM-DIG-12")
    await pickAll(rig.context, single.id)
    expect(await to(gtin)).toBe(`/shipment/${single.number}`)
  })
  it("that is nothing says so", async () =>
    expect(await resolveScan(work, "no such thing")).toMatchObject({ fits: false, to: null }))
})
