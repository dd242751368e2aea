import { randomUUID } from "node:crypto"
import * as fc from "fast-check"
import { NotAllowed } from "server/actors/index.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { count, countTasks } from "server/decisions/count.ts"
import { checkAgain, holdOrder } from "server/decisions/hold.ts"
import { blockBin, doubtStock, findStock, receive, setLotState, transfer } from "server/decisions/stock.ts"
import { pick, pickStops, undoTake } from "server/picking/index.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, codes, openRig, orderBySource, type Rig, row, takeFile, value, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const lead = () => as(rig.context, { role: "lead" })
const place = async (sku: string, bin?: string) =>
  rig
    .db("stock as s")
    .join("item as i", "i.id", "s.item_id")
    .join("bin as b", "b.id", "s.bin_id")
    .where({ "i.sku": sku, "s.warehouse_id": 1, ...(bin ? { "b.code": bin } : {}) })
    .orderBy("s.id")
    .first("s.*", "b.code as bin")
const stopsOf = async (number: string) =>
  (await rig
    .db("order_stop as t")
    .join("sales_order as o", "o.id", "t.order_id")
    .where("o.source_number", number)
    .orderBy("t.id")
    .pluck("t.code")) as string[]
const held = async (number: string) =>
  rig
    .db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("sales_order as o", "o.id", "l.order_id")
    .join("stock as s", "s.id", "a.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .leftJoin("lot", "lot.id", "s.lot_id")
    .where("o.source_number", number)
    .orderBy("a.id")
    .select("b.code as bin", "lot.code as lot", "a.quantity")
const receipt = (more: Record<string, unknown>) => ({
  key: randomUUID(),
  bin: "A-01-1",
  sku: "PH-METER",
  lot: "",
  expires: "",
  quantity: 5,
  released: "on" as const,
  ...more,
})

describe("what lies in a bin", () => {
  it("changes by movements only: received, moved, counted; each once however often it is sent", async () => {
    const before = (await place("PH-METER")).on_hand
    const form = receipt({ quantity: 7 })
    value(await receive(rig.context, form))
    value(await receive(rig.context, form))
    const there = await place("PH-METER", "A-01-1")
    expect(there.on_hand).toBe(7)
    const move = { key: randomUUID(), stockId: there.id, to: "a 02 1", quantity: 3 }
    value(await transfer(rig.context, move))
    value(await transfer(rig.context, move))
    expect([(await place("PH-METER", "A-01-1")).on_hand, (await place("PH-METER", "A-02-1")).on_hand]).toEqual([4, 3])
    expect(codes(await transfer(rig.context, { ...move, key: randomUUID(), quantity: 5 }))).toEqual(["stock.not-free"])
    value(await doubtStock(rig.context, there.id))
    const task = (await countTasks(rig.db, 1)).find((one) => one.bin === "A-01-1")
    expect(value(await count(rig.context, task?.id ?? 0, 6)).difference).toBe(2)
    expect(value(await count(rig.context, task?.id ?? 0, 6)).difference).toBe(0)
    expect(codes(await count(rig.context, task?.id ?? 0, 9))).toEqual(["count.done-already"])
    const causes = await rig
      .db("stock_movement")
      .where({ stock_id: there.id })
      .orderBy("id")
      .select("cause", "quantity")
    expect(causes.map((one) => [one.cause, one.quantity])).toEqual([
      ["receipt", 7],
      ["transfer", -3],
      ["count", 2],
    ])
    const told = await rig
      .db("audit")
      .whereIn("action", ["stock.received", "stock.moved"])
      .orderBy("id")
      .pluck("action")
    expect(told).toEqual(["stock.received", "stock.moved"])
    // 7 received, 2 found
    const all = (await findStock(rig.context, { words: "ph-meter", empty: false })).rows
    expect(all.reduce((sum, one) => sum + one.onHand, 0)).toBe(before + 9)
    expect(await reconcileStock(rig.db)).toEqual([])
  })
  it.each<[string, Record<string, unknown>, string]>([
    ["a bin that is not there", { bin: "Y-99-9" }, "stock.no-bin"],
    ["an item that is not there", { sku: "NO-SUCH" }, "stock.no-item"],
    ["a date without a lot", { expires: "2027-01-01" }, "stock.expiry-without-lot"],
    [
      "another date for a lot that is known",
      { sku: "YST-ALE-500", lot: "Y26-120", expires: "2027-01-01" },
      "stock.other-expiry",
    ],
  ])("takes no goods for %s", async (_, more, code) =>
    expect(codes(await receive(rig.context, receipt(more)))).toEqual([code]),
  )
  it("is nobody's to change but those who may", async () => {
    await expect(receive(as(rig.context, { role: "sales" }), receipt({}))).rejects.toThrow(NotAllowed)
    await expect(blockBin(rig.context, "A-01-1", "broken")).rejects.toThrow(NotAllowed)
    const there = await place("PH-METER", "A-01-1")
    expect(
      codes(
        await transfer(as(rig.context, { warehouseId: 2 }), {
          key: randomUUID(),
          stockId: there.id,
          to: "R-A-01-1",
          quantity: 1,
        }),
      ),
    ).toEqual(["stock.unknown"])
  })
})

describe("lots", () => {
  it("are received on the day of the warehouse, not of Greenwich", async () => {
    // 21:00 on 24 November in Chicago, six hours behind, is 03:00 on the 25th in Greenwich
    const late = { ...rig.context, now: new Date("2026-11-25T03:00:00Z") }
    value(await receive(late, receipt({ sku: "PH-METER", lot: "EVENING" })))
    expect(await rig.db("lot").where({ code: "EVENING" }).pluck("received_on")).toEqual(["2026-11-24"])
  })
  it("the first expiring is taken; one that is not released, never, and it is said; released, it is dealt out", async () => {
    const [first] = (await findStock(rig.context, { words: "HOP-CAS-1", empty: false })).rows
    value(await setLotState(lead(), first?.lotId ?? 0, "blocked"))
    value(await receive(rig.context, receipt({ sku: "HOP-CAS-1", lot: "EARLY", expires: "2027-02-01", quantity: 6 })))
    value(
      await receive(
        rig.context,
        receipt({ sku: "HOP-CAS-1", lot: "NEW", expires: "2027-01-01", quantity: 6, released: undefined }),
      ),
    )
    await takeFile(rig.context, row({ order_number: "L-1", sku: "HOP-CAS-1", quantity: "4" }))
    expect(await held("L-1")).toEqual([{ bin: "A-01-1", lot: "EARLY", quantity: 4 }])
    await takeFile(rig.context, row({ order_number: "L-2", sku: "HOP-CAS-1", quantity: "4" }))
    expect(await stopsOf("L-2")).toEqual(["stop.stock-short", "stop.lot-blocked", "stop.lot-unreleased"])
    const fresh = (await findStock(rig.context, { words: "NEW HOP-CAS-1", empty: false })).rows[0]
    value(await setLotState(lead(), fresh?.lotId ?? 0, "released"))
    await workAll(rig.db)
    expect(await stopsOf("L-2")).toEqual([])
    expect((await held("L-2")).map((one) => one.lot)).toEqual(["NEW"])
    value(await setLotState(lead(), first?.lotId ?? 0, "released"))
  })
  it("a lot that will not live as long as the customer wants is left to others", async () => {
    // promised 2026-12-02; EARLY expires 2027-02-01, 61 days later
    await rig
      .db("customer")
      .where({ code: "ELKRUN" })
      .update({ routing: JSON.stringify({ minimumLife: 62 }) })
    await takeFile(
      rig.context,
      row({
        order_number: "L-3",
        customer: "Elk Run Taproom",
        sku: "HOP-CAS-1",
        quantity: "1",
        promised_on: "2026-12-02",
      }),
    )
    const [got] = await held("L-3")
    expect(got?.lot).toBe("H26-0402")
    await rig.db("customer").where({ code: "ELKRUN" }).update({ routing: "{}" })
  })
  it("a bin that is blocked gives nothing, and what waits at it is given other goods", async () => {
    value(await receive(rig.context, receipt({ sku: "BUN-10", bin: "A-02-1", quantity: 50 })))
    await takeFile(rig.context, row({ order_number: "L-4", sku: "BUN-10", quantity: "2" }))
    const [at] = await held("L-4")
    value(await blockBin(lead(), at?.bin ?? "", "beam bent"))
    const [now] = await held("L-4")
    expect(now?.bin).not.toBe(at?.bin)
    expect(codes(await blockBin(lead(), "A-02-1", "  "))).toEqual(["stock.why-wanted"])
    value(await blockBin(lead(), at?.bin ?? "", null))
  })
})

describe("scarce stock", () => {
  it("goes to who leaves earlier, then to the higher priority, and comes back when it is free", async () => {
    const stock = await place("MSH-TUN-15")
    const free = stock.on_hand - stock.allocated
    await takeFile(
      rig.context,
      row({
        order_number: "F-LATE",
        po_number: "F1",
        sku: "MSH-TUN-15",
        quantity: String(free),
        promised_on: "2026-12-10",
      }),
    )
    expect(await stopsOf("F-LATE")).toEqual([])
    await takeFile(
      rig.context,
      row({ order_number: "F-SOON", po_number: "F2", sku: "MSH-TUN-15", quantity: "2", promised_on: "2026-11-27" }),
    )
    const soon = await orderBySource(rig.db, "F-SOON")
    const late = await orderBySource(rig.db, "F-LATE")
    // the plan says which must leave first; the test is about the one that does
    const collections = await rig.db("collection").where({ warehouse_id: 1 }).orderBy("cut_off").pluck("id")
    await rig
      .db("sales_order")
      .where({ id: late.id })
      .update({ must_collection_id: collections.at(-1), collection_id: collections.at(-1) })
    await rig
      .db("sales_order")
      .where({ id: soon.id })
      .update({ must_collection_id: collections[0], collection_id: collections[0] })
    await workAll(rig.db)
    expect(await stopsOf("F-SOON")).toEqual([])
    expect(await stopsOf("F-LATE")).toEqual(["stop.stock-short"])
    const told = await rig.db("audit").where({ order_id: late.id }).pluck("action")
    expect(told).toContain("stock.gave-way")
    value(await cancelByHand(lead(), soon.id))
    await workAll(rig.db)
    expect(await stopsOf("F-LATE")).toEqual([])
    value(await cancelByHand(lead(), late.id))
  })
  it("goes to a small order that waits behind many large ones, when it is enough for that one alone", async () => {
    const stock = await place("MSH-TUN-15")
    const all = { order_number: "M-ALL", po_number: "M0", sku: "MSH-TUN-15", quantity: String(stock.on_hand) }
    await takeFile(rig.context, row(all))
    const large = Array.from({ length: 45 }, (_, n) => `M-${n + 1}`)
    await takeFile(
      rig.context,
      ...large.map((number) => row({ order_number: number, po_number: number, sku: "MSH-TUN-15", quantity: "3" })),
    )
    await takeFile(rig.context, row({ order_number: "M-ONE", po_number: "M99", sku: "MSH-TUN-15", quantity: "1" }))
    await workAll(rig.db)
    expect(await stopsOf("M-ONE")).toEqual(["stop.stock-short"])
    value(await receive(rig.context, receipt({ sku: "MSH-TUN-15", quantity: 1 })))
    await workAll(rig.db)
    expect(await stopsOf("M-ONE")).toEqual([])
    expect(await stopsOf("M-1")).toEqual(["stop.stock-short"])
    for (const number of ["M-ALL", "M-ONE", ...large])
      value(await cancelByHand(lead(), (await orderBySource(rig.db, number)).id))
  })
  it("is not taken from an order that somebody has begun, nor for one that could not go anyway", async () => {
    const stock = await place("PRS-BLD-40")
    const free = stock.on_hand - stock.allocated
    await takeFile(
      rig.context,
      row({
        order_number: "G-1",
        po_number: "G1",
        sku: "PRS-BLD-40",
        quantity: String(free),
        promised_on: "2026-12-10",
      }),
    )
    const first = await orderBySource(rig.db, "G-1")
    const [stop] = await pickStops(rig.db, first.id)
    value(
      await pick(rig.context, first.id, {
        scanId: randomUUID(),
        allocationId: stop?.allocationId ?? 0,
        bin: stop?.bin ?? "",
        item: "PRS-BLD-40",
        times: 1,
      }),
    )
    await takeFile(
      rig.context,
      row({ order_number: "G-2", po_number: "G2", sku: "PRS-BLD-40", quantity: "1", promised_on: "2026-11-27" }),
    )
    await rig.db("sales_order").where({ source_number: "G-2" }).update({ priority: 2 })
    await workAll(rig.db)
    expect([await stopsOf("G-1"), await stopsOf("G-2")]).toEqual([[], ["stop.stock-short"]])
    // another reason stands beside the stock: nothing is taken for it
    await holdOrder(lead(), first.id, true)
    expect(
      codes(
        await pick(rig.context, first.id, {
          scanId: randomUUID(),
          allocationId: stop?.allocationId ?? 0,
          bin: stop?.bin ?? "",
          item: "PRS-BLD-40",
          times: 1,
        }),
      ),
    ).toEqual(["pick.order-stopped"])
  })
})

it("eight people at once: no piece is sold twice, and stock is the sum of its movements", async () => {
  const stock = await place("REF-BRIX-32")
  await rig
    .db("stock")
    .where({ item_id: stock.item_id, warehouse_id: 1 })
    .whereNot("id", stock.id)
    .update({ to_count: true })
  const free = stock.on_hand - stock.allocated
  const rows = Array.from({ length: 24 }, (_, index) =>
    row({
      order_number: `C-${index}`,
      po_number: `C${index}`,
      sku: "REF-BRIX-32",
      quantity: "5",
      promised_on: "2026-12-04",
    }),
  )
  for (let at = 0; at < rows.length; at += 8)
    await Promise.all(rows.slice(at, at + 8).map((one) => takeFile(rig.context, one)))
  const after = there(await rig.db("stock").where({ id: stock.id }).first())
  expect(after.allocated - stock.allocated).toBe(Math.min(24, Math.floor(free / 5)) * 5)
  // eight scanners on one order, each scan sent twice
  const id = (await orderBySource(rig.db, "C-0")).id
  const [stop] = await pickStops(rig.db, id)
  const scans = Array.from({ length: 8 }, () => randomUUID())
  const attempt = (scanId: string) =>
    pick(rig.context, id, {
      scanId,
      allocationId: stop?.allocationId ?? 0,
      bin: stop?.bin ?? "",
      item: "REF-BRIX-32",
      times: 1,
    })
  const outcomes = await Promise.all([...scans, ...scans].map(attempt))
  const taken = outcomes.map((one) => (one.ok ? one.value.taken : 0))
  expect(taken.slice(8)).toEqual(taken.slice(0, 8))
  expect(taken.slice(0, 8).reduce((sum, one) => sum + one, 0)).toBe(5)
  expect((await pickStops(rig.db, id))[0]?.picked).toBe(5)
  expect(await reconcileStock(rig.db)).toEqual([])
})

it("any sequence of receiving, moving, ordering, picking, undoing, counting, blocking and cancelling keeps stock right", async () => {
  const skus = ["PH-METER", "BUN-10", "GSK-15-100"]
  const step = fc.oneof(
    fc.record({ do: fc.constant("receive" as const), sku: fc.nat(2), n: fc.integer({ min: 1, max: 9 }) }),
    fc.record({ do: fc.constant("move" as const), sku: fc.nat(2), n: fc.integer({ min: 1, max: 9 }) }),
    fc.record({ do: fc.constant("order" as const), sku: fc.nat(2), n: fc.integer({ min: 1, max: 40 }) }),
    fc.record({ do: fc.constant("pick" as const), sku: fc.nat(2), n: fc.integer({ min: 1, max: 4 }) }),
    fc.record({ do: fc.constant("undo" as const), sku: fc.nat(2), n: fc.nat(3) }),
    fc.record({ do: fc.constant("count" as const), sku: fc.nat(2), n: fc.integer({ min: -6, max: 6 }) }),
    fc.record({ do: fc.constant("block" as const), sku: fc.nat(2), n: fc.nat(1) }),
    fc.record({ do: fc.constant("cancel" as const), sku: fc.nat(2), n: fc.nat(5) }),
  )
  let number = 0
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 12 }), async (steps) => {
      const mine: string[] = []
      const scans: { id: number; scanId: string }[] = []
      for (const one of steps) {
        const sku = skus[one.sku] as string
        const spots = (await findStock(rig.context, { words: sku, empty: true })).rows
        const spot = spots[one.n % Math.max(1, spots.length)] ?? spots[0]
        if (one.do === "receive") await receive(rig.context, receipt({ sku, quantity: one.n }))
        if (one.do === "move" && spot)
          await transfer(rig.context, {
            key: randomUUID(),
            stockId: spot.id,
            to: one.n % 2 ? "B-05-1" : "C-02-1",
            quantity: one.n,
          })
        if (one.do === "order") {
          number += 1
          mine.push(`R-${number}`)
          await takeFile(
            rig.context,
            row({
              order_number: `R-${number}`,
              po_number: `R${number}`,
              sku,
              quantity: String(one.n),
              promised_on: "2026-12-04",
            }),
          )
        }
        const target = mine[one.n % Math.max(1, mine.length)]
        const order = target ? await orderBySource(rig.db, target) : null
        if (one.do === "pick" && order) {
          const [stop] = (await pickStops(rig.db, order.id)).filter((each) => each.picked < each.quantity)
          const scanId = randomUUID()
          if (stop) {
            const done = await pick(rig.context, order.id, {
              scanId,
              allocationId: stop.allocationId,
              bin: stop.bin,
              item: stop.sku,
              times: one.n,
            })
            if (done.ok) scans.push({ id: order.id, scanId })
          }
        }
        const last = scans[one.n % Math.max(1, scans.length)]
        if (one.do === "undo" && last) await undoTake(rig.context, { orderId: last.id }, last.scanId)
        if (one.do === "count" && spot) {
          await doubtStock(rig.context, spot.id)
          const task = (await countTasks(rig.db, 1)).find((each) => each.bin === spot.bin && each.sku === sku)
          if (task) await count(rig.context, task.id, Math.max(0, task.onHand + one.n))
        }
        if (one.do === "block" && spot) await blockBin(lead(), spot.bin, one.n ? "wet" : null)
        if (one.do === "cancel" && order) await cancelByHand(lead(), order.id)
      }
      await workAll(rig.db, 3)
      expect(await reconcileStock(rig.db)).toEqual([])
      expect(await rig.db("stock").whereRaw("on_hand < 0 OR allocated < 0 OR allocated > on_hand")).toEqual([])
      // no line holds more than it needs
      expect(
        await rig.db
          .raw(
            "SELECT l.id FROM order_line l JOIN allocation a ON a.order_line_id = l.id GROUP BY l.id, l.ordered HAVING SUM(a.quantity) > l.ordered",
          )
          .then(([rows]) => rows),
      ).toEqual([])
    }),
    { numRuns: 12 },
  )
  // what is stopped only for stock and could have it now is let go by looking again
  for (const { id } of await rig.db("sales_order").whereNull("left_line_at").select("id"))
    await checkAgain(rig.context, id)
  expect(await reconcileStock(rig.db)).toEqual([])
}, 120_000)
