import { randomUUID } from "node:crypto"
import { load } from "server/dock/load.ts"
import { inBuilding, placesInUse, putAt } from "server/dock/staging.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { as, askForLabels, codes, openRig, type Rig, readyToBuy, value, workAll } from "./rig.ts"

let rig: Rig
const packs: { sscc: string; number: number; orderNumber: string; collection: number; tracking: string }[] = []
beforeAll(async () => {
  rig = await openRig()
  for (const [number, service] of [
    ["ST-1", "MDN"],
    ["ST-2", "LKG"],
  ] as const) {
    const { orderId, shipment } = await readyToBuy(rig.context, number)
    await askForLabels(rig.context, orderId, shipment, service)
    await workAll(rig.db)
    const row = await rig
      .db("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .where("h.order_id", orderId)
      .first("p.sscc", "p.number", "p.collection_id", "p.tracking")
    packs.push({ ...row, collection: row.collection_id, orderNumber: shipment.orderNumber })
  }
})
afterAll(() => rig?.drop())

it("a package is put into a lane or at its own door; another's door is refused by the right one", async () => {
  const [first, second] = packs as [(typeof packs)[0], (typeof packs)[0]]
  value(await putAt(rig.context, { sscc: first.sscc }, { kind: "lane", name: "B2" }))
  value(await putAt(rig.context, { sscc: first.sscc }, { kind: "lane", name: "B2" }))
  value(await putAt(rig.context, { sscc: first.sscc }, { kind: "door", name: "6" }))
  const wrong = await putAt(rig.context, { sscc: second.sscc }, { kind: "door", name: "6" })
  // the ground service leaves from door 2 at half past nine
  expect(wrong).toMatchObject({
    ok: false,
    reasons: [{ code: "staging.other-door", values: { door: "2", here: "6" } }],
  })
  value(await putAt(rig.context, { orderNumber: second.orderNumber, number: 1 }, { kind: "lane", name: "1" }))
  expect(codes(await putAt(rig.context, { sscc: "095212340000999993" }, { kind: "lane", name: "1" }))).toEqual([
    "dock.no-such-package",
  ])
  const stranger = as(rig.context, { warehouseId: 2 })
  expect(codes(await putAt(stranger, { sscc: first.sscc }, { kind: "lane", name: "1" }))).toEqual([
    "dock.no-such-package",
  ])
  await expect(
    putAt(as(rig.context, { role: "sales" }), { sscc: first.sscc }, { kind: "lane", name: "1" }),
  ).rejects.toThrow()
  expect(await placesInUse(rig.db, 1)).toEqual([
    { where: { place: "door", door: "6" }, packages: 1 },
    { where: { place: "lane", door: "1" }, packages: 1 },
  ])
})

it("what is in the building is found by any of its codes, with where it is and which truck it misses", async () => {
  const [first, second] = packs as [(typeof packs)[0], (typeof packs)[0]]
  const found = async (text: string) =>
    (await inBuilding(rig.context, { text, place: null })).packages.map((one) => one.orderNumber)
  for (const text of [first.sscc, first.tracking, first.orderNumber, `${first.orderNumber}-1`, "ST-1"])
    expect([text, await found(text)]).toEqual([text, [first.orderNumber]])
  expect(await found("%")).toEqual([])
  expect((await inBuilding(as(rig.context, { warehouseId: 2 }), { text: "", place: null })).packages).toEqual([])
  const inLane = await inBuilding(rig.context, { text: "", place: { kind: "lane", name: "1" } })
  expect(inLane.packages).toMatchObject([{ orderNumber: second.orderNumber, door: "2", late: false }])
  const later = { ...rig.context, now: new Date(rig.context.now.getTime() + 3_600_000) }
  const [missed] = (await inBuilding(later, { text: second.sscc, place: null })).packages
  expect(missed?.late).toBe(true)
  value(await load(rig.context, first.collection, { sscc: first.sscc }, randomUUID()))
  expect(codes(await putAt(rig.context, { sscc: first.sscc }, { kind: "lane", name: "1" }))).toEqual([
    "staging.on-truck",
  ])
})
