import { money } from "core/money/index.ts"
import type { Content } from "core/packing/index.ts"
import { mass, size } from "core/units/index.ts"
import { receiptForm, receive } from "server/decisions/stock.ts"
import { waive } from "server/decisions/waive.ts"
import { currentStops } from "server/orders/stops.ts"
import { packagingTypes } from "server/packaging/catalog.ts"
import { estimated, mostRated } from "server/plan/estimate.ts"
import { quoteAsked } from "server/quotes/asked.ts"
import { makeQuote } from "server/quotes/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { codes, openRig, orderBySource, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const stops = async (number: string) =>
  (await currentStops(rig.db, (await orderBySource(rig.db, number)).id)).map((one) => one.code)

describe("a quantity that nobody orders", () => {
  it("of 20 000 and of 999 999 is taken in, planned and asked about; the orders beside it go on", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "Q-1", quantity: "20000" }),
      row({ order_number: "Q-2", quantity: "4" }),
      row({ order_number: "Q-3", quantity: "999999" }),
      row({ order_number: "Q-4", sku: "KEG-50", quantity: "20000" }),
    )
    expect(await stops("Q-1")).toContain("stop.quantity-stock")
    expect(await stops("Q-2")).toEqual([])
    expect(await stops("Q-3")).toContain("stop.quantity-stock")
    const planned = await rig
      .db("sales_order")
      .where("source_number", "like", "Q-%")
      .orderBy("source_number")
      .pluck("planned_packages")
    expect(planned[1]).toBe(1)
    expect(planned[0]).toBeGreaterThan(50)
  })
  it("is right when somebody says so, and that holds for this quantity alone", async () => {
    const { id } = await orderBySource(rig.db, "Q-1")
    value(await waive(rig.context, id, "stop.quantity-stock"))
    expect(await stops("Q-1")).not.toContain("stop.quantity-stock")
    await takeFile(rig.context, row({ order_number: "Q-1", quantity: "20001" }))
    expect(await stops("Q-1")).toContain("stop.quantity-stock")
  })
  it("is told by what was ordered before, of others and not of itself", async () => {
    const sku = "PH-METER"
    const key = () => crypto.randomUUID()
    const receipt = receiptForm.parse({ key: key(), bin: "A-01-1", sku, quantity: 5_000, released: "on" })
    value(await receive(rig.context, receipt))
    const many = Array.from({ length: 20 }, (_, n) =>
      row({ order_number: `H-${n}`, sku, quantity: String(1 + (n % 6)) }),
    )
    await takeFile(rig.context, ...many)
    // the largest so far is 6: ten times that is nothing unusual, one more is
    await takeFile(rig.context, row({ order_number: "H-60", sku, quantity: "60" }))
    expect(await stops("H-60")).toEqual([])
    await takeFile(rig.context, row({ order_number: "H-601", sku, quantity: "601" }))
    expect(await stops("H-601")).toEqual(["stop.quantity-history"])
    // an unusual one that nobody confirmed does not make the next usual
    await takeFile(rig.context, row({ order_number: "H-602", sku, quantity: "700" }))
    expect(await stops("H-602")).toEqual(["stop.quantity-history"])
  })
  it("is quoted by hand: no tariff prices it", async () => {
    const asked = quoteAsked.parse({
      shipTo: { street: "1 Any Street", city: "Denver", state: "CO", postalCode: "80205", kind: "business" },
      lines: [{ sku: "yst-ale-500", quantity: 99_999 }],
    })
    expect(codes(await makeQuote(rig.context, { asked }, "much"))).toEqual(["quote.too-many"])
    const packages = Array.from({ length: 60 }, () => ({
      count: 200,
      weight: "22",
      length: "20",
      width: "15",
      height: "13",
    }))
    expect(
      codes(await makeQuote(rig.context, { asked: quoteAsked.parse({ ...asked, lines: [], packages }) }, "m2")),
    ).toEqual(["quote.too-many"])
  })
})

describe("the estimate of packages", () => {
  const piece = (quantity: number, edge = 10, pounds = 2): Content => ({
    line: "a",
    quantity,
    item: {
      sku: "X",
      unitWeight: mass(pounds, "lb"),
      unitSize: size(edge, edge, edge, "in"),
      freightOnly: false,
      value: money("1", "USD"),
    } as unknown as Content["item"],
  })
  it("goes on over the number where it becomes arithmetic: one carton more is no pallet less, and at most one more", async () => {
    const types = await packagingTypes(rig.db)
    const cartons = (quantity: number) => estimated(types, [piece(quantity)], "K12")
    // the most pieces that still go in as many cartons as are set one by one, by halving
    let [most, over] = [1, 100_000]
    while (over - most > 1) {
      const middle = (most + over) >> 1
      if (cartons(middle).standing === "loose") most = middle
      else over = middle
    }
    const [before, after] = [cartons(most), cartons(most + 1)]
    expect([before.standing, before.parcels.length]).toEqual(["loose", mostRated])
    expect(after.standing).toBe("pallet")
    expect([0, 1]).toContain(after.packages - before.pallets.length)
    // ten times the goods are ten times the full pallets, give or take the last of each
    const tenfold = cartons(10 * (most + 1)).packages
    expect(Math.abs(tenfold - 10 * after.packages)).toBeLessThanOrEqual(10)
    expect(tenfold).toBeGreaterThan(9 * (after.packages - 1))
  })
  it("lists no more than are rated, and says how many there are", async () => {
    const types = await packagingTypes(rig.db)
    const heavy = estimated(types, [piece(20_000, 30, 400)], undefined)
    expect([heavy.pallets.length, heavy.packages, heavy.standing]).toEqual([mostRated, 20_000, "pallet"])
    expect(estimated(types, [], undefined)).toMatchObject({ parcels: [], packages: 0 })
  })
})
