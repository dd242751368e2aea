import { instantAt } from "core/calendar/index.ts"
import { receiverToken } from "server/telling/links.ts"
import { deliveredOf, pictureOf, unitsOf } from "server/tracking/read.ts"
import { receiverPage } from "server/tracking/receiver.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { pulled, type Shipped, scanned, shipped } from "./followed.ts"
import { openRig, type Rig } from "./rig.ts"

let rig: Rig
let one: Shipped
let other: Shipped
let token: string
const now = instantAt("2026-11-24", "09:00", "America/Chicago")
const after = (minutes: number) => new Date(now.getTime() + minutes * 60_000).toISOString().replace(/\.\d+Z$/, "+00:00")
const png = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
/** A scan every other minute, more than anybody reads. */
const many = 400

beforeAll(async () => {
  rig = await openRig()
  ;[one, other] = (await shipped(rig, ["RP-1", "RP-2"], "LKG", {
    street: "14 Growler Row",
    city: "Denver",
    state: "CO",
    postal_code: "80205",
  })) as [Shipped, Shipped]
  token = await receiverToken(rig.db, one.orderId, "de", now)
  const [tracking] = one.tracking as [string]
  const { id: _, ...same } = there(await rig.db("tracked_unit").where({ tracking }).first())
  // a second package of the shipment, one whose label is void, and one on its way back
  await rig.db("tracked_unit").insert([
    { ...same, piece: 2, name: "second", tracking: "LA998", package_id: null },
    { ...same, piece: 3, name: "void", tracking: "LA997", package_id: null, void_at: now },
    { ...same, piece: 4, name: "back", tracking: "LA996", package_id: null, kind: "return" },
  ])
  const place = { city: "Denver", state: "CO", postalCode: "80202", country: "US" }
  await scanned(
    rig,
    "LARK",
    ...Array.from({ length: many }, (_, n) => ({ trackingNumber: tracking, code: "ARR", occurredAt: after(2 * n) })),
    { masterTrackingNumber: same.master, code: "OFD", occurredAt: after(2 * many), place },
    { trackingNumber: "LA998", code: "DEL", occurredAt: after(2 * many + 1), place, receivedBy: "Pat", picture: png },
  )
  await pulled(rig, "LARK")
})
afterAll(async () => {
  await rig?.drop()
})

describe("the receiver's page", () => {
  it("has his packages with the latest steps first, and no more than somebody reads", async () => {
    const page = there(await receiverPage(rig.db, token, now))
    expect(page).toMatchObject({ language: "de", order: "RP-1", place: "Denver, CO" })
    expect(page.packages.map((each) => each.tracking)).toEqual([one.tracking[0], "LA998"])
    const [first, second] = page.packages
    expect(first?.steps).toHaveLength(30)
    // what was told of the whole shipment is told of each of its packages
    expect(first?.steps[0]).toMatchObject({ kind: "out-for-delivery", place: "Denver, CO" })
    expect(first?.steps[1]?.at).toEqual(new Date(now.getTime() + 2 * (many - 1) * 60_000))
    expect(second?.steps.map((step) => step.kind)).toEqual(["delivered", "out-for-delivery"])
    expect(second).toMatchObject({ state: "delivered", takenBy: "Pat" })
  })

  it("is there for its token alone, and for ninety days", async () => {
    const [first = "", ...rest] = token
    expect(await receiverPage(rig.db, `${first === "A" ? "B" : "A"}${rest.join("")}`, now)).toBeNull()
    expect(await receiverPage(rig.db, `${token}A`, now)).toBeNull()
    // 2026-11-24 and 90 days: 6 left of November, 31, 31, and 22 of February
    const ends = instantAt("2027-02-22", "00:00", "America/Chicago")
    expect(await receiverPage(rig.db, token, new Date(ends.getTime() - 1))).not.toBeNull()
    expect(await receiverPage(rig.db, token, ends)).toBeNull()
  })
})

describe("an order's packages on their way", () => {
  it("show what was told of them, the latest first, with the picture for nobody else's order", async () => {
    const units = await unitsOf(rig.db, 1, one.orderId)
    expect(units.map((unit) => unit.name)).toEqual([expect.stringMatching(/-1$/), "second", "back"])
    const [delivered] = there(units[1]).events
    expect(delivered).toMatchObject({ kind: "delivered", hasPicture: true })
    const picture = (orderId: typeof one.orderId, warehouseId: number) =>
      pictureOf(rig.db, warehouseId as 1, orderId, there(delivered).id)
    expect((await picture(one.orderId, 1))?.bytes.toString("base64")).toBe(png)
    expect(await picture(other.orderId, 1)).toBeNull()
    expect(await picture(one.orderId, 2)).toBeNull()
    expect([...(await deliveredOf(rig.db, 1, one.orderId))]).toEqual(["second"])
    expect(await deliveredOf(rig.db, 2, one.orderId)).toEqual(new Set())
  })

  it("have of many events the latest", async () => {
    const [first] = await unitsOf(rig.db, 1, one.orderId)
    // three units: 200 and 40 for each, less the two that the second package has
    expect(there(first).events).toHaveLength(200 + 3 * 40 - 1)
    expect(there(first).events[0]?.kind).toBe("out-for-delivery")
  })
})
