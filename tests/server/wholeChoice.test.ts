import type { OrderId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import { otherStandings, type PackLoad, suggestPacking } from "core/packing/index.ts"
import { massIn } from "core/units/index.ts"
import { compute } from "server/compute/pool.ts"
import { joinedNow, joinOffers, joinOrders, partOrder } from "server/decisions/join.ts"
import { type Shipment, shipmentOf } from "server/packages/shipment.ts"
import { palletType } from "server/packaging/catalog.ts"
import { closePackages, openShipment, palletise } from "server/packing/index.ts"
import { packSuggested, suggestionInput } from "server/packing/suggestion.ts"
import { costOf } from "server/rating/offers.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { box, load } from "../packing/samples.ts"
import { openRig, orderBySource, pickAll, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const rated = async (shipment: Shipment) => offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)

/** Packs an order as the bench suggests it, and closes it. */
async function asSuggested(orderId: OrderId): Promise<Shipment> {
  const opened = value(await openShipment(rig.context, orderId))
  const found = value(await compute("suggest", await suggestionInput(rig.db, opened)))
  const boxes = found.boxes.map((box) => ({ code: box.code, placed: box.placed.map((place) => ({ ...place })) }))
  value(await packSuggested(rig.context, orderId, boxes, true, crypto.randomUUID()))
  return value(await closePackages(rig.context, orderId))
}

describe("the service that is proposed", () => {
  it.each([2, 6, 12, 20])("is the cheapest in time of all ways, loose or on a pallet: %d sacks", async (sacks) => {
    const number = `WC-${sacks}`
    // 50.4 lb a sack
    await takeFile(
      rig.context,
      row({ order_number: number, sku: "MALT-PIL-50", quantity: String(sacks), promised_on: "2026-12-08" }),
    )
    const { id } = await orderBySource(rig.db, number)
    await pickAll(rig.context, id)
    const { offers, preselected } = await rated(await asSuggested(id))
    const inTime = offers.filter((one) => one.rate && !one.late && !one.down && !one.short)
    expect(new Set(inTime.map((one) => one.needs)).size).toBe(2)
    const least = inTime.reduce(
      (best, one) => (one.rate && costOf(one.rate).lt(best) ? costOf(one.rate) : best),
      costOf(inTime[0]?.rate as never),
    )
    expect(preselected?.rate && costOf(preselected.rate).toFixed(2)).toBe(least.toFixed(2))
  })
})

describe("the suggested packing", () => {
  it("keeps the limits of the service that was chosen, and costs no more by it than fuller cartons", async () => {
    const limit = async (code: string) => {
      const { id } = there(await rig.db("service").where({ code }).first("id"))
      await takeFile(rig.context, row({ order_number: `WL-${code}`, sku: "MALT-PIL-50", quantity: "6" }))
      const order = await orderBySource(rig.db, `WL-${code}`)
      await pickAll(rig.context, order.id)
      await rig.db("sales_order").where({ id: order.id }).update({ chosen_service_id: id, chosen_ship_on: null })
      const input = await suggestionInput(rig.db, value(await openShipment(rig.context, order.id)))
      const found = value(await compute("suggest", input))
      const boxes = found.boxes.map((box) => ({ code: box.code, placed: box.placed.map((place) => ({ ...place })) }))
      const packed = value(await packSuggested(rig.context, order.id, boxes, true, crypto.randomUUID()))
      const weights = packed.packages.map((one) => massIn(one.actual, "lb").toNumber())
      return { weights, cost: found.cost, input }
    }
    // 70 lb a package: one sack of 50.4 lb in each
    const home = await limit("LKH")
    expect(home.weights).toHaveLength(6)
    expect(Math.max(...home.weights)).toBeLessThanOrEqual(70)
    // 150 lb: two sacks in each would do, and three such cartons cost more than six light ones
    const ground = await limit("LKG")
    expect(Math.max(...ground.weights)).toBeLessThanOrEqual(150)
    const pairs = value(await compute("suggest", { ...ground.input, aim: "fewest" }))
    expect(pairs.boxes).toHaveLength(3)
    expect(ground.cost?.total).toBeLessThanOrEqual(pairs.cost?.total ?? 0)
    // a Saturday service of 50 lb takes no sack at all: the cartons are packed all the same
    expect((await limit("MDW")).weights.length).toBeGreaterThan(0)
  })
})

describe("on a pallet", () => {
  it("goods cost before they are packed what they cost when they stand there, in a class of their own", async () => {
    await rig.db("item").where({ sku: "BUN-10" }).update({ freight_class: "500" })
    await takeFile(
      rig.context,
      row({ order_number: "WP-2", sku: "MALT-PIL-50", quantity: "3", promised_on: "2026-12-11" }),
      row({ order_number: "WP-1", sku: "BUN-10", quantity: "60", promised_on: "2026-12-11" }),
    )
    const { id } = await orderBySource(rig.db, "WP-1")
    await pickAll(rig.context, id)
    const input = await suggestionInput(rig.db, value(await openShipment(rig.context, id)))
    const made = value(suggestPacking(input))
    // one carton that costs less as a parcel is not told of, unless it can't go as one
    expect(otherStandings(input, [made])).toEqual([])
    const standing = there(otherStandings(input, [{ ...made, cost: null }])[0])
    expect([standing.kind, standing.loose]).toEqual(["pallet", 0])
    const boxes = made.boxes.map((box) => ({ code: box.code, placed: box.placed.map((place) => ({ ...place })) }))
    value(await packSuggested(rig.context, id, boxes, true, crypto.randomUUID()))
    const cheapest = async (needs: "pallet" | null) => {
      const { offers } = await rated(there(await shipmentOf(rig.db, id)))
      const inTime = offers.filter(
        (one) => one.price && !one.late && one.needs === needs && one.terms?.goods.handling === "pallet",
      )
      return Math.min(...inTime.map((one) => costOf(there(one.price)).toNumber()))
    }
    // loose in cartons, with what the pallet would cost
    expect(await cheapest("pallet")).toBeCloseTo(standing.sent, 6)
    value(await palletise(rig.context, id, there(await palletType(rig.db)).code))
    expect(await cheapest(null)).toBeCloseTo(standing.sent, 6)
    // handling of cartons and pallets, and cartons
    const { handling = 0 } = input
    const cartons = made.boxes.reduce(
      (sum, { code }) => sum + (input.boxes.find((box) => box.code === code)?.cost ?? 0),
      0,
    )
    expect(standing.total).toBeCloseTo(standing.sent + (made.boxes.length + standing.pallets) * handling + cartons, 6)
    // what stands on one is nothing to be chosen any more
    expect((await suggestionInput(rig.db, there(await shipmentOf(rig.db, id)))).freight).toBeUndefined()
  })
  it("some of them, as two shipments: what no parcel takes on the pallet, what is too long for it by itself", async () => {
    const { id } = await orderBySource(rig.db, "WP-2")
    const known = await suggestionInput(rig.db, value(await openShipment(rig.context, id)))
    const heavy = load("1", [400, 400, 400], { weight: 80 })
    const long = load("2", [1_900, 100, 100], { weight: 2 })
    const boxes = [
      box("H", [410, 410, 410], { maxLoad: 100, cost: 2 }),
      box("L", [1_910, 110, 110], { maxLoad: 20, cost: 3 }),
    ]
    const packed = (...loads: PackLoad[]) => {
      const input = { ...known, loads, boxes }
      const made = value(suggestPacking(input))
      return { made, standings: otherStandings(input, [made]) }
    }
    const both = packed(heavy, long)
    expect([both.made.boxes.length, both.made.cost]).toEqual([2, null])
    const alone = { heavy: there(packed(heavy).standings[0]), long: there(packed(long).made.cost) }
    const [mix, ...more] = both.standings
    expect([mix?.kind, mix?.pallets, mix?.loose, mix?.services.length, more]).toEqual(["mix", 1, 1, 2, []])
    expect(mix?.sent).toBeCloseTo(alone.heavy.sent + alone.long.sent, 6)
    // two cartons and a pallet are handled, and two cartons are used
    expect(mix?.total).toBeCloseTo(alone.heavy.sent + alone.long.sent + 3 * (known.handling ?? 0) + 5, 6)
  })
})

describe("an offer to join", () => {
  it("costs at the bench what it was offered for, apart as well, and is told beside what it costs then", async () => {
    const place = { street: "5 Cooper Row", sku: "MALT-PIL-50", promised_on: "2026-12-08" }
    await takeFile(
      rig.context,
      row({ order_number: "WJ-1", po_number: "WJ1", quantity: "2", ...place }),
      row({ order_number: "WJ-2", po_number: "WJ2", quantity: "3", ...place }),
    )
    const [a, b] = [(await orderBySource(rig.db, "WJ-1")).id, (await orderBySource(rig.db, "WJ-2")).id]
    const offer = (await joinOffers(rig.context, 1, a))[0]
    if (!offer) throw new Error("nothing is offered")
    value(await joinOrders(rig.context, [a, b]))
    const [kept] = (await joinedNow(rig.db, 1)).filter((one) => one.lead === a)
    expect(kept?.joinedFor).toEqual({ apart: offer.apart, together: offer.together })
    for (const id of [a, b]) await pickAll(rig.context, id)
    const joined = await rated(await asSuggested(a))
    expect(joined.preselected?.rate && moneyText(joined.preselected.rate.contract)).toEqual(offer.together)
    value(await partOrder(rig.context, b))
    expect(await joinedNow(rig.db, 1)).toEqual([])
    expect(there(await rig.db("sales_order").where({ id: a }).first("joined_for")).joined_for).toBeNull()
    let apart = 0
    for (const id of [a, b]) {
      const there = await shipmentOf(rig.db, id)
      if (there) await rig.db("package").where({ shipment_id: there.id }).update({ state: "void" })
      const alone = await rated(await asSuggested(id))
      apart += Number(alone.preselected?.rate?.contract.amount)
    }
    expect(apart.toFixed(2)).toBe(Number(offer.apart.amount).toFixed(2))
  })
})

describe("what was estimated", () => {
  it.each([
    ["a few yeast bricks", [["YST-ALE-500", "6"]]],
    [
      "two sacks and instruments",
      [
        ["MALT-PIL-50", "2"],
        ["PH-METER", "3"],
        ["HYD-TRI", "4"],
      ],
    ],
    [
      "hops by the foil",
      [
        ["HOP-CAS-1", "24"],
        ["HOP-SAA-5", "3"],
      ],
    ],
  ] as const)("is what the bench suggests: %s", async (name, lines) => {
    const number = `ES-${name.length}`
    await takeFile(
      rig.context,
      ...lines.map(([sku, quantity]) => row({ order_number: number, sku, quantity, promised_on: "2026-12-04" })),
    )
    const order = await orderBySource(rig.db, number)
    const planned = there(
      await rig.db("sales_order").where({ id: order.id }).first("planned_packages", "planned_service_id"),
    )
    await pickAll(rig.context, order.id)
    const found = value(
      await compute("suggest", await suggestionInput(rig.db, value(await openShipment(rig.context, order.id)))),
    )
    expect(found.boxes).toHaveLength(planned.planned_packages)
    const service = there(
      await rig
        .db("service")
        .where("id", planned.planned_service_id ?? 0)
        .first("code"),
    )
    expect(found.cost?.service).toBe(service.code)
  })
})
