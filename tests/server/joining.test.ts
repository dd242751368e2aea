import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { Decimal } from "decimal.js"
import { changeAddress } from "server/decisions/address.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { saveRouting } from "server/decisions/customers.ts"
import { joinedNow, joinOffers, joinOrders, partOrder } from "server/decisions/join.ts"
import { closeCollection } from "server/dock/close.ts"
import { load } from "server/dock/load.ts"
import { summaryById } from "server/orders/facts.ts"
import { type Shipment, shipmentOf } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment, putIn } from "server/packing/index.ts"
import { type Warehouse, warehouseById } from "server/setup/warehouse.ts"
import { askVoid } from "server/shipping/void.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { newId, there } from "../../server/db/there.ts"
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
let warehouse: Warehouse
beforeAll(async () => {
  rig = await openRig()
  warehouse = await warehouseById(rig.db, 1)
})
afterAll(() => rig?.drop())

const idOf = async (number: string): Promise<number> => (await orderBySource(rig.db, number)).id
/** Two orders to one place: 4 and 2 flasks of yeast. */
async function two(name: string, more: Record<string, string> = {}): Promise<[number, number]> {
  const street = `${name.length + 3} ${name} Street`
  await takeFile(
    rig.context,
    row({ order_number: `${name}-1`, po_number: `${name}1`, street, promised_on: "2026-12-02" }),
    row({
      order_number: `${name}-2`,
      po_number: `${name}2`,
      street,
      quantity: "2",
      promised_on: "2026-11-30",
      ...more,
    }),
  )
  return [await idOf(`${name}-1`), await idOf(`${name}-2`)]
}
const stageOf = async (id: number) => (await summaryById(rig.db, warehouse, id))?.stage
const planOf = async (id: number) =>
  there(await rig.db("sales_order").where({ id }).first("collection_id", "planned_service_id", "joined_to_id"))

describe("orders of one ship-to", () => {
  it("are offered as one shipment with what it saves", async () => {
    const [a, b] = await two("Alder")
    const [offer, ...others] = await joinOffers(rig.context, 1)
    expect(others).toEqual([])
    expect(offer?.orders.map((one) => one.id)).toEqual([a, b])
    const { apart, together, saving } = offer as NonNullable<typeof offer>
    expect(saving.amount.toFixed(2)).toBe(new Decimal(apart.amount).sub(together.amount).toFixed(2))
    expect(saving.amount.gt(0)).toBe(true)
    // both are in one carton then: the freight together is that of one order, not of two
    expect(Number(together.amount)).toBeLessThan(Number(apart.amount) * 0.75)
  })

  it("are not offered when one is stopped, goes elsewhere, or its customer does not allow it", async () => {
    const count = async () => (await joinOffers(rig.context, 1)).length
    const before = await count()
    await two("Birch", { street: "Birch Street" })
    await two("Cedar", { city: "Boulder" })
    expect(await count()).toBe(before)
    const [, b] = await two("Dogwood")
    expect(await count()).toBe(before + 1)
    const customer = await nameCustomer("Dogwood Taproom", b)
    const { version } = there(await rig.db("customer").where({ id: customer }).first("version"))
    value(await saveRouting(as(rig.context, { role: "administrator" }), { id: customer, version }, { join: false }))
    expect(await count()).toBe(before)
    expect(codes(await joinOrders(rig.context, [await idOf("Dogwood-1"), b]))).toEqual(["combine.not-allowed"])
  })

  it("are one shipment once joined: planned by the earliest promise, picked apart, packed together", async () => {
    const [a, b] = await two("Elm")
    expect(value(await joinOrders(rig.context, [b, a]))).toEqual({
      lead: there(await rig.db("sales_order").where({ id: a }).first("order_number")).order_number,
    })
    // the same again changes nothing
    value(await joinOrders(rig.context, [a, b]))
    expect(await planOf(b)).toMatchObject({ joined_to_id: a })
    const plans = [await planOf(a), await planOf(b)] as const
    expect(plans[0].collection_id).toBe(plans[1].collection_id)
    expect(plans[0].planned_service_id).toBe(plans[1].planned_service_id)
    expect((await joinedNow(rig.db, 1)).find((one) => one.lead === a)?.orders.map((one) => one.id)).toEqual([a, b])

    await pickAll(rig.context, a)
    expect([await stageOf(a), await stageOf(b)]).toEqual(["picked", "released"])
    let shipment = value(await openShipment(rig.context, b))
    expect(shipment.orderId).toBe(a)
    expect(shipment.promisedOn).toBe("2026-11-30")
    expect(shipment.poNumber).toBe("Elm1, Elm2")
    expect(shipment.lines.map((line) => [line.letter, line.orderId, line.ordered])).toEqual([
      ["a", a, 4],
      ["b", b, 2],
    ])
    shipment = value(await addPackage(rig.context, b, "K12", true))
    // what is packed is the leading order's alone: the other one still is to be picked
    expect([await stageOf(a), await stageOf(b)]).toEqual(["packing", "released"])
    expect(codes(await closePackages(rig.context, a))).toEqual(["pack.line-open"])
    await pickAll(rig.context, b)
    expect(await stageOf(b)).toBe("picked")
    shipment = value(
      await putIn(rig.context, a, {
        package: shipment.packages[0]?.number as number,
        lineId: there(shipment.lines[1]).id,
        quantity: 2,
        scanned: true,
        scanId: randomUUID(),
      }),
    )
    expect(await stageOf(b)).toBe("packing")
    shipment = value(await closePackages(rig.context, b))
    expect([await stageOf(a), await stageOf(b)]).toEqual(["packed", "packed"])

    const { intentId } = await askForLabels(rig.context, b, shipment)
    expect(codes(await partOrder(rig.context, b))).toEqual(["order.labels-asked-for"])
    await workAll(rig.db)
    const bought = (await shipmentOf(rig.db, b)) as Shipment
    expect(bought.state).toBe("bought")
    expect([await stageOf(a), await stageOf(b)]).toEqual(["labelled", "labelled"])
    expect(await rig.db("sales_order").whereIn("id", [a, b]).whereNull("left_line_at")).toEqual([])
    // shares by weight: 4 and 2 of the same flask, and to the cent what the carrier charges
    const shares = await rig.db("order_freight").where({ intent_id: intentId }).orderBy("order_id")
    const contract = new Decimal(bought.contract as string)
    const first = contract.mul(4).div(6).toDecimalPlaces(2, Decimal.ROUND_HALF_UP)
    expect(shares.map((one) => [one.order_id, new Decimal(one.contract_amount).toFixed(2)])).toEqual([
      [a, first.toFixed(2)],
      [b, contract.sub(first).toFixed(2)],
    ])

    value(
      await load(
        rig.context,
        bought.collectionId as number,
        { sscc: bought.packages[0]?.sscc as string },
        randomUUID(),
      ),
    )
    value(await closeCollection(rig.context, bought.collectionId as number, 1))
    await workAll(rig.db)
    expect([await stageOf(a), await stageOf(b)]).toEqual(["gone", "gone"])
    // the demo's rule for all charges 12 % over our cost, shared alike
    const charged = contract.mul("1.12").toDecimalPlaces(2, Decimal.ROUND_HALF_UP)
    const firstCharged = charged.mul(4).div(6).toDecimalPlaces(2, Decimal.ROUND_HALF_UP)
    const told = (await (await fetch(`${rig.at.orderSource}/reports`)).json()) as {
      body: { orderNumber: string; trackingNumber: string; charge: { amount: string }; packages: unknown[] }
    }[]
    expect(
      told
        .filter((one) => one.body.orderNumber.startsWith("Elm-"))
        .map((one) => [
          one.body.orderNumber,
          one.body.trackingNumber,
          one.body.charge.amount,
          one.body.packages.length,
        ]),
    ).toEqual([
      ["Elm-1", bought.masterTracking, firstCharged.toFixed(2), 1],
      ["Elm-2", bought.masterTracking, charged.sub(firstCharged).toFixed(2), 1],
    ])
  })

  it("are parted again, and what was packed of the one that leaves comes out", async () => {
    const [a, b] = await two("Fir")
    value(await joinOrders(rig.context, [a, b]))
    await pickAll(rig.context, a)
    await pickAll(rig.context, b)
    value(await openShipment(rig.context, a))
    value(await addPackage(rig.context, a, "K12", true))
    value(await closePackages(rig.context, a))
    value(await partOrder(rig.context, b))
    value(await partOrder(rig.context, b))
    const left = (await shipmentOf(rig.db, a)) as Shipment
    expect(left.packages.map((one) => [one.state, one.contents.map((content) => content.quantity)])).toEqual([
      ["open", [4]],
    ])
    expect(await shipmentOf(rig.db, b)).toBeNull()
    expect([await stageOf(a), await stageOf(b)]).toEqual(["packing", "picked"])
  })

  it("are parted by themselves when one goes elsewhere or is cancelled; nothing of the others is lost", async () => {
    const [a, b] = await two("Gum")
    value(await joinOrders(rig.context, [a, b]))
    const order = there(await rig.db("sales_order").where({ id: b }).first())
    value(
      await changeAddress(rig.context, b, {
        version: order.version,
        company: order.company,
        attention: "",
        street: "99 Elsewhere Road",
        street2: "",
        city: order.city,
        state: order.state,
        postal_code: order.postal_code,
        country: "US",
        phone: "",
        address_kind: "business",
        kind_confirmed: undefined,
        incoterm: "",
        incoterm_place: "",
      }),
    )
    expect((await planOf(b)).joined_to_id).toBeNull()

    const [c, d] = await two("Hazel")
    value(await joinOrders(rig.context, [c, d]))
    value(await cancelByHand(as(rig.context, { role: "lead" }), c))
    expect([await stageOf(c), await stageOf(d)]).toEqual(["cancelled", "released"])
    expect((await planOf(d)).joined_to_id).toBeNull()
  })

  it("are joined by one place and terms only, and never when both are being packed", async () => {
    const [a] = await two("Ivy")
    const [c] = await two("Juniper")
    expect(codes(await joinOrders(rig.context, [a, c]))).toEqual(["combine.ship-to"])
    expect(codes(await joinOrders(rig.context, [a]))).toEqual(["combine.two"])
    const [e, f] = await two("Kapok")
    for (const id of [e, f]) {
      await pickAll(rig.context, id)
      value(await openShipment(rig.context, id))
      value(await addPackage(rig.context, id, "K12", true))
    }
    expect(codes(await joinOrders(rig.context, [e, f]))).toEqual(["combine.both-packed"])
    expect(codes(await joinOrders(as(rig.context, { warehouseId: 2 }), [e, f]))).toEqual(["order.unknown"])
  })

  it("come back to the line together when their labels are made void", async () => {
    const [a, b] = await two("Larch")
    value(await joinOrders(rig.context, [a, b]))
    await pickAll(rig.context, a)
    await pickAll(rig.context, b)
    value(await openShipment(rig.context, a))
    value(await addPackage(rig.context, a, "K12", true))
    await askForLabels(rig.context, a, value(await closePackages(rig.context, a)), "MDN")
    await workAll(rig.db)
    value(await askVoid(rig.context, b))
    await workAll(rig.db)
    expect([await stageOf(a), await stageOf(b)]).toEqual(["packed", "packed"])
    expect(await rig.db("sales_order").whereIn("id", [a, b]).whereNotNull("left_line_at")).toEqual([])
    value(await partOrder(rig.context, a))
    expect(await shipmentOf(rig.db, b)).toBeNull()
  })
})

/** A customer of our own for an order, so that its instruction touches no other. */
async function nameCustomer(name: string, orderId: OrderId): Promise<number> {
  const id = newId(await rig.db("customer").insert({ code: name.slice(0, 6).toUpperCase(), name }))
  await rig.db("sales_order").where({ id: orderId }).update({ customer_id: id })
  return id
}

it("joining and buying at the same moment: one of them finds what the other did, nothing is left between", async () => {
  for (const round of [1, 2, 3, 4]) {
    const [a, b] = await two(`Maple${"x".repeat(round)}`)
    await pickAll(rig.context, a)
    value(await openShipment(rig.context, a))
    value(await addPackage(rig.context, a, "K12", true))
    const shipment = value(await closePackages(rig.context, a))
    const [asked, joined] = await Promise.allSettled([
      askForLabels(rig.context, a, shipment),
      joinOrders(rig.context, [a, b]),
    ])
    const { joined_to_id } = await planOf(b)
    const bought = asked.status === "fulfilled"
    const together = joined.status === "fulfilled" && joined.value.ok
    expect(joined_to_id).toBe(together ? a : null)
    expect([bought, together].filter(Boolean)).toHaveLength(1)
    await workAll(rig.db)
    // what was bought is labeled and gone from the line, what was joined is on it whole
    expect(await stageOf(a)).toBe(bought ? "labelled" : "packed")
    expect(await stageOf(b)).toBe("released")
  }
})
