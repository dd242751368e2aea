import { randomUUID } from "node:crypto"
import { orderActs } from "app/orders/orderActions.server.ts"
import { answerForm } from "app/shell/acts.server.ts"
import type { OrderId } from "core/ids/index.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { holdOrder } from "server/decisions/hold.ts"
import { closeCollection } from "server/dock/close.ts"
import { ordersToGo } from "server/dock/doors.ts"
import { leaveBehind, load, takeOff } from "server/dock/load.ts"
import { decideChange, keepChange, pendingChange } from "server/intake/change.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { addPackage, openShipment } from "server/packing/index.ts"
import { voidAndCancel } from "server/shipping/cancel.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  formOf,
  openRig,
  orderBySource,
  pickAll,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  value,
  workAll,
  workOf,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

async function labelled(number: string) {
  const { orderId, shipment } = await readyToBuy(rig.context, number)
  await askForLabels(rig.context, orderId, shipment)
  await workAll(rig.db)
  const bought = await shipmentOf(rig.db, orderId)
  if (!bought?.collectionId) throw new Error("not bought")
  const [piece] = bought.packages
  return {
    orderId,
    orderNumber: bought.orderNumber,
    door: bought.collectionId,
    package: piece?.id ?? 0,
    sscc: piece?.sscc ?? "",
  }
}
const on = (one: { door: number; sscc: string }) => load(rig.context, one.door, { sscc: one.sscc }, randomUUID())
const cancelAtSource = (orderId: OrderId) =>
  rig.db.transaction((trx) =>
    keepChange(trx, rig.context, orderId, { name: "cancel.csv", intakeId: null }, {
      wish: "cancel",
      contentHash: "c".repeat(64),
      rows: [],
      refusals: [],
    } as never),
  )
const stateOf = async (orderId: OrderId) => (await shipmentOf(rig.db, orderId))?.packages[0]?.state

describe("an order that must not leave", () => {
  it("is not loaded while it is stopped, which a labelled one can be", async () => {
    const one = await labelled("ST-1")
    await holdOrder(rig.context, one.orderId, true)
    expect(codes(await on(one))).toEqual(["dock.keep-here", "dock.order-stopped", "stop.by-hand"])
    expect(await stateOf(one.orderId)).toBe("labelled")
    await holdOrder(as(rig.context, { role: "lead" }), one.orderId, false)
    value(await on(one))
  })

  it("is not closed into a truck that it was loaded on before it was stopped", async () => {
    const one = await labelled("ST-2")
    const others = await rig
      .db("package")
      .where({ collection_id: one.door, state: "labelled" })
      .whereNot({ id: one.package })
      .pluck("id")
    await leaveBehind(rig.context, one.door, others, true)
    value(await on(one))
    await cancelAtSource(one.orderId)
    const loaded = Number(
      (await rig.db("package").where({ collection_id: one.door, state: "on-truck" }).count({ n: "id" }))[0]?.n,
    )
    expect(codes(await closeCollection(rig.context, one.door, loaded))).toEqual([
      "dock.take-it-off",
      "dock.order-stopped",
      "stop.cancelled-at-source",
    ])
    await takeOff(rig.context, one.door, one.package)
    expect(codes(await on(one))).toContain("dock.keep-here")
  })

  it("is made void and put back in one go when its source cancelled it", async () => {
    const onHand = async () =>
      Number(
        (
          await rig
            .db("stock as s")
            .join("item as i", "i.id", "s.item_id")
            .where({ sku: "YST-ALE-500" })
            .sum({ n: "s.on_hand" })
        )[0]?.n,
      )
    const before = await onHand()
    const one = await labelled("ST-3")
    expect(await onHand()).toBe(before - 4)
    await cancelAtSource(one.orderId)
    value(await voidAndCancel(rig.context, one.orderId))
    value(await voidAndCancel(rig.context, one.orderId))
    await workAll(rig.db)
    const order = await orderBySource(rig.db, "ST-3")
    expect(order.cancelled_at).not.toBeNull()
    expect(await onHand()).toBe(before)
    expect(await rig.db("order_change").where({ order_id: one.orderId }).pluck("state")).toEqual(["taken"])
    expect(
      await rig
        .db("package as p")
        .join("shipment as h", "h.id", "p.shipment_id")
        .where({ "h.order_id": one.orderId })
        .pluck("p.state"),
    ).toEqual(["void"])
    expect(codes(await on(one))).toEqual(["dock.not-labelled"])
  })

  it("is cancelled with its label by the lead, and by nobody else of whom its source did not ask it", async () => {
    const one = await labelled("ST-4")
    await expect(voidAndCancel(rig.context, one.orderId)).rejects.toThrow()
    value(await voidAndCancel(as(rig.context, { role: "lead" }), one.orderId))
    await workAll(rig.db)
    expect((await orderBySource(rig.db, "ST-4")).cancelled_at).not.toBeNull()
    // nothing more is packed for it
    expect(codes(await addPackage(rig.context, one.orderId, "K12"))).toEqual(["order.is-cancelled"])
    expect(codes(await openShipment(rig.context, one.orderId))).toEqual(["order.is-cancelled"])
    expect((await shipmentOf(rig.db, one.orderId))?.packages).toEqual([])
  })

  it("stays as it is when its source takes the cancellation back before the carrier answered", async () => {
    const one = await labelled("ST-5")
    await cancelAtSource(one.orderId)
    value(await voidAndCancel(rig.context, one.orderId))
    await rig.db("order_change").where({ order_id: one.orderId }).update({ state: "overtaken" })
    await workAll(rig.db)
    expect((await orderBySource(rig.db, "ST-5")).cancelled_at).toBeNull()
    expect(await stateOf(one.orderId)).toBe("closed")
  })
})

describe("closing a door", () => {
  it("ahead of its time names the orders that would miss it, and wants to be told that they will", async () => {
    const one = await labelled("ST-6")
    const others = await rig
      .db("package")
      .where({ collection_id: one.door, state: "labelled" })
      .whereNot({ id: one.package })
      .pluck("id")
    await leaveBehind(rig.context, one.door, others, true)
    value(await on(one))
    const loaded = Number(
      (await rig.db("package").where({ collection_id: one.door, state: "on-truck" }).count({ n: "id" }))[0]?.n,
    )
    await takeFile(rig.context, row({ order_number: "ST-7" }), row({ order_number: "ST-8" }))
    await rig.db("sales_order").whereIn("source_number", ["ST-7", "ST-8"]).update({ collection_id: one.door })
    // a stopped one misses the truck too, and is counted wherever those to go are counted
    await rig.db("order_stop").insert({
      order_id: (await orderBySource(rig.db, "ST-8")).id,
      code: "held-by-hand",
      detail: JSON.stringify({ why: "" }),
      raised_at: rig.context.now,
    })
    const toGo = (await ordersToGo(rig.db, rig.context.actor.warehouseId, [one.door])).get(one.door) ?? []
    const stopped = new Set(toGo.flatMap((order) => (order.stopped ? [order.orderNumber] : [])))
    expect(stopped).toContain((await orderBySource(rig.db, "ST-8")).order_number)
    expect(stopped).not.toContain((await orderBySource(rig.db, "ST-7")).order_number)
    const names = ["ST-7", "ST-8"]
    for (const name of names)
      expect(toGo.map((order) => order.orderNumber)).toContain((await orderBySource(rig.db, name)).order_number)
    const early = await closeCollection(rig.context, one.door, loaded)
    expect(early).toMatchObject({ ok: false, reasons: [{ code: "dock.early", values: { n: String(toGo.length) } }] })
    // one more since it was looked at
    expect(codes(await closeCollection(rig.context, one.door, loaded, toGo.length - 1))).toEqual(["dock.early"])
    value(await closeCollection(rig.context, one.door, loaded, toGo.length))
  })
})

describe("a change that two people decide", () => {
  it("is told to the second as the first decided it", async () => {
    await takeFile(rig.context, row({ order_number: "ST-9", quantity: "2" }))
    const { id, order_number: number } = await orderBySource(rig.db, "ST-9")
    await pickAll(rig.context, id)
    await takeFile(rig.context, row({ order_number: "ST-9", quantity: "1" }))
    const change = (await pendingChange(rig.db, id))?.id ?? 0
    const press = async (intent: string, name: string) => {
      const work = await workOf(as(rig.context, { name }))
      const order = await summaryByNumber(rig.db, work.warehouse, number)
      if (!order) throw new Error("no order")
      const answer = await answerForm(formOf({ intent, change }), work, orderActs(work, order))
      return answer.answer.words
    }
    expect(await press("keep-change", "Tomas")).toBe("The order stays as it is.")
    expect(await press("take-change", "Maren")).toBe("Tomas kept the order as is.")
    expect(await press("keep-change", "Maren")).toBe("Tomas kept the order as is.")
    expect(there(await rig.db("order_line").where({ order_id: id }).first("ordered")).ordered).toBe(2)
  })

  it("says what is to be carried back when a picked order is cancelled", async () => {
    await takeFile(rig.context, row({ order_number: "ST-10", quantity: "2" }))
    const { id } = await orderBySource(rig.db, "ST-10")
    await pickAll(rig.context, id)
    await cancelAtSource(id)
    const decided = value(await decideChange(rig.context, id, (await pendingChange(rig.db, id))?.id ?? 0, "take"))
    expect(decided).toMatchObject({
      decision: "take",
      kind: "cancelled",
      before: false,
      back: [{ sku: "YST-ALE-500", quantity: 2 }],
    })
    expect(value(await cancelByHand(as(rig.context, { role: "lead" }), id))).toEqual({ back: [] })
  })
})
