import { randomUUID } from "node:crypto"
import { instantAt, type LocalDate, type LocalTime } from "core/calendar/index.ts"
import { Decimal } from "decimal.js"
import { NotAllowed } from "server/actors/index.ts"
import { adviceFor, cheapest } from "server/day/advice.ts"
import { type DayView, dayView } from "server/day/index.ts"
import { keepDay } from "server/day/keep.ts"
import { takeAdvice } from "server/day/take.ts"
import { lastGroup, undoGroup } from "server/decisions/group.ts"
import { joinOrders } from "server/decisions/join.ts"
import { calendarDays, closeDay, saveWork, setHands, type WorkForm, workForm } from "server/decisions/shifts.ts"
import { measuredWork } from "server/measures/index.ts"
import { openShipment } from "server/packing/index.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { collectionsOn } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
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
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
let admin: Rig["context"]
beforeAll(async () => {
  rig = await openRig()
  admin = as(rig.context, { role: "administrator" })
})
afterAll(() => rig?.drop())

const at = (time: LocalTime, date: LocalDate = "2026-11-24") => ({
  ...rig.context,
  now: instantAt(date, time, "America/Chicago"),
})
const view = async (time: LocalTime, date?: LocalDate): Promise<DayView> => {
  const context = at(time, date)
  await keepDay(rig.db, 1, context.now)
  return dayView(context, await warehouseById(rig.db, 1))
}
const form = async (more: Record<string, unknown> = {}): Promise<WorkForm> => {
  const warehouse = await warehouseById(rig.db, 1)
  return workForm.parse({
    version: warehouse.version,
    hands: warehouse.hands,
    hand_hour: Number(warehouse.handHour).toFixed(2),
    leave_policy: warehouse.leavePolicy,
    per_order: warehouse.workload.perOrder,
    per_bin: warehouse.workload.perBin,
    per_line: warehouse.workload.perLine,
    per_package: warehouse.workload.perPackage,
    per_paper: warehouse.workload.perPaper,
    periods: warehouse.periods.map((one) => ({ ...one, hands: one.hands ?? "" })),
    ...more,
  })
}

describe("a late collection", () => {
  it("is told with the cheapest way out: later trucks that keep the promise, at the least cost", async () => {
    // thirty small orders for Denver: 7.3 minutes each, 219 in all, by two hands 109.5
    await takeFile(
      rig.context,
      ...Array.from({ length: 30 }, (_, index) =>
        row({ order_number: `A-${index}`, street: `${index + 1} Growler Row`, promised_on: "2026-12-02" }),
      ),
    )
    expect(await adviceFor(at("09:00"), await warehouseById(rig.db, 1), await view("09:00"))).toBeNull()
    const context = at("13:00")
    const warehouse = await warehouseById(rig.db, 1)
    const day = await view("13:00")
    const door4 = day.collections.find((one) => one.door === "4")
    // 75 minutes of two hands until 14:15: 34.5 minutes are lacking
    expect(door4?.column?.margin).toBeCloseTo(75 - 109.5)
    const advice = await adviceFor(context, warehouse, day)
    expect(advice).toMatchObject({ door: "4", lost: 0, take: "move" })
    // 69 minutes of one person must go elsewhere: ten orders of 7.3
    expect(advice?.moves).toHaveLength(10)
    expect(advice?.moves.every((move) => move.inTime)).toBe(true)
    // tomorrow's ground truck costs the same and a week's promise is kept
    expect(advice?.dearer.toFixed(2)).toBe("0.00")
    // two hands more are 150 minutes in 75: enough with one? 225 of 219 in 75 minutes by three hands: yes
    expect(advice?.hands?.more).toBe(1)
  })

  it("is in time once the advice is taken; one undo brings it back, and taking it twice is once", async () => {
    const context = at("13:00")
    const warehouse = await warehouseById(rig.db, 1)
    const advice = await adviceFor(context, warehouse, await view("13:00"))
    const key = randomUUID()
    const fingerprint = advice?.fingerprint ?? ""
    expect(codes(await takeAdvice(context, warehouse, "another", "move", key))).toEqual(["advice.changed"])
    const taken = value(await takeAdvice(context, warehouse, fingerprint, "move", key))
    expect(taken).toMatchObject({ kind: "move", result: { changed: 10, refused: [] } })
    expect(value(await takeAdvice(context, warehouse, fingerprint, "move", key))).toEqual(taken)
    const after = await view("13:00")
    expect(after.collections.find((one) => one.door === "4")?.column?.margin).toBeGreaterThanOrEqual(0)
    expect(after.later).toBe(10)
    const last = await lastGroup(context)
    value(await undoGroup(context, last?.id ?? ""))
    expect((await view("13:00")).later).toBe(0)
    await expect(
      takeAdvice(as(context, { role: "sales" }), warehouse, fingerprint, "move", randomUUID()),
    ).rejects.toThrow(NotAllowed)
  })

  it("moves orders of one shipment together", async () => {
    await takeFile(
      rig.context,
      ...["J-1", "J-2"].map((number) =>
        row({ order_number: number, street: "500 Joint Street", promised_on: "2026-12-02" }),
      ),
    )
    const ids = [(await orderBySource(rig.db, "J-1")).id, (await orderBySource(rig.db, "J-2")).id]
    value(await joinOrders(rig.context, ids))
    const context = at("13:00")
    const advice = await adviceFor(context, await warehouseById(rig.db, 1), await view("13:00"))
    // the follower never stands by itself in the advice: moving the one that leads moves both
    expect(advice?.moves.length).toBeGreaterThan(0)
    expect(advice?.moves.some((move) => move.orderId === ids[1])).toBe(false)
  })

  it("is in time with more hands today, whatever the shifts say", async () => {
    const context = at("13:00")
    const warehouse = await warehouseById(rig.db, 1)
    const advice = await adviceFor(context, warehouse, await view("13:00"))
    value(await takeAdvice(context, warehouse, advice?.fingerprint ?? "", "hands", randomUUID()))
    const day = await view("13:00")
    // 32 orders now, 233.6 minutes: three hands do 225 in the 75 minutes left, four do 300
    expect([day.hands, day.handsByHand]).toEqual([4, true])
    expect(day.collections.find((one) => one.door === "4")?.column?.willMiss).toEqual([])
    expect(codes(await setHands(context, warehouse, 0))).toEqual(["shifts.hands"])
    value(await setHands(context, warehouse, null))
    expect((await view("13:00")).hands).toBe(2)
    // tomorrow it is as the shifts say
    value(await setHands(context, warehouse, 9))
    expect((await view("09:00", "2026-11-25")).hands).toBe(2)
    value(await setHands(context, warehouse, null))
  })
})

describe("the cheapest moves", () => {
  const move = (dearer: string, minutes: number, inTime = true) => ({ dearer: new Decimal(dearer), minutes, inTime })
  it("free the minutes at the least cost, and none that is not needed", () => {
    // 12 minutes are wanted: 10 and 2 for 7.00, 20 for 18.00
    const [a, b, c] = [move("5.00", 10), move("2.00", 2), move("18.00", 20)]
    expect(cheapest([a, b, c], 12)).toEqual([a, b])
    expect(cheapest([a, c], 12)).toEqual([c])
    // cheaper than as planned is no reason to move what need not move
    expect(cheapest([move("-9.00", 5), move("0.00", 10)], 10)).toEqual([move("0.00", 10)])
    expect(cheapest([a, b, c], 10)).toEqual([a])
  })
  it("take those that stay in time before cheaper ones that do not, and all when even they are not enough", () => {
    const [late, dear] = [move("0.00", 30, false), move("40.00", 30)]
    expect(cheapest([late, dear], 30)).toEqual([dear])
    expect(cheapest([late, dear], 90)).toEqual([late, dear])
  })
})

describe("working time", () => {
  it("is set up by an administrator, and plans the line anew", async () => {
    await takeFile(rig.context, row({ order_number: "L-1", promised_on: "2026-12-04", street: "9 Late Street" }))
    const planned = async () => {
      const order = await orderBySource(rig.db, "L-1")
      const found = there(await rig.db("collection").where("id", order.collection_id).first("on_date"))
      return found.on_date as string
    }
    expect(await planned()).toBe("2026-11-24")
    await expect(saveWork(rig.context, await form())).rejects.toThrow(NotAllowed)
    const old = await form({ leave_policy: "latest" })
    value(await saveWork(admin, old))
    // Denver takes three business days by ground: Tuesday 1 December arrives on Friday the 4th
    expect(await planned()).toBe("2026-12-01")
    expect(codes(await saveWork(admin, old))).toEqual(["shifts.changed-meanwhile"])
    value(await saveWork(admin, await form({ leave_policy: "soonest" })))
    expect(await planned()).toBe("2026-11-24")
  })

  it("refuses what is no time, no person and no shift", async () => {
    const good = await form()
    const messages = (more: object) =>
      workForm
        .safeParse({ ...good, periods: good.periods.map((one) => ({ ...one, hands: one.hands ?? "" })), ...more })
        .error?.issues.map((issue) => issue.message)
    expect(messages({ periods: [{ kind: "break", starts: "12:00", ends: "12:30", hands: "" }] })).toEqual([
      "shifts.no-shift",
    ])
    expect(messages({ periods: [{ kind: "shift", starts: "8", ends: "12:30", hands: "" }] })).toContain("shifts.time")
    expect(messages({ periods: [{ kind: "shift", starts: "08:00", ends: "08:00", hands: "" }] })).toEqual([
      "shifts.time",
    ])
    expect(messages({ hands: "0" })).toEqual(["shifts.people"])
    expect(messages({ per_bin: "-1" })).toEqual(["shifts.figure"])
    expect(messages({ hand_hour: "dear" })).toEqual(["shifts.hour"])
  })

  it("adds up shifts that overlap, each with its own people", async () => {
    const before = await form()
    value(
      await saveWork(
        admin,
        await form({
          periods: [
            { kind: "shift", starts: "06:00", ends: "14:00", hands: 2 },
            { kind: "shift", starts: "12:00", ends: "20:00", hands: 3 },
            { kind: "break", starts: "13:00", ends: "13:30", hands: "" },
          ],
        }),
      ),
    )
    expect((await view("09:00")).hands).toBe(2)
    expect((await view("12:15")).hands).toBe(5)
    expect((await view("15:00")).hands).toBe(3)
    value(await saveWork(admin, { ...before, version: (await form()).version }))
  })

  it("ends on a closed day: no truck, nobody at work, and the orders go with another", async () => {
    const warehouse = await warehouseById(rig.db, 1)
    const days = await calendarDays(rig.db, warehouse, rig.context.now)
    // 5 U.S.C. 6103: the fourth Thursday of November, Christmas Day
    expect(days.map((day) => day.date)).toEqual(expect.arrayContaining(["2026-11-26", "2026-12-25", "2027-01-01"]))
    value(await closeDay(admin, "2026-11-25", "Stocktaking", true))
    value(await closeDay(admin, "2026-11-25", "Stocktaking", true))
    expect(await collectionsOn(rig.db, 1, "2026-11-25")).toEqual([])
    expect((await view("09:00", "2026-11-25")).crew).toEqual([])
    expect((await calendarDays(rig.db, warehouse, rig.context.now))[0]).toMatchObject({
      date: "2026-11-25",
      name: "Stocktaking",
      closed: true,
    })
    value(await closeDay(admin, "2026-11-25", "", false))
    expect((await collectionsOn(rig.db, 1, "2026-11-25")).length).toBe(10)
    expect(codes(await closeDay(admin, "2026-11-20", "", true))).toEqual(["shifts.day-gone"])
    expect(codes(await closeDay(admin, "someday", "", true))).toEqual(["shifts.day-gone"])
  })
})

describe("work", () => {
  it("is measured from act to act of a person, and kept beside what was predicted", async () => {
    await takeFile(rig.context, row({ order_number: "M-1", street: "77 Measured Street", quantity: "2" }))
    const { id } = await orderBySource(rig.db, "M-1")
    const [stop] = await pickStops(rig.db, id)
    const take = (seconds: number) =>
      pick({ ...rig.context, now: new Date(rig.context.now.getTime() + 86_400_000 + seconds * 1000) }, id, {
        scanId: randomUUID(),
        allocationId: stop?.allocationId as number,
        bin: stop?.bin as string,
        item: stop?.sku as string,
        times: 1,
      })
    value(await take(0))
    value(await take(90))
    const measure = there(await rig.db("work_measure").where({ order_id: id, kind: "pick" }).first())
    // the first act of the day has no act before it within ten minutes; the second came a minute and a half later
    expect(measure).toMatchObject({ acts: 2 })
    expect(Number(measure.active_s)).toBe(90)
    value(await openShipment(rig.context, id))
    const { orderId, shipment } = await packed(rig.context, "M-1")
    await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    const work = await measuredWork(rig.db, 1)
    expect(work.orders).toBe(1)
    // half of 3 an order, and 1.2 for one bin
    expect(work.predicted.pick).toBeCloseTo(2.7)
    expect(work.measured.pick).toBeCloseTo(1.5)
  })
})
