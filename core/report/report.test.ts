import { describe, expect, it } from "vitest"
import { columnsOf, outward, type ReportModel, reportFields, rowsOf, usualReportFields } from "./index.ts"

const model: ReportModel = {
  topic: "order.gone",
  orderNumber: "SO-1",
  goneAt: "2026-11-24T20:15:00.000Z",
  shippedOn: "2026-11-24",
  carrier: "Larkspur Parcel",
  service: "Ground",
  trackingNumber: "LA1",
  charge: { amount: "12.50", currency: "USD" },
  list: { amount: "20.00", currency: "USD" },
  cost: { amount: "9.10", currency: "USD" },
  freightCharged: "here",
  lines: [{ sku: "YST", shipped: 5, cancelled: 1, lots: [{ lot: "A", quantity: 5 }] }],
  packages: [
    {
      trackingNumber: "LA1",
      sscc: "376104250021234569",
      weightLb: "4.20",
      contents: [
        {
          sku: "YST",
          quantity: 5,
          lots: [
            { lot: "A", quantity: 3 },
            { lot: "B", quantity: 2 },
          ],
        },
        { sku: "HYD", quantity: 1 },
      ],
    },
    { trackingNumber: "LA2", sscc: null, weightLb: "1.00", contents: [] },
  ],
  shipFrom: { company: "Northlake", city: "Duluth" },
  papers: [{ kind: "invoice", number: "INV-7" }],
}

describe("what a source is told", () => {
  it("is what it chose, and never what it costs us unless it is set so", () => {
    const usual = outward(model, usualReportFields)
    expect(usual.cost).toBeUndefined()
    expect(usual.list).toBeUndefined()
    expect(usual.charge).toEqual({ amount: "12.50", currency: "USD" })
    expect(outward(model, reportFields).cost).toEqual({ amount: "9.10", currency: "USD" })
    expect(outward(model, [])).toEqual({
      topic: "order.gone",
      orderNumber: "SO-1",
      trackingNumber: "LA1",
      packages: [{ trackingNumber: "LA1" }, { trackingNumber: "LA2" }],
    })
  })
  it("has lots only where they are chosen, by line as by package", () => {
    const plain = outward(model, ["lines", "contents"])
    expect(JSON.stringify(plain)).not.toContain("lot")
    expect(plain.lines).toEqual([{ sku: "YST", shipped: 5, cancelled: 1 }])
    expect(JSON.stringify(outward(model, ["lines", "lots"]))).toContain('"lots":[{"lot":"A","quantity":5}]')
  })
  it("has the names that its system has, wherever they stand", () => {
    const named = outward(model, ["sscc"], { orderNumber: "order_id", trackingNumber: "tracking", packages: "parcels" })
    expect(named).toEqual({
      topic: "order.gone",
      order_id: "SO-1",
      tracking: "LA1",
      parcels: [
        { tracking: "LA1", sscc: "376104250021234569" },
        { tracking: "LA2", sscc: null },
      ],
    })
    expect(outward(model, [], { constructor: "x" } as never).topic).toBe("order.gone")
  })
  it("is a row for each lot in each package, and its money stands once", () => {
    const rows = rowsOf(model)
    expect(rows.map((row) => [row.tracking, row.sku, row.quantity, row.lot, row.charge])).toEqual([
      ["LA1", "YST", 3, "A", "12.50"],
      ["LA1", "YST", 2, "B", ""],
      ["LA1", "HYD", 1, "", ""],
      ["LA2", "", null, "", ""],
    ])
    expect(rows[0]?.papers).toBe("invoice INV-7")
    expect(columnsOf([])).toEqual(["order_number", "topic", "tracking"])
    expect(columnsOf(["cost"])).toEqual(["order_number", "topic", "tracking", "cost", "currency"])
  })
})
