import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { load, takeOff } from "server/dock/load.ts"
import { reprint } from "server/documents/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { collectionsOn } from "server/setup/collections.ts"
import { reconcile } from "server/shipping/reconcile.ts"
import { askVoid, voidIntent } from "server/shipping/void.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  askForLabels,
  carrierAt,
  closeDoor,
  codes,
  fault,
  ledger,
  openRig,
  type Rig,
  readyToBuy,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

async function bought(number: string, service = "LKG") {
  const { orderId, shipment } = await readyToBuy(rig.context, number)
  await askForLabels(rig.context, orderId, shipment, service)
  await workAll(rig.db)
  return { orderId, orderNumber: shipment.orderNumber, shipment: await shipmentOf(rig.db, orderId) }
}
const theirs = async (reference: string, code = "LARK") =>
  (await ledger(carrierAt(rig, code))).filter((entry) => entry.reference === reference)
const charged = async (orderId: OrderId) =>
  Number(
    (
      await rig
        .db("charge")
        .join("shipment", "shipment.id", "charge.shipment_id")
        .where({ order_id: orderId })
        .sum({ sum: "charge.contract_amount" })
        .first()
    )?.sum,
  )
const later = (minutes: number) => ({
  ...rig.context,
  now: new Date(rig.context.now.getTime() + minutes * 60_000),
})

describe("making a label void", () => {
  it("returns the charge line by line at both, opens the shipment, and lets a new label be bought once", async () => {
    const one = await bought("V-1")
    const price = await charged(one.orderId)
    expect(price).toBeGreaterThan(0)
    value(await askVoid(rig.context, one.orderId))
    value(await askVoid(rig.context, one.orderId))
    await workAll(rig.db)
    expect((await theirs(one.orderNumber)).map((entry) => entry.state)).toEqual(["void"])
    expect(await charged(one.orderId)).toBe(0)
    const open = await shipmentOf(rig.db, one.orderId)
    expect(open).toMatchObject({ state: "open", masterTracking: null })
    expect(open?.packages.map((pack) => [pack.state, pack.tracking, pack.sscc])).toEqual([
      ["closed", null, one.shipment?.packages[0]?.sscc],
    ])
    const label = there(await rig.db("document").where({ order_id: one.orderId }).first("id", "void_at"))
    expect(label.void_at).not.toBeNull()
    expect(await reprint(rig.context, label.id, randomUUID())).toBe(false)

    if (!open) throw new Error("no shipment")
    await askForLabels(rig.context, one.orderId, open, "LKX")
    await workAll(rig.db)
    expect((await theirs(one.orderNumber)).map((entry) => entry.state).sort()).toEqual(["booked", "void"])
    expect((await shipmentOf(rig.db, one.orderId))?.packages[0]?.state).toBe("labelled")
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("happens once when the carrier's answer is lost", async () => {
    const one = await bought("V-2")
    await fault(carrierAt(rig, "LARK"), "lose-answer", 1)
    value(await askVoid(rig.context, one.orderId))
    await workAll(rig.db)
    expect((await theirs(one.orderNumber)).map((entry) => entry.state)).toEqual(["void"])
    expect(await charged(one.orderId)).toBe(0)
    expect(await rig.db("charge").whereNotNull("reverses_id").andWhere({ code: "base" })).toHaveLength(2)
  })

  it("leaves the label as it is when the carrier refuses, and says why", async () => {
    const one = await bought("V-3")
    const { intentId } = value(await askVoid(rig.context, one.orderId))
    await voidIntent(rig.db, { intentId, userId: null, actor: "test" }, () => ({
      makeVoid: async () => ({ kind: "refused", reason: "already collected" }),
      book: async () => ({ kind: "unknown" }),
      find: async () => ({ kind: "unknown" }),
      cancel: async () => undefined,
      ledger: async () => [],
    }))
    expect(await shipmentOf(rig.db, one.orderId)).toMatchObject({
      state: "bought",
      trouble: { code: "void.refused", values: { why: "already collected" } },
    })
    expect(await charged(one.orderId)).toBeGreaterThan(0)
    await rig.db("job").where({ kind: "carrier.void", state: "waiting" }).delete()
  })

  it("is refused after the carrier's time, on the truck, and once it has gone", async () => {
    const one = await bought("V-4")
    // 24 hours by its tariff
    expect(codes(await askVoid(later(24 * 60 + 1), one.orderId))).toEqual(["void.window-over"])
    const door = (await collectionsOn(rig.db, 1, "2026-11-24")).find((truck) => truck.door === "2")
    const id = door?.id as number
    value(await load(rig.context, id, { orderNumber: one.orderNumber, number: 1 }, randomUUID()))
    expect(codes(await askVoid(rig.context, one.orderId))).toEqual(["void.on-truck"])
    await takeOff(rig.context, id, one.shipment?.packages[0]?.id as number)
    value(await askVoid(rig.context, one.orderId))
    // while the carrier is asked it can't be loaded
    expect(codes(await load(rig.context, id, { orderNumber: one.orderNumber, number: 1 }, randomUUID()))).toEqual([
      "dock.voiding",
    ])
    await workAll(rig.db)
    expect((await theirs(one.orderNumber)).map((entry) => entry.state)).toEqual(["void"])

    const other = await bought("V-5")
    const waiting = await rig.db("package").where({ collection_id: id, state: "labelled" }).select("sscc")
    for (const pack of waiting) value(await load(rig.context, id, { sscc: there(pack.sscc) }, randomUUID()))
    await closeDoor(rig.context, id, waiting.length)
    expect(codes(await askVoid(rig.context, other.orderId))).toEqual(["void.gone"])
    expect((await reconcile(rig.db)).differences).toEqual([])
  })
})

describe("reconciling", () => {
  it("names what only one side has, and another charge", async () => {
    const one = await bought("V-6")
    expect((await reconcile(rig.db)).differences).toEqual([])
    const [entry] = await theirs(one.orderNumber)
    await fetch(`${carrierAt(rig, "LARK")}/v1/bookings/${entry?.key}/void`, { method: "PUT" })
    const stray = "99999999-5a0e-4a64-9a55-1f4a9f7f3d10"
    await fetch(`${carrierAt(rig, "LARK")}/v1/bookings/${stray}`, {
      method: "PUT",
      body: JSON.stringify({
        service: "LKG",
        reference: "nobody",
        shipDate: "2026-11-24",
        sender: { postalCode: "55802", country: "US" },
        receiver: { postalCode: "80205", state: "CO", country: "US", lines: ["1 Any Street"], residential: false },
        packages: [{ number: 1, sscc: "095212340000480013", weightLb: "9.5", sizeIn: ["10", "10", "8"] }],
      }),
    })
    const { differences } = await reconcile(rig.db)
    expect(differences.map((each) => [each.key, each.ours.split(" ")[0], each.theirs.split(" ")[0]])).toEqual([
      [entry?.key, "booked", "void"],
      [stray, "nothing", "booked"],
    ])
    await rig.db("charge").where({ shipment_id: one.shipment?.id }).limit(1).update({ contract_amount: "0.01" })
    expect((await reconcile(rig.db)).differences.some((each) => each.ours.startsWith("charge lines"))).toBe(true)
  })
})
