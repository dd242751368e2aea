import { randomUUID } from "node:crypto"
import { sayEntry } from "app/parts/story.ts"
import type { OrderId } from "core/ids/index.ts"
import { timeline } from "server/audit/index.ts"
import { joinOrders } from "server/decisions/join.ts"
import { leaveBehind, load } from "server/dock/load.ts"
import { chargedOf } from "server/packages/charged.ts"
import { type Shipment, shipmentOf } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment } from "server/packing/index.ts"
import { quoteAsked } from "server/quotes/asked.ts"
import { makeQuote, quoteByNumber } from "server/quotes/index.ts"
import { shipQuote } from "server/quotes/ship.ts"
import { saveCharging } from "server/rating/charging.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  closeDoor,
  openRig,
  orderBySource,
  pickAll,
  type Rig,
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
  await rig.db("order_source").update({ report_url: `${rig.at.orderSource}/reports` })
  await rig.db("charging_rule").delete()
  // a tenth over our cost; free for an order of 400.00 or more. A flask of yeast of the demo is worth 74.00
  value(
    await saveCharging(as(rig.context, { role: "administrator" }), {
      id: null,
      version: 0,
      name: "Tenth",
      on: true,
      body: { from: "contract", percent: "10", freeFrom: "400" },
    }),
  )
})
afterAll(() => rig?.drop())

interface Reported {
  readonly topic: string
  readonly orderNumber: string
  readonly charge: { amount: string } | null
  readonly cost?: { amount: string }
}
const reported = async (number: string) => {
  await workAll(rig.db)
  const all = (await (await fetch(`${rig.at.orderSource}/reports`)).json()) as { body: Reported }[]
  return all.map((one) => one.body).find((one) => one.orderNumber === number && one.topic === "order.gone")
}
async function sent(orderId: OrderId, shipment: Shipment) {
  await askForLabels(rig.context, orderId, shipment)
  await workAll(rig.db)
  const bought = (await shipmentOf(rig.db, orderId)) as Shipment
  const door = bought.collectionId as number
  const others = await rig
    .db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "p.collection_id": door, "p.state": "labelled" })
    .whereNot({ "h.id": bought.id })
    .pluck("p.id")
  await leaveBehind(rig.context, door, others, true)
  for (const one of bought.packages) value(await load(rig.context, door, { sscc: one.sscc as string }, randomUUID()))
  const on = await rig.db("package").where({ collection_id: door, state: "on-truck" }).count({ n: "id" })
  await closeDoor(rig.context, door, Number(on[0]?.n))
  return bought
}
const freight = async (orderId: OrderId) =>
  there(await rig.db("order_freight").where({ order_id: orderId }).first("contract_amount", "charged_amount"))
const worth = async (orderId: OrderId) => {
  const lines = await rig
    .db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where({ order_id: orderId })
    .select("l.ordered", "i.value")
  return lines.reduce((sum, line) => sum + line.ordered * Number(line.value), 0)
}

it("two orders do not go free by adding up, and each source is told what is charged, not what it cost us", async () => {
  const place = { street: "12 Sum Street", promised_on: "" }
  await takeFile(
    rig.context,
    row({ order_number: "MO-1", po_number: "M1", quantity: "4", ...place }),
    row({ order_number: "MO-2", po_number: "M2", quantity: "3", ...place }),
  )
  const [a, b] = [(await orderBySource(rig.db, "MO-1")).id, (await orderBySource(rig.db, "MO-2")).id]
  const worths = [await worth(a), await worth(b)]
  expect(worths.every((one) => one < 400)).toBe(true)
  expect((worths[0] ?? 0) + (worths[1] ?? 0)).toBeGreaterThan(400)
  value(await joinOrders(rig.context, [a, b]))
  for (const id of [a, b]) await pickAll(rig.context, id)
  value(await openShipment(rig.context, a))
  value(await addPackage(rig.context, a, "K12", true))
  await sent(a, value(await closePackages(rig.context, a)))
  const shares = [await freight(a), await freight(b)] as const
  const [cost, charged] = (["contract_amount", "charged_amount"] as const).map((name) =>
    shares.reduce((sum, one) => sum + Number(one[name]), 0),
  )
  // a tenth over what it cost, half up
  expect(charged?.toFixed(2)).toBe((Math.round((cost ?? 0) * 110 + 1e-9) / 100).toFixed(2))
  const report = await reported("MO-1")
  expect(report?.charge?.amount).toBe(Number(shares[0].charged_amount).toFixed(2))
  expect(report).not.toHaveProperty("cost")
})

it("tells the cost to a source that is set up for it", async () => {
  await rig.db("order_source").update({ report_cost: true })
  await takeFile(rig.context, row({ order_number: "MO-3", quantity: "2" }))
  const { id } = await orderBySource(rig.db, "MO-3")
  await pickAll(rig.context, id)
  value(await openShipment(rig.context, id))
  value(await addPackage(rig.context, id, "K07", true))
  await sent(id, value(await closePackages(rig.context, id)))
  const share = await freight(id)
  const report = await reported("MO-3")
  expect(report?.cost?.amount).toBe(Number(share.contract_amount).toFixed(2))
  expect(report?.charge?.amount).toBe(Number(share.charged_amount).toFixed(2))
  expect(report?.charge?.amount).not.toBe(report?.cost?.amount)
})

it("charges the quoted amount for the quoted service alone, and its story names it", async () => {
  const warehouse = await warehouseById(rig.db, 1)
  const asked = quoteAsked.parse({
    shipTo: { postalCode: "80205", state: "CO", kind: "business" },
    packages: [{ weight: "30", length: "12", width: "12", height: "12" }],
  })
  const made = value(await makeQuote(rig.context, { asked }, randomUUID()))
  const quote = await quoteByNumber(rig.db, warehouse, made.number, rig.context.now)
  const quoted = quote?.quoted.services.find((one) => one.code === "LKG")?.charged
  await takeFile(rig.context, row({ order_number: "MO-4", quantity: "2" }))
  const order = await orderBySource(rig.db, "MO-4")
  await pickAll(rig.context, order.id)
  value(await shipQuote(rig.context, quote?.id ?? 0, order.order_number, "LKG"))
  const shipment = value(await addPackage(rig.context, order.id, "K07", true))
  const rated = await offersFor(rig.db, warehouse, shipment, rig.context.now)
  const charge = (code: string) => {
    const offer = rated.offers.find((one) => one.service.code === code)
    if (!offer?.rate) throw new Error(`${code} is not rated`)
    const found = chargedOf(rated.charging, warehouse, shipment, offer.service, offer.rate)
    return [
      found.amount.amount.toFixed(2),
      found.why[0]?.code,
      offer.rate.contract.amount.mul("1.1").toDecimalPlaces(2, 4).toFixed(2),
    ]
  }
  expect(charge("LKG").slice(0, 2)).toEqual([quoted, "charged.by-hand"])
  const [amount, why, byRule] = charge("LKX")
  expect([amount, why]).toEqual([byRule, "charged.rule"])
  const story = (await timeline(rig.db, order.id)).map(sayEntry)
  expect(story).toContain(`shipped as quoted in ${made.number}: Larkspur Ground, ${quoted} USD`)
  expect(story.join(" ")).not.toContain("undefined")
})
