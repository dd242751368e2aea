import { randomUUID } from "node:crypto"
import { NotAllowed } from "server/actors/index.ts"
import { changeAddress } from "server/decisions/address.ts"
import { holdOrder } from "server/decisions/hold.ts"
import { intakePreview } from "server/intake/file.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { summaryById } from "server/orders/facts.ts"
import { orderFilter } from "server/orders/filter.ts"
import { findOrders } from "server/orders/list.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { codes, file, hasOrder, openRig, orderBySource, pickAll, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const summary = async (number: string) => {
  const order = await orderBySource(rig.db, number)
  const found = await summaryById(rig.db, await warehouseById(rig.db, 1), order.id)
  if (!found) throw new Error(`${number} is not there`)
  return found
}
const stopCodes = async (number: string) => (await summary(number)).stops.map((stop) => stop.code)

describe("intake", () => {
  it("previews without making an order, then takes in the good ones", async () => {
    const id = await previewFile(
      rig.context,
      "file",
      "a.csv",
      file(row({ order_number: "I-1" }), row({ order_number: "I-2", quantity: "many" })),
    )
    expect(await hasOrder(rig.db, "I-1")).toBe(false)
    const preview = await intakePreview(rig.context, id)
    expect(preview?.orders.map((order) => [order.number, order.fate])).toEqual([
      ["I-1", "new"],
      ["I-2", "nothing-good"],
    ])
    expect(preview?.refused.flatMap((one) => one.refusals)).toEqual([
      { code: "row.not-a-quantity", values: { line: "3", field: "quantity", value: "many" } },
    ])
    await takeIn(rig.context, id)
    expect((await summary("I-1")).stage).toBe("released")
    expect(await hasOrder(rig.db, "I-2")).toBe(false)
  })

  it("makes one order of the same order sent twice, also at the same time", async () => {
    const ids = await Promise.all(
      [1, 2, 3].map((n) => previewFile(rig.context, "file", `twice-${n}.csv`, file(row({ order_number: "I-3" })))),
    )
    await Promise.all(ids.map((id) => takeIn(rig.context, id)))
    await takeIn(rig.context, ids[0] as number)
    expect(await rig.db("sales_order").where({ source_number: "I-3" }).count({ n: "*" }).first()).toMatchObject({
      n: 1,
    })
    const audits = await rig
      .db("audit")
      .where({ order_id: (await orderBySource(rig.db, "I-3")).id, action: "order.received" })
    expect(audits).toHaveLength(1)
  })

  it("brings a half refused order in stopped, and ends the stop when the corrected order comes", async () => {
    const two = [row({ order_number: "I-4" }), row({ order_number: "I-4", sku: "NO-SUCH" })]
    await takeFile(rig.context, ...two)
    const bin = (await summary("I-4")).orderNumber
    expect(await stopCodes("I-4")).toEqual(["stop.row-refused"])
    await takeFile(rig.context, two[0] as string, row({ order_number: "I-4", sku: "BUN-10", quantity: "2" }))
    expect(await summary("I-4")).toMatchObject({ orderNumber: bin, stops: [], lines: 2, stage: "released" })
  })

  it("updates a changed order until picking begins, and not after", async () => {
    await takeFile(rig.context, row({ order_number: "I-5", quantity: "4" }))
    await takeFile(rig.context, row({ order_number: "I-5", quantity: "6" }))
    expect((await summary("I-5")).facts.ordered).toBe(6)
    await pickAll(rig.context, (await orderBySource(rig.db, "I-5")).id)
    const id = await takeFile(rig.context, row({ order_number: "I-5", quantity: "9" }))
    expect((await intakePreview(rig.context, id))?.orders[0]?.fate).toBe("picking-begun")
    expect((await summary("I-5")).facts.ordered).toBe(6)
  })

  it("counts a case as what it holds", async () => {
    await takeFile(rig.context, row({ order_number: "I-6", sku: "NUT-FER-1", quantity: "2", unit: "case" }))
    // a case of NUT-FER-1 holds 12
    expect((await summary("I-6")).facts.ordered).toBe(24)
  })

  it("stops what lacks something, and says what", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "S-1", country: "CA", state: "QC", postal_code: "G9A 1A1" }),
      row({ order_number: "S-2", sku: "TANK-105", quantity: "1" }),
      row({ order_number: "S-3", sku: "CLN-PHOS-5", quantity: "1" }),
      row({ order_number: "S-4", sku: "PMP-TRF-40", quantity: "19" }),
    )
    expect(await Promise.all(["S-1", "S-2", "S-3", "S-4"].map(stopCodes))).toEqual([
      ["customs.no-incoterm", "customs.no-place", "customs.no-phone"],
      [],
      [],
      ["stop.stock-short"],
    ])
  })
})

describe("an order", () => {
  it("goes on by itself when its address is corrected, and keeps both on its story", async () => {
    await takeFile(rig.context, row({ order_number: "A-1", street: "Growler Row" }))
    const order = await orderBySource(rig.db, "A-1")
    expect(await stopCodes("A-1")).toEqual(["address.no-house-number"])
    const form = {
      version: order.version,
      company: order.company,
      attention: "",
      street: "14 Growler Row",
      street2: "",
      city: "Denver",
      state: "CO",
      postal_code: "80205",
      country: "US",
      phone: "",
      address_kind: "business" as const,
      incoterm: "",
      incoterm_place: "",
    }
    value(await changeAddress(rig.context, order.id, form))
    expect(await summary("A-1")).toMatchObject({ stops: [], stage: "released" })
    expect(codes(await changeAddress(rig.context, order.id, { ...form, street: "15 Growler Row" }))).toEqual([
      "order.changed-by",
    ])
    const told = await rig.db("audit").where({ order_id: order.id }).orderBy("id").pluck("action")
    expect(told).toEqual(["order.received", "order.stopped", "order.address-changed", "order.stop-ended"])
  })

  it("is stopped by the clerk and let go by the lead only, its stock free meanwhile", async () => {
    await takeFile(rig.context, row({ order_number: "A-2", sku: "PH-METER", quantity: "3" }))
    const { id } = await orderBySource(rig.db, "A-2")
    const held = () =>
      rig
        .db("stock")
        .join("item", "item.id", "stock.item_id")
        .where({ sku: "PH-METER", warehouse_id: 1 })
        .sum({ n: "allocated" })
        .first()
    expect(Number((await held())?.n)).toBe(3)
    await holdOrder(rig.context, id, true)
    expect(await stopCodes("A-2")).toEqual(["stop.by-hand"])
    expect(Number((await held())?.n)).toBe(0)
    await expect(holdOrder(rig.context, id, false)).rejects.toThrow(NotAllowed)
    await holdOrder({ ...rig.context, actor: { ...rig.context.actor, role: "lead" } }, id, false)
    expect((await summary("A-2")).stage).toBe("released")
  })

  it("of another warehouse is not found and not changed", async () => {
    const { id } = await orderBySource(rig.db, "A-2")
    const elsewhere = { ...rig.context, actor: { ...rig.context.actor, role: "lead" as const, warehouseId: 2 } }
    await holdOrder(elsewhere, id, true)
    expect((await summary("A-2")).stops).toEqual([])
    expect(
      (await findOrders(elsewhere, await warehouseById(rig.db, 2), orderFilter.parse({ find: "" }), null)).orders,
    ).toEqual([])
  })

  it("is found by any word, and a sign of the query language is only a sign", async () => {
    const warehouse = await warehouseById(rig.db, 1)
    const found = async (words: string) =>
      (await findOrders(rig.context, warehouse, orderFilter.parse({ find: words }), null)).orders.map(
        (order) => order.sourceNumber,
      )
    expect(await found("a-2")).toEqual(["A-2"])
    expect(await found("denver pocket")).toEqual(["A-2"])
    expect(await found("%")).toEqual([])
  })
})

describe("picking", () => {
  it("refuses the wrong bin and item, takes a scan once, and never more than there is to take", async () => {
    await takeFile(rig.context, row({ order_number: "P-1", sku: "REF-BRIX-32", quantity: "2" }))
    const { id } = await orderBySource(rig.db, "P-1")
    const [stop] = await pickStops(rig.db, id)
    if (!stop) throw new Error("no stop")
    const attempt = (more: object) =>
      pick(rig.context, id, {
        scanId: randomUUID(),
        allocationId: stop.allocationId,
        bin: stop.bin,
        item: stop.sku,
        times: 1,
        ...more,
      })
    // sent again because the answer was lost, a refusal stays one
    const wrong = { bin: "A-01-1", scanId: randomUUID() }
    expect(codes(await attempt(wrong))).toEqual(["pick.wrong-bin"])
    expect(codes(await attempt(wrong))).toEqual(["pick.wrong-bin"])
    expect(codes(await attempt({ item: "BUN-10" }))).toEqual(["pick.wrong-item"])
    const scanId = randomUUID()
    expect(value(await attempt({ scanId })).taken).toBe(1)
    expect(value(await attempt({ scanId })).taken).toBe(1)
    expect((await pickStops(rig.db, id))[0]?.picked).toBe(1)
    expect(codes(await attempt({ times: 2 }))).toEqual(["pick.too-many"])
    const both = await Promise.all([attempt({}), attempt({}), attempt({})])
    expect(both.filter((one) => one.ok)).toHaveLength(1)
    expect((await summary("P-1")).stage).toBe("picked")
  })

  it("moves the stock by what was taken, and the movements add up to what lies there", async () => {
    const wrong = await rig
      .db("stock")
      .select(
        "id",
        "on_hand",
        rig.db.raw("(SELECT SUM(quantity) FROM stock_movement m WHERE m.stock_id = stock.id) AS moved"),
      )
      .havingRaw("on_hand <> moved")
    expect(wrong).toEqual([])
  })

  it("marks what was confirmed by hand as not verified", async () => {
    await takeFile(rig.context, row({ order_number: "P-2", sku: "HYD-TRI", quantity: "3" }))
    const { id } = await orderBySource(rig.db, "P-2")
    const [stop] = await pickStops(rig.db, id)
    value(
      await pick(rig.context, id, {
        scanId: randomUUID(),
        allocationId: stop?.allocationId ?? 0,
        bin: stop?.bin ?? "",
        item: null,
        times: 3,
      }),
    )
    expect(await rig.db("allocation").where({ id: stop?.allocationId }).first("picked", "unverified")).toEqual({
      picked: 3,
      unverified: 3,
    })
  })

  it("takes the lot that expires first", async () => {
    // YST-LAG-500 lies in two lots; Y26-071 expires on 2028-05-01, before Y26-114
    await takeFile(rig.context, row({ order_number: "P-3", sku: "YST-LAG-500", quantity: "2" }))
    expect((await pickStops(rig.db, (await orderBySource(rig.db, "P-3")).id)).map((stop) => stop.lot)).toEqual([
      "Y26-071",
    ])
  })
})
