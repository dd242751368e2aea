import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { mass } from "core/units/index.ts"
import { type Shipment, shipmentOf } from "server/packages/shipment.ts"
import { addPackage, openShipment, putIn, weigh } from "server/packing/index.ts"
import { fillPlanned } from "server/packing/suggestion.ts"
import { importDeliveries, onTimeBy } from "server/rating/onTime.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { repack } from "server/shipping/otherwise.ts"
import { variantsOf } from "server/shipping/variants.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  openRig,
  orderBySource,
  packed,
  pickAll,
  type Rig,
  readyToBuy,
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

const rated = async (shipment: Shipment) => offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
const variants = async (orderId: OrderId) => {
  const shipment = (await shipmentOf(rig.db, orderId)) as Shipment
  return variantsOf(rig.context, await rated(shipment), shipment)
}
const least = (offers: Awaited<ReturnType<typeof rated>>["offers"], needs: boolean) =>
  Math.min(
    ...offers.flatMap((one) => (one.rate && (one.needs !== null) === needs ? [Number(one.rate.contract.amount)] : [])),
  )

describe("other ways to send the same goods", () => {
  it("as it stands and on a pallet cost what the comparison says at its cheapest", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "VA-1")
    const { offers } = await rated(shipment)
    const found = await variants(orderId)
    expect(found.slice(0, 2).map((one) => [one.kind, Number(one.cost)])).toEqual([
      ["as-packed", least(offers, false)],
      ["pallet", least(offers, true)],
    ])
    // four bricks in the largest carton go for less in the one that the bench suggests
    const [, , otherwise] = found
    expect(otherwise?.kind).toBe("otherwise")
    expect(Number(otherwise?.cost)).toBeLessThanOrEqual(least(offers, false) - 1)
    // what weighs four times as much may not be promised for less by what it should weigh
    value(await weigh(rig.context, orderId, 1, mass("31.5", "lb")))
    expect((await variants(orderId)).map((one) => one.kind)).not.toContain("otherwise")
  })

  it("packed otherwise costs what it then costs at the bench, and nothing is offered then", async () => {
    const { orderId } = await readyToBuy(rig.context, "VA-9", row({ order_number: "VA-9", street: "9 Other Way" }))
    const offered = (await variants(orderId)).find((one) => one.kind === "otherwise")
    const key = randomUUID()
    value(await repack(rig.context, orderId, key))
    value(await repack(rig.context, orderId, key))
    const filled = value(await fillPlanned(rig.context, orderId))
    expect(filled.lines.every((line) => line.packed === line.picked)).toBe(true)
    expect((await rated(filled)).preselected?.rate?.contract.amount.toFixed(2)).toBe(offered?.cost)
    expect((await variants(orderId)).some((one) => one.kind === "otherwise")).toBe(false)
  })

  it("joined with another order for the same place cost what both cost together, less the other by itself", async () => {
    const place = { street: "77 Joined Way", postal_code: "80205", promised_on: "" }
    await takeFile(rig.context, row({ order_number: "VA-2", ...place }), row({ order_number: "VA-3", ...place }))
    const [one, two] = [await packed(rig.context, "VA-2"), await packed(rig.context, "VA-3")]
    const found = (await variants(one.orderId)).find((each) => each.kind === "joined")
    expect(found?.other).toBe((await orderBySource(rig.db, "VA-3")).order_number)
    // the same two cartons as one shipment
    const both = {
      ...one.shipment,
      packages: [
        ...one.shipment.packages,
        ...two.shipment.packages.map((pack) => ({
          ...pack,
          number: pack.number + 1,
          lineIds: one.shipment.packages[0]?.lineIds ?? [],
        })),
      ],
    }
    const together = least((await rated(both)).offers, false)
    const alone = least((await rated(two.shipment)).offers, false)
    expect(Number(found?.cost)).toBeCloseTo(together - alone, 2)
  })

  it("as two shipments cost what the parts cost by their own cheapest services", async () => {
    await takeFile(rig.context, row({ order_number: "VA-4", quantity: "6", street: "4 Split Road" }))
    const orderId = (await orderBySource(rig.db, "VA-4")).id
    await pickAll(rig.context, orderId)
    value(await openShipment(rig.context, orderId))
    value(await addPackage(rig.context, orderId, "K12"))
    let shipment = value(await addPackage(rig.context, orderId, "K12"))
    const lineId = shipment.lines[0]?.id as number
    for (const [at, quantity] of [
      [1, 5],
      [2, 1],
    ] as const)
      shipment = value(
        await putIn(rig.context, orderId, { package: at, lineId, quantity, scanned: true, scanId: randomUUID() }),
      )
    const two = (await variants(orderId)).find((one) => one.kind === "two")
    expect(two?.services).toHaveLength(2)
    const part = async (number: number) =>
      least(
        (await rated({ ...shipment, packages: shipment.packages.filter((one) => one.number === number) })).offers,
        false,
      )
    expect(Number(two?.cost)).toBeCloseTo((await part(1)) + (await part(2)), 2)
  })
})

describe("when packages were delivered", () => {
  const admin = () => as(rig.context, { role: "administrator" })
  it("is taken in of ours by their tracking numbers, of others with what is known of them, once each", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "OT-1")
    await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    const own = there(await rig.db("package").where({ shipment_id: shipment.id }).first("tracking"))
    const sent = there(await rig.db("shipment").where({ id: shipment.id }).first("service_id", "arrives_on"))
    const others = Array.from(
      { length: 19 },
      (_, at) => `P-${at},LKG,2026-11-16,2026-11-19,2026-11-${at === 0 ? 21 : 19}`,
    )
    const file = [
      "tracking,service,ship_date,promised_on,delivered_on",
      `${own.tracking},,,,${sent.arrives_on}`,
      ...others,
    ].join("\n")
    expect(value(await importDeliveries(admin(), file))).toEqual({ packages: 20 })
    expect(value(await importDeliveries(admin(), file))).toEqual({ packages: 20 })
    // 20 packages, one of them two days late: rank 19 is in time
    expect((await onTimeBy(rig.db, "2026-11-24")).get(there(sent.service_id))).toEqual({
      of: 20,
      inTime: 19,
      nineteenOfTwenty: 0,
    })
  })
  it("is refused by line and field, and nothing is taken in then", async () => {
    const before = await rig.db("delivery").count({ n: "id" }).first()
    const outcome = await importDeliveries(
      admin(),
      "tracking,service,ship_date,promised_on,delivered_on\nA-1,LKG,2026-11-16,2026-11-19,2026-11-19\nA-2,NONE,2026-11-16,2026-11-19,2026-11-19\nA-3,LKG,2026-11-16,2026-11-19,soon",
    )
    expect(outcome.ok ? [] : outcome.reasons.map((one) => [one.values.line, one.values.field])).toEqual([
      ["3", "service"],
      ["4", "delivered_on"],
    ])
    expect(await rig.db("delivery").count({ n: "id" }).first()).toEqual(before)
    expect(codes(await importDeliveries(admin(), ""))).toEqual(["delivery.no-rows"])
    await expect(importDeliveries(rig.context, "")).rejects.toThrow("tariffs.manage")
  })
})
