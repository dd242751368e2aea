import { randomUUID } from "node:crypto"
import { orderView } from "app/orders/orderView.server.ts"
import { closePool } from "server/compute/pool.ts"
import { chooseCollection } from "server/decisions/choose.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { openShipment } from "server/packing/index.ts"
import { applyRun, changeRow, makeRun, type RunRule, runById } from "server/ratingRuns/runs.ts"
import { openCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  openRig,
  orderBySource,
  packed,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  value,
  workAll,
  workOf,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(async () => {
  await rig.drop()
  await closePool()
})

const rated = async (ids: readonly number[], rule: RunRule = "cheapest", key: string = randomUUID()) => {
  const { id } = value(await makeRun(rig.context, ids, rule, key))
  await workAll(rig.db)
  return read(id)
}
const read = async (id: number) => {
  const run = await runById(rig.db, 1, id)
  if (!run) throw new Error("no run")
  return run
}
const idOf = async (number: string) => (await orderBySource(rig.db, number)).id as number

describe("a run of rating", () => {
  it("rates many orders in the background, and says of each what is proposed or why nothing is", async () => {
    await takeFile(
      rig.context,
      ...Array.from({ length: 95 }, (_, at) =>
        row({
          order_number: `B-${at}`,
          quantity: String(1 + (at % 4)),
          promised_on: at % 2 === 0 ? "2026-12-02" : "2026-11-25",
        }),
      ),
    )
    const ids = await Promise.all(Array.from({ length: 95 }, (_, at) => idOf(`B-${at}`)))
    const bought = await readyToBuy(rig.context, "B-bought")
    await askForLabels(rig.context, bought.orderId, bought.shipment)
    const key = randomUUID()
    const { id } = value(await makeRun(rig.context, [...ids, bought.orderId], "cheapest", key))
    expect(value(await makeRun(rig.context, ids, "cheapest", key)).id).toBe(id)
    expect((await read(id)).totals).toMatchObject({ orders: 96, waiting: 96, rated: 0 })
    expect(codes(await applyRun(rig.context, id))).toEqual(["run.not-done"])
    await workAll(rig.db)
    const run = await read(id)
    expect([run.state, run.totals.rated, run.totals.refused, run.totals.waiting]).toEqual(["done", 95, 1, 0])
    expect(run.rows.find((one) => one.orderId === bought.orderId)?.reasons.map((why) => why.code)).toEqual([
      "order.labels-asked-for",
    ])
    for (const one of run.rows.filter((each) => each.state === "rated")) {
      const chosen = one.offers.find((offer) => offer.code === one.chosen)
      const inTime = one.offers.filter((offer) => !offer.late)
      const least = Math.min(...(inTime.length > 0 ? inTime : one.offers).map((offer) => Number(offer.contract)))
      expect(Number(chosen?.contract)).toBe(least)
    }
    const sum = run.rows.flatMap((one) => one.offers.filter((offer) => offer.code === one.chosen))
    expect(Math.round(Number(run.totals.cost) * 100)).toBe(
      sum.reduce((all, one) => all + Math.round(Number(one.contract) * 100), 0),
    )
  })

  it("rates packages that are there as the bench does, to the cent", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "R-packed")
    const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    const [one] = (await rated([orderId])).rows
    expect(one?.offers.map((offer) => [offer.code, offer.contract, offer.arrives])).toEqual(
      offers.flatMap((offer) =>
        offer.rate
          ? [
              [
                offer.service.code,
                offer.rate.contract.amount.toFixed(2),
                `${offer.rate.arrival.date} ${offer.rate.arrival.time}`,
              ],
            ]
          : [],
      ),
    )
  })

  it("proposes by its rule", async () => {
    await takeFile(rig.context, row({ order_number: "R-1", promised_on: "2026-12-02" }))
    const id = await idOf("R-1")
    const [cheapest] = (await rated([id], "cheapest")).rows
    const [fastest] = (await rated([id], "fastest")).rows
    const arrival = (one: typeof cheapest) => one?.offers.find((offer) => offer.code === one.chosen)?.arrives ?? ""
    expect(arrival(fastest) < arrival(cheapest)).toBe(true)
    expect(fastest?.offers.every((offer) => (offer.arrives ?? "") >= arrival(fastest))).toBe(true)
  })

  it("lets one be changed singly, once, and sets the services on the orders", async () => {
    await takeFile(rig.context, row({ order_number: "R-2" }), row({ order_number: "R-3" }))
    const ids = [await idOf("R-2"), await idOf("R-3")]
    const run = await rated(ids)
    const [first] = run.rows
    if (!first) throw new Error("no row")
    const other = first.offers.find((one) => one.code !== first.chosen)?.code as string
    value(await changeRow(rig.context, run.id, first.orderId, other, first.version))
    value(await changeRow(rig.context, run.id, first.orderId, other, first.version))
    expect(codes(await changeRow(rig.context, run.id, first.orderId, first.chosen as string, first.version))).toEqual([
      "order.changed-meanwhile",
    ])
    expect(codes(await changeRow(rig.context, run.id, first.orderId, "NONE", first.version + 1))).toEqual([
      "run.cannot",
    ])
    await expect(makeRun(as(rig.context, { role: "sales" }), ids, "cheapest", randomUUID())).rejects.toThrow(
      "shipping.buy",
    )
    expect(value(await applyRun(rig.context, run.id)).changed).toBe(2)
    expect(value(await applyRun(rig.context, run.id)).changed).toBe(0)
    const service = there(await rig.db("service").where({ code: other }).first("id"))
    expect(
      there(await rig.db("sales_order").where({ id: first.orderId }).first("chosen_service_id")).chosen_service_id,
    ).toBe(service.id)
    // it is what the bench proposes
    expect(value(await openShipment(rig.context, first.orderId)).chosenServiceId).toBe(service.id)
  })

  it("what it sets is what run, order page, plan and bench all say, before packing and after; and a truck keeps it", async () => {
    await takeFile(rig.context, row({ order_number: "R-5", promised_on: "" }))
    const id = await idOf("R-5")
    const { order_number: number } = there(await rig.db("sales_order").where({ id }).first("order_number"))
    const run = await rated([id])
    const [first] = run.rows
    const other = first?.offers.find((one) => one.code === "MDS")?.code ?? ""
    value(await changeRow(rig.context, run.id, id, other, first?.version ?? 0))
    value(await applyRun(rig.context, run.id))
    const work = await workOf(rig.context)
    const service = there(await rig.db("service").where({ code: "MDS" }).first("id", "name"))
    const everywhere = async () => {
      const page = await orderView(work, number)
      const shipment = await shipmentOf(rig.db, id)
      const offered = shipment?.packages.length
        ? (await offersFor(rig.db, work.warehouse, shipment, work.now)).preselected?.service.name
        : service.name
      const order = there(await rig.db("sales_order").where({ id }).first("planned_service_id"))
      const again = (await rated([id], "settled")).rows[0]?.chosen
      return [page?.plan?.service, page?.plan?.by, offered, order.planned_service_id, again]
    }
    const answer = [service.name, "chosen", service.name, service.id, "MDS"]
    expect(await everywhere()).toEqual(answer)
    const truck = (await openCollections(rig.db, 1, work.now)).find(
      (one) => one.services.includes("MDS") && one.onDate > "2026-11-24",
    )
    value(
      await rig.db.transaction((trx) =>
        chooseCollection(trx, rig.context, id, { collection: truck?.id ?? 0, service: null }),
      ),
    )
    expect(await everywhere()).toEqual(answer)
    await packed(rig.context, "R-5")
    expect(await everywhere()).toEqual(answer)
  })

  it("is refused without orders, and of another warehouse's knows nothing", async () => {
    expect(codes(await makeRun(rig.context, [], "cheapest", randomUUID()))).toEqual(["run.none"])
    const elsewhere = as(rig.context, { warehouseId: 2 })
    expect(codes(await makeRun(elsewhere, [await idOf("R-1")], "cheapest", randomUUID()))).toEqual(["run.none"])
    expect(codes(await applyRun(elsewhere, 1))).toEqual(["run.gone"])
  })
})
