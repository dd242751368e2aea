import { randomUUID } from "node:crypto"
import { told } from "app/screens/story.ts"
import { timeline } from "server/audit/index.ts"
import { leaveBehind, load } from "server/dock/index.ts"
import { joinOrders } from "server/orders/join.ts"
import { addPackage, closePackages, openShipment } from "server/packing/index.ts"
import { type Shipment, shipmentOf } from "server/packing/shipment.ts"
import { quoteAsked } from "server/quotes/asked.ts"
import { makeQuote, quoteByNumber } from "server/quotes/index.ts"
import { shipQuote } from "server/quotes/ship.ts"
import { saveCharging } from "server/rating/charging.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { chargedOf } from "server/shipping/charged.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import {
  as,
  askForLabels,
  type Bench,
  closeDoor,
  openBench,
  orderBySource,
  pickAll,
  row,
  takeFile,
  value,
  workAll,
} from "./bench.ts"

let bench: Bench
beforeAll(async () => {
  bench = await openBench()
  await bench.db("order_source").update({ report_url: `${bench.at.orderSource}/reports` })
  await bench.db("charging_rule").delete()
  // a tenth over our cost; free for an order of 400.00 or more. A flask of yeast of the demo is worth 74.00
  value(
    await saveCharging(as(bench.context, { role: "administrator" }), {
      id: null,
      version: 0,
      name: "Tenth",
      on: true,
      body: { from: "contract", percent: "10", freeFrom: "400" },
    }),
  )
})
afterAll(() => bench.drop())

interface Reported {
  readonly topic: string
  readonly orderNumber: string
  readonly charge: { amount: string } | null
  readonly cost?: { amount: string }
}
const reported = async (number: string) => {
  await workAll(bench.db)
  const all = (await (await fetch(`${bench.at.orderSource}/reports`)).json()) as { body: Reported }[]
  return all.map((one) => one.body).find((one) => one.orderNumber === number && one.topic === "order.gone")
}
async function sent(orderId: number, shipment: Shipment) {
  await askForLabels(bench.context, orderId, shipment)
  await workAll(bench.db)
  const bought = (await shipmentOf(bench.db, orderId)) as Shipment
  const door = bought.collectionId as number
  const others = await bench
    .db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "p.collection_id": door, "p.state": "labelled" })
    .whereNot({ "h.id": bought.id })
    .pluck("p.id")
  await leaveBehind(bench.context, door, others, true)
  for (const one of bought.packages) value(await load(bench.context, door, { sscc: one.sscc as string }, randomUUID()))
  const on = await bench.db("package").where({ collection_id: door, state: "on-truck" }).count({ n: "id" })
  await closeDoor(bench.context, door, Number(on[0]?.n))
  return bought
}
const freight = (orderId: number) =>
  bench.db("order_freight").where({ order_id: orderId }).first("contract_amount", "charged_amount")
const worth = async (orderId: number) => {
  const lines = await bench
    .db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where({ order_id: orderId })
    .select("l.ordered", "i.value")
  return lines.reduce((sum, line) => sum + line.ordered * Number(line.value), 0)
}

it("two orders do not go free by adding up, and each source is told what is charged, not what it cost us", async () => {
  const place = { street: "12 Sum Street", promised_on: "" }
  await takeFile(
    bench.context,
    row({ order_number: "MO-1", po_number: "M1", quantity: "4", ...place }),
    row({ order_number: "MO-2", po_number: "M2", quantity: "3", ...place }),
  )
  const [a, b] = [(await orderBySource(bench.db, "MO-1")).id, (await orderBySource(bench.db, "MO-2")).id]
  const worths = [await worth(a), await worth(b)]
  expect(worths.every((one) => one < 400)).toBe(true)
  expect((worths[0] ?? 0) + (worths[1] ?? 0)).toBeGreaterThan(400)
  value(await joinOrders(bench.context, [a, b]))
  for (const id of [a, b]) await pickAll(bench.context, id)
  value(await openShipment(bench.context, a))
  value(await addPackage(bench.context, a, "K12", true))
  await sent(a, value(await closePackages(bench.context, a)))
  const shares = [await freight(a), await freight(b)]
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
  await bench.db("order_source").update({ report_cost: true })
  await takeFile(bench.context, row({ order_number: "MO-3", quantity: "2" }))
  const { id } = await orderBySource(bench.db, "MO-3")
  await pickAll(bench.context, id)
  value(await openShipment(bench.context, id))
  value(await addPackage(bench.context, id, "K07", true))
  await sent(id, value(await closePackages(bench.context, id)))
  const share = await freight(id)
  const report = await reported("MO-3")
  expect(report?.cost?.amount).toBe(Number(share.contract_amount).toFixed(2))
  expect(report?.charge?.amount).toBe(Number(share.charged_amount).toFixed(2))
  expect(report?.charge?.amount).not.toBe(report?.cost?.amount)
})

it("charges the quoted amount for the quoted service alone, and its story names it", async () => {
  const warehouse = await warehouseById(bench.db, 1)
  const asked = quoteAsked.parse({
    shipTo: { postalCode: "80205", state: "CO", kind: "business" },
    packages: [{ weight: "30", length: "12", width: "12", height: "12" }],
  })
  const made = value(await makeQuote(bench.context, { asked }, randomUUID()))
  const quote = await quoteByNumber(bench.db, warehouse, made.number, bench.context.now)
  const quoted = quote?.quoted.services.find((one) => one.code === "LKG")?.charged
  await takeFile(bench.context, row({ order_number: "MO-4", quantity: "2" }))
  const order = await orderBySource(bench.db, "MO-4")
  await pickAll(bench.context, order.id)
  value(await shipQuote(bench.context, quote?.id ?? 0, order.bench_number, "LKG"))
  const shipment = value(await addPackage(bench.context, order.id, "K07", true))
  const rated = await offersFor(bench.db, warehouse, shipment, bench.context.now)
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
  const story = (await timeline(bench.db, order.id)).map(told)
  expect(story).toContain(`shipped as quoted in ${made.number}: Larkspur Ground, ${quoted} USD`)
  expect(story.join(" ")).not.toContain("undefined")
})
