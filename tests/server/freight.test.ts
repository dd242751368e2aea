import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { mass, massIn, size } from "core/units/index.ts"
import { load } from "server/dock/load.ts"
import { packagesOf } from "server/dock/packages.ts"
import { summaryById } from "server/orders/facts.ts"
import { type Shipment, shipmentOf } from "server/packages/shipment.ts"
import {
  addPackage,
  closePackages,
  openShipment,
  palletise,
  putIn,
  reopenPackages,
  resize,
  standOn,
  takeApart,
  weigh,
} from "server/packing/index.ts"
import { collectionsOn } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { askFor } from "server/shipping/wishes.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import {
  askForLabels,
  carrierAt,
  closeDoor,
  codes,
  ledger,
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

const offers = async (shipment: Shipment) =>
  (await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)).offers
const numbers = (shipment: Shipment) => shipment.packages.map((one) => [one.number, one.kind, one.on])

/** Malt: 50.4 lb a sack, two sacks in each of so many sack cartons. */
async function cartons(number: string, count: number): Promise<{ orderId: OrderId; shipment: Shipment }> {
  const { context, db } = rig
  await takeFile(context, row({ order_number: number, sku: "MALT-PIL-50", quantity: String(count * 2) }))
  const orderId = (await orderBySource(db, number)).id
  await pickAll(context, orderId)
  let shipment = value(await openShipment(context, orderId))
  for (let at = 1; at <= count; at += 1) {
    value(await addPackage(context, orderId, "K14"))
    const lineId = shipment.lines[0]?.id as number
    shipment = value(
      await putIn(context, orderId, { package: at, lineId, quantity: 2, scanned: true, scanId: randomUUID() }),
    )
  }
  return { orderId, shipment }
}

describe("parcel and freight beside one another", () => {
  it("rates loose cartons as parcels, and as freight on a pallet that is not built yet", async () => {
    const { orderId, shipment } = await cartons("F-1", 4)
    const all = await offers(shipment)
    const of = (code: string) => all.find((one) => one.service.code === code)
    expect([of("LKG")?.needs, of("IBS")?.needs]).toEqual([null, "pallet"])
    // four pieces of 104 lb, priced together by the hundredweight at 416 lb
    expect(of("LKG")?.rate?.paid.map((one) => [one.package, one.weight.toString()])).toEqual([[null, "416"]])
    expect(of("LKG")?.rate?.packages).toHaveLength(4)
    // four cartons of 103.9 lb and a pallet of 42 lb: 4 × (2 × 50.4 + 3.1) + 42 = 457.6 lb, rounded up
    expect(of("IBS")?.rate?.paid.map((one) => one.weight.toString())).toEqual(["458"])
    value(await closePackages(rig.context, orderId))
    const closed = (await shipmentOf(rig.db, orderId)) as Shipment
    const answer = await buy(rig.context, orderId, {
      version: closed.version,
      serviceCode: "IBS",
      expected: { amount: of("IBS")?.rate?.contract.amount.toFixed(2) ?? "", currency: "USD" },
    })
    expect(codes(answer)).toEqual(["buy.build-pallet"])
  })

  it("builds the pallet, measures it, buys it once, prints label and bill of lading, and is loaded as one", async () => {
    const { context, db } = rig
    const { orderId } = await cartons("F-2", 4)
    let shipment = value(await palletise(context, orderId, "P10"))
    expect(numbers(shipment)).toEqual([
      [1, "carton", 5],
      [2, "carton", 5],
      [3, "carton", 5],
      [4, "carton", 5],
      [5, "pallet", null],
    ])
    const pallet = () => shipment.packages.find((one) => one.number === 5) as Shipment["packages"][number]
    expect(massIn(pallet().calculated, "lb").toNumber()).toBeCloseTo(457.6, 6)
    shipment = value(await weigh(context, orderId, 5, mass(460, "lb")))
    shipment = value(await resize(context, orderId, 5, size(48, 40, 50, "in")))
    value(await askFor(context, orderId, { options: ["liftgate"] }, randomUUID()))
    shipment = value(await closePackages(context, orderId))
    expect(new Set(shipment.packages.map((one) => one.sscc)).size).toBe(5)
    const offer = (await offers(shipment)).find((one) => one.service.code === "IBS")
    // 460 lb in 55.56 ft³: 8.28 lb/ft³, class 100
    expect(offer?.rate?.paid.map((one) => [one.weight.toString(), one.freightClass])).toEqual([["460", "100"]])
    expect(offer?.rate?.charges.map((one) => one.code)).toEqual(["base", "liftgate", "fuel"])

    await askForLabels(context, orderId, shipment, "IBS")
    await workAll(db)
    shipment = (await shipmentOf(db, orderId)) as Shipment
    expect(shipment.packages.map((one) => [one.state, one.tracking !== null])).toEqual([
      ["labelled", false],
      ["labelled", false],
      ["labelled", false],
      ["labelled", false],
      ["labelled", true],
    ])
    const entries = (await ledger(carrierAt(rig, "IRON"))).filter((one) => one.reference === shipment.orderNumber)
    expect(entries.map((one) => [one.state, one.packages.length])).toEqual([["booked", 1]])
    const papers = await db("document as d")
      .join("print_job as p", "p.document_id", "d.id")
      .where({ order_id: orderId })
      .orderBy("d.id")
      .select("d.kind", "p.copies", "p.state")
    expect(papers).toEqual([
      { kind: "label", copies: 1, state: "printed" },
      { kind: "bill-of-lading", copies: 3, state: "printed" },
      { kind: "pallet-label", copies: 2, state: "printed" },
    ])

    const now = context.now
    const warehouse = await warehouseById(db, 1)
    const door = (await collectionsOn(db, 1, "2026-11-24")).find((one) => one.door === "5")
    const id = door?.id as number
    const carton = await load(context, id, { orderNumber: shipment.orderNumber, number: 2 }, randomUUID())
    expect(codes(carton)).toEqual(["dock.on-pallet"])
    value(await load(context, id, { orderNumber: shipment.orderNumber, number: 5 }, randomUUID()))
    expect((await packagesOf(db, [id])).get(id)?.map((one) => [one.name, massIn(one.weight, "lb").toFixed(1)])).toEqual(
      [[`${shipment.orderNumber}-5`, "460.0"]],
    )
    await closeDoor({ ...context, now }, id, 1)
    expect((await summaryById(db, warehouse, orderId))?.stage).toBe("gone")
  })

  it("can take cartons off, set them on again, and take the pallet apart", async () => {
    const { context } = rig
    const { orderId } = await cartons("F-3", 3)
    let shipment = value(await palletise(context, orderId, "P10"))
    shipment = value(await standOn(context, orderId, 1, null))
    expect(numbers(shipment)).toContainEqual([1, "carton", null])
    expect(codes(await standOn(context, orderId, 4, 4))).toEqual(["pallet.on-pallet"])
    expect(codes(await standOn(context, orderId, 1, 2))).toEqual(["pallet.no-pallet"])
    shipment = value(await standOn(context, orderId, 1, 4))
    expect(numbers(shipment)).toContainEqual([1, "carton", 4])
    value(await closePackages(context, orderId))
    expect(codes(await standOn(context, orderId, 1, null))).toEqual(["pack.package-closed"])
    const parcel = (await offers((await shipmentOf(rig.db, orderId)) as Shipment)).find(
      (one) => one.service.code === "LKG",
    )
    expect(parcel?.needs).toBe("loose")
    shipment = value(await takeApart(context, orderId))
    expect(numbers(shipment)).toEqual([
      [1, "carton", null],
      [2, "carton", null],
      [3, "carton", null],
    ])
    expect(codes(await reopenPackages(context, orderId))).toEqual([])
  })

  it("sends goods that no parcel takes right on a pallet", async () => {
    const { context, db } = rig
    await takeFile(context, row({ order_number: "F-4", sku: "TANK-105", quantity: "1" }))
    const orderId = (await orderBySource(db, "F-4")).id
    await pickAll(context, orderId)
    value(await openShipment(context, orderId))
    let shipment = value(await addPackage(context, orderId, "P10", true))
    // the tank is 44 × 36 × 80 in on a deck of 5.5 in; 186 lb and the pallet's 42 lb
    const [one] = shipment.packages
    expect(massIn(one?.calculated as ReturnType<typeof mass>, "lb").toNumber()).toBeCloseTo(228, 6)
    expect(one?.outer.height.div("25.4").toString()).toBe("85.5")
    shipment = value(await closePackages(context, orderId))
    const all = await offers(shipment)
    expect(all.find((offer) => offer.service.code === "LKG")?.refusals.map((why) => why.code)).toEqual(["rate.pallet"])
    expect(all.find((offer) => offer.service.code === "IBS")?.rate).not.toBeNull()
    expect(all.filter((offer) => offer.needs !== null && offer.rate !== null)).toEqual([])
  })
})
