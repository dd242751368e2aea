import { randomUUID } from "node:crypto"
import { Decimal } from "decimal.js"
import { askSchema, book } from "server/dock/bookings.ts"
import { closeCollection } from "server/dock/close.ts"
import { doorsAtWork } from "server/dock/doors.ts"
import { choosePlace, placesFor } from "server/dock/dropOff.ts"
import { load } from "server/dock/load.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment } from "server/packing/index.ts"
import { ensureDropOffs } from "server/rating/dropOffs.ts"
import { collectionById, collectionsOn, openCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { askFor } from "server/shipping/wishes.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  carrierAt,
  codes,
  ledger,
  openRig,
  orderBySource,
  pickAll,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const warehouse = () => warehouseById(rig.db, 1)
const offer = async (orderId: number, code: string) => {
  const shipment = there(await shipmentOf(rig.db, orderId))
  const { offers } = await offersFor(rig.db, await warehouse(), shipment, rig.context.now)
  return there(offers.find((one) => one.service.code === code))
}

describe("packages that are brought to the carrier", () => {
  it("have a departure for each day on which a place of his is open, at the nearest; made once", async () => {
    const house = await warehouse()
    const made = await ensureDropOffs(rig.db, house, rig.context.now)
    expect(await ensureDropOffs(rig.db, house, rig.context.now)).toBe(0)
    const all = (await openCollections(rig.db, 1, rig.context.now)).filter((one) => one.dropOff)
    expect(all).toHaveLength(made)
    const own = all.filter((one) => one.carrierCode === "LARK")
    expect(new Set(all.map((one) => `${one.carrierCode} ${one.door}`))).toEqual(new Set(["LARK D1", "HEAR D2"]))
    // Tuesday to Tuesday without Thanksgiving and the weekend: 24, 25, 27, 30, 1
    expect(own.map((one) => one.onDate)).toEqual(["2026-11-24", "2026-11-25", "2026-11-27", "2026-11-30", "2026-12-01"])
    // 55802 is the warehouse's own postal code: no way, a quarter of an hour before half past six
    expect(own[0]).toMatchObject({ door: "D1", carrierCode: "LARK", dropOff: { code: "DLH1", km: 0 } })
    expect(there(own[0]).cutOff.toISOString()).toBe("2026-11-25T00:15:00.000Z")
    expect(there(own[0]).services).toEqual(["LKG"])
    // no day shows it, and no order is planned with it
    expect((await collectionsOn(rig.db, 1, "2026-11-24")).filter((one) => one.dropOff)).toEqual([])
  })

  it("cost less where the tariff says so, as the carrier bills it; they are loaded and closed as others are", async () => {
    const { db, context } = rig
    await takeFile(context, row({ order_number: "DROP-1", address_kind: "residential", quantity: "1" }))
    const { id: orderId } = await orderBySource(db, "DROP-1")
    await pickAll(context, orderId)
    value(await openShipment(context, orderId))
    value(await addPackage(context, orderId, "K02", true))
    value(await closePackages(context, orderId))
    const before = await offer(orderId, "HWP")
    expect(before.refusals).toEqual([])
    expect(before.collection?.dropOff).toBeNull()
    value(await askFor(context, orderId, { options: ["drop-off"] }, randomUUID()))
    const after = await offer(orderId, "HWP")
    expect(after.collection?.door).toBe("D2")
    // 0.95 for fetching it is not charged, nor fuel on that
    expect(new Decimal(there(before.rate).contract.amount).sub(there(after.rate).contract.amount).toFixed(2)).toBe(
      "0.95",
    )
    expect([before, after].map((one) => one.rate?.charges.some(({ code }) => code === "collection"))).toEqual([
      true,
      false,
    ])
    expect((await offer(orderId, "LKX")).refusals.map((one) => one.code)).toContain("rate.option")
    const shipment = there(await shipmentOf(db, orderId))
    const { amount } = await askForLabels(context, orderId, shipment, "HWP")
    await workAll(db)
    const bought = there(await shipmentOf(db, orderId))
    expect(bought.state).toBe("bought")
    const [entry] = (await ledger(carrierAt(rig, "HEAR"))).filter((one) => one.reference === bought.orderNumber)
    expect(entry).toMatchObject({ state: "booked" })
    expect(Number(bought.contract)).toBe(Number(amount))
    const door = there(bought.collectionId)
    const { doors } = await doorsAtWork(context, "America/Chicago")
    expect(doors.find((one) => one.collection.id === door)?.counts.labelled).toBe(1)
    value(await load(context, door, { sscc: there(bought.packages[0]?.sscc) }, randomUUID()))
    const { numbers } = value(await closeCollection(context, door, 1))
    // 13 km at 50 km/h are 16 minutes, and a quarter of an hour besides: 20:29 for a place that is open until nine
    expect(numbers).toEqual(["DLH-261124-D2-2029"])
    expect(codes(await choosePlace(context, door, "SUP1"))).toEqual(["drop.left"])
  })

  it("stay where they are when a truck of the carrier is booked for all that is ready", async () => {
    const { db, context } = rig
    const { orderId } = await readyToBuy(context, "DROP-2")
    value(await askFor(context, orderId, { options: ["drop-off"] }, randomUUID()))
    await askForLabels(context, orderId, there(await shipmentOf(db, orderId)), "LKG")
    await workAll(db)
    const { packages, collectionId } = there(await shipmentOf(db, orderId))
    const ask = askSchema.parse({
      door: "12",
      day: "2026-11-24",
      ready: "12:00",
      latest: "16:00",
      pieces: 1,
      weight: "20",
      contact: "Maren Holt",
    })
    value(await book(context, { carrier: "LARK", collectionId: null, orderId: null, fee: "12.50", ask }, "all ready"))
    await workAll(db)
    expect(await db("booked_collection").pluck("state")).toEqual(["booked"])
    expect(
      await db("package")
        .where({ id: there(packages[0]).id })
        .pluck("collection_id"),
    ).toEqual([collectionId])
  })

  it("go to another place where somebody chooses it, from then on", async () => {
    const { db, context } = rig
    const next = there(
      (await openCollections(db, 1, context.now)).find((one) => one.dropOff && one.carrierCode === "LARK"),
    )
    const places = await placesFor(db, await warehouse(), next)
    // Reno is the carrier's as well, and nobody drives there from Duluth
    expect(places.map((one) => one.code)).toEqual(["DLH1", "SUP1", "DLH2"])
    const far = places.map((one) => there(one.km))
    expect(far).toEqual([...far].sort((a, b) => a - b))
    expect(codes(await choosePlace(context, next.id, "NOPE"))).toEqual(["drop.no-place"])
    expect(codes(await choosePlace(as(context, { warehouseId: 2 }), next.id, "SUP1"))).toEqual([
      "dock.no-such-collection",
    ])
    await expect(choosePlace(as(context, { role: "sales" }), next.id, "SUP1")).rejects.toThrow("not allowed: dock.work")
    value(await choosePlace(context, next.id, "DLH2"))
    value(await choosePlace(context, next.id, "DLH2"))
    const moved = there(await collectionById(db, 1, next.id))
    expect(moved.dropOff).toMatchObject({ code: "DLH2" })
    // it is open until eight; the way is driven at 50 km/h, and a quarter of an hour besides
    const minutes = Math.ceil((there(moved.dropOff?.km) / 50) * 60) + 15
    expect(moved.cutOff.getTime()).toBe(new Date(`${next.onDate}T20:00:00-06:00`).getTime() - minutes * 60_000)
    await db("collection")
      .where({ on_date: "2026-12-01", carrier_id: next.carrierId })
      .whereNotNull("drop_off")
      .delete()
    expect(await ensureDropOffs(db, await warehouse(), context.now)).toBe(1)
    const late = (await openCollections(db, 1, context.now))
      .filter((one) => one.dropOff && one.carrierCode === "LARK")
      .at(-1)
    expect(late?.dropOff?.code).toBe("DLH2")
  })
})
