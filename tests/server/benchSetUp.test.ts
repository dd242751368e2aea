import { randomUUID } from "node:crypto"
import { NotAllowed } from "server/actors/index.ts"
import { shipWhatIsPacked } from "server/decisions/apart.ts"
import { setPriority } from "server/decisions/priority.ts"
import { closeCollection } from "server/dock/close.ts"
import { load } from "server/dock/load.ts"
import { printNow } from "server/documents/index.ts"
import { findItems } from "server/goods/index.ts"
import { savePacking } from "server/goods/packing.ts"
import { partsOf } from "server/orders/parts.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { setPackagingStock } from "server/packages/used.ts"
import { usableCartons } from "server/packaging/boxes.ts"
import { packagingTypes } from "server/packaging/catalog.ts"
import { addPackage, closePackages, openShipment, putIn } from "server/packing/index.ts"
import { slipsOf } from "server/papers/slip.ts"
import { addPackaging, offerPackaging, packagingForm, saveSlip } from "server/setup/packaging.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
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
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())
const admin = () => as(rig.context, { role: "administrator" })

describe("packaging", () => {
  const typed = {
    code: "k30",
    name: "Long carton",
    inner: "40 × 8 x 8",
    outer: "40.4 8.4 8.8",
    tare: "1,8",
    load: "40",
  }
  it("is added with its sizes in inches, offered, and taken off the offer", async () => {
    value(await addPackaging(admin(), packagingForm.parse(typed)))
    const type = (await packagingTypes(rig.db)).find((one) => one.code === "K30")
    // 40 in = 1016 mm, 1.8 lb = 0.816466266 kg
    expect(type?.inner.length.toNumber()).toBeCloseTo(1016, 6)
    expect(type?.tare.toNumber()).toBeCloseTo(0.816466266, 9)
    expect((await usableCartons(rig.db, 1)).some((one) => one.type.code === "K30")).toBe(true)
    value(await offerPackaging(admin(), "K30", false))
    value(await offerPackaging(admin(), "K30", false))
    expect((await usableCartons(rig.db, 1)).some((one) => one.type.code === "K30")).toBe(false)
    expect(codes(await addPackaging(admin(), packagingForm.parse(typed)))).toEqual(["packaging.taken"])
  })
  it.each([["an inside larger than the outside", { code: "K31", outer: "30 8 8" }, ["packaging.inner-larger"]]])(
    "is refused with %s",
    async (_, more, expected) =>
      expect(codes(await addPackaging(admin(), packagingForm.parse({ ...typed, ...more })))).toEqual(expected),
  )
  it.each([
    ["two edges", { inner: "40 8" }, "inner", "packaging.edges"],
    ["words for edges", { inner: "40 by 8" }, "inner", "packaging.edges"],
    ["an edge of nothing", { outer: "40 0 8" }, "outer", "packaging.edges"],
    ["a million inches", { inner: "1000000 1 1" }, "inner", "packaging.edges"],
    ["no weight", { tare: "0" }, "tare", "packaging.weight"],
    ["words for a weight", { load: "heavy" }, "load", "packaging.weight"],
    ["no name", { name: " " }, "name", "packaging.name"],
    ["blanks in its code", { code: "K 1" }, "code", "packaging.code"],
  ])("has no %s, and is told so at that field", (_, more, at, words) => {
    const issues = packagingForm.safeParse({ ...typed, ...more }).error?.issues
    expect(issues?.map((one) => [one.path.join("."), one.message])).toEqual([[at, words]])
  })
  it("that has run out is not suggested", async () => {
    const type = (await packagingTypes(rig.db)).find((one) => one.code === "K02")
    value(await setPackagingStock(rig.context, type?.id ?? 0, 0, 10))
    expect((await usableCartons(rig.db, 1)).some((one) => one.type.code === "K02")).toBe(false)
  })
  it("is the administrator's to add", async () => {
    await expect(addPackaging(rig.context, packagingForm.parse({ ...typed, code: "K33" }))).rejects.toThrow(NotAllowed)
    await expect(setPackagingStock(as(rig.context, { role: "sales" }), 1, 5, 1)).rejects.toThrow(NotAllowed)
  })
})

describe("how an item is packed", () => {
  it("is said once, and not on old ground", async () => {
    const [item] = await findItems(rig.context, "JUG-GLS-5")
    const form = {
      id: item?.id ?? 0,
      version: item?.version ?? 0,
      goodsKind: "general" as const,
      fragile: "on" as const,
      loadLimit: "12.5",
    }
    value(await savePacking(rig.context, form))
    value(await savePacking(rig.context, form))
    const [now] = await findItems(rig.context, "JUG-GLS-5")
    expect(now?.packing).toEqual({
      goodsKind: "general",
      upright: false,
      stackable: false,
      fragile: true,
      ownCarton: false,
      loadLimit: "12.5",
    })
    expect(codes(await savePacking(rig.context, { ...form, goodsKind: "chemical" }))).toEqual([
      "item.changed-meanwhile",
    ])
  })
})

describe("what slips show", () => {
  it("is said by the warehouse, and by a customer before it", async () => {
    value(await saveSlip(admin(), null, { prices: true, message: "From Duluth" }, "8"))
    const customer = there(await rig.db("customer").where({ code: "ELKRUN" }).first("id"))
    value(await saveSlip(admin(), customer.id, { message: "For Elk Run", letterhead: ["Elk Run Taproom", "Denver"] }))
    await takeFile(rig.context, row({ order_number: "SL-1", sku: "PH-METER", quantity: "2", unit_price: "96.00" }))
    const { id } = await orderBySource(rig.db, "SL-1")
    await rig.db("order_line").where({ order_id: id }).update({ unit_price: "96.00" })
    const [slip] = (await slipsOf(rig.db, id)) ?? []
    expect(slip).toMatchObject({ withPrices: true, message: "For Elk Run", letterhead: ["Elk Run Taproom", "Denver"] })
    // nothing is packed yet: it says what is held for the order
    expect(slip?.rows).toMatchObject([{ ordered: 2, shipped: 2, backOrdered: 0, price: "96.00" }])
    expect(Number(there(await rig.db("warehouse").where({ id: 1 }).first("weight_tolerance")).weight_tolerance)).toBe(
      0.08,
    )
    expect(codes(await saveSlip(admin(), null, { colour: "red" }))).toEqual(["slip.shape"])
    expect(codes(await saveSlip(admin(), null, {}, "0"))).toEqual(["slip.tolerance-shape"])
    expect(await slipsOf(rig.db, 99_999)).toBeNull()
  })
})

it("a paper made on demand is kept and printed once, however often it is sent", async () => {
  const paper = { kind: "packing-slip" as const, name: "packing-slip-1", bytes: Buffer.from("%PDF-1.4"), orderId: null }
  const key = randomUUID()
  for (const outcome of await Promise.all([printNow(rig.context, paper, key), printNow(rig.context, paper, key)]))
    value(outcome)
  expect(await rig.db("document").where({ name: "packing-slip-1" })).toHaveLength(1)
  expect(
    await rig
      .db("print_job")
      .join("document", "document.id", "document_id")
      .where({ "document.name": "packing-slip-1" }),
  ).toHaveLength(1)
  const nowhere = as(rig.context, { warehouseId: 99 })
  expect(codes(await printNow(nowhere, paper, randomUUID()))).toEqual(["paper.no-printer"])
  await expect(printNow(as(rig.context, { role: "sales" }), paper, randomUUID())).rejects.toThrow(NotAllowed)
})

describe("priority", () => {
  it("is one of four, and is on the story", async () => {
    await takeFile(rig.context, row({ order_number: "PR-1", po_number: "PR1", sku: "PH-METER", quantity: "1" }))
    const { id } = await orderBySource(rig.db, "PR-1")
    value(await setPriority(rig.context, id, 2))
    value(await setPriority(rig.context, id, 2))
    expect(codes(await setPriority(rig.context, id, 7))).toEqual(["priority.unknown"])
    expect(await rig.db("audit").where({ order_id: id, action: "order.priority" })).toHaveLength(1)
    await expect(setPriority(as(rig.context, { role: "sales" }), id, 1)).rejects.toThrow(NotAllowed)
  })
})

it("the freight of an order in two shipments is charged with the one that goes first, and each report says what went", async () => {
  await takeFile(
    rig.context,
    row({ order_number: "FR-1", po_number: "FR1", sku: "YST-ALE-500", quantity: "6", promised_on: "2026-12-04" }),
  )
  const { id } = await orderBySource(rig.db, "FR-1")
  await pickAll(rig.context, id)
  const shipment = value(await openShipment(rig.context, id))
  value(await addPackage(rig.context, id, "K12"))
  value(
    await putIn(rig.context, id, {
      package: 1,
      lineId: shipment.lines[0]?.id ?? 0,
      quantity: 4,
      scanned: true,
      scanId: randomUUID(),
    }),
  )
  value(await shipWhatIsPacked(rig.context, id))
  const rest = (await partsOf(rig.db, id))[1]?.id ?? 0
  value(await closePackages(rig.context, id))
  value(await openShipment(rig.context, rest))
  value(await addPackage(rig.context, rest, "K12", true))
  value(await closePackages(rig.context, rest))
  for (const order of [id, rest]) {
    await askForLabels(
      rig.context,
      order,
      (await shipmentOf(rig.db, order)) as NonNullable<Awaited<ReturnType<typeof shipmentOf>>>,
    )
    await workAll(rig.db)
    const bought = await shipmentOf(rig.db, order)
    for (const one of bought?.packages ?? [])
      value(await load(rig.context, bought?.collectionId ?? 0, { sscc: one.sscc ?? "" }, randomUUID()))
    if (order === rest) value(await closeCollection(rig.context, bought?.collectionId ?? 0, 2))
  }
  // sources are told once the closing is final
  await workAll(rig.db)
  const reports = await rig
    .db("outbox")
    .where({ topic: "order.gone" })
    .whereIn("order_id", [id, rest])
    .orderBy("id")
    .select("order_id", "payload")
  const bodies = reports.map((one) => (typeof one.payload === "string" ? JSON.parse(one.payload) : one.payload))
  expect(bodies.map((one) => one.freightCharged).sort()).toEqual(["before", "here"])
  expect(bodies.map((one) => one.lines)).toEqual(
    expect.arrayContaining([
      [{ sku: "YST-ALE-500", shipped: 4, cancelled: 0, lots: [{ lot: "Y26-120", quantity: 4 }] }],
      [{ sku: "YST-ALE-500", shipped: 2, cancelled: 0, lots: [{ lot: "Y26-120", quantity: 2 }] }],
    ]),
  )
})
