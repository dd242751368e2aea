import type { OrderId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import { parsed } from "server/audit/index.ts"
import { chooseCollection } from "server/decisions/choose.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { setShipDate } from "server/plan/shipDate.ts"
import { openCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { duluth } from "../../demo/setup.ts"
import { there } from "../../server/db/there.ts"
import { askForLabels, codes, openRig, type Rig, readyToBuy, row, value, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const rated = async (orderId: OrderId) => {
  const shipment = await shipmentOf(rig.db, orderId)
  if (!shipment) throw new Error("no shipment")
  const warehouse = await warehouseById(rig.db, duluth)
  return { shipment, offers: (await offersFor(rig.db, warehouse, shipment, rig.context.now)).offers }
}

it("buys for the day that the order was asked to leave: rate, label, door and manifest", async () => {
  // the bench's today is Tuesday 24 November 2026
  const { orderId, shipment } = await readyToBuy(rig.context, "SD-1", row({ order_number: "SD-1", promised_on: "" }))
  await rig.db("sales_order").where({ id: orderId }).update({ ship_on: "2026-12-01" })
  const { offers } = await rated(orderId)
  expect(offers.filter((one) => one.rate).every((one) => (one.collection?.onDate ?? "") >= "2026-12-01")).toBe(true)
  const { intentId } = await askForLabels(rig.context, orderId, shipment)
  const intent = there(await rig.db("buy_intent").where({ id: intentId }).first())
  expect(parsed<{ shipDate: string }>(intent.request).shipDate).toBe("2026-12-01")
  await workAll(rig.db)
  const after = await rig
    .db("shipment as h")
    .join("collection as c", "c.id", "h.collection_id")
    .where({ "h.order_id": orderId })
    .first("h.ship_date", "c.on_date", "h.collection_id", "h.arrives_on")
  expect(after).toMatchObject({ ship_date: "2026-12-01", on_date: "2026-12-01" })
  expect(after.arrives_on > "2026-12-01").toBe(true)
  const pieces = await rig.db("package").where({ collection_id: after.collection_id })
  expect(pieces.some((one) => one.shipment_id === shipment.id)).toBe(true)
  const order = there(await rig.db("sales_order").where({ id: orderId }).first("collection_id"))
  expect(order.collection_id).toBe(after.collection_id)
})

it("takes a ship date that is set at the bench, and what was rated before is old", async () => {
  const { orderId } = await readyToBuy(rig.context, "SD-2", row({ order_number: "SD-2", promised_on: "" }))
  const before = await rated(orderId)
  const seen = before.offers.find((one) => one.service.code === "LKG")
  if (!seen?.rate) throw new Error("not rated")
  expect(seen.collection?.onDate).toBe("2026-11-24")
  value(await setShipDate(rig.context, orderId, "2026-11-27"))
  const purchase = (version: number) => ({
    version,
    serviceCode: "LKG",
    expected: { ...moneyText(seen.rate?.contract as never), leaves: "2026-11-24" },
  })
  expect(codes(await buy(rig.context, orderId, purchase(before.shipment.version)))).toEqual(["order.changed-meanwhile"])
  const after = await rated(orderId)
  // the same price for another day is not the same offer
  expect(codes(await buy(rig.context, orderId, purchase(after.shipment.version)))).toEqual(["buy.truck-changed"])
  expect(after.offers.find((one) => one.service.code === "LKG")?.collection?.onDate).toBe("2026-11-27")
  // said once more, nothing changes
  const { shipment } = await rated(orderId)
  value(await setShipDate(rig.context, orderId, "2026-11-27"))
  expect((await rated(orderId)).shipment.version).toBe(shipment.version)
  value(await setShipDate(rig.context, orderId, null))
  expect((await rated(orderId)).offers.find((one) => one.service.code === "LKG")?.collection?.onDate).toBe("2026-11-24")
})

it("refuses a day without a truck and one more than ten business days ahead", async () => {
  const { orderId, shipment } = await readyToBuy(rig.context, "SD-3", row({ order_number: "SD-3", promised_on: "" }))
  expect(codes(await setShipDate(rig.context, orderId, "2026-11-29"))).toEqual(["ship-date.no-truck"]) // a Sunday
  expect(codes(await setShipDate(rig.context, orderId, "2026-11-23"))).toEqual(["ship-date.no-truck"])
  // ten weekdays after Tuesday 24 November is Tuesday 8 December
  expect(codes(await setShipDate(rig.context, orderId, "2026-12-09"))).toEqual(["ship-date.too-far"])
  value(await setShipDate(rig.context, orderId, "2026-12-08"))
  value(await setShipDate(rig.context, orderId, null))
  await askForLabels(rig.context, orderId, (await shipmentOf(rig.db, orderId)) ?? shipment)
  expect(codes(await setShipDate(rig.context, orderId, "2026-11-27"))).toEqual(["order.labels-asked-for"])
})

it("leaves with the truck that a person chose, and not with an earlier one of its service", async () => {
  const { orderId } = await readyToBuy(rig.context, "SD-4", row({ order_number: "SD-4", promised_on: "" }))
  const open = await openCollections(rig.db, duluth, rig.context.now)
  const later = open.filter((one) => one.services.includes("LKG") && one.onDate === "2026-11-30").at(-1)
  if (!later) throw new Error("no truck")
  value(
    await rig.db.transaction((trx) =>
      chooseCollection(trx, rig.context, orderId, { collection: later.id, service: null }),
    ),
  )
  const { offers } = await rated(orderId)
  expect(offers.find((one) => one.service.code === "LKG")?.collection?.id).toBe(later.id)
  expect(offers.filter((one) => one.rate).every((one) => (one.collection?.onDate ?? "") >= "2026-11-30")).toBe(true)
})
