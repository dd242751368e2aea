import type { WarehouseId } from "core/ids/index.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { saveRouting } from "server/decisions/customers.ts"
import { makeWhole, reroute, splitOver } from "server/decisions/reroute.ts"
import { decideChange, pendingChange } from "server/intake/change.ts"
import { summaryById } from "server/orders/facts.ts"
import { partsOf } from "server/orders/parts.ts"
import { neededOf, warehouseFits } from "server/orders/warehouses.ts"
import { outsideOrder, recallOutside, sendOutside } from "server/outside/index.ts"
import { openShipment } from "server/packing/index.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { queueDue } from "server/worker/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { newId, there } from "../../server/db/there.ts"
import { as, codes, fault, openRig, orderBySource, pickAll, type Rig, row, takeFile, value, workAll } from "./rig.ts"

let rig: Rig
const reno = 2
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const item = async (sku: string) => there(await rig.db("item").where({ sku }).first("id")).id as number
/** Puts so much of an item free into a warehouse, on the shelf that it has there. */
async function shelve(warehouseId: WarehouseId, sku: string, free: number): Promise<void> {
  const stock = await rig
    .db("stock")
    .where({ warehouse_id: warehouseId, item_id: await item(sku) })
    .orderBy("id")
  const [first, ...others] = stock
  if (!first) {
    const bin = there(await rig.db("bin").where({ warehouse_id: warehouseId }).first("id"))
    await rig.db("stock").insert({ warehouse_id: warehouseId, bin_id: bin.id, item_id: await item(sku), on_hand: free })
    return
  }
  await rig
    .db("stock")
    .where({ id: first.id })
    .update({ on_hand: rig.db.raw("allocated + ?", [free]) })
  for (const one of others)
    await rig
      .db("stock")
      .where({ id: one.id })
      .update({ on_hand: rig.db.raw("allocated") })
}
const order = async (number: string) => {
  const found = await orderBySource(rig.db, number)
  return found as { id: number; warehouse_id: number; order_number: string; collection_id: number | null }
}
const stopsOf = (id: number) => rig.db("order_stop").where({ order_id: id }).orderBy("id").pluck("code")
const linesOf = async (id: number) =>
  (
    await rig
      .db("order_line as l")
      .join("item as i", "i.id", "l.item_id")
      .where({ order_id: id })
      .orderBy("line_number")
      .select("i.sku", "l.ordered")
  ).map((line) => [line.sku, line.ordered])
/** Pieces that allocations hold are what stock rows say is allocated. */
async function balanced(): Promise<void> {
  const rows = await rig
    .db("stock as s")
    .select(
      "s.id",
      "s.allocated",
      rig.db.raw("(SELECT COALESCE(SUM(a.quantity - a.picked), 0) FROM allocation a WHERE a.stock_id = s.id) AS held"),
    )
  expect(rows.filter((one) => Number(one.allocated) !== Number(one.held))).toEqual([])
}

describe("a warehouse for an order", () => {
  it("is told by what each has and how far it is", async () => {
    await shelve(1, "HYD-TRI", 3)
    await shelve(reno, "HYD-TRI", 20)
    await takeFile(rig.context, row({ order_number: "W-1", sku: "HYD-TRI", quantity: "8" }))
    const { id } = await order("W-1")
    expect(await stopsOf(id)).toEqual(["stop.stock-short"])
    const place = there(await rig.db("sales_order").where({ id }).first("id", "country", "postal_code"))
    const fits = await warehouseFits(rig.db, place, await neededOf(rig.db, id))
    expect(fits.map((fit) => [fit.name, fit.has, fit.missing.map((one) => [one.ordered, one.free])])).toEqual([
      ["Reno", 1, []],
      ["Duluth", 0, [[8, 3]]],
    ])
    // Denver is about 790 miles from Duluth and 800 from Reno as the crow flies (read off a map): 1200 to 1400 km
    for (const fit of fits) expect(fit.km).toSatisfy((km: number) => km > 1_100 && km < 1_450)
  })

  it("can be another one: the order goes there with its number, stock follows, and its stop ends", async () => {
    const { id, order_number } = await order("W-1")
    value(await reroute(rig.context, id, reno))
    value(await reroute(rig.context, id, reno))
    const moved = await order("W-1")
    expect(moved).toMatchObject({ warehouse_id: reno, order_number })
    expect(await stopsOf(id)).toEqual([])
    const collection = await rig.db("collection").where("id", moved.collection_id).first("warehouse_id")
    expect(collection?.warehouse_id ?? reno).toBe(reno)
    await balanced()
    expect(codes(await reroute(rig.context, id, 1))).toEqual(["order.unknown"])
    expect(codes(await reroute(as(rig.context, { warehouseId: reno }), id, 99))).toEqual(["reroute.no-warehouse"])
    // the source sends it again: it is that order still, where it is
    await takeFile(rig.context, row({ order_number: "W-1", sku: "HYD-TRI", quantity: "9" }))
    expect(await linesOf(id)).toEqual([["HYD-TRI", 9]])
    expect((await order("W-1")).warehouse_id).toBe(reno)
    await balanced()
  })

  it("is not changed any more once the order is picked", async () => {
    await takeFile(rig.context, row({ order_number: "W-2" }))
    const { id } = await order("W-2")
    await pickAll(rig.context, id)
    expect(codes(await reroute(rig.context, id, reno))).toEqual(["reroute.begun"])
    expect(codes(await splitOver(rig.context, id, reno))).toEqual(["reroute.begun"])
    expect(codes(await sendOutside(rig.context, id, 1))).toEqual(["reroute.begun"])
  })

  it("is the nearest that has it all, where the source is set up so", async () => {
    await rig.db("order_source").where({ code: "file" }).update({ routing: "nearest" })
    await shelve(1, "THM-DIG-12", 5)
    await shelve(reno, "THM-DIG-12", 5)
    const sacramento = { city: "Sacramento", state: "CA", postal_code: "95814", sku: "THM-DIG-12" }
    await takeFile(
      rig.context,
      row({ order_number: "N-1", ...sacramento, quantity: "2" }),
      // Reno is nearer and has only three left of five
      row({ order_number: "N-2", ...sacramento, quantity: "4" }),
      // nobody has nine: it stays where it came in
      row({ order_number: "N-3", ...sacramento, quantity: "9" }),
    )
    await rig.db("order_source").where({ code: "file" }).update({ routing: "own" })
    expect([await order("N-1"), await order("N-2"), await order("N-3")].map((one) => one.warehouse_id)).toEqual([
      reno,
      1,
      1,
    ])
    await balanced()
  })
})

describe("an order split over two warehouses", () => {
  const take = async (number: string, hoses: string) => {
    await shelve(1, "AIR-LOCK-50", 30)
    await shelve(1, "BUN-10", 2)
    await shelve(reno, "BUN-10", 30)
    await takeFile(
      rig.context,
      row({ order_number: number, sku: "AIR-LOCK-50", quantity: "4", customer: "Split Cellars" }),
      row({ order_number: number, sku: "BUN-10", quantity: hoses, customer: "Split Cellars" }),
    )
    return (await order(number)).id
  }

  it("keeps every piece once, each part with its own stock, and is made whole again", async () => {
    const id = await take("S-1", "6")
    const part = value(await splitOver(rig.context, id, reno))
    expect(value(await splitOver(rig.context, id, reno))).toEqual(part)
    const other = there(await rig.db("sales_order").where({ order_number: part.orderNumber }).first())
    expect(await linesOf(id)).toEqual([
      ["AIR-LOCK-50", 4],
      ["BUN-10", 2],
    ])
    expect(await linesOf(other.id)).toEqual([["BUN-10", 4]])
    expect(other).toMatchObject({ warehouse_id: reno, part: 2, source_number: "S-1", split_from_id: id })
    expect([await stopsOf(id), await stopsOf(other.id)]).toEqual([[], []])
    await balanced()
    expect((await partsOf(rig.db, other.id)).map((one) => one.orderNumber)).toEqual([
      (await order("S-1")).order_number,
      part.orderNumber,
    ])
    expect(codes(await cancelByHand(as(rig.context, { role: "lead", warehouseId: reno }), other.id))).toEqual([
      "split.cancel-whole",
    ])
    value(await makeWhole(rig.context, id))
    value(await makeWhole(rig.context, id))
    expect(await linesOf(id)).toEqual([
      ["AIR-LOCK-50", 4],
      ["BUN-10", 6],
    ])
    expect(await linesOf(other.id)).toEqual([])
    expect(await partsOf(rig.db, id)).toEqual([])
    await balanced()
  })

  it("is split once, though two people ask at the same moment", async () => {
    const id = await take("S-1B", "6")
    const answers = await Promise.all([splitOver(rig.context, id, reno), splitOver(rig.context, id, reno)])
    const [first, second] = answers.map(value)
    expect(second).toEqual(first)
    expect((await partsOf(rig.db, id)).length).toBe(2)
    value(await makeWhole(rig.context, id))
    await balanced()
  })

  it("is one order to its source: a change waits for a decision, and taking it makes it whole first", async () => {
    const id = await take("S-2", "6")
    const part = value(await splitOver(rig.context, id, reno))
    await takeFile(
      rig.context,
      row({ order_number: "S-2", sku: "AIR-LOCK-50", quantity: "5", customer: "Split Cellars" }),
    )
    const change = await pendingChange(rig.db, id)
    expect(change?.kind).toBe("changed")
    const other = there(await rig.db("sales_order").where({ order_number: part.orderNumber }).first("id"))
    await pickAll(as(rig.context, { warehouseId: reno }), other.id)
    expect(codes(await decideChange(rig.context, id, change?.id as number, "take"))).toEqual(["split.part-begun"])
    value(await decideChange(rig.context, id, change?.id as number, "keep"))
    expect(await stopsOf(id)).toEqual([])
    expect(await rig.db("sales_order").where({ source_number: "S-2" }).pluck("part")).toEqual([1, 2])
    await balanced()
  })

  it("is refused where it makes no sense or is not wanted", async () => {
    const enough = await take("S-3", "2")
    expect(codes(await splitOver(rig.context, enough, reno))).toEqual(["split.has-all"])
    const much = await take("S-4", "90")
    expect(codes(await splitOver(rig.context, much, reno))).toEqual(["split.not-enough"])
    const customer = newId(await rig.db("customer").insert({ code: "SPLITC", name: "Split Cellars" }))
    const admin = as(rig.context, { role: "administrator" })
    value(await saveRouting(admin, { id: customer, version: 1 }, { split: false }))
    const unwanted = await take("S-5", "6")
    expect(codes(await splitOver(rig.context, unwanted, reno))).toEqual(["split.not-allowed"])
  })
})

describe("an outside warehouse", () => {
  const stage = async (id: number) => (await summaryById(rig.db, await warehouseById(rig.db, 1), id))?.stage
  const there = async () =>
    (await (await fetch(`${rig.at.outsideWarehouse}/v1/orders`)).json()) as { number: string; state: string }[]
  const ask = async () => {
    await queueDue(rig.db, Date.now() + Math.floor(Math.random() * 1e9))
    await workAll(rig.db, 2)
  }
  const take = async (number: string, sku = "COR-45-1000") => {
    await shelve(1, sku, 50)
    await takeFile(rig.context, row({ order_number: number, sku, quantity: "2" }))
    return (await order(number)).id
  }

  it("is given an order once, though its answer is lost, ships it, and the source is told its tracking", async () => {
    const id = await take("O-1")
    await fault(rig.at.outsideWarehouse, "lose-answer")
    value(await sendOutside(rig.context, id, 1))
    value(await sendOutside(rig.context, id, 1))
    expect(await stage(id)).toBe("outside")
    await balanced()
    await workAll(rig.db)
    expect((await there()).filter((one) => one.number)).toHaveLength(1)
    expect(await outsideOrder(rig.db, id)).toMatchObject({ state: "taken", warehouse: "Hollow Road Depot" })
    expect(codes(await openShipment(rig.context, id))).toEqual(["pack.outside"])
    await fetch(`${rig.at.outsideWarehouse}/ship`, { method: "POST" })
    await ask()
    const shipped = await outsideOrder(rig.db, id)
    expect(shipped?.state).toBe("shipped")
    expect(await stage(id)).toBe("gone")
    const told = (await (await fetch(`${rig.at.orderSource}/reports`)).json()) as {
      body: { orderNumber: string; trackingNumber: string; carrier: string }
    }[]
    expect(told.filter((one) => one.body.orderNumber === "O-1").map((one) => one.body)).toMatchObject([
      { trackingNumber: shipped?.tracking[0], carrier: "Hollow Road Haulage" },
    ])
    expect(codes(await recallOutside(rig.context, id))).toEqual(["outside.shipped"])
  })

  it("that does not ship an item stops the order with its reason, until it is ours again", async () => {
    const id = await take("O-2", "YST-ALE-500")
    value(await sendOutside(rig.context, id, 1))
    await workAll(rig.db)
    expect(await stopsOf(id)).toEqual(["stop.outside-refused"])
    value(await recallOutside(rig.context, id))
    value(await recallOutside(rig.context, id))
    expect([await stopsOf(id), await stage(id)]).toEqual([[], "released"])
    await balanced()
  })

  it("gives an order back that it has not shipped", async () => {
    const id = await take("O-3")
    value(await sendOutside(rig.context, id, 1))
    await workAll(rig.db)
    value(await recallOutside(rig.context, id))
    await workAll(rig.db)
    expect(await outsideOrder(rig.db, id)).toBeNull()
    expect(await stage(id)).toBe("released")
    await balanced()
    // and it can be given to it again, as another order there
    value(await sendOutside(rig.context, id, 1))
    await workAll(rig.db)
    expect(await outsideOrder(rig.db, id)).toMatchObject({ state: "taken" })
  })

  it("that is down is asked again, and is given nothing that is stopped for another reason", async () => {
    await fault(rig.at.outsideWarehouse, "down")
    const id = await take("O-4")
    value(await sendOutside(rig.context, id, 1))
    await workAll(rig.db, 2)
    expect(await outsideOrder(rig.db, id)).toMatchObject({ state: "sending" })
    await fault(rig.at.outsideWarehouse, null)
    await workAll(rig.db)
    expect(await outsideOrder(rig.db, id)).toMatchObject({ state: "taken" })
    await takeFile(rig.context, row({ order_number: "O-5", street: "No Number Lane" }))
    const stopped = await order("O-5")
    expect(codes(await sendOutside(rig.context, stopped.id, 1))).toEqual(["outside.stopped"])
    expect(codes(await sendOutside(rig.context, 999_999, 1))).toEqual(["order.unknown"])
  })
})
