import { randomUUID } from "node:crypto"
import { mass } from "core/units/index.ts"
import { closePool } from "server/compute/pool.ts"
import { changeGroup, undoGroup } from "server/decisions/group.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { closePackages, openShipment, weigh } from "server/packing/index.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { printRun } from "server/shipping/printRun.ts"
import { buyRun, pauseRun, resumeRun, stopRun } from "server/shipping/runs.ts"
import { askVoid } from "server/shipping/void.ts"
import { askFor } from "server/shipping/wishes.ts"
import { noteAnswer } from "server/shippingRuns/answered.ts"
import { addToRun, makeRun, prepareAgain, putAway, type RunWanted, saveRun, takeOut } from "server/shippingRuns/make.ts"
import { staleRuns } from "server/shippingRuns/prepare.ts"
import { runById, runs } from "server/shippingRuns/read.ts"
import { queueDue, workOnce } from "server/worker/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  carrierAt,
  codes,
  fault,
  ledger,
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
afterAll(async () => {
  await rig.drop()
  await closePool()
})

const idOf = async (number: string) => (await orderBySource(rig.db, number)).id as number
const read = async (id: number) => there(await runById(rig.db, 1, id))
const steps = async (id: number) => (await read(id)).rows.map((one) => one.step)
const made = async (ids: readonly number[], wanted: Partial<RunWanted> = {}, key: string = randomUUID()) => {
  const { id } = value(await makeRun(rig.context, ids, { rule: "cheapest", ...wanted }, key))
  await workAll(rig.db)
  return id
}
/** Orders that are picked and packed into one carton each, open still. */
const picked = async (name: string, n: number, more: Record<string, string> = {}) => {
  const numbers = Array.from({ length: n }, (_, at) => `${name}-${at}`)
  await takeFile(rig.context, ...numbers.map((number) => row({ order_number: number, ...more })))
  const ids = await Promise.all(numbers.map(idOf))
  for (const id of ids) await pickAll(rig.context, id)
  return ids
}
const seenOf = async (id: number) => {
  const { all } = (await read(id)).ready
  return { shipments: all.shipments, cost: all.cost }
}
const buyAll = async (id: number) => {
  value(await buyRun(rig.context, id, await seenOf(id)))
  await workAll(rig.db)
}
/** The orders that carriers have booked and not canceled, each as often as it was booked. */
const bookedOf = async (names: readonly string[]) => {
  const carriers: string[] = await rig.db("carrier").pluck("code")
  const all = await Promise.all(carriers.map((code) => ledger(carrierAt(rig, code))))
  return all.flat().flatMap((one) => (one.state === "booked" && names.includes(one.reference) ? [one.reference] : []))
}
const printsOf = (ids: readonly number[]) =>
  rig
    .db("print_job as p")
    .join("document as d", "d.id", "p.document_id")
    .whereIn("d.order_id", [...ids])
    .where("d.kind", "label")
    .orderBy("p.id")
    .pluck("d.name")

describe("a shipping run", () => {
  it("says of each order how far it is, and moves it on as what is missing is done", async () => {
    await takeFile(rig.context, row({ order_number: "S-1" }), row({ order_number: "S-2", postal_code: "" }))
    const [one, two] = [await idOf("S-1"), await idOf("S-2")]
    const key = randomUUID()
    const id = await made([one, two], {}, key)
    expect(await made([one], {}, key)).toBe(id)
    expect(await steps(id)).toEqual(["not-picked", "stopped"])
    await pickAll(rig.context, one)
    expect((await steps(id))[0]).toBe("not-packed")
    value(await prepareAgain(rig.context, id, [one], true))
    await workAll(rig.db)
    // packed as suggested: everything is in, confirmed by no scan, and open still so that it can be weighed
    const shipment = there(await shipmentOf(rig.db, one))
    expect(shipment.packages.map((pack) => [pack.state, pack.unverified > 0])).toEqual([["open", true]])
    expect((await steps(id))[0]).toBe("ready")
    // ten pounds of goods that weigh thirty is a mistake of somebody's
    value(await weigh(rig.context, one, 1, mass("300", "lb")))
    expect((await steps(id))[0]).toBe("weight")
    value(await weigh(rig.context, one, 1, null))
    // rated before that: changed since
    expect((await steps(id))[0]).toBe("stale")
    expect(await staleRuns(rig.db)).toEqual([id])
    await queueDue(rig.db)
    await workAll(rig.db)
    expect((await steps(id))[0]).toBe("ready")
  })

  it("is not ready while a paper lacks something, which is said before anything is bought", async () => {
    const [one = 0] = await picked("D", 1, { sku: "YST-LIQ-1", quantity: "1" })
    const id = await made([one], { pack: true })
    value(await askFor(rig.context, one, { options: ["dry-ice"], dryIceKg: null }, randomUUID()))
    value(await prepareAgain(rig.context, id, [one]))
    await workAll(rig.db)
    const [row] = (await read(id)).rows
    expect([row?.step, row?.reasons.map((why) => why.code)]).toEqual(["papers", ["dangerous.no-ice-mass"]])
    expect((await read(id)).ready.all.shipments).toBe(0)
    value(await askFor(rig.context, one, { dryIceKg: "2" }, randomUUID()))
    await queueDue(rig.db, Date.now() + 120_000)
    await workAll(rig.db)
    expect(await steps(id)).toEqual(["ready"])
    await buyAll(id)
    expect(await steps(id)).toEqual(["bought"])
  })

  it("rates an order again by itself once its truck has left or was closed", async () => {
    const [one = 0] = await picked("T", 1)
    const id = await made([one], { pack: true })
    const truckOf = async () =>
      (await rig.db("shipping_run_order").where({ run_id: id, order_id: one }).first("collection_id"))?.collection_id
    const first = there(await truckOf())
    expect(await steps(id)).toEqual(["ready"])
    expect(await staleRuns(rig.db)).not.toContain(id)
    await rig.db("collection").where({ id: first }).update({ closed_at: rig.context.now })
    expect(await steps(id)).toEqual(["stale"])
    expect(await staleRuns(rig.db)).toContain(id)
    await queueDue(rig.db, Date.now() + 120_000)
    await workAll(rig.db)
    expect(await steps(id)).toEqual(["ready"])
    const second = there(await truckOf())
    expect(second).not.toBe(first)
    // the clock alone does it too
    const { cut_off } = there(await rig.db("collection").where({ id: second }).first("cut_off"))
    await rig.db("collection").where({ id: second }).update({ cut_off: rig.context.now })
    expect(await steps(id)).toEqual(["stale"])
    await rig.db("collection").where({ id: second }).update({ cut_off })
    await rig.db("collection").where({ id: first }).update({ closed_at: null })
    await prepareAgain(rig.context, id, null)
    await workAll(rig.db)
  })

  it("reads a prepaid balance as it is now: money that is put in moves its orders on at once", async () => {
    const ids = await picked("PB", 2)
    const id = await made(ids, { pack: true })
    const [first] = (await read(id)).rows
    const carrier = await rig
      .db("carrier")
      .where({ name: there(first?.service).carrier })
      .first("id", "prepaid_balance")
    const hold = (balance: string | null) =>
      rig
        .db("carrier")
        .where({ id: there(carrier).id })
        .update({ prepaid_balance: balance })
    const cost = Number(there(first).cost)
    // enough for the first, one cent short for both
    await hold((2 * cost - 0.01).toFixed(2))
    const two = await read(id)
    expect(two.rows.map((one) => one.step)).toEqual(["ready", "balance"])
    expect(two.rows[1]?.reasons[0]?.values.lacks).toBe("0.01")
    await hold((2 * cost).toFixed(2))
    expect(await steps(id)).toEqual(["ready", "ready"])
    await hold(there(carrier).prepaid_balance)
  })

  it("that is put away is not changed before it is taken out again", async () => {
    const [one = 0, other = 0] = await picked("AW", 2)
    const id = await made([one], { pack: true })
    const seen = await seenOf(id)
    value(await putAway(rig.context, id, true))
    for (const outcome of [
      await addToRun(rig.context, id, [other], false),
      await takeOut(rig.context, id, [one]),
      await saveRun(rig.context, id, { name: "Noon" }),
      await prepareAgain(rig.context, id, null),
      await buyRun(rig.context, id, seen),
    ])
      expect(codes(outcome)).toEqual(["shipping-run.put-away-already"])
    value(await putAway(rig.context, id, false))
    value(await saveRun(rig.context, id, { name: "Noon" }))
    expect((await read(id)).name).toBe("Noon")
  })

  it("packs those to be packed once they are picked, by itself", async () => {
    await takeFile(rig.context, row({ order_number: "P-1" }))
    const one = await idOf("P-1")
    const id = await made([one], { pack: true })
    expect(await steps(id)).toEqual(["not-picked"])
    await pickAll(rig.context, one)
    await queueDue(rig.db, Date.now() + 60_000)
    await workAll(rig.db)
    expect(await steps(id)).toEqual(["ready"])
  })

  it("rates packages as the bench does, to the cent, and proposes by its rule", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "S-rated")
    const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    const costs = offers.flatMap((offer) =>
      offer.rate && !offer.late && !offer.needs ? [Number(offer.rate.contract.amount)] : [],
    )
    const cheapest = (await read(await made([orderId]))).rows[0]
    expect(Number(cheapest?.cost)).toBe(Math.min(...costs))
    const fastest = (await read(await made([orderId], { rule: "fastest" }))).rows[0]
    expect((fastest?.arrives ?? "") <= (cheapest?.arrives ?? "")).toBe(true)
    expect(Number(fastest?.cost)).toBeGreaterThanOrEqual(Number(cheapest?.cost))
  })

  it("is refused without orders, for too many, and of another warehouse's knows nothing", async () => {
    const make = (ids: number[]) => makeRun(rig.context, ids, { rule: "cheapest" }, randomUUID())
    expect(codes(await make([]))).toEqual(["shipping-run.none"])
    expect(codes(await make(Array.from({ length: 1_001 }, (_, at) => at)))).toEqual(["shipping-run.too-many"])
    const elsewhere = as(rig.context, { warehouseId: 2 })
    const id = await made([await idOf("S-1")])
    expect(codes(await makeRun(elsewhere, [await idOf("S-1")], { rule: "cheapest" }, randomUUID()))).toEqual([
      "shipping-run.none",
    ])
    expect(codes(await buyRun(elsewhere, id, { shipments: 1, cost: "1.00" }))).toEqual(["shipping-run.gone"])
    await expect(makeRun(as(rig.context, { role: "sales" }), [1], { rule: "cheapest" }, "x")).rejects.toThrow(
      "shipping.buy",
    )
  })

  it("takes orders that are scanned, each once, and lets go of them again", async () => {
    const [one, two] = await picked("SC", 2)
    const { id } = value(await makeRun(rig.context, [], { rule: "settled", empty: true }, randomUUID()))
    expect(value(await addToRun(rig.context, id, [one as number], true)).added).toBe(1)
    expect(value(await addToRun(rig.context, id, [one as number], true)).added).toBe(0)
    expect(value(await addToRun(rig.context, id, [two as number], false)).added).toBe(1)
    await workAll(rig.db)
    expect(await steps(id)).toEqual(["ready", "not-packed"])
    expect(value(await takeOut(rig.context, id, [two as number])).removed).toBe(1)
    expect(await steps(id)).toEqual(["ready"])
  })
})

describe("buying a run", () => {
  it("buys what is ready in the background, exactly once, and prints it in one go in its order", async () => {
    const ids = await picked("B", 5)
    const id = await made(ids, { pack: true })
    const before = await seenOf(id)
    expect(before.shipments).toBe(5)
    // two press at once: one purchase
    const [first, second] = await Promise.all([buyRun(rig.context, id, before), buyRun(rig.context, id, before)])
    expect([value(first).shipments, value(second).shipments]).toEqual([5, 5])
    await workAll(rig.db)
    const run = await read(id)
    expect(run.rows.map((one) => one.step)).toEqual(Array(5).fill("bought"))
    expect([run.state, run.bought.all.shipments, run.bought.all.cost]).toEqual(["open", 5, before.cost])
    const names = run.rows.map((one) => one.orderNumber)
    expect((await bookedOf(names)).sort()).toEqual([...names].sort())
    expect(await printsOf(ids)).toEqual(names.map((name) => `${name}-1`))
    // asked for once more, it is done already
    expect(codes(await buyRun(rig.context, id, before))).toEqual(["shipping-run.nothing-ready"])
    expect(await printsOf(ids)).toHaveLength(5)
  })

  it("is refused when it is not what was seen", async () => {
    const ids = await picked("C", 2)
    const id = await made(ids, { pack: true })
    const seen = await seenOf(id)
    expect(codes(await buyRun(rig.context, id, { ...seen, shipments: 1 }))).toEqual(["shipping-run.changed"])
    expect(codes(await buyRun(rig.context, id, { ...seen, cost: "1.00" }))).toEqual(["shipping-run.changed"])
    expect(await steps(id)).toEqual(["ready", "ready"])
  })

  it("what a carrier refuses falls out with its reason, the rest goes on; tried again alone it is bought", async () => {
    const ids = await picked("F", 3)
    const id = await made(ids, { pack: true })
    const carrier = there((await read(id)).rows[0]?.service).code
    const { carrier: code } = there(
      await rig
        .db("service as s")
        .join("carrier as c", "c.id", "s.carrier_id")
        .where("s.code", carrier)
        .first("c.code as carrier"),
    )
    await fault(carrierAt(rig, code), "refuse", 1)
    await buyAll(id)
    const run = await read(id)
    const failed = run.rows.filter((one) => one.step === "failed")
    expect(failed).toHaveLength(1)
    expect(failed[0]?.reasons.map((why) => why.code)).toEqual(["buy.refused"])
    expect([run.state, run.bought.all.shipments]).toEqual(["open", 2])
    value(
      await prepareAgain(
        rig.context,
        id,
        failed.map((one) => one.orderId),
      ),
    )
    await workAll(rig.db)
    expect((await seenOf(id)).shipments).toBe(1)
    await buyAll(id)
    expect(await steps(id)).toEqual(["bought", "bought", "bought"])
    expect(await printsOf(ids)).toHaveLength(3)
  })

  it("an order that was canceled, stopped or bought at the bench meanwhile does not keep the others", async () => {
    const ids = await picked("M", 4)
    const id = await made(ids, { pack: true })
    const seen = await seenOf(id)
    const [stopped, canceled, bench] = ids as [number, number, number, number]
    value(await buyRun(rig.context, id, seen))
    // before any worker has come to them
    const warehouse = await warehouseById(rig.db, 1)
    value(await changeGroup(rig.context, warehouse, randomUUID(), [stopped], { what: "hold" }))
    await rig.db("sales_order").where({ id: canceled }).update({ cancelled_at: rig.context.now })
    await askForLabels(rig.context, bench, value(await closePackages(rig.context, bench)))
    await workAll(rig.db)
    const run = await read(id)
    expect(run.rows.map((one) => one.step)).toEqual(["stopped", "out", "out", "bought"])
    expect(run.state).toBe("open")
  })

  it("pauses, goes on and stops: what is bought stays bought", async () => {
    const ids = await picked("Z", 4)
    const id = await made(ids, { pack: true })
    value(await buyRun(rig.context, id, await seenOf(id)))
    value(await pauseRun(rig.context, id))
    await workAll(rig.db)
    expect(await steps(id)).toEqual(["asked", "asked", "asked", "asked"])
    value(await resumeRun(rig.context, id))
    // the intents are written, no carrier was asked yet
    for (let n = 0; n < 20 && (await steps(id)).includes("asked"); n += 1) await workOnce(rig.db)
    value(await stopRun(rig.context, id))
    await workAll(rig.db)
    const run = await read(id)
    expect(run.rows.every((one) => one.step === "bought" || one.step === "ready")).toBe(true)
    expect(run.state).toBe("open")
    expect(codes(await putAway(rig.context, id, true))).toEqual([])
    const away = await runs(rig.context, { putAway: true })
    expect(away.map((one) => one.id)).toContain(id)
    expect((await runs(rig.context, { putAway: false })).map((one) => one.id)).not.toContain(id)
  })

  it("two answers at the same moment: the later one sees the earlier, and the run is at its end", async () => {
    const ids = await picked("T", 2)
    const id = await made(ids, { pack: true })
    const at = (index: number) => ({ run_id: id, order_id: ids[index] as number })
    for (const [index, intent] of [900_001, 900_002].entries())
      await rig.db("shipping_run_order").where(at(index)).update({ state: "buying", intent_id: intent })
    await rig.db("shipping_run").where({ id }).update({ state: "buying" })
    let read = 0
    const both = () => read === 2
    const answer = (intent: number) =>
      rig.db.transaction(async (trx) => {
        // whoever accepts a booking has read much before, and so sees things as they stood then
        await trx("shipping_run_order").where({ run_id: id }).select("state")
        read += 1
        while (!both()) await new Promise((resolve) => setTimeout(resolve, 5))
        await noteAnswer(trx, intent, null, rig.context.now)
      })
    await Promise.all([answer(900_001), answer(900_002)])
    expect((await rig.db("shipping_run").where({ id }).first())?.state).toBe("open")
  })

  it("labels that are voided bring their order back, to be bought again", async () => {
    const [one] = await picked("V", 1)
    const id = await made([one as number], { pack: true })
    await buyAll(id)
    value(await askVoid(rig.context, one as number))
    await workAll(rig.db)
    await queueDue(rig.db, Date.now() + 120_000)
    await workAll(rig.db)
    expect(await steps(id)).toEqual(["ready"])
  })

  it("prints later, in the order of the doors, again, and from a label on", async () => {
    const ids = await picked("L", 3)
    const id = await made(ids, { pack: true })
    await rig.db("shipping_run").where({ id }).update({ prints: "later" })
    await buyAll(id)
    expect(await printsOf(ids)).toEqual([])
    const key = randomUUID()
    expect(value(await printRun(rig.context, id, "unprinted", key)).labels).toBe(3)
    value(await printRun(rig.context, id, "unprinted", key).then((one) => (one.ok ? one : { ok: true, value: null })))
    const run = await read(id)
    const names = run.rows.map((one) => `${one.orderNumber}-1`)
    expect(await printsOf(ids)).toEqual(names)
    value(await printRun(rig.context, id, { from: there(run.rows[1]?.labelId) }, randomUUID()))
    expect(await printsOf(ids)).toEqual([...names, ...names.slice(1)])
    expect(codes(await printRun(rig.context, id, { from: 1 }, randomUUID()))).toEqual(["shipping-run.nothing-to-print"])
  })

  it("prints what was closed at the bench first, then its own in its order, though a lost worker came to one late", async () => {
    const ids = await picked("LW", 3)
    const [first = 0] = ids
    await packed(rig.context, "LW-2")
    const id = await made(ids, { pack: true })
    await rig.db("shipping_run").where({ id }).update({ prints: "later" })
    await buyAll(id)
    // as when the worker that had the first order was killed and another came to it ten minutes later
    await rig.db.raw("UPDATE audit SET at = at + INTERVAL 10 MINUTE WHERE order_id = ? AND action = 'pack.closed'", [
      first,
    ])
    value(await printRun(rig.context, id, "unprinted", randomUUID()))
    const [a, b, c] = (await read(id)).rows.map((one) => `${one.orderNumber}-1`)
    expect(await printsOf(ids)).toEqual([c, a, b])
  })
})

describe("changes of many orders at once, with one undo", () => {
  const change = async (ids: readonly number[], asked: Parameters<typeof changeGroup>[4], key = randomUUID()) => {
    const warehouse = await warehouseById(rig.db, 1)
    return { key, outcome: await changeGroup(rig.context, warehouse, key, ids, asked) }
  }
  const wishesOf = async (id: number) => there(await shipmentOf(rig.db, id)).wishes

  it("set the service, which the run then proposes, and give it back", async () => {
    const ids = await picked("G", 2)
    const id = await made(ids, { pack: true })
    const other = there(await rig.db("service").where({ code: "MDS" }).first("id"))
    const { key } = await change(ids, { what: "service", service: other.id })
    value(await prepareAgain(rig.context, id, ids))
    await workAll(rig.db)
    expect((await read(id)).rows.map((one) => [one.service?.code, one.byHand])).toEqual([
      ["MDS", true],
      ["MDS", true],
    ])
    value(await undoGroup(rig.context, key))
    value(await prepareAgain(rig.context, id, ids))
    await workAll(rig.db)
    expect((await read(id)).rows.every((one) => !one.byHand)).toBe(true)
  })

  it("set signature, options, declared value and payer, before and after a shipment is opened", async () => {
    const ids = await picked("H", 2)
    const [open, closed] = ids as [number, number]
    value(await openShipment(rig.context, open))
    const asked = [
      { what: "signature", signature: "adult" },
      { what: "option", option: "saturday" },
      { what: "declared", amount: "250" },
      { what: "payer", terms: "collect", account: "BR-1234" },
    ] as const
    const keys = []
    for (const one of asked) {
      const { key, outcome } = await change(ids, one)
      expect(value(outcome)).toMatchObject({ changed: 2, refused: [] })
      keys.push(key)
      expect(value((await change(ids, one)).outcome)).toMatchObject({ changed: 0, same: 2 })
    }
    value(await openShipment(rig.context, closed))
    for (const id of ids) {
      const { options, declared } = await wishesOf(id)
      expect([...options].sort()).toEqual(["declared-value", "saturday", "signature-adult"])
      expect(declared).toBe("250")
    }
    const { settled } = there(await shipmentOf(rig.db, closed))
    expect(settled.payer).toEqual({
      value: { terms: "collect", account: "BR-1234" },
      by: { kind: "hand", name: rig.context.actor.name },
    })
    // the order whose shipment was opened meanwhile is another now, and is left as it is
    for (const key of keys.toReversed()) value(await undoGroup(rig.context, key))
    expect((await wishesOf(open)).options).toEqual([])
  })

  it("set weight, reference, message and instructions; what makes no sense is refused in words", async () => {
    const ids = await picked("K", 1)
    const [id] = ids as [number]
    expect(codes((await change(ids, { what: "weight", weight: "many" })).outcome)).toEqual(["pack.number-wanted"])
    expect(value((await change(ids, { what: "weight", weight: "12" })).outcome).refused[0]?.reasons[0]?.code).toBe(
      "group.one-package",
    )
    await packed(rig.context, "K-0")
    const { key } = await change(ids, { what: "weight", weight: "4.5" })
    expect(there((await shipmentOf(rig.db, id))?.packages[0]).measured?.toFixed(6)).toBe("2.041166")
    value(await undoGroup(rig.context, key))
    expect(there((await shipmentOf(rig.db, id))?.packages[0]).measured).toBeNull()
    value((await change(ids, { what: "reference", name: "Cost center", value: "4711" })).outcome)
    expect(there(await shipmentOf(rig.db, id)).references).toEqual([{ name: "Cost center", value: "4711" }])
    value((await change(ids, { what: "message", text: "With thanks" })).outcome)
    value((await change(ids, { what: "instructions", text: "Gate 4" })).outcome)
    expect(await rig.db("sales_order").where({ id }).first("message", "instructions")).toEqual({
      message: "With thanks",
      instructions: "Gate 4",
    })
    expect(codes((await change(ids, { what: "declared", amount: "a lot" })).outcome)).toEqual(["wish.amount"])
    expect(codes((await change(ids, { what: "option", option: "fly" })).outcome)).toEqual(["wish.unknown"])
    expect(codes((await change(ids, { what: "payer", terms: "third-party", account: "" })).outcome)).toEqual([
      "wish.account-needed",
    ])
    expect(
      value((await change(ids, { what: "packaging", packaging: "NONE" })).outcome).refused[0]?.reasons[0]?.code,
    ).toBe("pack.no-such-packaging")
  })
})
