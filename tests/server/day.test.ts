import { instantAt, type LocalTime } from "core/calendar/index.ts"
import { mass, size } from "core/units/index.ts"
import { hashPassword } from "server/accounts/passwords.ts"
import { actorOf, signIn, signOut } from "server/accounts/sessions.ts"
import { dayView } from "server/day/index.ts"
import { keepDay } from "server/day/keep.ts"
import { compareServices, type Rateable } from "server/rating/offers.ts"
import { collectionsOn, ensureCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { askForLabels, openRig, orderBySource, pickAll, type Rig, readyToBuy, row, takeFile, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const view = async (time: LocalTime = "09:00") => {
  const now = instantAt("2026-11-24", time, "America/Chicago")
  await keepDay(rig.db, 1, now)
  return dayView({ ...rig.context, now }, await warehouseById(rig.db, 1))
}
const doorOf = async (number: string, time?: LocalTime) => {
  const { collections } = await view(time)
  const order = await orderBySource(rig.db, number)
  return collections.find((one) => one.id === order.collection_id)?.door ?? "another day"
}

describe("collections", () => {
  it("are made once for the days ahead, not on weekends or the carrier's holidays", async () => {
    const warehouse = await warehouseById(rig.db, 1)
    await Promise.all([1, 2, 3].map(() => ensureCollections(rig.db, warehouse, rig.context.now)))
    const counts = await Promise.all(
      (["2026-11-24", "2026-11-25", "2026-11-26", "2026-11-27", "2026-11-28", "2026-11-30"] as const).map(
        async (date) => (await collectionsOn(rig.db, 1, date)).length,
      ),
    )
    // nine trucks a day, the van on Mondays, Wednesdays and Fridays, consolidated freight on Fridays; Thursday 26 November is Thanksgiving (5 U.S.C. 6103), the 28th a Saturday
    expect(counts).toEqual([9, 10, 0, 11, 0, 10])
  })
})

describe("the day", () => {
  it("is empty before orders come", async () => {
    const day = await view()
    expect(day.counts).toEqual({ today: 0, gone: 0, labelled: 0, toGo: 0, stopped: 0 })
    expect(day.next).toBeNull()
    expect(day.collections.map((one) => [one.door, one.column?.needs, one.column?.willMiss])).toEqual([
      ["2", 0, []],
      ["5", 0, []],
      ["4", 0, []],
      ["11", 0, []],
      ["7", 0, []],
      ["1", 0, []],
      ["3", 0, []],
      ["6", 0, []],
      ["8", 0, []],
    ])
  })

  it("gives an order the last truck today of the cheapest service that keeps its promise", async () => {
    await takeFile(
      rig.context,
      // Denver, a week: ground; tomorrow: noon, the cheapest of those that are in time
      row({ order_number: "T-1", promised_on: "2026-12-02" }),
      row({ order_number: "T-2", promised_on: "2026-11-25" }),
    )
    expect([await doorOf("T-1"), await doorOf("T-2")]).toEqual(["4", "1"])
  })

  it("needs the minutes of the orders over two hands, and offers the first of the first truck", async () => {
    const day = await view()
    const door4 = day.collections.find((one) => one.door === "4")
    // one bin, one line, one package: 3 + 1.2 + 0.6 + 2.5 = 7.3 minutes, by two hands 3.65
    expect(door4?.column?.needs).toBeCloseTo(3.65)
    // 9:00 to 14:15 less half an hour's break
    expect(door4?.column?.has).toBe(285)
    expect(day.next).toMatchObject({ task: "pick", order: { sourceNumber: "T-1" } })
  })

  it("moves an order to the service's next truck when its own is past", async () => {
    expect(await doorOf("T-1", "14:20")).not.toBe("4")
    const order = await orderBySource(rig.db, "T-1")
    const moved = there(await rig.db("collection").where("id", order.collection_id).first("cut_off"))
    expect(moved.cut_off.getTime()).toBeGreaterThan(instantAt("2026-11-24", "14:20", "America/Chicago").getTime())
  })

  it("puts a stopped order beside the line, with the minute by which it must be solved", async () => {
    await takeFile(rig.context, row({ order_number: "T-3", street: "Growler Row", promised_on: "2026-12-02" }))
    const day = await view()
    const stop = day.stopped.find((order) => order.sourceNumber === "T-3")
    expect(day.counts.stopped).toBe(1)
    // its own 7.3 minutes by two hands before 14:15, since there is time to spare
    const expected = instantAt("2026-11-24", "14:15", "America/Chicago").getTime() - 3.65 * 60_000
    expect(Math.abs((stop?.solveBy?.getTime() ?? 0) - expected)).toBeLessThan(1_000)
  })

  it("counts down with the work, and leaves the line with the label", async () => {
    await takeFile(rig.context, row({ order_number: "T-4", promised_on: "2026-12-02" }))
    const { id } = await orderBySource(rig.db, "T-4")
    const before = (await view()).collections.find((one) => one.door === "4")?.column?.needs ?? 0
    await pickAll(rig.context, id)
    const after = (await view()).collections.find((one) => one.door === "4")?.column?.needs ?? 0
    // picking is 1.5 + 1.2 = 2.7 minutes, by two hands 1.35
    expect(before - after).toBeCloseTo(1.35)
    expect((await view()).next).toMatchObject({ task: "pack", order: { sourceNumber: "T-4" } })

    const { orderId, shipment } = await readyToBuy(rig.context, "T-5")
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    const day = await view()
    expect(day.counts.labelled).toBe(1)
    expect(day.collections.flatMap((one) => one.orders).some((order) => order.sourceNumber === "T-5")).toBe(false)
    // bought at 9:00, it leaves with the next ground truck, at 9:30 from door 2
    expect(day.collections.find((one) => one.door === "2")?.labelledPackages).toBe(1)
  })
})

const rateable = (shipTo: Rateable["shipTo"], pounds: number): Rateable => {
  const one = { number: 1, weight: mass(pounds, "lb"), size: size(10, 10, 10, "in") }
  return {
    shipTo,
    parcels: [one],
    pallets: [{ ...one, size: size(48, 40, 16, "in"), handling: "pallet" }],
    standing: "loose",
    promisedOn: null,
    dangerous: [],
    options: [],
    value: null,
    distance: null,
    payer: "shipper",
    account: "",
    dutiesPayer: null,
    shipOn: null,
    collectionId: null,
    chosenServiceId: null,
  }
}

/** Services of the kinds that refuse for reasons of their own. */
const known = new Set(["LKG", "LKX", "LKC", "MDS", "MDW", "BRD", "CVP", "CVB", "HLG", "IBS", "SLG"])

describe("services", () => {
  it("leave with their own next truck, and say why they can't", async () => {
    const warehouse = await warehouseById(rig.db, 1)
    const shipTo = {
      company: "X",
      attention: "",
      street: "PO Box 12",
      street2: "",
      city: "Denver",
      state: "CO",
      postalCode: "80205",
      country: "US",
      phone: "",
      kind: "residential" as const,
    }
    const { offers, preselected } = await compareServices(rig.db, warehouse, rateable(shipTo, 71), rig.context.now)
    const why = new Map(offers.map((offer) => [offer.service.code, offer.refusals.map((one) => one.code)]))
    expect(why.size).toBe(31)
    expect(Object.fromEntries([...why].filter(([code]) => known.has(code)))).toEqual({
      LKG: ["rate.post-box"],
      LKX: ["rate.post-box"],
      LKC: ["rate.country", "rate.post-box"],
      MDS: ["rate.post-box", "rate.business-only", "rate.over-weight"],
      MDW: ["rate.country", "rate.post-box"],
      BRD: ["rate.post-box", "rate.business-only", "rate.no-zone"],
      CVP: ["rate.over-weight"],
      CVB: ["rate.over-weight"],
      HLG: ["rate.country", "rate.post-box", "rate.business-only"],
      IBS: ["rate.post-box"],
      SLG: ["rate.no-collection"],
    })
    // no refusal without a reason
    expect([...why.values()].every((codes) => codes.length > 0)).toBe(true)
    expect(preselected).toBeNull()
    const late = instantAt("2026-11-24", "17:20", "America/Chicago")
    const tomorrow = await compareServices(rig.db, warehouse, rateable({ ...shipTo, street: "1 Any Street" }, 5), late)
    expect(tomorrow.offers.find((offer) => offer.service.code === "MDN")?.collection?.onDate).toBe("2026-11-25")
  })
})

describe("signing in", () => {
  it("takes the right password only, and keeps neither it nor the token", async () => {
    expect(await signIn(rig.db, "maren", "wrong")).toBeNull()
    expect(await signIn(rig.db, "nobody", "cellar-door")).toBeNull()
    const signed = await signIn(rig.db, "maren", "cellar-door")
    if (!signed) throw new Error("not signed in")
    expect(await actorOf(rig.db, signed.token)).toMatchObject({ name: "Maren Holt", role: "clerk", warehouseId: 1 })
    const stored = JSON.stringify([await rig.db("session"), await rig.db("user")])
    expect(stored).not.toContain(signed.token)
    expect(stored).not.toContain("cellar-door")
    expect(there(await rig.db("user").first("password_hash")).password_hash).toMatch(/^\$argon2id\$/)
    await signOut(rig.db, signed.token)
    expect(await actorOf(rig.db, signed.token)).toBeNull()
  })

  it("ends with the session's time and with the user's work here", async () => {
    await rig.db("user").insert({
      username: "brief",
      name: "Brief",
      role: "lead",
      password_hash: await hashPassword("for a day"),
      warehouse_id: 1,
    })
    const brief = there(await rig.db("user").where({ username: "brief" }).first("id"))
    await rig.db("user_warehouse").insert({ user_id: brief.id, warehouse_id: 1 })
    const signed = await signIn(rig.db, "brief", "for a day")
    const token = signed?.token ?? ""
    expect(await actorOf(rig.db, token)).not.toBeNull()
    await rig.db("user").where({ username: "brief" }).update({ active: false })
    expect(await actorOf(rig.db, token)).toBeNull()
    expect(await signIn(rig.db, "brief", "for a day")).toBeNull()
    await rig.db("user").where({ username: "brief" }).update({ active: true })
    await rig
      .db("session")
      .where({ user_id: signed?.userId })
      .update({ expires_at: new Date(0) })
    expect(await actorOf(rig.db, token)).toBeNull()
  })
})
