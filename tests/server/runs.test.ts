import { randomUUID } from "node:crypto"
import { nextStop } from "core/picking/index.ts"
import { shipWhatIsPacked } from "server/decisions/apart.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { holdOrder } from "server/decisions/hold.ts"
import { addPackage, openShipment } from "server/packing/index.ts"
import { packRun } from "server/packing/packRun.ts"
import { assigned } from "server/picking/assign.ts"
import { makeRuns, proposeRuns, type RunWish } from "server/picking/buildRuns.ts"
import { type Candidate, groupsOf, runCandidates } from "server/picking/candidates.ts"
import { lastTake, pick, runWalk, skipStop, undoTake } from "server/picking/index.ts"
import { carts, runs } from "server/picking/runs.ts"
import { breakUpRun, enterRun, handRun, leaveRun } from "server/picking/walkRuns.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, codes, openRig, orderBySource, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
let tomas: number
beforeAll(async () => {
  rig = await openRig()
  tomas = there(await rig.db("user").where({ username: "tomas" }).first("id")).id
  await takeFile(
    rig.context,
    ...["A", "B", "C", "D", "E", "F"].map((name, index) =>
      row({
        order_number: `R-${name}`,
        po_number: `R${name}`,
        sku: ["YST-LAG-500", "YST-CID-500", "GSK-15-100"][index % 3] as string,
        quantity: String(index + 1),
        promised_on: "2026-12-04",
      }),
    ),
    row({ order_number: "R-G", po_number: "RG", sku: "KEG-HAF-58", quantity: "2", promised_on: "2026-12-04" }),
    row({ order_number: "R-G", po_number: "RG", sku: "YST-LAG-500", quantity: "2", promised_on: "2026-12-04" }),
  )
})
afterAll(() => rig?.drop())

const wish = (more: Partial<RunWish> = {}): RunWish => ({
  by: "all",
  value: "",
  orderIds: [],
  cartId: null,
  atMost: 20,
  ...more,
})
const idOf = async (number: string): Promise<number> => (await orderBySource(rig.db, number)).id
const cart = async (code: string) => (await carts(rig.db, 1)).find((one) => one.code === code)
const run = async (number: number) => (await runs(rig.db, 1, { number }))[0]
const stopsOf = async (number: number) => (await runWalk(rig.db, 1, (await run(number))?.id ?? 0)).stops
const tomasWorks = () => ({ ...rig.context, actor: { ...rig.context.actor, userId: tomas, name: "Tomas Reyes" } })
const take = async (number: number, index: number, more: Record<string, unknown> = {}, context = rig.context) => {
  const stop = (await stopsOf(number))[index]
  if (!stop) throw new Error("no such stop")
  return pick(context, stop.orderId, {
    scanId: randomUUID(),
    allocationId: stop.allocationId,
    bin: stop.bin,
    tote: stop.totes[0] ?? "",
    item: stop.sku,
    times: 1,
    ...more,
  })
}
/** Takes by hand what a run still has to be picked. */
async function pickRest(number: number): Promise<void> {
  for (const stop of await stopsOf(number))
    if (stop.picked < stop.quantity)
      value(
        await pick(rig.context, stop.orderId, {
          scanId: randomUUID(),
          allocationId: stop.allocationId,
          bin: stop.bin,
          item: null,
          times: stop.quantity - stop.picked,
        }),
      )
}

describe("building runs", () => {
  it("says what orders can be told apart by, each order once", async () => {
    const all = await runCandidates(rig.db, 1)
    expect(all).toHaveLength(7)
    expect(groupsOf(all, "zone").find((one) => one.value === "COLD")?.orders).toBe(5)
    expect(groupsOf(all, "item").find((one) => one.value === "YST-LAG-500")?.orders).toBe(3)
    expect(groupsOf(all, "customer").map((one) => one.orders)).toEqual([7])
    const door = (one: Candidate) => one.collection?.door
    expect(groupsOf(all, "collection").reduce((sum, one) => sum + one.orders, 0)).toBe(all.filter(door).length)
  })
  it("walks no further together than apart, and says both", async () => {
    const proposed = await proposeRuns(rig.context, wish())
    expect(proposed.measured).toBe(true)
    for (const one of proposed.runs) expect(one.metres).toBeLessThanOrEqual(one.apartMetres)
    expect(proposed.runs.flatMap((one) => one.orders)).toHaveLength(7)
    // nothing was written
    expect(await runs(rig.db, 1)).toEqual([])
  })
  it("keeps a cart's totes: eight orders of one tote and more don't go on eight", async () => {
    const c1 = await cart("C1")
    const proposed = await proposeRuns(rig.context, wish({ cartId: c1?.id ?? null, atMost: 3 }))
    expect(Math.max(...proposed.runs.map((one) => one.orders.length))).toBeLessThanOrEqual(3)
    // two half barrels of 17 × 17 × 24 in are 227 l, four fifths of a tote of 60 l are 48: 5 totes; they fit
    expect(proposed.left).toEqual([])
  })
  it("takes only the stops of a zone into a zone's run, and the rest of the order can go into another", async () => {
    const [number] = value(await makeRuns(rig.context, wish({ by: "zone", value: "COLD" })))
    const stops = await stopsOf(number as number)
    expect(new Set(stops.map((stop) => stop.zone))).toEqual(new Set(["COLD"]))
    expect(stops.some((stop) => stop.sku === "KEG-HAF-58")).toBe(false)
    const rest = await runCandidates(rig.db, 1)
    expect(rest.find((one) => one.stops.some((stop) => stop.sku === "KEG-HAF-58"))).toBeDefined()
    value(await breakUpRun(rig.context, number as number))
    expect(await runCandidates(rig.db, 1)).toHaveLength(7)
  })
  it("makes them once, though it is asked twice or by two at the same moment", async () => {
    const key = randomUUID()
    const both = await Promise.all([
      makeRuns(rig.context, wish({ by: "single" }), key),
      makeRuns(rig.context, wish({ by: "single" }), key),
    ])
    expect(value(both[0] as (typeof both)[0])).toEqual(value(both[1] as (typeof both)[0]))
    const other = await makeRuns(tomasWorks(), wish({ by: "single" }))
    expect(codes(other)).toEqual(["run.nothing-to-pick"])
    // six orders of one item; R-G has two
    expect((await runs(rig.db, 1)).reduce((sum, one) => sum + one.orders, 0)).toBe(6)
    for (const one of await runs(rig.db, 1)) value(await breakUpRun(rig.context, one.number))
  })
})

describe("a run", () => {
  let number: number
  it("is begun with a cart whose totes the orders get; the cart is out then", async () => {
    const c1 = await cart("C1")
    ;[number] = value(
      await makeRuns(
        rig.context,
        wish({
          by: "hand",
          orderIds: [await idOf("R-A"), await idOf("R-B"), await idOf("R-C")],
          cartId: c1?.id ?? null,
        }),
      ),
    ) as [number]
    value(await enterRun(rig.context, number, c1?.id ?? null))
    value(await enterRun(rig.context, number, c1?.id ?? null))
    expect(await run(number)).toMatchObject({
      state: "picking",
      cart: "C1",
      holder: "Maren Holt",
      people: ["Maren Holt"],
      orders: 3,
    })
    const totes = (await stopsOf(number)).map((stop) => [stop.orderNumber, stop.totes.join()])
    expect(new Set(totes.map(([, tote]) => tote)).size).toBe(3)
    const [second] = value(
      await makeRuns(rig.context, wish({ by: "hand", orderIds: [await idOf("R-D")], cartId: c1?.id ?? null })),
    )
    expect(codes(await enterRun(rig.context, second as number, c1?.id ?? null))).toEqual(["run.cart-busy"])
    value(await breakUpRun(rig.context, second as number))
  })
  it("refuses another order's tote and the wrong bin, and counts a scan once", async () => {
    const stops = await stopsOf(number)
    const other = stops.find((stop) => stop.orderId !== stops[0]?.orderId)?.totes[0]
    expect(codes(await take(number, 0, { tote: other }))).toEqual(["pick.wrong-tote"])
    expect(codes(await take(number, 0, { tote: "" }))).toEqual(["pick.tote-first"])
    expect(codes(await take(number, 0, { bin: "Z-01-1" }))).toEqual(["pick.wrong-bin"])
    expect(value(await take(number, 0)).taken).toBe(1)
  })
  it("takes the last back once, and not what another took", async () => {
    const before = (await stopsOf(number))[0]?.picked
    const id = (await run(number))?.id as number
    const last = await lastTake(rig.context, { runId: id })
    expect(last).toMatchObject({ quantity: 1 })
    expect(codes(await undoTake(tomasWorks(), { runId: id }, last?.scanId ?? ""))).toEqual(["pick.nothing-to-undo"])
    expect(value(await undoTake(rig.context, { runId: id }, last?.scanId ?? "")).quantity).toBe(1)
    expect(value(await undoTake(rig.context, { runId: id }, last?.scanId ?? "")).quantity).toBe(0)
    expect((await stopsOf(number))[0]?.picked).toBe((before ?? 0) - 1)
    expect(await reconcileStock(rig.db)).toEqual([])
  })
  it("comes back to what was passed over", async () => {
    const stops = await stopsOf(number)
    const first = nextStop(stops, rig.context.actor.userId)
    value(await skipStop(rig.context, first?.allocationId ?? 0))
    expect(nextStop(await stopsOf(number), rig.context.actor.userId)?.allocationId).not.toBe(first?.allocationId)
  })
  it("sends two people to different stops", async () => {
    expect(value(await enterRun(tomasWorks(), number, null))).toEqual({ others: ["Maren Holt"], takenUp: false })
    const own = await idOf("R-B")
    const mine = (await stopsOf(number)).find((stop) => stop.orderId === own)
    expect(mine?.quantity).toBe(2)
    value(
      await pick(rig.context, mine?.orderId ?? 0, {
        scanId: randomUUID(),
        allocationId: mine?.allocationId ?? 0,
        bin: mine?.bin ?? "",
        tote: mine?.totes[0] ?? "",
        item: mine?.sku ?? "",
        times: 1,
      }),
    )
    const stops = await stopsOf(number)
    const still = stops.find((stop) => stop.allocationId === mine?.allocationId)
    expect(still).toMatchObject({ claimedBy: rig.context.actor.userId })
    expect(still?.picked).toBeLessThan(still?.quantity ?? 0)
    // put first in the walk it would be anybody's next, were nobody there
    const walk = [still as NonNullable<typeof still>, ...stops.filter((stop) => stop !== still)]
    expect(nextStop(walk, rig.context.actor.userId)).toBe(still)
    expect(nextStop(walk, tomas)).not.toBe(still)
    expect((await run(number))?.people).toEqual(["Maren Holt", "Tomas Reyes"])
  })
  it("gives each who walks it a bin of his own at once, and leaves him there", async () => {
    const { id } = (await run(number)) as { id: number }
    await rig.db("allocation").where({ run_id: id }).update({ claimed_by: null, claimed_at: null, skipped_at: null })
    const walk = await runWalk(rig.db, rig.context.actor.warehouseId, id)
    const maren = rig.context.actor.userId as number
    // both look at the same moment, at the same state
    const [hers, his] = (await Promise.all([assigned(rig.db, walk, maren), assigned(rig.db, walk, tomas)])).map(
      ({ stops }, index) => nextStop(stops, [maren, tomas][index]),
    )
    expect(hers?.claimedBy).toBe(maren)
    expect(his?.claimedBy).toBe(tomas)
    expect(hers?.bin).not.toBe(his?.bin)
    // looking again sends nobody elsewhere, also when what lies before it is free again
    const again = async (user: number) =>
      nextStop((await assigned(rig.db, await runWalk(rig.db, rig.context.actor.warehouseId, id), user)).stops, user)
    expect((await again(tomas))?.allocationId).toBe(his?.allocationId)
    await rig.db("allocation").where({ claimed_by: maren, run_id: id }).update({ claimed_by: null, claimed_at: null })
    expect((await again(tomas))?.allocationId).toBe(his?.allocationId)
    expect((await again(maren))?.bin).not.toBe(his?.bin)
  })
  it("is left, taken up by another, handed on", async () => {
    value(await leaveRun(rig.context, number))
    expect(await run(number)).toMatchObject({ state: "picking", holder: "Tomas Reyes" })
    value(await leaveRun(tomasWorks(), number))
    expect(await run(number)).toMatchObject({ state: "left", holder: null, people: [] })
    expect(value(await enterRun(tomasWorks(), number, null))).toEqual({ others: [], takenUp: true })
    value(await handRun(tomasWorks(), number, rig.context.actor.userId as number))
    expect(await run(number)).toMatchObject({ state: "picking", holder: "Maren Holt", people: ["Maren Holt"] })
    expect(codes(await handRun(rig.context, number, 99_999))).toEqual(["run.no-such-person"])
  })
  it("loses an order that is stopped, and gets back one whose stock was dealt out again", async () => {
    const id = await idOf("R-C")
    await holdOrder(rig.context, id, true)
    expect((await run(number))?.orders).toBe(2)
    expect(await rig.db("tote").where({ order_id: id })).toEqual([])
    await holdOrder(as(rig.context, { role: "lead" }), id, false)
    expect((await runCandidates(rig.db, 1)).some((one) => one.id === id)).toBe(true)
  })
  it("is over when all is picked, and the totes still know their orders", async () => {
    await pickRest(number)
    expect((await run(number))?.state).toBe("done")
    expect(await rig.db("tote").whereNotNull("order_id").count({ n: "*" }).first()).toMatchObject({ n: 2 })
    expect(codes(await enterRun(rig.context, number, null))).toEqual(["run.over"])
    const id = (await run(number))?.id as number
    const last = await lastTake(rig.context, { runId: id })
    value(await undoTake(rig.context, { runId: id }, last?.scanId ?? ""))
    expect((await run(number))?.state).toBe("picking")
    value(await breakUpRun(rig.context, number))
  })
  it("without orders is dropped", async () => {
    const [one] = value(await makeRuns(rig.context, wish({ by: "hand", orderIds: [await idOf("R-E")] })))
    value(await cancelByHand(as(rig.context, { role: "lead" }), await idOf("R-E")))
    expect((await run(one as number))?.state).toBe("dropped")
  })
  it("of another warehouse is unknown", async () =>
    expect(codes(await enterRun(as(rig.context, { warehouseId: 2 }), number, null))).toEqual(["run.unknown"]))
})

it("a part that is left when the rest ships stays in the run, and is picked and packed with it", async () => {
  await takeFile(
    rig.context,
    row({ order_number: "R-P", po_number: "RP", sku: "YST-LAG-500", quantity: "4", promised_on: "2026-12-04" }),
    row({ order_number: "R-P", po_number: "RP", sku: "GSK-15-100", quantity: "1", promised_on: "2026-12-04" }),
  )
  const id = await idOf("R-P")
  const [number] = value(await makeRuns(rig.context, wish({ by: "hand", orderIds: [id] }))) as [number]
  value(await enterRun(rig.context, number, null))
  const yeast = (await stopsOf(number)).findIndex((stop) => stop.sku === "YST-LAG-500")
  value(await take(number, yeast, { times: 3 }))
  const shipment = value(await openShipment(rig.context, id))
  value(await addPackage(rig.context, id, "K12", true))
  expect(shipment.lines.map((line) => line.picked)).toEqual([3, 0])
  const { orderNumber: part } = value(await shipWhatIsPacked(rig.context, id))
  const partId = there(await rig.db("sales_order").where({ order_number: part, warehouse_id: 1 }).first("id")).id
  const orders = await rig
    .db("pick_run_order as m")
    .join("pick_run as r", "r.id", "m.run_id")
    .where({ "r.number": number })
    .pluck("m.order_id")
  expect(orders).toContain(partId)
  const left = await stopsOf(number)
  expect(left.filter((stop) => stop.orderId === partId).reduce((sum, stop) => sum + stop.quantity, 0)).toBe(2)
  await pickRest(number)
  expect((await run(number))?.state).toBe("done")
  const packed = value(await packRun(rig.context, number))
  expect(packed.taken).toContain(part)
  expect(packed.before).toContain(shipment.orderNumber)
  expect(await reconcileStock(rig.db)).toEqual([])
})

it("is done when its last two pieces are taken at the same moment", async () => {
  for (let round = 0; round < 12; round += 1) {
    const names = [`R-Z${round}a`, `R-Z${round}b`]
    await takeFile(
      rig.context,
      ...names.map((name) => row({ order_number: name, po_number: name, sku: "PH-METER", quantity: "1" })),
    )
    const ids = await Promise.all(names.map(idOf))
    const [number] = value(await makeRuns(rig.context, wish({ by: "hand", orderIds: ids })))
    value(await enterRun(rig.context, number as number, null))
    expect(await stopsOf(number as number)).toHaveLength(2)
    const taken = await Promise.all([0, 1].map((at) => take(number as number, at)))
    expect(taken.map((one) => one.ok)).toEqual([true, true])
    expect((await run(number as number))?.state).toBe("done")
  }
})

it("two people with eight scanners pick one run empty, no piece lost or doubled", async () => {
  const ids = await Promise.all(["R-D", "R-F", "R-G"].map(idOf))
  const [number] = value(await makeRuns(rig.context, wish({ by: "hand", orderIds: ids })))
  value(await enterRun(rig.context, number as number, null))
  const wanted = (await stopsOf(number as number)).reduce((sum, stop) => sum + stop.quantity, 0)
  let taken = 0
  const worker = async (context: typeof rig.context) => {
    for (let tries = 0; tries < 60; tries += 1) {
      const stop = nextStop(await stopsOf(number as number), context.actor.userId)
      if (!stop) return
      const scan = {
        scanId: randomUUID(),
        allocationId: stop.allocationId,
        bin: stop.bin,
        tote: stop.totes[0] ?? "",
        item: stop.sku,
        times: 1,
      }
      // each scan is sent twice and counts once
      const [one] = await Promise.all([pick(context, stop.orderId, scan), pick(context, stop.orderId, scan)])
      if (one.ok) taken += one.value.taken
    }
  }
  await Promise.all([rig.context, tomasWorks(), rig.context, tomasWorks()].map(worker))
  expect(taken).toBe(wanted)
  const moved = await rig.db("stock_movement").whereIn("order_id", ids).where({ cause: "pick" }).sum({ n: "quantity" })
  expect(Number(moved[0]?.n)).toBe(-wanted)
  expect((await run(number as number))?.state).toBe("done")
  expect(await reconcileStock(rig.db)).toEqual([])
})
