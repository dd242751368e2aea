import { randomUUID } from "node:crypto"
import { freeRouting } from "core/rules/index.ts"
import { count, countTasks } from "server/decisions/count.ts"
import { allowedWhenShort, recordShort, type Short, shortChoices } from "server/decisions/short.ts"
import { receive } from "server/decisions/stock.ts"
import { summaryById } from "server/orders/facts.ts"
import { partsOf } from "server/orders/parts.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { as, codes, openRig, orderBySource, type Rig, row, takeFile, value, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

let n = 0
/** An order of eight pieces of which three are picked; five are not in the bin. */
async function begun(sku: string, more: Record<string, string> = {}) {
  n += 1
  const number = `S-${n}`
  await takeFile(
    rig.context,
    row({ order_number: number, po_number: `S${n}`, sku, quantity: "8", promised_on: "2026-12-04", ...more }),
  )
  const { id } = await orderBySource(rig.db, number)
  const [stop] = await pickStops(rig.db, id)
  if (!stop) throw new Error("nothing to pick")
  value(
    await pick(rig.context, id, {
      scanId: randomUUID(),
      allocationId: stop.allocationId,
      bin: stop.bin,
      item: sku,
      times: 3,
    }),
  )
  return {
    id,
    stop,
    short: (more: Partial<Short>, context = rig.context) =>
      recordShort(context, {
        scanId: randomUUID(),
        allocationId: stop.allocationId,
        why: "empty",
        way: "elsewhere",
        ...more,
      }),
  }
}
const summary = async (id: number) => summaryById(rig.db, await warehouseById(rig.db, 1), id)
const instruct = (routing: Record<string, unknown>) =>
  rig
    .db("customer")
    .where({ code: "ELKRUN" })
    .update({ routing: JSON.stringify(routing) })

describe("what the customer's instruction allows", () => {
  it.each([
    [{}, { elsewhere: true, warehouse: true, "back-order": true, wait: true, cancel: false }],
    [{ split: false }, { elsewhere: true, warehouse: false, "back-order": false, wait: true, cancel: false }],
    [{ whenShort: "wait" }, { elsewhere: true, warehouse: false, "back-order": false, wait: true, cancel: false }],
    [{ whenShort: "cancel" }, { elsewhere: true, warehouse: false, "back-order": false, wait: false, cancel: true }],
    [{ whenShort: "back-order" }, { elsewhere: true, warehouse: true, "back-order": true, wait: false, cancel: false }],
  ] as const)("%j", (answer, expected) => {
    for (const [way, allowed] of Object.entries(expected))
      expect([way, allowedWhenShort({ ...freeRouting, ...answer }, way as Short["way"])]).toEqual([way, allowed])
  })
})

describe("pieces that are not there", () => {
  it("are taken from another bin; the place is to be counted, and nobody is sent there until then", async () => {
    value(
      await receive(rig.context, {
        key: randomUUID(),
        bin: "A-01-1",
        sku: "SAM-VAL-15",
        lot: "",
        expires: "",
        quantity: 30,
        released: "on",
      }),
    )
    const { id, stop, short } = await begun("SAM-VAL-15")
    const scanId = randomUUID()
    const done = value(await short({ scanId }))
    expect(done).toMatchObject({ missing: 5, part: null })
    // sent again, it is the same answer
    expect(value(await short({ scanId }))).toEqual(done)
    const stops = await pickStops(rig.db, id)
    expect(stops.map((one) => [one.bin === stop.bin, one.quantity, one.picked])).toEqual(
      expect.arrayContaining([
        [true, 3, 3],
        [false, 5, 0],
      ]),
    )
    expect(await countTasks(rig.db, 1)).toMatchObject([{ bin: stop.bin, sku: "SAM-VAL-15", why: "empty" }])
    await takeFile(
      rig.context,
      row({ order_number: "S-N", po_number: "SN", sku: "SAM-VAL-15", quantity: "2", promised_on: "2026-12-04" }),
    )
    const [other] = await pickStops(rig.db, (await orderBySource(rig.db, "S-N")).id)
    expect(other?.bin).not.toBe(stop.bin)
    const [task] = await countTasks(rig.db, 1)
    const counted = value(await count(rig.context, task?.id ?? 0, 0))
    expect(counted.difference).toBe(-(task?.onHand ?? 0))
    expect(await reconcileStock(rig.db)).toEqual([])
  })
  it("that are nowhere else are not taken elsewhere, and nothing changed", async () => {
    const { id, short, stop } = await begun("CHL-PLT-30")
    const answer = await short({})
    expect(codes(answer)).toEqual(["short.not-elsewhere"])
    // what the screen says beside the button is what the server refuses with
    const [choice] = await shortChoices(rig.context, stop.allocationId)
    expect(choice).toMatchObject({ way: "elsewhere", impossible: answer.ok ? null : answer.reasons[0] })
    // eight are wanted and three were taken
    expect(choice?.impossible?.values).toEqual({ missing: "5", free: "0" })
    expect((await pickStops(rig.db, id))[0]).toMatchObject({ quantity: 8, picked: 3 })
  })
  it("are back-ordered as a part of the same order, which goes when goods come; the rest goes now", async () => {
    const { id, short, stop } = await begun("LIN-BEV-30", { promised_on: "2026-12-10" })
    const scanId = randomUUID()
    const [done, again] = await Promise.all(
      [1, 2].map(() => short({ scanId, way: "back-order", why: "damaged" }).then(value)),
    )
    expect(again).toEqual(done)
    const parts = await partsOf(rig.db, id)
    expect(parts.map((one) => one.orderNumber)).toContain(done?.part)
    expect(parts).toHaveLength(2)
    expect((await summary(id))?.facts).toMatchObject({ ordered: 3, picked: 3 })
    expect((await summary(id))?.stops).toEqual([])
    const part = await summary(parts[1]?.id ?? 0)
    // the bin is to be counted, so nothing of it is given out
    expect(part?.stops.map((one) => one.code)).toEqual(["stop.stock-short", "stop.bin-blocked"])
    expect(part?.facts.ordered).toBe(5)
    const task = (await countTasks(rig.db, 1)).find((one) => one.bin === stop.bin)
    value(await count(rig.context, task?.id ?? 0, 20))
    await workAll(rig.db)
    expect((await summary(part?.id ?? 0))?.stops).toEqual([])
  })
  it("are shipped from the other warehouse", async () => {
    const { id, short } = await begun("REG-CO2-1")
    const choices = await shortChoices(rig.context, (await pickStops(rig.db, id))[0]?.allocationId ?? 0)
    expect(choices.find((one) => one.way === "warehouse")).toMatchObject({
      allowed: true,
      impossible: null,
      from: "Reno",
    })
    value(await short({ way: "warehouse" }))
    const parts = await partsOf(rig.db, id)
    expect(parts.map((one) => one.warehouse)).toEqual(["Duluth", "Reno"])
    const held = await rig
      .db("allocation as a")
      .join("order_line as l", "l.id", "a.order_line_id")
      .where("l.order_id", parts[1]?.id ?? 0)
      .sum({ n: "a.quantity" })
      .first()
    expect(Number(held?.n)).toBe(5)
  })
  it("are not asked of a warehouse that may not give them: a lot that is not released, or too old for the customer", async () => {
    const reno = as(rig.context, { warehouseId: 2 })
    const { sku } = await rig
      .db("stock as s")
      .join("item as i", "i.id", "s.item_id")
      .whereNotNull("s.lot_id")
      .where({ "s.warehouse_id": 1 })
      .whereNotExists(rig.db("stock as r").whereRaw("r.item_id = s.item_id AND r.warehouse_id = 2"))
      .where("s.on_hand", ">", 8)
      .first("i.sku")
    const { bin } = await rig.db("bin").where({ warehouse_id: 2 }).first("code as bin")
    const lot = { key: randomUUID(), bin, sku, lot: "FAR-1", expires: "2027-03-01", quantity: 40 }
    value(await receive(reno, lot))
    const { id } = await begun(sku, { promised_on: "2026-12-10" })
    const stop = (await pickStops(rig.db, id)).find((one) => one.picked < one.quantity)
    const way = async () =>
      (await shortChoices(rig.context, stop?.allocationId ?? 0)).find((one) => one.way === "warehouse")
    expect((await way())?.impossible?.code).toBe("short.no-warehouse")
    await rig.db("lot").where({ code: "FAR-1" }).update({ state: "released" })
    expect((await way())?.impossible).toBeNull()
    // promised 10 December 2026 and 100 days of life are 20 March 2027; the lot is good until the 1st
    await instruct({ minimumLife: 100 })
    expect((await way())?.impossible?.code).toBe("short.no-warehouse")
    await instruct({ minimumLife: 81 })
    expect((await way())?.impossible).toBeNull()
    await instruct({})
  })
  it("are waited for: the order stops, and goes on when goods come", async () => {
    const { id, short } = await begun("FLT-HSG-10")
    value(await short({ way: "wait" }))
    expect((await summary(id))?.stops.map((one) => one.code)).toEqual(["stop.stock-short", "stop.bin-blocked"])
    value(
      await receive(rig.context, {
        key: randomUUID(),
        bin: "A-02-1",
        sku: "FLT-HSG-10",
        lot: "",
        expires: "",
        quantity: 9,
        released: "on",
      }),
    )
    await workAll(rig.db)
    expect((await summary(id))?.stops).toEqual([])
    expect((await summary(id))?.facts).toMatchObject({ ordered: 8, allocated: 8, picked: 3 })
  })
  it("are cancelled by the lead where the instruction does not say so, by the clerk where it does", async () => {
    const first = await begun("CPL-KEG-D")
    expect(codes(await first.short({ way: "cancel" }))).toEqual(["short.needs-lead"])
    value(await first.short({ way: "cancel" }, as(rig.context, { role: "lead" })))
    expect((await summary(first.id))?.facts).toMatchObject({ ordered: 3, picked: 3 })
    expect((await summary(first.id))?.stage).toBe("picked")
    expect(await rig.db("order_line").where({ order_id: first.id }).first("ordered", "cancelled")).toEqual({
      ordered: 3,
      cancelled: 5,
    })
    await instruct({ whenShort: "cancel", split: false })
    const second = await begun("KEG-SIX-20")
    expect(codes(await second.short({ way: "back-order" }))).toEqual(["short.needs-lead"])
    value(await second.short({ way: "cancel" }))
    await instruct({})
  })
  it("of an order that is all cancelled leave no order", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "S-ALL", po_number: "SALL", sku: "JUG-GLS-5", quantity: "2", promised_on: "2026-12-04" }),
    )
    const { id } = await orderBySource(rig.db, "S-ALL")
    const [stop] = await pickStops(rig.db, id)
    value(
      await recordShort(as(rig.context, { role: "lead" }), {
        scanId: randomUUID(),
        allocationId: stop?.allocationId ?? 0,
        why: "empty",
        way: "cancel",
      }),
    )
    expect((await summary(id))?.stage).toBe("cancelled")
  })
  it("are none where all is picked", async () => {
    const { id, stop, short } = await begun("PH-METER")
    value(
      await pick(rig.context, id, {
        scanId: randomUUID(),
        allocationId: stop.allocationId,
        bin: stop.bin,
        item: null,
        times: 5,
      }),
    )
    expect(codes(await short({}))).toEqual(["short.nothing-missing"])
  })
  it("leave stock the sum of its movements", async () => expect(await reconcileStock(rig.db)).toEqual([]))
})
