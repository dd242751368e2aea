import { randomUUID } from "node:crypto"
import { moneyText } from "core/money/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import {
  arrive,
  arriveSent,
  arriveWithoutLabel,
  matchReturn,
  returnCode,
  withoutLabelForm,
} from "server/returns/arrive.ts"
import { askReturn } from "server/returns/ask.ts"
import { voidReturn } from "server/returns/book.ts"
import { expectUndelivered, sentOf } from "server/returns/expect.ts"
import { wholeBack } from "server/returns/goods.ts"
import {
  closeReturn,
  declineReturn,
  findingsForm,
  finishReturn,
  recordFindings,
  undoFinding,
} from "server/returns/inspect.ts"
import { openReturns, returnNamed, searchReturns } from "server/returns/list.ts"
import { returnOffers } from "server/returns/offers.ts"
import { moveOn, onwardForm, setReturnBin } from "server/returns/onward.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { lockedStock } from "server/stock/allocation.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { goodsReturned } from "../../server/db/migrations/0041-goods-returned.ts"
import { there } from "../../server/db/there.ts"
import { pulled, scanned, shipped } from "./followed.ts"
import { as, codes, openRig, orderBySource, type Rig, row, takeFile, value, workAll } from "./rig.ts"

let rig: Rig
let empty: string[]
beforeAll(async () => {
  rig = await openRig()
  empty = await rig
    .db("bin as b")
    .leftJoin("stock as s", "s.bin_id", "b.id")
    .where({ "b.warehouse_id": 1 })
    .whereNull("s.id")
    .orderBy("b.code")
    .limit(3)
    .pluck("b.code")
  await rig.db("order_source").update({ report_returns: true })
})
afterAll(() => rig?.drop())

const lead = () => as(rig.context, { role: "lead" })

/** An order that has left, with a label for the way back of all that is in it. */
async function labelled(number: string, cartons: readonly number[] = []) {
  const [one] = await shipped(rig, [number], "LKG", {}, cartons)
  const { orderId } = there(one)
  const name = await another(orderId)
  const back = there(await rig.db("goods_return").where({ name }).first())
  const { orderNumber } = there(await shipmentOf(rig.db, orderId))
  return { orderId, returnId: there(back.return_intent_id), name, orderNumber, sent: await sentOf(rig.db, orderId) }
}
/** A label for the way back of all that is in an order's shipment; answers what it is called. */
async function another(orderId: number): Promise<string> {
  const shipment = there(await shipmentOf(rig.db, orderId))
  const priced = value(await returnOffers(rig.db, await warehouseById(rig.db, 1), shipment, wholeBack, rig.context.now))
  const offer = there(priced.offers.find((each) => each.service.code === "LKR"))
  const { returnId } = value(
    await askReturn(
      rig.context,
      orderId,
      wholeBack,
      { serviceCode: "LKR", expected: moneyText(there(offer.rate).contract), prints: true, mailTo: "" },
      randomUUID(),
    ),
  )
  await workAll(rig.db)
  return there(await rig.db("goods_return").where({ return_intent_id: returnId }).first()).name
}
const whole = async (name: string) => there(await returnNamed(rig.db, 1, name))
/** All packages of a return come in at the dock, by what is on their labels. */
async function comesIn(name: string): Promise<void> {
  for (const { tracking } of (await whole(name)).packages) {
    const code = await returnCode(rig.db, 1, tracking)
    if (code?.kind !== "package") throw new Error(`no package: ${tracking}`)
    value(await arrive(rig.context, code.packageId))
  }
}
const count = (name: string, found: object[], more: { key?: string; surplus?: boolean } = {}) =>
  recordFindings(rig.context, name, findingsForm.parse(found), {
    key: more.key ?? randomUUID(),
    surplus: more.surplus ?? false,
  })
const onHand = async (itemId: number, bin: string): Promise<number> =>
  Number(
    (
      await rig
        .db("stock as s")
        .join("bin as b", "b.id", "s.bin_id")
        .where({ "s.item_id": itemId, "b.code": bin })
        .sum({ n: "s.on_hand" })
        .first()
    )?.n ?? 0,
  )
const goesOn = (name: string, finding: number, to: object, key: string = randomUUID(), who = rig.context) =>
  moveOn(who, name, finding, onwardForm.parse(to), key)

it("is awaited from when its label is booked, and no longer once that is void", async () => {
  const back = await labelled("GB-1")
  const shown = await whole(back.name)
  expect([shown.kind, shown.state, shown.name]).toEqual(["label", "awaited", `${back.orderNumber}-R1`])
  // all that went out is announced
  const pieces = back.sent.reduce((sum, one) => sum + one.pieces, 0)
  expect([shown.announced, shown.found]).toEqual([pieces, 0])
  const search = { text: "", list: "awaited", page: 1 } as const
  const names = async () => (await searchReturns(rig.db, 1, search, rig.context.now)).map((one) => one.name)
  expect(await names()).toContain(back.name)
  expect(await searchReturns(rig.db, 2, search, rig.context.now)).toEqual([])
  value(await voidReturn(rig.context, back.returnId))
  await workAll(rig.db)
  expect(await names()).not.toContain(back.name)
  // another label has a number of its own
  expect(await another(back.orderId)).toBe(`${back.orderNumber}-R2`)
})

it("refuses to count before anybody has said where returned goods lie", async () => {
  const back = await labelled("GB-2")
  await comesIn(back.name)
  const [first] = back.sent
  const found = [{ itemId: there(first).itemId, lotId: there(first).lotId, state: "sound", quantity: 1 }]
  expect(codes(await count(back.name, found))).toEqual(["goods-back.no-bin"])
  await expect(setReturnBin(rig.context, "inspection", there(empty[0]))).rejects.toThrow("not allowed")
  const full = there(
    await rig
      .db("stock as s")
      .join("bin as b", "b.id", "s.bin_id")
      .where({ "s.warehouse_id": 1 })
      .where("s.on_hand", ">", 0)
      .first("b.code"),
  )
  expect(codes(await setReturnBin(lead(), "inspection", full.code))).toEqual(["goods-back.bin-not-empty"])
  expect(codes(await setReturnBin(lead(), "inspection", "NOWHERE"))).toEqual(["stock.no-bin"])
  value(await setReturnBin(lead(), "inspection", there(empty[0])))
  value(await setReturnBin(lead(), "inspection", there(empty[0])))
  value(await setReturnBin(lead(), "repair", there(empty[1])))
  value(await count(back.name, found))
})

it("comes from its label into stock, told to both sides, with no piece lost", async () => {
  const back = await labelled("GB-3")
  const order = there(await orderBySource(rig.db, "GB-3"))
  await rig.db("customer_contact").insert({
    customer_id: there(order.customer_id),
    role: "receiving",
    way: "mail",
    address: "back@barrow.example",
    topics: JSON.stringify(["return-arrived", "return-inspected"]),
  })
  const [first] = back.sent
  const { itemId, lotId, pieces } = there(first)
  // the count waits until it is here
  expect(codes(await count(back.name, [{ itemId, lotId, state: "sound", quantity: 1 }]))).toEqual([
    "goods-back.not-open",
  ])
  const code = await returnCode(rig.db, 1, `${back.name}.1`)
  expect(code?.kind).toBe("package")
  expect(await returnCode(rig.db, 2, `${back.name}.1`)).toBeNull()
  await comesIn(back.name)
  const packages = (await whole(back.name)).packages
  expect(packages.every((one) => one.arrivedAt !== null && one.state === "delivered")).toBe(true)
  // by its label again: it is here already
  const known = await returnCode(rig.db, 1, there(packages[0]).tracking)
  expect(value(await arrive(rig.context, there(known?.kind === "package" ? known.packageId : null)))).toMatchObject({
    again: true,
    here: packages.length,
  })
  // on its way it could be made void; here it can't
  expect(codes(await voidReturn(rig.context, back.returnId))).toEqual(["return.scanned"])

  const free = async () =>
    (await rig.db.transaction((trx) => lockedStock(trx, 1, [itemId])))
      .filter((place) => !place.blocked)
      .reduce((sum, place) => sum + place.free, 0)
  const before = await free()
  const lay = await onHand(itemId, there(empty[0]))
  const key = randomUUID()
  const found = [
    { itemId, lotId, state: "sound", quantity: pieces - 1 },
    { itemId, lotId, state: "damaged", quantity: 1, note: "wet" },
  ]
  value(await count(back.name, found, { key }))
  // pressed twice it counts once
  value(await count(back.name, found, { key }))
  expect(await onHand(itemId, there(empty[0]))).toBe(lay + pieces)
  // what came back is not sold before somebody has put it back
  expect(await free()).toBe(before)
  // one more than went out
  const more = [{ itemId, lotId, state: "sound", quantity: 1 }]
  expect(codes(await count(back.name, more))).toEqual(["goods-back.too-many"])
  value(await count(back.name, more, { surplus: true }))
  const third = there((await whole(back.name)).findings[2])
  value(await undoFinding(rig.context, back.name, third.id))
  value(await undoFinding(rig.context, back.name, third.id))
  expect(await onHand(itemId, there(empty[0]))).toBe(lay + pieces)
  // of many reasons a few are said, and how many more there are
  const strangers = Array.from({ length: 5 }, (_, n) => ({ sku: `NO-${n}`, state: "other", quantity: 1 }))
  expect(codes(await count(back.name, strangers))).toEqual([
    ...Array.from({ length: 3 }, () => "stock.no-item"),
    "goods-back.and-more",
  ])
  // what was never sent
  expect(codes(await count(back.name, [{ goods: "a lamp", state: "sound", quantity: 1 }]))).toEqual([
    "goods-back.not-of-order",
  ])
  value(await count(back.name, [{ goods: "a lamp", state: "other", quantity: 2 }]))

  const missing = back.sent.slice(1).reduce((sum, one) => sum + one.pieces, 0)
  expect(value(await finishReturn(rig.context, back.name, { empty: false }))).toEqual({ missing })
  expect(value(await finishReturn(rig.context, back.name, { empty: false }))).toEqual({ missing })
  expect((await whole(back.name)).state).toBe("inspected")
  await workAll(rig.db)
  const told = await rig
    .db("outbox")
    .where({ order_id: back.orderId })
    .orderBy("id")
    .select("topic", "state", "payload")
  expect(told.map((one) => [one.topic, one.state])).toEqual([
    ["order.gone", "sent"],
    ["order.return-arrived", "sent"],
    ["order.returned", "sent"],
  ])
  const { sku } = there(await rig.db("item").where({ id: itemId }).first("sku"))
  const payload = there(told[2]).payload as { goods: { sku: string }[]; others: object[] }
  expect(payload.goods.find((one) => one.sku === sku)).toEqual({
    sku,
    announced: pieces,
    sound: pieces - 1,
    damaged: 1,
    missing: 0,
    surplus: 0,
  })
  expect(payload.others).toEqual([{ goods: "a lamp", quantity: 2 }])
  const mails = await rig.db("mail").where({ recipient: "back@barrow.example" }).orderBy("id").select("subject", "body")
  expect(mails.map((one) => one.subject)).toEqual([
    `Your return ${back.name} has arrived`,
    `Your return ${back.name} has been checked`,
  ])
  expect(there(mails[1]).body).toContain(`${pieces - 1} good, 1 damaged`)

  const [sound, damaged] = (await whole(back.name)).findings
  const shelf = there(empty[2])
  const move = randomUUID()
  const good = there(sound).id
  value(await goesOn(back.name, good, { to: "back", quantity: pieces - 1, bin: shelf }, move))
  value(await goesOn(back.name, good, { to: "back", quantity: pieces - 1, bin: shelf }, move))
  expect([await onHand(itemId, shelf), await free()]).toEqual([pieces - 1, before + pieces - 1])
  const broken = there(damaged).id
  expect(codes(await goesOn(back.name, broken, { to: "back", quantity: 2, bin: shelf }))).toEqual([
    "goods-back.not-there",
  ])
  expect(codes(await goesOn(back.name, broken, { to: "back", quantity: 1, bin: there(empty[1]) }))).toEqual([
    "goods-back.back-to-shelf",
  ])
  value(await goesOn(back.name, broken, { to: "repair", quantity: 1 }))
  expect(await onHand(itemId, there(empty[1]))).toBe(1)
  const away = { from: "repair", to: "away", quantity: 1, note: "not worth it" }
  await expect(goesOn(back.name, broken, away)).rejects.toThrow("not allowed")
  expect((await whole(back.name)).state).toBe("inspected")
  value(await goesOn(back.name, broken, away, randomUUID(), lead()))
  expect((await whole(back.name)).state).toBe("done")
  expect(await onHand(itemId, there(empty[1]))).toBe(0)
  expect(await reconcileStock(rig.db)).toEqual([])
})

it("counts what two people enter at once, each once, and no more than went out", async () => {
  const back = await labelled("GB-4")
  await comesIn(back.name)
  const { itemId, lotId, pieces } = there(back.sent[0])
  const all = [{ itemId, lotId, state: "sound", quantity: pieces }]
  const key = randomUUID()
  const outcomes = await Promise.all([
    count(back.name, all, { key }),
    count(back.name, all, { key }),
    count(back.name, all),
  ])
  expect(outcomes.filter((one) => one.ok).length).toBeGreaterThanOrEqual(1)
  const item = there((await whole(back.name)).items.find((one) => one.itemId === itemId))
  expect([item.sound, item.surplus]).toEqual([pieces, 0])
})

it("comes in parts: one that is checked opens again with the next, and is told of again", async () => {
  const back = await labelled("GB-13", [3, 1])
  const parts = (await whole(back.name)).packages
  expect(parts.map((one) => [one.piece, one.arrivedAt])).toEqual([
    [1, null],
    [2, null],
  ])
  const takesIn = async (piece: number) => {
    const code = await returnCode(rig.db, 1, there(parts[piece - 1]).tracking)
    return value(await arrive(rig.context, there(code?.kind === "package" ? code.packageId : null)))
  }
  expect(await takesIn(1)).toMatchObject({ piece: 1, of: 2, here: 1, again: false })
  const { itemId, lotId } = there(back.sent[0])
  value(await count(back.name, [{ itemId, lotId, state: "sound", quantity: 3 }]))
  // four were announced: one is in the package that is not here
  expect(value(await finishReturn(rig.context, back.name, { empty: false }))).toEqual({ missing: 1 })
  expect(value(await finishReturn(rig.context, back.name, { empty: false }))).toEqual({ missing: 1 })
  expect((await whole(back.name)).state).toBe("inspected")
  // what lies there can go on before the rest is here
  const [three] = (await whole(back.name)).findings
  value(await goesOn(back.name, there(three).id, { to: "back", quantity: 3, bin: there(empty[2]) }))
  expect((await whole(back.name)).state).toBe("done")

  expect(await takesIn(2)).toMatchObject({ piece: 2, of: 2, here: 2, again: false })
  expect(await takesIn(2)).toMatchObject({ here: 2, again: true })
  expect((await whole(back.name)).state).toBe("arrived")
  value(await count(back.name, [{ itemId, lotId, state: "damaged", quantity: 1 }]))
  expect(value(await finishReturn(rig.context, back.name, { empty: false }))).toEqual({ missing: 0 })
  const told = await rig.db("outbox").where({ order_id: back.orderId, topic: "order.returned" }).orderBy("id")
  const goods = told.map(
    (one) => (one.payload as { goods: { sound: number; damaged: number; missing: number }[] }).goods,
  )
  expect(goods.map(([one]) => [one?.sound, one?.damaged, one?.missing])).toEqual([
    [3, 0, 1],
    [3, 1, 0],
  ])
  // that it came is told once
  expect(await rig.db("outbox").where({ order_id: back.orderId, topic: "order.return-arrived" })).toHaveLength(1)
})

it("is found by what is on it and whom it is of, in its list by what is to do, page by page", async () => {
  const back = await labelled("GB-14")
  const find = async (text: string, list: "arrived" | "awaited" | "overdue" | "in-stock" | "settled" = "arrived") =>
    (await searchReturns(rig.db, 1, { text, list, page: 1 }, rig.context.now)).map((one) => one.name)
  const [own] = (await whole(back.name)).packages
  for (const text of [back.name, back.name.toLowerCase(), back.orderNumber, "GB-14", ` ${there(own).tracking} `])
    expect(await find(text)).toEqual([back.name])
  expect(await find("ELK RUN")).toContain(back.name)
  // signs that a pattern would take for others
  expect(await find("%")).toEqual([])
  expect(await find("_____")).toEqual([])
  const lists = async () =>
    Object.fromEntries(
      await Promise.all(
        (["arrived", "awaited", "overdue", "in-stock", "settled"] as const).map(
          async (list) => [list, (await find("", list)).includes(back.name)] as const,
        ),
      ),
    )
  const only = (list: string) => ({
    arrived: false,
    awaited: false,
    overdue: false,
    "in-stock": false,
    settled: false,
    [list]: true,
  })
  expect(await lists()).toEqual(only("awaited"))
  // its label's last day, and 14 days more (common practice): on November 24, one of November 10 is not overdue yet
  await rig.db("goods_return").where({ name: back.name }).update({ valid_until: "2026-11-10" })
  expect(await lists()).toEqual(only("awaited"))
  await rig.db("goods_return").where({ name: back.name }).update({ valid_until: "2026-11-09" })
  expect(await lists()).toEqual(only("overdue"))
  await comesIn(back.name)
  expect(await lists()).toEqual(only("arrived"))
  const { itemId, lotId } = there(back.sent[0])
  value(await count(back.name, [{ itemId, lotId, state: "sound", quantity: 1 }]))
  value(await finishReturn(rig.context, back.name, { empty: false }))
  expect(await lists()).toEqual(only("in-stock"))
  const counts = await openReturns(rig.db, 1, rig.context.now)
  for (const list of ["arrived", "awaited", "overdue", "in-stock"] as const)
    expect(counts[list]).toBe((await find("", list)).length)
  const [one] = (await whole(back.name)).findings
  value(await goesOn(back.name, there(one).id, { to: "away", quantity: 1, note: "broken" }, randomUUID(), lead()))
  expect(await lists()).toEqual(only("settled"))

  // 60 more: a page has 50, and one more says that there are others
  await rig.db("goods_return").insert(
    Array.from({ length: 60 }, (_, at) => ({
      warehouse_id: 1,
      name: `U9${String(at).padStart(2, "0")}`,
      number: 900 + at,
      kind: "unknown" as const,
      state: "closed" as const,
      note: "",
      made_at: rig.context.now,
    })),
  )
  const page = async (n: number) =>
    (await searchReturns(rig.db, 1, { text: "", list: "settled", page: n }, rig.context.now)).map((each) => each.name)
  const [first, second] = [await page(1), await page(2)]
  expect([first.length, first[0], second[0]]).toEqual([51, "U959", first[50]])
  expect(new Set([...first.slice(0, 50), ...second]).size).toBe(50 + second.length)
  await rig.db("goods_return").where("name", "like", "U9__").delete()
})

it("is late after the last day of its label, and can be declined by a lead before it is in stock", async () => {
  const back = await labelled("GB-5")
  await rig.db("goods_return").where({ name: back.name }).update({ valid_until: "2026-01-31" })
  expect((await openReturns(rig.db, 1, rig.context.now)).overdue).toBe(1)
  await comesIn(back.name)
  expect((await whole(back.name)).late).toBe(true)
  await expect(declineReturn(rig.context, back.name, "too late")).rejects.toThrow("not allowed")
  expect(codes(await declineReturn(lead(), back.name, " "))).toEqual(["goods-back.no-reason"])
  const { itemId, lotId } = there(back.sent[0])
  value(await count(back.name, [{ itemId, lotId, state: "sound", quantity: 1 }]))
  expect(codes(await declineReturn(lead(), back.name, "too late"))).toEqual(["goods-back.in-stock"])
  value(await undoFinding(rig.context, back.name, there((await whole(back.name)).findings[0]).id))
  value(await declineReturn(lead(), back.name, "too late"))
  value(await declineReturn(lead(), back.name, "too late"))
  const told = await rig.db("outbox").where({ order_id: back.orderId, topic: "order.return-declined" })
  expect(told.map((one) => (one.payload as { why: string }).why)).toEqual(["too late"])
  expect(codes(await count(back.name, [{ itemId, lotId, state: "sound", quantity: 1 }]))).toEqual([
    "goods-back.not-open",
  ])
})

it("awaits what a carrier could not deliver, and takes it in by the code that went out on it", async () => {
  const [one] = await shipped(rig, ["GB-6"])
  const { orderId, tracking } = there(one)
  const at = (minutes: number) => new Date(rig.context.now.getTime() + minutes * 60_000).toISOString()
  await scanned(
    rig,
    "LARK",
    { trackingNumber: tracking[0], code: "PU", occurredAt: at(-60) },
    { trackingNumber: tracking[0], code: "RTS", occurredAt: at(-30) },
  )
  await pulled(rig, "LARK")
  await expectUndelivered(rig.db)
  await expectUndelivered(rig.db)
  const [back] = await rig.db("goods_return").where({ order_id: orderId })
  expect([back?.kind, back?.state]).toEqual(["undelivered", "awaited"])
  const shown = await whole(there(back).name)
  expect(shown.packages).toHaveLength(1)
  const sent = there(
    await rig
      .db("package")
      .where({ tracking: there(tracking[0]) })
      .first(),
  )
  const held = await rig.db("package_content").where({ package_id: sent.id }).sum({ n: "quantity" }).first()
  expect(shown.announced).toBe(Number(held?.n))
  const code = await returnCode(rig.db, 1, there(sent.sscc))
  expect(code).toMatchObject({ kind: "package" })
  value(await arrive(rig.context, there(code?.kind === "package" ? code.packageId : null)))
  const unit = there(await rig.db("tracked_unit").where({ package_id: sent.id }).first())
  expect(unit.state).toBe("returned")
  expect(await rig.db("tracking_case").where({ unit_id: unit.id }).whereIn("state", ["open", "watched"])).toEqual([])
})

it("takes in what went out and nobody awaits, and what nobody knows, which is found out later", async () => {
  const [one] = await shipped(rig, ["GB-7"])
  const { orderId, tracking } = there(one)
  const code = await returnCode(rig.db, 1, there(tracking[0]))
  if (code?.kind !== "sent") throw new Error("it is awaited by nobody")
  expect(codes(await arriveSent(as(rig.context, { warehouseId: 2 }), code))).toEqual(["goods-back.unknown"])
  const [first, second] = await Promise.all([arriveSent(rig.context, code), arriveSent(rig.context, code)])
  expect([first, second].filter((each) => each?.ok && !each.value.again)).toHaveLength(1)
  expect(await rig.db("goods_return").where({ order_id: orderId })).toHaveLength(1)

  expect(await returnCode(rig.db, 1, "1Q77-UNKNOWN")).toBeNull()
  // signs that no number has are no fault either
  for (const strange of ["💩", "%00", "'; --"]) {
    expect(await returnNamed(rig.db, 1, strange)).toBeNull()
    expect(await searchReturns(rig.db, 1, { text: strange, list: "arrived", page: 1 }, rig.context.now)).toEqual([])
  }
  const said = (more: object) => withoutLabelForm.parse(more)
  expect(codes(await arriveWithoutLabel(rig.context, said({}), randomUUID()))).toEqual(["goods-back.say-what"])
  const key = randomUUID()
  const came = said({ code: "1Q77-UNKNOWN", note: "from a brewery in Fargo" })
  const { name } = value(await arriveWithoutLabel(rig.context, came, key))
  expect(value(await arriveWithoutLabel(rig.context, came, key)).name).toBe(name)
  expect(name).toMatch(/^U\d+$/)
  expect(await returnCode(rig.db, 1, "1Q77-UNKNOWN")).toMatchObject({ kind: "package" })
  expect(codes(await finishReturn(rig.context, name, { empty: true }))).toEqual(["goods-back.of-no-order"])
  expect(codes(await matchReturn(rig.context, name, "99999"))).toEqual(["goods-back.no-order"])
  const order = there(await rig.db("sales_order").where({ id: orderId }).first("order_number", "source_number"))
  // by its number at the source as well
  const matched = value(await matchReturn(rig.context, name, order.source_number))
  expect(matched.name).toBe(`${order.order_number}-R2`)
  const { itemId, lotId } = there((await sentOf(rig.db, orderId))[0])
  value(await count(matched.name, [{ itemId, lotId, state: "sound", quantity: 1 }]))
  value(await finishReturn(rig.context, matched.name, { empty: false }))

  // one that nobody finds out, with an item of ours in it: it is closed once that has gone on
  const ours = value(await arriveWithoutLabel(rig.context, said({ note: "a yeast" }), randomUUID()))
  const { sku } = there(await rig.db("item").where({ id: itemId }).first("sku"))
  const { code: lot } = there(await rig.db("lot").where({ item_id: itemId }).first("code"))
  value(await count(ours.name, [{ sku, lot, state: "other", quantity: 1 }]))
  expect(codes(await closeReturn(rig.context, ours.name, "nobody's"))).toEqual(["goods-back.still-here"])
  const [mine] = (await whole(ours.name)).findings
  value(await goesOn(ours.name, there(mine).id, { to: "back", quantity: 1, bin: there(empty[2]) }))
  value(await closeReturn(rig.context, ours.name, "nobody's"))

  // another that nobody ever finds out
  const other = value(await arriveWithoutLabel(rig.context, said({ note: "no label at all" }), randomUUID()))
  expect(codes(await closeReturn(rig.context, other.name, ""))).toEqual(["goods-back.no-reason"])
  value(await closeReturn(rig.context, other.name, "left at the dock by mistake"))
  expect((await whole(other.name)).state).toBe("closed")
})

it("was empty only where somebody says so", async () => {
  const back = await labelled("GB-8")
  await comesIn(back.name)
  expect(codes(await finishReturn(rig.context, back.name, { empty: false }))).toEqual(["goods-back.is-empty"])
  const pieces = back.sent.reduce((sum, one) => sum + one.pieces, 0)
  expect(value(await finishReturn(rig.context, back.name, { empty: true }))).toEqual({ missing: pieces })
  expect((await whole(back.name)).state).toBe("done")
})

it("is nobody else's", async () => {
  const back = await labelled("GB-9")
  const elsewhere = as(rig.context, { warehouseId: 2, role: "lead" })
  const [one] = (await whole(back.name)).packages
  expect(codes(await arrive(elsewhere, there(one).id))).toEqual(["goods-back.unknown"])
  expect(codes(await declineReturn(elsewhere, back.name, "why"))).toEqual(["goods-back.gone"])
  expect(codes(await finishReturn(elsewhere, back.name, { empty: true }))).toEqual(["goods-back.gone"])
  expect(await returnNamed(rig.db, 2, back.name)).toBeNull()
  await expect(arrive(as(rig.context, { role: "sales" }), there(one).id)).rejects.toThrow("not allowed")
})

it("expects labels that were out before it was kept, once", async () => {
  const back = await labelled("GB-10")
  const { id: _, ...before } = await whole(back.name)
  const at = there(await rig.db("goods_return").where({ name: back.name }).first("id"))
  await rig.db("goods_return_line").where({ goods_return_id: at.id }).delete()
  await rig.db("goods_return_package").where({ goods_return_id: at.id }).delete()
  await rig.db("goods_return").where({ id: at.id }).delete()
  for (let times = 0; times < 2; times += 1)
    for (const statement of goodsReturned.statements) if (/^INSERT/.test(statement)) await rig.db.raw(statement)
  const { id: __, ...after } = await whole(back.name)
  const without = (one: typeof after) => ({ ...one, packages: one.packages.map(({ id: ___, ...more }) => more) })
  expect(without(after)).toEqual(without(before))
})

it("of orders that went together comes back under the leading one", async () => {
  const [one] = await shipped(rig, ["GB-11"])
  const { orderId } = there(one)
  await takeFile(rig.context, row({ order_number: "GB-12" }))
  const member = await orderBySource(rig.db, "GB-12")
  await rig.db("sales_order").where({ id: member.id }).update({ joined_to_id: orderId })
  const came = await arriveWithoutLabel(rig.context, withoutLabelForm.parse({ order: "GB-12" }), randomUUID())
  const lead = there(await rig.db("sales_order").where({ id: orderId }).first("order_number"))
  expect(value(came).name).toBe(`${lead.order_number}-R1`)
})
