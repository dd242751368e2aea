import { randomUUID } from "node:crypto"
import type { ItemId, WarehouseId } from "core/ids/index.ts"
import { mass, size } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import { migrate } from "server/db/migrate.ts"
import { dealtTogether } from "server/decisions/deal.ts"
import { closeCollection } from "server/dock/close.ts"
import { leaveBehind, load } from "server/dock/load.ts"
import { nextTrucks } from "server/dock/nextTrucks.ts"
import { reprint } from "server/documents/index.ts"
import { claim, enqueue, fail, takeAlong, triesBeforeDead } from "server/jobs/queue.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment, putIn, resize, weigh } from "server/packing/index.ts"
import { collectionById } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { sayTrouble } from "words/reasons.ts"
import { there } from "../../server/db/there.ts"
import {
  askForLabels,
  closeDoor,
  codes,
  fault,
  openRig,
  orderBySource,
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

interface PrintedJob {
  name: string
  queue: string
  pages: number
}
const printed = async (): Promise<PrintedJob[]> =>
  (await fetch(`${rig.at.printer}/jobs`)).json() as Promise<PrintedJob[]>
const reports = async (): Promise<{ times: number; body: Record<string, unknown> }[]> =>
  (await fetch(`${rig.at.orderSource}/reports`)).json() as Promise<{ times: number; body: Record<string, unknown> }[]>

async function labelled(number: string, service = "LKG") {
  const { orderId, shipment } = await readyToBuy(rig.context, number)
  await askForLabels(rig.context, orderId, shipment, service)
  await workAll(rig.db)
  return (await shipmentOf(rig.db, orderId)) as NonNullable<Awaited<ReturnType<typeof shipmentOf>>>
}

describe("what stays", () => {
  it("is offered the next truck of its service, with the day that it arrives then", async () => {
    const { context, db } = rig
    const warehouse = await warehouseById(db, 1)
    const ids: number[] = []
    for (const [number, promised] of [
      ["NEXT-1", "2026-11-25"],
      ["NEXT-2", "2026-11-27"],
    ] as const) {
      const { orderId, shipment } = await readyToBuy(
        context,
        number,
        row({ order_number: number, promised_on: promised }),
      )
      await askForLabels(context, orderId, shipment, "MDN")
      ids.push(...shipment.packages.map((one) => one.id))
    }
    await workAll(db)
    const { collection_id: id } = there(await db("package").where({ id: ids[0] }).first("collection_id"))
    const today = there(await collectionById(db, 1, there(id)))
    expect(today.onDate).toBe("2026-11-24")
    const next = await nextTrucks(
      db,
      warehouse,
      today,
      ids.map((id) => ({ id })),
    )
    // one business day from Wednesday the 25th; Thursday the 26th is Thanksgiving
    expect([...next.values()].map((one) => [one?.door, one?.onDate, one?.arrivesOn, one?.promisedOn])).toEqual([
      ["6", "2026-11-25", "2026-11-27", "2026-11-25"],
      ["6", "2026-11-25", "2026-11-27", "2026-11-27"],
    ])
    // a service that comes twice a week is not taken by the truck of the day after
    await db("collection")
      .where({ carrier_id: today.carrierId })
      .where("on_date", ">", "2026-11-24")
      .update({ services: "[]" })
    expect([
      ...(
        await nextTrucks(
          db,
          warehouse,
          today,
          ids.map((id) => ({ id })),
        )
      ).values(),
    ]).toEqual([null, null])
    await db("collection")
      .where({ carrier_id: today.carrierId })
      .update({ services: JSON.stringify(today.services) })
    await db("package").whereIn("id", ids).update({ state: "void" })
  })
})

describe("packing", () => {
  it("puts quantities into two cartons, no more than was picked, and gives each its SSCC once", async () => {
    await takeFile(rig.context, row({ order_number: "K-1", quantity: "5" }))
    const { id } = await orderBySource(rig.db, "K-1")
    await pickAll(rig.context, id)
    let shipment = value(await openShipment(rig.context, id))
    expect(value(await openShipment(rig.context, id)).id).toBe(shipment.id)
    value(await addPackage(rig.context, id, "K07"))
    shipment = value(await addPackage(rig.context, id, "K09"))
    const lineId = shipment.lines[0]?.id as number
    const put = (carton: number, quantity: number, scanId = randomUUID()) =>
      putIn(rig.context, id, { package: carton, lineId, quantity, scanned: true, scanId })
    const once = randomUUID()
    value(await put(1, 3, once))
    value(await put(1, 3, once))
    expect(codes(await put(2, 3))).toEqual(["pack.too-many"])
    expect(codes(await closePackages(rig.context, id))).toEqual(["pack.line-open", "flaw.empty"])
    value(await put(2, 2))
    expect(codes(await put(2, -3))).toEqual(["pack.not-inside"])
    shipment = value(await closePackages(rig.context, id))
    expect(shipment.packages.map((one) => [one.number, one.state, one.contents[0]?.quantity])).toEqual([
      [1, "closed", 3],
      [2, "closed", 2],
    ])
    const codesOf = shipment.packages.map((one) => one.sscc)
    expect(new Set(codesOf).size).toBe(2)
    expect(codesOf.every((code) => /^09521234\d{10}$/.test(code ?? ""))).toBe(true)
  })

  it("lets the measured weight win, and keeps size by hand to this shipment", async () => {
    const { orderId } = await readyToBuy(rig.context, "K-2")
    value(await weigh(rig.context, orderId, 1, mass("14", "lb")))
    const shipment = value(await resize(rig.context, orderId, 1, size(20, 15, 13, "in")))
    // 4 × 1.15 lb + 2.4 lb tare = 7.0 lb calculated
    expect(shipment.packages[0]?.calculated.toString()).toBe(mass(7, "lb").toString())
    expect(shipment.packages[0]?.actual.toString()).toBe(mass(14, "lb").toString())
    // 7 lb too much; six bricks of 1.15 lb, 6.9 lb, come nearest to that
    expect(shipment.packages[0]?.flaws).toMatchObject([{ code: "flaw.weight-more", values: { n: "6" } }])
    expect(
      Number(there(await rig.db("packaging").where({ code: "K12" }).first("outer_length_mm")).outer_length_mm),
    ).toBeCloseTo(23.5 * 25.4)
    expect(codes(await weigh(rig.context, orderId, 1, mass(5001, "lb")))).toEqual(["pack.weight-out-of-range"])
  })
})

describe("a collection", () => {
  it("takes its own packages, refuses others by their door, names what is missing, and closes once", async () => {
    const mine = await labelled("D-1")
    const stays = await labelled("D-2")
    const express = await labelled("D-3", "MDN")
    const door = mine.collectionId as number
    const on = (code: string | null) => load(rig.context, door, { sscc: code as string }, randomUUID())
    expect(value(await on(mine.packages[0]?.sscc ?? null))).toMatchObject({ again: false })
    expect(value(await on(mine.packages[0]?.sscc ?? null))).toMatchObject({ again: true })
    const wrong = await on(express.packages[0]?.sscc ?? null)
    expect(wrong).toMatchObject({ ok: false, reasons: [{ code: "dock.wrong-door", values: { door: "6" } }] })
    expect(codes(await on("095212340000999993"))).toEqual(["dock.no-such-package"])

    const early = await closeCollection(rig.context, door, 1)
    expect(early).toEqual({
      ok: false,
      reasons: [{ code: "dock.missing", values: { package: `${stays.orderNumber}-1` } }],
    })
    await leaveBehind(rig.context, door, [stays.packages[0]?.id as number], true)
    expect(codes(await closeCollection(rig.context, door, 2))).toEqual(["dock.count-changed"])
    const closed = value(await closeCollection(rig.context, door, 1))
    expect(value(await closeCollection(rig.context, door, 1))).toEqual(closed)
    expect(codes(await on(stays.packages[0]?.sscc ?? null))).toEqual(["dock.closed"])
    await workAll(rig.db)

    expect((await shipmentOf(rig.db, mine.orderId))?.packages[0]?.state).toBe("gone")
    const moved = await rig
      .db("package")
      .join("collection", "collection.id", "package.collection_id")
      .where("package.id", there(stays.packages[0]).id)
      .first("package.state", "collection.id", "collection.closed_at")
    expect(moved).toMatchObject({ state: "labelled", closed_at: null })
    expect(moved.id).not.toBe(door)
    expect(await rig.db("document").where({ kind: "manifest", collection_id: door })).toHaveLength(1)
    expect((await printed()).filter((job) => job.queue === "paper")).toHaveLength(1)
  })

  it("tells the order's source once, even when it was down", async () => {
    await fault(rig.at.orderSource, "down")
    const mine = await labelled("D-4")
    const door = mine.collectionId as number
    for (const one of await rig.db("package").where({ collection_id: door, state: "labelled" }))
      value(await load(rig.context, door, { sscc: there(one.sscc) }, randomUUID()))
    const count = await rig.db("package").where({ collection_id: door, state: "on-truck" })
    await closeDoor(rig.context, door, count.length)
    await workAll(rig.db, 2)
    expect(await rig.db("outbox").where({ order_id: mine.orderId }).first("sent_at")).toEqual({ sent_at: null })
    await fault(rig.at.orderSource, null)
    await workAll(rig.db)
    const told = (await reports()).filter((one) => one.body.orderNumber === "D-4")
    expect(told).toHaveLength(1)
    expect(told[0]?.body).toMatchObject({
      trackingNumber: mine.masterTracking,
      // the demo's rule for all charges 12 % over our cost
      charge: { amount: new Decimal(mine.contract ?? 0).mul("1.12").toDecimalPlaces(2, 4).toFixed(2), currency: "USD" },
      packages: [{ sscc: mine.packages[0]?.sscc }],
    })
  })
})

describe("printing", () => {
  it("keeps the label while the printer is down, shows it, and prints it once when it is back", async () => {
    await fault(rig.at.printer, "down")
    const before = (await printed()).length
    const mine = await labelled("R-1", "MDN")
    expect(mine.state).toBe("bought")
    const waiting = there(
      await rig
        .db("print_job")
        .join("document", "document.id", "print_job.document_id")
        .where({ order_id: mine.orderId })
        .first("state", "trouble", "tries"),
    )
    expect(waiting).toMatchObject({ state: "waiting" })
    expect(sayTrouble(waiting.trouble)).toBe("Label printer, bench 1 doesn't answer: the connection broke off")
    await fault(rig.at.printer, null)
    await workAll(rig.db)
    expect((await printed()).length).toBe(before + 1)
  })

  it("asks the printer before it sends again after a lost answer", async () => {
    await fault(rig.at.printer, "lose-answer")
    const before = (await printed()).length
    await labelled("R-2", "MDN")
    await fault(rig.at.printer, null)
    await workAll(rig.db)
    expect((await printed()).length).toBe(before + 1)
    expect(await rig.db("print_job").where({ state: "waiting" })).toEqual([])
  })

  it("prints again when a clerk asks, and only papers of the own warehouse", async () => {
    const label = there(await rig.db("document").where({ kind: "label" }).first("id"))
    const key = randomUUID()
    const elsewhere = { ...rig.context, actor: { ...rig.context.actor, warehouseId: 2 } }
    expect(await reprint(elsewhere, label.id, key)).toBe(false)
    const before = (await printed()).length
    // pressed twice it is one
    expect(await reprint(rig.context, label.id, key)).toBe(true)
    expect(await reprint(rig.context, label.id, key)).toBe(true)
    await workAll(rig.db)
    expect((await printed()).length).toBe(before + 1)
  })
})

describe("jobs", () => {
  it("of a kind are done together, what they ask for is kept when that fails, and those of another place stay", async () => {
    const ask = (key: string, warehouseId: WarehouseId, itemIds: ItemId[]) =>
      enqueue(rig.db, { kind: "test.deal", onceKey: key, payload: { warehouseId, itemIds } })
    await ask("deal:1", 1, [7])
    await ask("deal:2", 1, [7, 8])
    await ask("deal:3", 2, [9])
    const job = await claim(rig.db, ["test.deal"])
    if (!job) throw new Error("not taken")
    const all = { warehouseId: 1, itemIds: [7, 8] }
    expect(await takeAlong(rig.db, job, dealtTogether)).toEqual(all)
    await fail(rig.db, job, "no luck")
    await rig
      .db("job")
      .where({ once_key: "deal:1" })
      .update({ run_at: new Date(0) })
    const again = [await claim(rig.db, ["test.deal"]), await claim(rig.db, ["test.deal"])]
    expect(again.map((one) => one?.payload)).toEqual([all, { warehouseId: 2, itemIds: [9] }])
    expect(await claim(rig.db, ["test.deal"])).toBeNull()
  })
  it("are taken by one worker at a time, again after the lease, and are dead after the last try", async () => {
    await enqueue(rig.db, { kind: "test", onceKey: "test:1", payload: { n: 1 } })
    await enqueue(rig.db, { kind: "test", onceKey: "test:1", payload: { n: 2 } })
    const both = await Promise.all([claim(rig.db, ["test"]), claim(rig.db, ["test"])])
    const mine = both.filter((job) => job !== null)
    expect(mine).toHaveLength(1)
    expect(mine[0]).toMatchObject({ payload: { n: 1 }, tries: 1 })
    await rig
      .db("job")
      .where({ once_key: "test:1" })
      .update({ leased_until: new Date(0) })
    const again = await claim(rig.db, ["test"])
    expect(again?.tries).toBe(2)
    if (!again) throw new Error("not taken again")
    await rig.db("job").where({ once_key: "test:1" }).update({ tries: triesBeforeDead })
    await fail(rig.db, again, "no luck")
    expect(await rig.db("job").where({ once_key: "test:1" }).first("state", "trouble")).toEqual({
      state: "dead",
      trouble: "no luck",
    })
  })
})

it("migrations run a second time and change nothing", async () => {
  expect(await migrate(rig.db)).toEqual([])
})
