import { randomUUID } from "node:crypto"
import { closePool } from "server/compute/pool.ts"
import { closeCollection } from "server/dock/close.ts"
import { deliveryForm, noteDelivery } from "server/dock/delivered.ts"
import { ordersToGo } from "server/dock/doors.ts"
import { load } from "server/dock/load.ts"
import { planClosed, planRoundOf, roundSheetOf, roundStops, rounds, unplanned } from "server/dock/round.ts"
import { roundSheetPdf } from "server/pdf/roundSheet.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import { as, askForLabels, codes, openRig, type Rig, readyToBuy, row, value, workAll } from "./rig.ts"

let rig: Rig
const back = readBack()
beforeAll(async () => {
  rig = await openRig()
})
afterAll(async () => {
  back.end()
  await closePool()
  await rig?.drop()
})

/** Orders within the van's reach of Duluth, with labels: where they are by ZIP code. */
async function near(
  ...places: readonly (readonly [number: string, street: string, city: string, state: string, zip: string])[]
) {
  const packs: { id: number; sscc: string; collection: number; orderId: number }[] = []
  for (const [number, street, city, state, postal] of places) {
    const { orderId, shipment } = await readyToBuy(
      rig.context,
      number,
      row({ order_number: number, street, city, state, postal_code: postal, promised_on: "2026-12-04" }),
    )
    await askForLabels(rig.context, orderId, shipment, "VAN")
    await workAll(rig.db)
    const one = there(
      await rig.db("package").where({ shipment_id: shipment.id }).first("id", "sscc", "collection_id as collection"),
    )
    packs.push({ id: one.id, sscc: there(one.sscc), collection: there(one.collection), orderId })
  }
  return packs
}

async function leave(collection: number, packages: number) {
  const missing = (await ordersToGo(rig.db, 1, [collection])).get(collection)?.length ?? 0
  value(await closeCollection(rig.context, collection, packages, missing))
}
const on = (one: { sscc: string; collection: number }) =>
  load(rig.context, one.collection, { sscc: one.sscc }, randomUUID())
const said = (more: object) => deliveryForm.parse({ outcome: "delivered", ...more })
const states = async (collection: number) =>
  (await roundStops(rig.db, 1, collection)).flatMap((stop) => stop.orders.map((one) => one.state))

describe("a round of our own vehicle", () => {
  it("has a stop for each address in the order of the way, with a sheet to sign", async () => {
    const packs = await near(
      ["RD-1", "1 Ore Dock Road", "Two Harbors", "MN", "55616"],
      ["RD-2", "9 Tower Avenue", "Superior", "WI", "54880"],
      ["RD-3", "5 Lake Avenue", "Duluth", "MN", "55805"],
      ["RD-4", "9 Tower Avenue", "Superior", "WI", "54880"],
    )
    const door = there(packs[0]).collection
    expect(new Set(packs.map((one) => one.collection)).size).toBe(1)
    for (const one of packs) value(await on(one))
    expect(await unplanned(rig.db, door)).toBe(4)
    expect(value(await planRoundOf(rig.context, door)).stops).toBe(3)
    expect(await unplanned(rig.db, door)).toBe(0)
    const stops = await roundStops(rig.db, 1, door)
    // Superior lies across the bay, Two Harbors up the shore: there and back passes the city once
    expect(stops.map((one) => one.orders.length).sort()).toEqual([1, 1, 2])
    expect(stops.find((one) => one.receiver && one.place.startsWith("Superior"))?.orders).toHaveLength(2)
    const sheet = there(await roundSheetOf(rig.db, 1, door))
    const text = back.words(await roundSheetPdf(sheet, rig.context.now))
    for (const word of [
      "Delivery sheet",
      "1 Ore Dock Road",
      "9 Tower Avenue",
      "5 Lake Avenue",
      ...sheet.stops.flatMap((one) => one.packages),
    ])
      expect(text).toContain(word)
    expect(await roundSheetOf(rig.db, 2, door)).toBeNull()
    // nothing is delivered while the van is here
    expect(codes(await noteDelivery(rig.context, door, [there(packs[0]).orderId], said({})))).toEqual([
      "round.still-here",
    ])
    await leave(door, 4)
    await planClosed(rig.context, door)

    // one by one, in bulk, or not at all with why
    const [one, two, three, four] = packs.map((pack) => pack.orderId)
    expect(codes(await noteDelivery(rig.context, door, [], said({})))).toEqual(["round.choose"])
    expect(codes(await noteDelivery(rig.context, door, [there(one)], said({ outcome: "not-delivered" })))).toEqual([
      "round.no-reason",
    ])
    expect(codes(await noteDelivery(rig.context, door, [there(one)], said({ signature: "[[[1,1],[2,2]]]" })))).toEqual([
      "driver.touch",
    ])
    const strokes = JSON.stringify([
      [
        [10, 10],
        [200, 120],
        [420, 20],
      ],
    ])
    value(await noteDelivery(rig.context, door, [there(one)], said({ name: "Ida Brook", signature: strokes })))
    value(await noteDelivery(rig.context, door, [there(three)], said({ outcome: "not-delivered", reason: "closed" })))
    expect(value(await noteDelivery(rig.context, door, [there(two), there(four)], said({})))).toEqual({ orders: 2 })
    value(await noteDelivery(rig.context, door, [there(two), there(four)], said({})))
    expect((await states(door)).sort()).toEqual(["delivered", "delivered", "delivered", "not-delivered"])
    const story = await rig.db("audit").where("action", "like", "round.%").whereNotNull("order_id").pluck("action")
    expect(story.sort()).toEqual(["round.delivered", "round.delivered", "round.delivered", "round.not-delivered"])
    const ida = (await roundStops(rig.db, 1, door)).flatMap((stop) => stop.orders).find((order) => order.id === one)
    expect(ida).toMatchObject({
      name: "Ida Brook",
      strokes: [
        [
          [10, 10],
          [200, 120],
          [420, 20],
        ],
      ],
    })
    // what was delivered is measured, as other carriers' deliveries are
    expect(
      await rig.db("delivery").whereIn(
        "tracking",
        rig
          .db("package")
          .whereIn(
            "id",
            packs.map((p) => p.id),
          )
          .select("tracking"),
      ),
    ).toHaveLength(3)
    expect((await rounds(rig.db, 1))[0]).toMatchObject({ stops: 3, delivered: 3, notDelivered: 1, planned: 0 })
  })

  it("takes along what nobody took before, once, until it is delivered", async () => {
    const before = there((await rounds(rig.db, 1))[0]).collectionId
    const left = (await roundStops(rig.db, 1, before))
      .flatMap((stop) => stop.orders)
      .find((one) => one.state === "not-delivered")
    const later = { ...rig.context, now: new Date("2026-11-25T22:00:00Z") }
    const [pack] = await near(["RD-5", "2 Harbor Road", "Two Harbors", "MN", "55616"])
    const door = there(pack).collection
    expect(door).not.toBe(before)
    value(await on(there(pack)))
    expect(value(await planRoundOf(later, door)).stops).toBe(2)
    expect((await roundStops(rig.db, 1, door)).flatMap((stop) => stop.orders.map((one) => one.id)).sort()).toEqual(
      [there(left).id, there(pack).orderId].sort(),
    )
    await leave(door, 1)
    value(await noteDelivery(later, door, [there(left).id, there(pack).orderId], said({})))
    expect(await states(door)).toEqual(["delivered", "delivered"])
    // planned again, what was told stays
    value(await planRoundOf(later, door))
    expect(await states(door)).toEqual(["delivered", "delivered"])
  })

  it("is no other carrier's, and no other warehouse's", async () => {
    const other = there(
      await rig
        .db("collection as c")
        .join("carrier as k", "k.id", "c.carrier_id")
        .where({ "k.code": "MERI", "c.warehouse_id": 1 })
        .first("c.id"),
    )
    expect(codes(await planRoundOf(rig.context, other.id))).toEqual(["round.not-own"])
    const { collectionId } = there((await rounds(rig.db, 1))[0])
    expect(codes(await planRoundOf(as(rig.context, { warehouseId: 2 }), collectionId))).toEqual([
      "dock.no-such-collection",
    ])
    expect(codes(await noteDelivery(as(rig.context, { warehouseId: 2 }), collectionId, [1], said({})))).toEqual([
      "dock.no-such-collection",
    ])
    expect(codes(await noteDelivery(rig.context, collectionId, [999_999], said({})))).toEqual(["round.not-on-it"])
    await expect(planRoundOf(as(rig.context, { role: "sales" }), collectionId)).rejects.toThrow(
      "not allowed: dock.work",
    )
  })
})
