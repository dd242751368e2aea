import { readFileSync } from "node:fs"
import { Readable } from "node:stream"
import { correctRow, type RefusedRow, refusedRows } from "server/intake/file.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { codes, openRig, orderBySource, type Rig, row, takeFile } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const wrong = (rows: readonly RefusedRow[]) =>
  rows.map((one) => [
    one.line,
    ...one.refusals.map(({ code, values }) => [code, values.field, values.value, values.first]),
  ])
async function sent(name: string, text: string) {
  const id = await previewFile(rig.context, "file", name, Readable.from([Buffer.from(text)]))
  await takeIn(rig.context, id)
  return { id, rows: wrong(await refusedRows(rig.context, id)) }
}

it("refuses a row that says another customer, street, promise or currency than its order's first, with both", async () => {
  const id = await takeFile(
    rig.context,
    row({
      order_number: "ONE-1",
      customer: "Prairie Cellars",
      street: "2 Main Street",
      city: "Fargo",
      state: "ND",
      postal_code: "58102",
    }),
    row({
      order_number: "ONE-1",
      customer: "Prairie Cellars",
      street: "2  MAIN Street",
      city: "Fargo",
      state: "ND",
      postal_code: "58102",
      sku: "BUN-10",
    }),
    row({
      order_number: "ONE-1",
      customer: "Elk Run Taproom",
      city: "Denver",
      state: "CO",
      postal_code: "80205",
      street: "2 Main Street",
      sku: "HYD-TRI",
    }),
    row({
      order_number: "ONE-1",
      customer: "Prairie Cellars",
      street: "2 Main Street",
      city: "Fargo",
      state: "ND",
      postal_code: "58102",
      promised_on: "2026-12-04",
    }),
  )
  const rows = await refusedRows(rig.context, id)
  expect(wrong(rows)).toEqual([
    [
      4,
      ["row.differs", "customer", "Elk Run Taproom", "Prairie Cellars"],
      ["row.differs", "city", "Denver", "Fargo"],
      ["row.differs", "state", "CO", "ND"],
      ["row.differs", "postal_code", "80205", "58102"],
    ],
    [5, ["row.differs", "promised_on", "2026-12-04", "2026-12-02"]],
  ])
  const order = await orderBySource(rig.db, "ONE-1")
  expect(order.city).toBe("Fargo")
  const stops = await rig.db("order_stop").where({ order_id: order.id }).pluck("code")
  expect(stops).toContain("stop.row-refused")
  // goods of the refused rows are in no order
  expect((await rig.db("order_line").where({ order_id: order.id })).length).toBe(2)
  // corrected to a third place it is refused again; corrected to the first one it is a line of the order
  expect(codes(await correctRow(rig.context, id, 5, { promised_on: "2026-12-09" }))).toEqual(["row.differs"])
  expect(codes(await correctRow(rig.context, id, 5, { promised_on: "2026-12-02" }))).toEqual([])
  expect((await rig.db("order_line").where({ order_id: order.id })).length).toBe(3)
})

it("takes a currency of its own for another order, and a field left empty for the same", async () => {
  const { header } = await import("./rows.ts")
  const text = [
    `${header},currency`,
    `${row({ order_number: "ONE-2" })},USD`,
    `${row({ order_number: "ONE-2", promised_on: "", sku: "BUN-10" })},`,
    `${row({ order_number: "ONE-2", sku: "HYD-TRI" })},CAD`,
  ].join("\n")
  expect((await sent("currency.csv", text)).rows).toEqual([[4, ["row.differs", "currency", "CAD", "USD"]]])
})

it("does the same for JSON, where one order may come once in a file", async () => {
  const order = {
    number: "ONE-3",
    orderedOn: "2026-11-23",
    customer: "Elk Run Taproom",
    shipTo: { street: "14 Growler Row", city: "Denver", state: "CO", postalCode: "80205" },
    lines: [{ sku: "YST-ALE-500", quantity: 4 }],
  }
  const elsewhere = { ...order, shipTo: { ...order.shipTo, street: "1 Other Street" } }
  const { rows } = await sent("orders.json", JSON.stringify([order, elsewhere, order]))
  expect(rows).toEqual([
    [2, ["row.differs", "street", "1 Other Street", "14 Growler Row"]],
    [3, ["row.twice", "order_number", "ONE-3", undefined]],
  ])
  const { id } = await orderBySource(rig.db, "ONE-3")
  expect(await rig.db("order_line").where({ order_id: id }).pluck("ordered")).toEqual([4])
})

it("does the same for two messages of one interchange", async () => {
  const text = readFileSync("demo/files/orders-buyer.edi", "utf8")
  const [head = "", ...rest] = text.split(/(?=UNH\+)/)
  const [message = ""] = rest
  const own = message.split("UNZ")[0] ?? ""
  const other = own.replace(/^UNH\+[^+]+/, "UNH+2").replace(/UNT\+(\d+)\+[^']+/, "UNT+$1+2")
  const city = /NAD\+(?:DP|ST)\+[^']*'/.exec(own)?.[0] ?? ""
  expect(city).not.toBe("")
  const control = /UNB\+(?:[^+]*\+){4}([^+']+)/.exec(head)?.[1] ?? ""
  const two = (second: string) => `${head}${own}${second}UNZ+2+${control}'`
  const again = await sent("twice.edi", two(other))
  expect(again.rows.every(([, why]) => (why as string[])[0] === "row.twice")).toBe(true)
  expect(again.rows.length).toBeGreaterThan(0)
  const moved = other.replace(city, city.replace(/\+([^+]+)(\+[^+]*\+[^+]*\+[^+']*')$/, "+Elsewhere$2"))
  expect(moved).not.toBe(other)
  const elsewhere = await sent("elsewhere.edi", two(moved))
  expect(
    elsewhere.rows.every(([, why]) => (why as string[])[0] === "row.differs" && (why as string[])[2] === "Elsewhere"),
  ).toBe(true)
})
