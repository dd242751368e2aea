import { randomUUID } from "node:crypto"
import { blockBin, receiptForm, receive, transfer, transferForm } from "server/decisions/stock.ts"
import { arrive, arriveWithoutLabel, matchReturn, returnCode, withoutLabelForm } from "server/returns/arrive.ts"
import { sentOf } from "server/returns/expect.ts"
import {
  closeReturn,
  declineReturn,
  findingsForm,
  finishReturn,
  recordFindings,
  undoFinding,
} from "server/returns/inspect.ts"
import { returnNamed } from "server/returns/list.ts"
import { moveOn, onwardForm, setReturnBin } from "server/returns/onward.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { shipped } from "./followed.ts"
import { as, codes, openRig, orderBySource, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
let inspection = ""
let repair = ""
let shelf = ""
beforeAll(async () => {
  rig = await openRig()
  const empty: string[] = await rig
    .db("bin as b")
    .leftJoin("stock as s", "s.bin_id", "b.id")
    .where({ "b.warehouse_id": 1 })
    .whereNull("s.id")
    .orderBy("b.code")
    .limit(3)
    .pluck("b.code")
  inspection = there(empty[0])
  repair = there(empty[1])
  shelf = there(empty[2])
  value(await setReturnBin(lead(), "inspection", inspection))
})
afterAll(() => rig?.drop())

const lead = () => as(rig.context, { role: "lead" })
const whole = async (name: string) => there(await returnNamed(rig.db, 1, name))
const count = (name: string, ...found: object[]) =>
  recordFindings(rig.context, name, findingsForm.parse(found), { key: randomUUID(), surplus: false })
const goesOn = (name: string, finding: number, to: object, who = rig.context) =>
  moveOn(who, name, finding, onwardForm.parse(to), randomUUID())
const takeIn = (more: object) => arriveWithoutLabel(rig.context, withoutLabelForm.parse(more), randomUUID())

/** Goods of an order that are back without a label. */
let orders = 0
async function back() {
  orders += 1
  const number = `GR-${orders}`
  const [one] = await shipped(rig, [number])
  const { name } = value(await takeIn({ order: number }))
  const [sent] = await sentOf(rig.db, there(one).orderId)
  const { itemId, lotId, pieces } = there(sent)
  const { sku } = there(await rig.db("item").where({ id: itemId }).first("sku"))
  return { name, number, itemId, lotId, pieces, sku, good: { itemId, lotId, state: "sound", quantity: 1 } }
}

describe("what is counted", () => {
  let one: Awaited<ReturnType<typeof back>>
  beforeEach(async () => {
    one ??= await back()
  })

  it("is in lots where its item is kept so, of those that there are", async () => {
    const { sku, itemId } = one
    expect(one.lotId).not.toBeNull()
    expect(codes(await count(one.name, { itemId, state: "sound", quantity: 1 }))).toEqual(["goods-back.which-lot"])
    expect(codes(await count(one.name, { sku, lot: "NO-LOT", state: "other", quantity: 1 }))).toEqual(["stock.no-lot"])
    expect(codes(await count(one.name, { itemId, lotId: 999_999, state: "sound", quantity: 1 }))).toEqual([
      "stock.no-lot",
    ])
    // a code of another case is another code
    const { code } = there(
      await rig
        .db("lot")
        .where({ id: there(one.lotId) })
        .first("code"),
    )
    const other = code === code.toLowerCase() ? code.toUpperCase() : code.toLowerCase()
    if (other !== code)
      expect(codes(await count(one.name, { itemId, lot: other, state: "sound", quantity: 1 }))).toEqual([
        "stock.no-lot",
      ])
    expect((await whole(one.name)).findings).toEqual([])
  })

  it("is something, and so much that it can be", async () => {
    expect(codes(await count(one.name))).toEqual(["goods-back.nothing-found"])
    expect(codes(await count(one.name, { state: "other", quantity: 1 }))).toEqual(["goods-back.say-what"])
    for (const quantity of [0, -1, 1.5, 1_000_001])
      expect(findingsForm.safeParse([{ ...one.good, quantity }]).success).toBe(false)
    expect(findingsForm.safeParse([{ ...one.good, state: "lost" }]).success).toBe(false)
    expect(findingsForm.safeParse(Array.from({ length: 401 }, () => one.good)).success).toBe(false)
    // one wrong line keeps the others out as well: nobody knows else what of it is counted
    const mixed = [one.good, { sku: "NO-SUCH", state: "other", quantity: 1 }]
    expect(codes(await count(one.name, ...mixed))).toEqual(["stock.no-item"])
    expect((await whole(one.name)).findings).toEqual([])
  })

  it("is of goods that were sent, else it is other goods", async () => {
    const stranger = there(
      await rig.db("item").whereNot({ id: one.itemId }).whereNotIn("id", rig.db("lot").select("item_id")).first("id"),
    )
    const line = { itemId: stranger.id, quantity: 2 }
    expect(codes(await count(one.name, { ...line, state: "sound" }))).toEqual(["goods-back.not-of-order"])
    expect(codes(await count(one.name, { ...line, state: "damaged" }))).toEqual(["goods-back.not-of-order"])
    value(await count(one.name, { ...line, state: "other" }))
    const [found] = (await whole(one.name)).findings
    expect(found).toMatchObject({ state: "other", quantity: 2, inInspection: 2, inStock: true })
    // it is no part of what went out
    expect((await whole(one.name)).items.map((item) => item.sku)).toEqual([one.sku])
    value(await undoFinding(rig.context, one.name, there(found).id))
    value(await undoFinding(rig.context, one.name, there(found).id))
    expect((await whole(one.name)).findings).toEqual([])
    expect(codes(await undoFinding(rig.context, one.name, 999_999))).toEqual(["goods-back.gone"])
  })
})

describe("what came back goes on", () => {
  it("to repair where there is a bin for it, from there back or away, and never more than is there", async () => {
    const { name, good, pieces } = await back()
    value(await count(name, { ...good, quantity: pieces }))
    const { id } = there((await whole(name)).findings[0])
    expect(codes(await goesOn(name, id, { to: "repair", quantity: 1 }))).toEqual(["goods-back.no-repair-bin"])
    expect(codes(await goesOn(name, id, { from: "repair", to: "back", quantity: 1, bin: shelf }))).toEqual([
      "goods-back.not-there",
    ])
    value(await setReturnBin(lead(), "repair", repair))
    value(await goesOn(name, id, { to: "repair", quantity: 1 }))
    // in repair already
    expect(codes(await goesOn(name, id, { from: "repair", to: "repair", quantity: 1 }))).toEqual([
      "goods-back.not-there",
    ])
    expect(codes(await goesOn(name, id, { from: "repair", to: "back", quantity: 2, bin: shelf }))).toEqual([
      "goods-back.not-there",
    ])
    expect(codes(await goesOn(name, id, { to: "back", quantity: pieces, bin: shelf }))).toEqual([
      "goods-back.not-there",
    ])
    expect(codes(await goesOn(name, id, { to: "back", quantity: 1, bin: "" }))).toEqual(["stock.no-bin"])
    expect(codes(await goesOn(name, id, { to: "away", quantity: 1 }, lead()))).toEqual(["goods-back.why-away"])
    expect(codes(await goesOn(name, 999_999, { to: "back", quantity: 1, bin: shelf }))).toEqual(["goods-back.gone"])
    expect(codes(await goesOn("U999", id, { to: "back", quantity: 1, bin: shelf }))).toEqual(["goods-back.gone"])
    for (const quantity of ["0", "-1", "1.5", "x", "1000001"])
      expect(onwardForm.safeParse({ to: "back", quantity }).success).toBe(false)
    // what has gone on in part is no more taken back as a whole
    expect(codes(await undoFinding(rig.context, name, id))).toEqual(["goods-back.moved-on"])
    const [found] = (await whole(name)).findings
    expect([found?.inInspection, found?.inRepair, found?.putBack, found?.thrownAway]).toEqual([pieces - 1, 1, 0, 0])
    value(await goesOn(name, id, { from: "repair", to: "back", quantity: 1, bin: shelf }))
    value(await goesOn(name, id, { to: "back", quantity: pieces - 1, bin: shelf }))
    value(await finishReturn(rig.context, name, { empty: false }))
    expect((await whole(name)).state).toBe("done")
    expect(await reconcileStock(rig.db)).toEqual([])
  })

  it("by that alone: its bins take no receipt and no transfer, and stay blocked for orders", async () => {
    const { name, good, sku } = await back()
    value(await count(name, good))
    const { code: lot } = there(
      await rig
        .db("lot")
        .where({ id: there(good.lotId) })
        .first("code"),
    )
    const receipt = { key: randomUUID(), sku, lot, quantity: 1, released: "on" }
    expect(codes(await receive(rig.context, receiptForm.parse({ ...receipt, bin: inspection })))).toEqual([
      "stock.for-returns",
    ])
    const full = there(
      await rig
        .db("stock as s")
        .join("bin as b", "b.id", "s.bin_id")
        .where({ "s.warehouse_id": 1 })
        .whereNull("b.purpose")
        .whereRaw("s.on_hand > s.allocated")
        .orderBy("s.id")
        .first("b.code"),
    ).code
    const lying = async (bin: string) =>
      there(
        await rig
          .db("stock as s")
          .join("bin as b", "b.id", "s.bin_id")
          .where({ "b.code": bin, "s.warehouse_id": 1 })
          .where("s.on_hand", ">", 0)
          .first("s.id", "s.on_hand"),
      )
    const moves = async (from: string, to: string) =>
      transfer(rig.context, transferForm.parse({ key: randomUUID(), stockId: (await lying(from)).id, to, quantity: 1 }))
    const before = (await lying(inspection)).on_hand
    expect(codes(await moves(inspection, shelf))).toEqual(["stock.for-returns"])
    expect(codes(await moves(full, inspection))).toEqual(["stock.for-returns"])
    expect(codes(await blockBin(lead(), inspection, null))).toEqual(["stock.for-returns"])
    expect((await lying(inspection)).on_hand).toBe(before)
    // goods lie in it: neither it nor another can become something else now
    expect(codes(await setReturnBin(lead(), "repair", inspection))).toEqual(["goods-back.bin-not-empty"])
    const bin = there(await rig.db("bin").where({ code: inspection, warehouse_id: 1 }).first())
    expect([bin.purpose, bin.blocked_why]).toEqual(["inspection", "inspection"])
  })
})

describe("a package that nobody announced", () => {
  it("is of an order that there is and that left", async () => {
    expect(codes(await takeIn({ order: "NO-SUCH" }))).toEqual(["goods-back.no-order"])
    await takeFile(rig.context, row({ order_number: "GR-HERE" }))
    expect(codes(await takeIn({ order: "GR-HERE" }))).toEqual(["goods-back.not-sent"])
    const { name } = value(await takeIn({ note: "a wet carton" }))
    expect(codes(await matchReturn(rig.context, name, "GR-HERE"))).toEqual(["goods-back.not-sent"])
    expect(codes(await matchReturn(rig.context, "U999", "GR-1"))).toEqual(["goods-back.gone"])
    expect(codes(await matchReturn(as(rig.context, { warehouseId: 2 }), name, "GR-1"))).toEqual(["goods-back.no-order"])
    expect(withoutLabelForm.safeParse({ note: "x".repeat(201) }).success).toBe(false)
    // closed, it is no more found out
    value(await closeReturn(rig.context, name, "thrown away"))
    value(await closeReturn(rig.context, name, "thrown away"))
    expect(codes(await matchReturn(rig.context, name, "GR-1"))).toEqual(["goods-back.is-settled"])
  })

  it("has as many packages as somebody says, within reason", async () => {
    const { number } = await back()
    const { name } = value(await takeIn({ order: number, packages: "3", code: "ab-12 34" }))
    const { packages, state } = await whole(name)
    expect([packages.length, state, packages.every((one) => one.arrivedAt !== null)]).toEqual([3, "arrived", true])
    // nonsense is one
    for (const packages of ["0", "201", "-3", "many", ""]) expect(withoutLabelForm.parse({ packages }).packages).toBe(1)
  })

  it("is known by a number that goes on, one for each of two who take one in at once", async () => {
    const names = (await Promise.all([takeIn({ note: "one" }), takeIn({ note: "two" })])).map((one) => value(one).name)
    expect(new Set(names).size).toBe(2)
    for (const name of names) expect(name).toMatch(/^U\d+$/)
    const { number } = await back()
    const parts = (await Promise.all([takeIn({ order: number }), takeIn({ order: number })])).map(
      (one) => value(one).name,
    )
    const { order_number } = await orderBySource(rig.db, number)
    expect(parts.toSorted()).toEqual([`${order_number}-R2`, `${order_number}-R3`])
  })
})

it("a return that was declined is not taken in once more, nor counted, finished or closed", async () => {
  const { name, good } = await back()
  value(await declineReturn(lead(), name, "not ours"))
  const [one] = (await whole(name)).packages
  await rig
    .db("goods_return_package")
    .where({ id: there(one).id })
    .update({ arrived_at: null })
  const code = await returnCode(rig.db, 1, `${name}.1`)
  expect(codes(await arrive(rig.context, there(code?.kind === "package" ? code.packageId : null)))).toEqual([
    "goods-back.declined",
  ])
  expect(codes(await count(name, good))).toEqual(["goods-back.not-open"])
  expect(codes(await finishReturn(rig.context, name, { empty: true }))).toEqual(["goods-back.not-open"])
  expect(codes(await closeReturn(rig.context, name, "why"))).toEqual(["goods-back.not-open"])
  expect(codes(await count("U998", good))).toEqual(["goods-back.gone"])
})
