import { randomUUID } from "node:crypto"
import type { LineId, OrderId } from "core/ids/index.ts"
import { mass } from "core/units/index.ts"
import { flawKey, type Shipment } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment, putSeveral, weigh } from "server/packing/index.ts"
import { overrideFlaw } from "server/packing/rearrange.ts"
import { recount } from "server/packing/recount.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import {
  as,
  askForLabels,
  codes,
  openRig,
  orderBySource,
  pickAll,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  value,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

/** Four bricks of 1.15 lb in a carton of 2.4 lb: 7 lb. */
async function opened(number: string): Promise<{ orderId: OrderId; lineId: LineId }> {
  await takeFile(rig.context, row({ order_number: number }))
  const { id } = await orderBySource(rig.db, number)
  await pickAll(rig.context, id)
  value(await openShipment(rig.context, id))
  const shipment = value(await addPackage(rig.context, id, "K12", true))
  return { orderId: id, lineId: shipment.lines[0]?.id ?? 0 }
}
const flaws = (shipment: Shipment) => shipment.packages[0]?.flaws.map((one) => one.code)
const count = (orderId: OrderId, lineId: LineId, quantity: number, key = randomUUID()) =>
  recount(rig.context, orderId, 1, new Map([[lineId, quantity]]), key)

describe("a carton that weighs a piece less than its contents", () => {
  it("is not closed before it was counted; counted as packed it is, and the count is kept", async () => {
    const { orderId, lineId } = await opened("RC-1")
    value(await weigh(rig.context, orderId, 1, mass("5.85", "lb")))
    expect(codes(await closePackages(rig.context, orderId))).toEqual(["flaw.weight-fewer"])
    const key = randomUUID()
    const after = value(await count(orderId, lineId, 4, key))
    value(await count(orderId, lineId, 4, key))
    expect(flaws(after)).toEqual([])
    expect(after.packages[0]?.overridden).toMatchObject([{ counted: "4 a", actor: rig.context.actor.name }])
    const told = await rig.db("audit").where({ order_id: orderId, action: "pack.counted" })
    expect(told).toHaveLength(1)
    value(await closePackages(rig.context, orderId))
    // another weight is another doubt
    expect(flaws(value(await weigh(rig.context, orderId, 1, mass("4.7", "lb"))))).toEqual(["flaw.weight-fewer"])
  })

  it("holds what was counted where that is another figure, and the piece is to be packed again", async () => {
    const { orderId, lineId } = await opened("RC-2")
    value(await weigh(rig.context, orderId, 1, mass("5.85", "lb")))
    const after = value(await count(orderId, lineId, 3))
    expect(flaws(after)).toEqual([])
    expect(after.packages[0]?.contents[0]?.quantity).toBe(3)
    expect(after.lines[0]).toMatchObject({ picked: 4, packed: 3 })
    expect(codes(await closePackages(rig.context, orderId))).toEqual(["pack.line-open"])
    expect(codes(await count(orderId, lineId, 5))).toEqual(["pack.counted-more"])
  })

  it("is not bought when it was weighed after it was closed, and is opened by a count that says otherwise", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "RC-3")
    const off = value(await weigh(rig.context, orderId, 1, mass("5.85", "lb")))
    expect(off.packages[0]?.state).toBe("closed")
    await expect(askForLabels(rig.context, orderId, off)).rejects.toThrow("flaw.weight-fewer")
    const after = value(await count(orderId, shipment.lines[0]?.id ?? 0, 3))
    expect(after.packages[0]).toMatchObject({ state: "open" })
  })

  it("passes with the lead's reason, which is kept", async () => {
    const { orderId } = await opened("RC-4")
    const off = value(await weigh(rig.context, orderId, 1, mass("5.85", "lb")))
    const key = flawKey(off.packages[0]?.flaws[0] as never)
    expect(codes(await overrideFlaw(rig.context, orderId, 1, key, "lighter lot"))).toEqual(["pack.lead-overrides"])
    const lead = as(rig.context, { role: "lead" })
    expect(codes(await overrideFlaw(lead, orderId, 1, key, " "))).toEqual(["pack.override-why"])
    value(await overrideFlaw(lead, orderId, 1, key, "lighter lot"))
    value(await closePackages(rig.context, orderId))
  })
})

it("several lines are put into several cartons at once, or none of them", async () => {
  await takeFile(
    rig.context,
    row({ order_number: "RC-5" }),
    row({ order_number: "RC-5", sku: "BUN-10", quantity: "2" }),
  )
  const { id } = await orderBySource(rig.db, "RC-5")
  await pickAll(rig.context, id)
  value(await openShipment(rig.context, id))
  value(await addPackage(rig.context, id, "K07"))
  const shipment = value(await addPackage(rig.context, id, "K09"))
  const [a, b] = shipment.lines.map((line) => line.id) as [number, number]
  const puts = [
    { package: 1, lineId: a, quantity: 3 },
    { package: 2, lineId: a, quantity: 1 },
    { package: 2, lineId: b, quantity: 2 },
  ]
  expect(
    codes(await putSeveral(rig.context, id, [...puts, { package: 1, lineId: b, quantity: 1 }], randomUUID())),
  ).toEqual(["pack.too-many"])
  expect(value(await openShipment(rig.context, id)).packages.map((one) => one.contents.length)).toEqual([0, 0])
  const key = randomUUID()
  value(await putSeveral(rig.context, id, puts, key))
  const after = value(await putSeveral(rig.context, id, puts, key))
  expect(after.packages.map((one) => one.contents.map((content) => content.quantity))).toEqual([[3], [1, 2]])
})
