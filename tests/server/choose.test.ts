import { randomUUID } from "node:crypto"
import { instantAt } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { keepDay } from "server/day/keep.ts"
import { changeGroup, undoGroup } from "server/decisions/group.ts"
import { joinOrders } from "server/decisions/join.ts"
import { openCollections } from "server/setup/collections.ts"
import { type Warehouse, warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { askForLabels, openRig, orderBySource, packed, type Rig, row, takeFile, value, workAll } from "./rig.ts"

let rig: Rig
let warehouse: Warehouse
beforeAll(async () => {
  rig = await openRig()
  warehouse = await warehouseById(rig.db, 1)
})
afterAll(() => rig?.drop())

const take = async (number: string, more: Record<string, string> = {}): Promise<number> => {
  await takeFile(rig.context, row({ order_number: number, street: `${number.length}7 ${number} Lane`, ...more }))
  return (await orderBySource(rig.db, number)).id
}
/** A truck by its day and door. */
const truck = async (onDate: string, door: string) => {
  const found = (await openCollections(rig.db, 1, rig.context.now)).find(
    (one) => one.onDate === onDate && one.door === door,
  )
  if (!found) throw new Error(`no truck at door ${door} on ${onDate}`)
  return found
}
const leaves = async (orderId: OrderId) => {
  const order = there(await rig.db("sales_order").where({ id: orderId }).first())
  const collection = await rig.db("collection").where("id", order.collection_id).first("on_date", "door")
  return collection ? `${collection.on_date} ${collection.door}` : null
}
const leave = (orders: readonly number[], collection: number, key = randomUUID()) =>
  changeGroup(rig.context, warehouse, key, orders, { what: "leave", collection })

describe("a truck that a person chose", () => {
  it("is the one that the orders leave with, whatever the plan says, until that is taken back", async () => {
    const ids = [await take("CH-1"), await take("CH-2")]
    expect(await leaves(ids[0] as number)).toBe("2026-11-24 4")
    const friday = await truck("2026-11-27", "4")
    const key = randomUUID()
    expect(value(await leave(ids, friday.id, key))).toMatchObject({ changed: 2, refused: [] })
    // the same again answers the same and changes nothing
    expect(value(await leave(ids, friday.id, key))).toMatchObject({ changed: 2 })
    expect(await Promise.all(ids.map(leaves))).toEqual(["2026-11-27 4", "2026-11-27 4"])
    // planning again does not forget it
    await keepDay(rig.db, 1, rig.context.now)
    expect(await leaves(ids[0] as number)).toBe("2026-11-27 4")
    value(await undoGroup(rig.context, key))
    expect(await Promise.all(ids.map(leaves))).toEqual(["2026-11-24 4", "2026-11-24 4"])
  })

  it("can be left to the plan again by hand", async () => {
    const id = await take("CH-3")
    value(await leave([id], (await truck("2026-11-25", "4")).id))
    expect(await leaves(id)).toBe("2026-11-25 4")
    expect(value(await leave([id], 0)).changed).toBe(1)
    expect(await leaves(id)).toBe("2026-11-24 4")
    expect(value(await leave([id], 0)).same).toBe(1)
  })

  it("must take a service that can carry the order, and be there still", async () => {
    const box = await take("CH-4", { street: "PO Box 9", address_kind: "unknown" })
    // no parcel service takes a PO box: only the post's truck at door 7 does
    const refused = value(await leave([box], (await truck("2026-11-24", "4")).id))
    expect(refused.refused.map((one) => one.reasons.map((why) => why.code))).toEqual([["plan.collection-cannot"]])
    expect(value(await leave([box], (await truck("2026-11-25", "7")).id)).changed).toBe(1)
    const gone = there(
      await rig.db("collection").where({ warehouse_id: 1, door: "2", on_date: "2026-11-24" }).first("id"),
    )
    await rig.db("collection").where({ id: gone.id }).update({ closed_at: rig.context.now })
    const late = value(await leave([await take("CH-5")], gone.id))
    expect(late.refused.map((one) => one.reasons.map((why) => why.code))).toEqual([["plan.collection-gone"]])
    await rig.db("collection").where({ id: gone.id }).update({ closed_at: null })
  })

  it("is forgotten when it is closed or past: the plan takes over", async () => {
    const id = await take("CH-6")
    value(await leave([id], (await truck("2026-11-24", "1")).id))
    expect(await leaves(id)).toBe("2026-11-24 1")
    await keepDay(rig.db, 1, instantAt("2026-11-24", "16:30", "America/Chicago"))
    const order = there(await rig.db("sales_order").where({ id }).first("chosen_collection_id", "collection_id"))
    expect(order.chosen_collection_id).toBeNull()
    expect(await leaves(id)).not.toBe("2026-11-24 1")
  })

  it("is one for all orders of a shipment", async () => {
    const street = "12 Shared Lane"
    const ids = [await take("CH-7", { street }), await take("CH-8", { street, quantity: "1" })]
    value(await joinOrders(rig.context, ids))
    value(await leave([ids[1] as number], (await truck("2026-11-27", "4")).id))
    expect(await Promise.all(ids.map(leaves))).toEqual(["2026-11-27 4", "2026-11-27 4"])
  })

  it("stays out of it once labels are asked for", async () => {
    await takeFile(rig.context, row({ order_number: "CH-9" }))
    const { orderId, shipment } = await packed(rig.context, "CH-9")
    await askForLabels(rig.context, orderId, shipment)
    const result = value(await leave([orderId], (await truck("2026-11-27", "4")).id))
    expect(result.refused[0]?.reasons[0]?.code).toBe("order.labels-asked-for")
    await workAll(rig.db)
  })

  it("and service that advice chose are proposed when the order is packed", async () => {
    await takeFile(rig.context, row({ order_number: "CH-10" }))
    const { id } = await orderBySource(rig.db, "CH-10")
    const air = await truck("2026-11-24", "6")
    const service = there(await rig.db("service").where({ code: "MDN" }).first("id"))
    const moved = await changeGroup(rig.context, warehouse, randomUUID(), [id], {
      what: "moves",
      moves: [{ order: id, collection: air.id, service: service.id }],
    })
    expect(value(moved).changed).toBe(1)
    const { shipment } = await packed(rig.context, "CH-10")
    const { preselected } = await offersFor(rig.db, warehouse, shipment, rig.context.now)
    expect(preselected?.service.code).toBe("MDN")
  })
})
