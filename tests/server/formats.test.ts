import { readFileSync } from "node:fs"
import { Readable } from "node:stream"
import { coded } from "core/refusal/index.ts"
import { FileRefused } from "server/formats/orderRow.ts"
import { intakePreview } from "server/intake/file.ts"
import { pullOrders } from "server/intake/pull.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { workOnce } from "server/worker/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { fault, hasOrder, openRig, orderBySource, type Rig } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const upload = (name: string, bytes: Buffer | string) =>
  previewFile(rig.context, "file", name, Readable.from([Buffer.from(bytes)]))
const refusal = async (bytes: Buffer | string): Promise<string> => {
  try {
    await upload("bad", bytes)
    return "read"
  } catch (error) {
    if (error instanceof FileRefused) return error.reason.code
    throw error
  }
}
const order = (number: string, more: Record<string, unknown> = {}) => ({
  number,
  orderedOn: "2026-11-24",
  promisedOn: "2026-12-02",
  customer: "Elk Run Taproom",
  shipTo: { street: "14 Growler Row", city: "Denver", state: "CO", postalCode: "80205", kind: "business" },
  lines: [{ sku: "YST-ALE-500", quantity: 2 }],
  ...more,
})

describe("an interchange of a buyer", () => {
  it("becomes orders, its bad line a stop of its own order", async () => {
    const id = await upload("orders.edi", readFileSync("demo/files/orders-buyer.edi"))
    const preview = await intakePreview(rig.context, id)
    expect(preview?.orders.map((one) => [one.number, one.fate, one.goodRows, one.refusedRows])).toEqual([
      ["BF-2201", "new", 2, 0],
      ["BF-2202", "new", 1, 0],
      ["BF-2203", "new", 1, 1],
    ])
    await takeIn(rig.context, id)
    const stops = (await orderBySource(rig.db, "BF-2203")).id
    expect(await rig.db("order_stop").where({ order_id: stops }).pluck("code")).toEqual(["stop.row-refused"])
    expect((await orderBySource(rig.db, "BF-2202")).incoterm).toBe("DAP")
    // 24 of 8.40 each, an each being the base unit
    const lines = await rig.db("order_line").where({ order_id: (await orderBySource(rig.db, "BF-2202")).id })
    expect(lines.map((line) => [line.ordered, line.unit_price])).toEqual([[24, "8.4000"]])
  })
})

describe("orders as JSON", () => {
  it("are one, a list, or a list by name; what has no shape is refused alone", async () => {
    const id = await upload("orders.json", JSON.stringify([order("J-1"), order("J-2", { lines: [] }), order("J-3")]))
    await takeIn(rig.context, id)
    const preview = await intakePreview(rig.context, id)
    expect(preview?.orders.map((one) => [one.number, one.fate])).toEqual([
      ["J-1", "new"],
      ["J-2", "nothing-good"],
      ["J-3", "new"],
    ])
    expect(preview?.refused[0]?.refusals[0]).toMatchObject({ code: "row.json-shape", values: { field: "lines" } })
    await takeIn(rig.context, await upload("one.json", JSON.stringify({ orders: [order("J-4")] })))
    expect(await hasOrder(rig.db, "J-4")).toBe(true)
  })
  it.each([
    ["nested without end", "[".repeat(100_000), "file.too-deep"],
    ["half a text", '{"number": "X', "file.not-json"],
    [
      "three megabytes",
      `[${JSON.stringify(order("X", { notes: "x".repeat(3 * 1024 * 1024) }))}]`,
      "file.order-too-large",
    ],
    ["nothing", "[]", "file.empty"],
  ])("refuses %s", async (_, text, code) => expect(await refusal(text)).toBe(code))
  it("keeps what looks like code as text, and takes no field that it does not know", async () => {
    const hostile = `{"number":"J-5","orderedOn":"2026-11-24","customer":"<script>alert(1)</script>","notes":"=HYPERLINK(\\"x\\") ' OR 1=1 --",
      "shipTo":{"street":"14 Growler Row","city":"Denver","state":"CO","postalCode":"80205"},"lines":[{"sku":"YST-ALE-500","quantity":1}]}`
    await takeIn(rig.context, await upload("hostile.json", hostile))
    expect(await orderBySource(rig.db, "J-5")).toMatchObject({
      customer_name: "<script>alert(1)</script>",
      notes: '=HYPERLINK("x") \' OR 1=1 --',
    })
    const polluting = hostile.replace('"J-5"', '"J-6", "__proto__": {"admin": true}, "held": true')
    const preview = await intakePreview(rig.context, await upload("more.json", polluting))
    expect(preview?.orders.map((one) => [one.number, one.fate])).toEqual([["J-6", "nothing-good"]])
    expect(({} as { admin?: boolean }).admin).toBeUndefined()
  })
})

describe("the source that is asked", () => {
  const put = (orders: unknown[]) =>
    fetch(`${rig.at.orderSource}/orders`, { method: "POST", body: JSON.stringify(orders) })
  const sourceId = async () => there(await rig.db("order_source").where({ code: "shop" }).first("id")).id as number

  it("gives its orders once, however often it is asked, and its refusals can be looked at", async () => {
    await put([order("P-1"), order("P-2", { lines: [{ sku: "NO-SUCH", quantity: 1 }] })])
    expect(await pullOrders(rig.db, await sourceId())).toBe(2)
    expect(await pullOrders(rig.db, await sourceId())).toBe(0)
    // the cursor lost, all come again and are the same orders
    await rig.db("order_source").where({ code: "shop" }).update({ pull_cursor: "" })
    expect(await pullOrders(rig.db, await sourceId())).toBe(2)
    expect(await rig.db("sales_order").where({ source_number: "P-1" })).toHaveLength(1)
    const refused = there(
      await rig.db("intake_row").whereRaw("JSON_LENGTH(refusals) > 0").where({ order_number: "P-2" }).first("refusals"),
    )
    expect(JSON.stringify(refused.refusals)).toContain("row.no-such-item")
  })
  it("loses nothing while it is down: the job tries again", async () => {
    await put([order("P-3")])
    await fault(rig.at.orderSource, "down")
    await rig.db("job").insert({
      kind: "source.pull",
      once_key: "pull-in-test",
      payload: JSON.stringify({ sourceId: await sourceId() }),
      run_at: new Date(0),
      created_at: new Date(),
    })
    await workOnce(rig.db)
    expect(await rig.db("job").where({ once_key: "pull-in-test" }).first("state", "trouble")).toEqual({
      state: "waiting",
      trouble: coded({ code: "reach.status", values: { status: "503" } }),
    })
    await fault(rig.at.orderSource, null)
    await rig
      .db("job")
      .where({ once_key: "pull-in-test" })
      .update({ run_at: new Date(0) })
    await workOnce(rig.db)
    expect(await hasOrder(rig.db, "P-3")).toBe(true)
  })
  it("may answer nonsense without harm", async () => {
    const before = await rig.db("sales_order").count({ n: "id" }).first()
    const page = (body: unknown) => async () => body as never
    await expect(
      pullOrders(rig.db, await sourceId(), async () => {
        throw new Error("the order source answered with something that is no page of orders")
      }),
    ).rejects.toThrow("no page")
    await pullOrders(rig.db, await sourceId(), page({ orders: [null, 7, "x", { number: 5 }], next: "" }))
    expect(await rig.db("sales_order").count({ n: "id" }).first()).toEqual(before)
  })
})
