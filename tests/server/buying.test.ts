import { isPostalItemNumber } from "core/barcodes/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { httpCarrier } from "server/gateways/carrier.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { reopenPackages } from "server/packing/index.ts"
import { bookIntent } from "server/shipping/book.ts"
import { buy, giveUp } from "server/shipping/buy.ts"
import { reconcile } from "server/shipping/reconcile.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { start } from "../../scripts/stack.mjs"
import { there } from "../../server/db/there.ts"
import { askForLabels, codes, fault, ledger, openRig, type Rig, readyToBuy, value, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const larkspur = () => `${rig.at.carriers}/LARK`

/** What we hold of an order's labels, to be held against the carrier's own ledger. */
async function ours(orderId: OrderId) {
  const { db } = rig
  const shipment = await shipmentOf(db, orderId)
  const charges = await db("charge")
    .join("shipment", "shipment.id", "charge.shipment_id")
    .where({ order_id: orderId })
    .select("charge.contract_amount")
  const labels = await db("document").where({ order_id: orderId, kind: "label" }).select("id")
  return {
    shipment,
    total: charges.reduce((sum, one) => sum + Math.round(Number(one.contract_amount) * 100), 0),
    labels: labels.length,
  }
}

const theirs = async (reference: string) =>
  (await ledger(larkspur())).filter((entry) => entry.reference === reference && entry.state === "booked")

describe("buying a label", () => {
  it("books once, and both ledgers hold the same charge and tracking number", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-1")
    const { amount } = await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    const mine = await ours(orderId)
    const entries = await theirs(shipment.orderNumber)
    expect(entries).toHaveLength(1)
    expect(entries[0]?.charge).toEqual({ amount, currency: "USD" })
    expect(mine.total).toBe(Math.round(Number(amount) * 100))
    expect(mine.shipment?.packages.map((one) => one.tracking)).toEqual(
      entries[0]?.packages.map((one) => one.trackingNumber),
    )
    expect(mine.shipment?.packages.every((one) => one.state === "labelled")).toBe(true)
    expect(mine.labels).toBe(1)
  })

  it("is one intent when the plate is pressed twice, and refuses an old version or another price", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-2")
    const first = await askForLabels(rig.context, orderId, shipment, "LKG")
    const again = await buy(rig.context, orderId, {
      version: shipment.version,
      serviceCode: "LKG",
      expected: { amount: first.amount, currency: "USD" },
    })
    expect(value(again).intentId).toBe(first.intentId)
    await workAll(rig.db)
    expect(await theirs(shipment.orderNumber)).toHaveLength(1)

    const other = await readyToBuy(rig.context, "B-3")
    expect(
      codes(
        await buy(rig.context, other.orderId, {
          version: other.shipment.version,
          serviceCode: "LKG",
          expected: { amount: "1.00", currency: "USD" },
        }),
      ),
    ).toEqual(["buy.price-changed"])
    expect(
      codes(
        await buy(rig.context, other.orderId, {
          version: other.shipment.version - 1,
          serviceCode: "LKG",
          expected: { amount: "1.00", currency: "USD" },
        }),
      ),
    ).toEqual(["order.changed-meanwhile"])
  })

  it("never books a second time when the answer is lost after booking", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-4")
    await fault(larkspur(), "lose-answer", 1)
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    expect(await theirs(shipment.orderNumber)).toHaveLength(1)
    const mine = await ours(orderId)
    expect(mine.shipment?.state).toBe("bought")
    expect(mine.labels).toBe(1)
  })

  it("marks a carrier that is down, keeps the shipment, and books when it is back", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-5")
    await fault(larkspur(), "down")
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db, 2)
    const carrier = there(await rig.db("carrier").where({ code: "LARK" }).first("down_until"))
    expect(carrier.down_until?.getTime()).toBeGreaterThan(Date.now())
    expect((await ours(orderId)).shipment?.trouble?.code).toBe("buy.no-answer")
    expect(codes(await reopenPackages(rig.context, orderId))).toEqual(["pack.not-open"])
    await fault(larkspur(), null)
    await workAll(rig.db)
    expect(await theirs(shipment.orderNumber)).toHaveLength(1)
    expect((await ours(orderId)).shipment?.state).toBe("bought")
  })

  it("opens the shipment again with the reason when the carrier refuses", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-6")
    await fault(larkspur(), "refuse", 1)
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    const mine = await ours(orderId)
    expect(mine.shipment).toMatchObject({
      state: "open",
      trouble: { code: "buy.refused", values: { why: "account on hold" } },
    })
    expect(mine.shipment?.version).toBeGreaterThan(shipment.version)
    expect(await theirs(shipment.orderNumber)).toHaveLength(0)
  })

  it("cancels a booking whose charge differs, and shows it for a new decision", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-7")
    await fault(larkspur(), "wrong-charge", 1)
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    const mine = await ours(orderId)
    expect(mine.shipment).toMatchObject({ state: "open", trouble: { code: "buy.differs" } })
    expect(mine.labels).toBe(0)
    expect(await theirs(shipment.orderNumber)).toHaveLength(0)
  })

  it("keeps a booking whose charge differs within what is tolerated, with a line for the difference and a story", async () => {
    await rig.db("carrier").where({ code: "LARK" }).update({ tolerance: "1.00" })
    const { orderId, shipment } = await readyToBuy(rig.context, "B-80")
    await fault(larkspur(), "wrong-charge", 1)
    const { amount } = await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    await rig.db("carrier").where({ code: "LARK" }).update({ tolerance: "0" })
    expect((await ours(orderId)).shipment?.state).toBe("bought")
    // the fault adds a dollar
    const kept = there(await rig.db("shipment").where({ id: shipment.id }).first("contract_amount"))
    expect(Number(kept.contract_amount)).toBeCloseTo(Number(amount) + 1, 6)
    const line = there(await rig.db("charge").where({ shipment_id: shipment.id, code: "difference" }).first())
    expect(Number(line.contract_amount)).toBe(1)
    expect(await rig.db("audit").where({ order_id: orderId, action: "buy.differed" })).toHaveLength(1)
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("asks again when the answer can't be read, and refuses one for other packages than asked", async () => {
    const one = await readyToBuy(rig.context, "B-10")
    await fault(larkspur(), "malformed", 1)
    await askForLabels(rig.context, one.orderId, one.shipment, "LKG")
    await workAll(rig.db)
    expect((await ours(one.orderId)).shipment?.state).toBe("bought")
    expect(await theirs(one.shipment.orderNumber)).toHaveLength(1)

    const two = await readyToBuy(rig.context, "B-11")
    await fault(larkspur(), "twice", 1)
    await askForLabels(rig.context, two.orderId, two.shipment, "LKG")
    await workAll(rig.db)
    expect((await ours(two.orderId)).shipment).toMatchObject({ state: "open", trouble: { code: "buy.pieces-differ" } })
    expect(await theirs(two.shipment.orderNumber)).toHaveLength(0)
  })

  it("takes one answer when two workers ask at the same time", async () => {
    const one = await readyToBuy(rig.context, "B-12")
    const { intentId } = await askForLabels(rig.context, one.orderId, one.shipment, "LKG")
    await Promise.all([1, 2, 3].map((tries) => bookIntent(rig.db, intentId, tries)))
    await workAll(rig.db)
    expect(await theirs(one.shipment.orderNumber)).toHaveLength(1)
    const mine = await ours(one.orderId)
    expect([mine.labels, mine.shipment?.state]).toEqual([1, "bought"])
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("takes from the post only numbers whose check digit is right", async () => {
    const one = await readyToBuy(rig.context, "B-13")
    await askForLabels(rig.context, one.orderId, one.shipment, "CVP")
    await workAll(rig.db)
    const tracking = (await ours(one.orderId)).shipment?.packages[0]?.tracking ?? ""
    expect(isPostalItemNumber(tracking)).toBe(true)
    const two = await readyToBuy(rig.context, "B-14")
    const { intentId, amount } = await askForLabels(rig.context, two.orderId, two.shipment, "CVP")
    const wrong = `${tracking.slice(0, 10)}${(Number(tracking[10]) + 1) % 10}${tracking.slice(11)}`
    let cancelled = 0
    await bookIntent(rig.db, intentId, 1, () => ({
      book: async (key) => ({
        kind: "booked",
        booking: {
          key,
          state: "booked",
          charge: { amount, currency: "USD" },
          masterTrackingNumber: wrong,
          packages: [{ number: 1, trackingNumber: wrong, routingCode: "C1" }],
        },
      }),
      find: async () => ({ kind: "unknown" }),
      cancel: async () => {
        cancelled += 1
      },
      makeVoid: async () => ({ kind: "void" }),
      ledger: async () => [],
    }))
    expect((await ours(two.orderId)).shipment).toMatchObject({ state: "open", trouble: { code: "buy.number-wrong" } })
    expect(cancelled).toBe(1)
  })

  it("gives up an open booking at the carrier by its key", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-8")
    await fault(larkspur(), "lose-answer", 1)
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db, 1)
    await giveUp(rig.context, orderId)
    await fault(larkspur(), null)
    await workAll(rig.db)
    expect((await ours(orderId)).shipment).toMatchObject({ state: "open", trouble: { code: "buy.given-up" } })
    expect(await theirs(shipment.orderNumber)).toHaveLength(0)
  })

  it("keeps no label that is booked while somebody gives the booking up", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-8a")
    const { intentId } = await askForLabels(rig.context, orderId, shipment, "LKG")
    await bookIntent(rig.db, intentId, 1, (url) => {
      const carrier = httpCarrier(url)
      return {
        ...carrier,
        book: async (key, request) => {
          await giveUp(rig.context, orderId)
          return carrier.book(key, request)
        },
      }
    })
    expect((await ours(orderId)).shipment).toMatchObject({ state: "open", trouble: { code: "buy.given-up" } })
    expect(await theirs(shipment.orderNumber)).toHaveLength(0)
    expect(await rig.db("charge").where({ intent_id: intentId })).toEqual([])
    // and it can be bought again
    const again = (await ours(orderId)).shipment as typeof shipment
    await askForLabels(rig.context, orderId, again, "LKG")
    await workAll(rig.db)
    expect((await ours(orderId)).shipment?.state).toBe("bought")
    expect(await theirs(shipment.orderNumber)).toHaveLength(1)
  })

  it("has the label once after the worker was killed between intent and answer", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "B-9")
    await fault(larkspur(), "slow", 1)
    await askForLabels(rig.context, orderId, shipment, "LKG")
    const worker = () =>
      start("worker", process.execPath, ["--import", "tsx", "server/worker/main.ts"], {
        env: { VARNOK_DATABASE: rig.url, VARNOK_LEASE_MS: "9000" },
        logs: rig.folder,
        ready: /listening for jobs/,
      })
    const first = worker()
    await first.started
    await expect
      .poll(
        async () =>
          (await rig.db("job").where({ kind: "carrier.book", state: "waiting" }).whereNotNull("lease").first("id")) !==
          undefined,
        { timeout: 10_000 },
      )
      .toBe(true)
    await first.kill()
    expect((await ours(orderId)).shipment?.state).toBe("buying")
    const second = worker()
    await second.started
    await expect.poll(async () => (await ours(orderId)).shipment?.state, { timeout: 60_000 }).toBe("bought")
    await second.stop()
    expect(await theirs(shipment.orderNumber)).toHaveLength(1)
    expect((await ours(orderId)).labels).toBe(1)
  })
})
