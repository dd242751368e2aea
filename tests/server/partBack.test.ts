import { resolveScan } from "app/shell/scan.server.ts"
import { shipWhatIsPacked } from "server/decisions/apart.ts"
import { makeWhole } from "server/decisions/reroute.ts"
import { partsOf } from "server/orders/parts.ts"
import { sendOutside } from "server/outside/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment, putIn } from "server/packing/index.ts"
import { pickStops } from "server/picking/index.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  askForLabels,
  codes,
  openRig,
  orderBySource,
  pickAll,
  type Rig,
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

/** An order of 4 and 6, the 4 and 2 of the 6 packed; the other 4 go into a part. */
async function inTwo(number: string) {
  await takeFile(
    rig.context,
    row({ order_number: number, quantity: "4" }),
    row({ order_number: number, sku: "BUN-10", quantity: "6" }),
  )
  const { id } = await orderBySource(rig.db, number)
  await pickAll(rig.context, id)
  value(await openShipment(rig.context, id))
  const shipment = value(await addPackage(rig.context, id, "K12"))
  const put = (index: number, quantity: number) =>
    putIn(rig.context, id, {
      package: 1,
      lineId: shipment.lines[index]?.id ?? 0,
      quantity,
      scanned: true,
      scanId: crypto.randomUUID(),
    })
  value(await put(0, 4))
  value(await put(1, 2))
  const part = value(await shipWhatIsPacked(rig.context, id))
  const { id: partId } = there(await rig.db("sales_order").where({ order_number: part.orderNumber }).first("id"))
  return { id: id as number, partId: partId as number, part: part.orderNumber }
}
const quantities = async (id: number) =>
  (await shipmentOf(rig.db, id))?.lines.map((line) => [line.sku, line.ordered, line.picked, line.packed])
const whole = [
  ["YST-ALE-500", 4, 4, 4],
  ["BUN-10", 6, 6, 2],
]

describe("what was packed and shipped by itself", () => {
  it("is taken back with what is picked of the rest, from either part, once", async () => {
    for (const [number, from] of [
      ["PB-1", "id"],
      ["PB-2", "partId"],
    ] as const) {
      const two = await inTwo(number)
      expect(await quantities(two.id)).toEqual([
        ["YST-ALE-500", 4, 4, 4],
        ["BUN-10", 2, 2, 2],
      ])
      const { order_number: lead } = await orderBySource(rig.db, number)
      expect(value(await makeWhole(rig.context, two[from])).orderNumber).toBe(lead)
      expect(value(await makeWhole(rig.context, two.id)).orderNumber).toBe(lead)
      expect(await quantities(two.id)).toEqual(whole)
      expect(await partsOf(rig.db, two.id)).toEqual([])
      // its bins know of one stop for each place again
      const stops = await pickStops(rig.db, two.id)
      expect(stops.reduce((sum, stop) => sum + stop.picked, 0)).toBe(10)
      expect(new Set(stops.map((stop) => `${stop.line} ${stop.stockId}`)).size).toBe(stops.length)
    }
    expect(await reconcileStock(rig.db)).toEqual([])
  })

  it("is taken back with the packages of both, which are open and named by the whole", async () => {
    const two = await inTwo("PB-3")
    value(await closePackages(rig.context, two.id))
    value(await openShipment(rig.context, two.partId))
    value(await addPackage(rig.context, two.partId, "K07", true))
    value(await closePackages(rig.context, two.partId))
    value(await makeWhole(rig.context, two.partId))
    const after = await shipmentOf(rig.db, two.id)
    expect(
      after?.packages.map((one) => [one.number, one.state, one.contents.map((content) => content.quantity)]),
    ).toEqual([
      [1, "open", [4, 2]],
      [2, "open", [4]],
    ])
    const closed = value(await closePackages(rig.context, two.id))
    await askForLabels(rig.context, two.id, closed)
    await workAll(rig.db)
    expect((await shipmentOf(rig.db, two.id))?.state).toBe("bought")
    expect(await reconcileStock(rig.db)).toEqual([])
  })

  it("stays in two once one of them has labels, and says which", async () => {
    const first = await inTwo("PB-4")
    await askForLabels(rig.context, first.id, value(await closePackages(rig.context, first.id)))
    await workAll(rig.db)
    expect(codes(await makeWhole(rig.context, first.partId))).toEqual(["order.void-first"])
    const second = await inTwo("PB-5")
    value(await openShipment(rig.context, second.partId))
    value(await addPackage(rig.context, second.partId, "K07", true))
    await askForLabels(rig.context, second.partId, value(await closePackages(rig.context, second.partId)))
    await workAll(rig.db)
    const answer = await makeWhole(rig.context, second.id)
    expect(answer).toMatchObject({
      reasons: [{ code: "split.part-labelled", values: { order: second.part, warehouse: "Duluth" } }],
    })
  })
})

it("an order with an outside warehouse is no work of ours: its number opens its page, and nothing offers to pack it", async () => {
  await takeFile(rig.context, row({ order_number: "PB-6" }))
  const { id, order_number: number } = await orderBySource(rig.db, "PB-6")
  const [outside] = await rig.db("outside_warehouse").where({ active: true }).pluck("id")
  value(await sendOutside(rig.context, id, outside as number))
  const work = await workOf(rig.context)
  expect((await resolveScan(work, number)).to).toBe(`/orders/${number}`)
})
