import { randomUUID } from "node:crypto"
import { Readable } from "node:stream"
import { summaryById } from "server/orders/facts.ts"
import { recordElsewhere } from "server/outside/elsewhere.ts"
import { type HandedForm, handedTo, handOver } from "server/outside/handed.ts"
import { outsideOrder } from "server/outside/index.ts"
import {
  previewTracking,
  takeTracking,
  takeTrackingRows,
  trackingFile,
  trackingFiles,
} from "server/outside/trackingFile.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import {
  as,
  askForLabels,
  codes,
  openRig,
  orderBySource,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  tryToBuy,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
const back = readBack()
beforeAll(async () => {
  rig = await openRig()
})
afterAll(async () => {
  back.end()
  await rig?.drop()
})

const said = {
  carrier: "Harbor Couriers",
  service: "Next day",
  tracking: "HC-2040-118",
  shippedOn: "",
  cost: "18.40",
  currency: "",
}
const stage = async (id: number) => (await summaryById(rig.db, await warehouseById(rig.db, 1), id))?.stage
const reports = async (number: string) =>
  (
    (await (await fetch(`${rig.at.orderSource}/reports`)).json()) as { times: number; body: Record<string, unknown> }[]
  ).filter((one) => one.body.orderNumber === number)

describe("an order that another carrier took", () => {
  it("is gone with the number that is typed, told to its source once, and its stock is free", async () => {
    await takeFile(rig.context, row({ order_number: "EL-1" }))
    const { id } = await orderBySource(rig.db, "EL-1")
    expect(codes(await recordElsewhere(rig.context, id, { ...said, tracking: "x" }))).toEqual(["elsewhere.tracking"])
    expect(codes(await recordElsewhere(as(rig.context, { warehouseId: 2 }), id, said))).toEqual(["order.unknown"])
    await expect(recordElsewhere(as(rig.context, { role: "sales" }), id, said)).rejects.toThrow("not allowed")
    const both = await Promise.all([recordElsewhere(rig.context, id, said), recordElsewhere(rig.context, id, said)])
    expect(both.map((one) => value(one).again).sort()).toEqual([false, true])
    expect(codes(await recordElsewhere(rig.context, id, { ...said, tracking: "HC-2040-999" }))).toEqual([
      "elsewhere.with-others",
    ])
    expect(await stage(id)).toBe("gone")
    expect(await outsideOrder(rig.db, id)).toMatchObject({
      warehouse: null,
      state: "shipped",
      carrier: "Harbor Couriers",
      tracking: ["HC-2040-118"],
      shippedOn: "2026-11-24",
      cost: { amount: "18.40", currency: "USD" },
    })
    expect(
      await rig.db("allocation as a").join("order_line as l", "l.id", "a.order_line_id").where("l.order_id", id),
    ).toEqual([])
    await workAll(rig.db)
    const told = await reports("EL-1")
    expect(told).toHaveLength(1)
    expect(told[0]?.body).toMatchObject({
      carrier: "Harbor Couriers",
      trackingNumber: "HC-2040-118",
      shippedOn: "2026-11-24",
      packages: [{ trackingNumber: "HC-2040-118" }],
    })
  })

  it("may be packed here by then, but not labeled: its labels are not bought any more", async () => {
    const { orderId } = await readyToBuy(rig.context, "EL-2")
    value(await recordElsewhere(rig.context, orderId, said))
    expect(await stage(orderId)).toBe("gone")
    expect(codes(await tryToBuy(rig.context, orderId, "LKG"))).toEqual(["outside.shipped"])
    expect(
      await rig
        .db("package as p")
        .join("shipment as h", "h.id", "p.shipment_id")
        .where("h.order_id", orderId)
        .pluck("p.state"),
    ).toEqual(["gone"])
    // half picked by then: the rest is free for others
    await takeFile(rig.context, row({ order_number: "EL-4", quantity: "4" }))
    const half = await orderBySource(rig.db, "EL-4")
    const [stop] = await pickStops(rig.db, half.id)
    const one = {
      scanId: randomUUID(),
      allocationId: stop?.allocationId ?? 0,
      bin: stop?.bin ?? "",
      item: stop?.sku ?? "",
      times: 1,
    }
    value(await pick(rig.context, half.id, one))
    value(await recordElsewhere(rig.context, half.id, said))
    const held = await rig
      .db("allocation as a")
      .join("order_line as l", "l.id", "a.order_line_id")
      .where("l.order_id", half.id)
      .select("a.quantity", "a.picked")
    expect(held.every((each) => each.quantity === each.picked)).toBe(true)
    const { orderId: bought, shipment } = await readyToBuy(rig.context, "EL-3")
    await askForLabels(rig.context, bought, shipment)
    expect(codes(await recordElsewhere(rig.context, bought, said))).toEqual(["order.void-first"])
    await workAll(rig.db)
  })
})

describe("a file of tracking numbers", () => {
  const csv = (...rows: string[]) =>
    Readable.from([Buffer.from(["order_number,carrier,tracking,shipped_on,cost", ...rows].join("\n"))])

  it("is previewed row by row; what is good is recorded, once, and the rest stays with its reason", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "TF-1" }),
      row({ order_number: "TF-2" }),
      row({ order_number: "TF-3" }),
    )
    const { order_number: ours } = await orderBySource(rig.db, "TF-2")
    const id = await previewTracking(
      rig.context,
      "couriers.csv",
      csv(
        "TF-1,Harbor Couriers,HC-1000-1,2026-11-24,9.90",
        `${ours},"Harbor Couriers, Ltd","HC-1000-2, HC-1000-3",,`,
        "TF-3,Harbor Couriers,HC-1000-4,2026-11-25,",
        "TF-9,Harbor Couriers,HC-1000-5,,",
        "TF-3,Harbor Couriers",
        "TF-1,Harbor Couriers,HC-1000-9,,",
      ),
    )
    const preview = await trackingFile(rig.db, 1, id)
    expect(preview?.file).toMatchObject({ state: "preview", good: 3, refused: 3, taken: 0 })
    expect(preview?.refused.map((one) => [one.line, one.why.map((why) => why.code)])).toEqual([
      [4, ["elsewhere.future"]],
      [5, ["elsewhere.no-order"]],
      [6, ["elsewhere.row-columns", "elsewhere.no-tracking"]],
    ])
    expect(await trackingFile(rig.db, 2, id)).toBeNull()
    expect(codes(await takeTracking(as(rig.context, { warehouseId: 2 }), id))).toEqual(["elsewhere.no-file"])
    value(await takeTracking(rig.context, id))
    value(await takeTracking(rig.context, id))
    await workAll(rig.db)
    await takeTrackingRows(rig.db, id)
    // the second row of one order has another number: the first one counts
    expect((await trackingFile(rig.db, 1, id))?.file).toMatchObject({ state: "done", good: 0, taken: 2, refused: 4 })
    for (const number of ["TF-1", "TF-2"]) expect(await reports(number)).toHaveLength(1)
    expect((await reports("TF-2"))[0]?.body).toMatchObject({
      carrier: "Harbor Couriers, Ltd",
      packages: [{ trackingNumber: "HC-1000-2" }, { trackingNumber: "HC-1000-3" }],
    })
    expect(await stage((await orderBySource(rig.db, "TF-3")).id)).not.toBe("gone")
  })

  it("is refused whole where it is none, and leaves nothing", async () => {
    const before = (await trackingFiles(rig.db, 1)).length
    const read = (text: string) => previewTracking(rig.context, "x.csv", Readable.from([Buffer.from(text)]))
    await expect(read("a,b\n1,2")).rejects.toMatchObject({ reason: { code: "elsewhere.columns" } })
    await expect(read("order_number,carrier,tracking\n")).rejects.toMatchObject({ reason: { code: "file.empty" } })
    await expect(read("")).rejects.toBeInstanceOf(Error)
    expect(await trackingFiles(rig.db, 1)).toHaveLength(before)
  })

  it("of fifty thousand rows with a hundred bad ones keeps the good ones", async () => {
    const numbers = (await rig.db("sales_order").where({ warehouse_id: 1 }).limit(1).pluck("order_number")) as string[]
    const rows = Array.from({ length: 50_000 }, (_, at) =>
      at % 500 === 0 ? `NO-${at},Harbor,HC-2000-${at},,` : `${numbers[0]},Harbor,HC-2000-${at},,`,
    )
    const id = await previewTracking(rig.context, "large.csv", csv(...rows))
    const found = await trackingFile(rig.db, 1, id)
    expect(found?.file).toMatchObject({ good: 49_900, refused: 100 })
    expect(found?.refused.at(-1)?.line).toBe(49_502)
  })
})

describe("an order that its customer fetches", () => {
  const signature = JSON.stringify([Array.from({ length: 40 }, (_, at) => [20 + at * 10, at % 2 ? 40 : 160])])
  const taken: HandedForm = {
    way: "counter",
    name: "Ida Brook",
    identity: "seen",
    note: "driver's license",
    onPaper: false,
    signature,
  }

  it("is handed over once it is packed, against a signature: gone, told to its source, with a receipt", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "HO-1")
    await takeFile(rig.context, row({ order_number: "HO-2" }))
    const unpacked = await orderBySource(rig.db, "HO-2")
    expect(codes(await handOver(rig.context, unpacked.id, taken))).toEqual(["handed.not-packed"])
    expect(codes(await handOver(rig.context, orderId, { ...taken, signature: "" }))).toEqual(["handed.sign"])
    expect(codes(await handOver(rig.context, orderId, { ...taken, signature: "[[[1,1]]]" }))).toEqual(["handed.sign"])
    expect(codes(await handOver(rig.context, orderId, { ...taken, signature: "{}" }))).toEqual(["driver.bad-signature"])
    await expect(handOver(as(rig.context, { role: "sales" }), orderId, taken)).rejects.toThrow("not allowed")
    expect((await handOver(as(rig.context, { warehouseId: 2 }), orderId, taken)).ok).toBe(false)
    const both = await Promise.all([handOver(rig.context, orderId, taken), handOver(rig.context, orderId, taken)])
    expect(both.map(value)).toEqual([{ packages: 1 }, { packages: 1 }])
    expect(await stage(orderId)).toBe("delivered")
    const handed = there(await handedTo(rig.db, orderId))
    expect([handed.name, handed.identity, handed.strokes[0]?.length]).toEqual(["Ida Brook", "seen", 40])
    const receipts = await rig.db("document").where({ order_id: orderId, kind: "pickup-receipt" })
    expect(receipts).toHaveLength(1)
    const text = back.words(there(receipts[0]).bytes)
    for (const part of [
      "Pickup receipt",
      "Ida Brook",
      "ID seen",
      `${shipment.orderNumber}-1`,
      shipment.packages[0]?.sscc,
    ])
      expect(text).toContain(part)
    await workAll(rig.db)
    const told = await reports("HO-1")
    expect(told).toHaveLength(1)
    expect(told[0]?.body).toMatchObject({ carrier: "Customer pickup" })
    expect(codes(await tryToBuy(rig.context, orderId, "LKG"))).not.toEqual([])
  })

  it("may sign on paper; labels that are bought are voided first", async () => {
    const { orderId } = await readyToBuy(rig.context, "HO-3")
    value(await handOver(rig.context, orderId, { ...taken, way: "in-person", onPaper: true, signature: "" }))
    expect(await handedTo(rig.db, orderId)).toMatchObject({ onPaper: true, strokes: [] })
    const { orderId: bought, shipment } = await readyToBuy(rig.context, "HO-4")
    await askForLabels(rig.context, bought, shipment)
    expect(codes(await handOver(rig.context, bought, taken))).toEqual(["order.void-first"])
    await workAll(rig.db)
  })
})
