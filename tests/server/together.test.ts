import type { OrderId } from "core/ids/index.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { joinOrders } from "server/decisions/join.ts"
import { recheck, recheckMany } from "server/decisions/recheck.ts"
import { freeStock } from "server/stock/allocation.ts"
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, askForLabels, openRig, orderBySource, type Rig, readyToBuy, row, takeFile, value } from "./rig.ts"

let rig: Rig
/** Thirty orders: more than are checked in one transaction. */
let ids: readonly OrderId[]
const scarce = "FLT-HSG-10"
const idOf = async (number: string): Promise<OrderId> => (await orderBySource(rig.db, number)).id

beforeAll(async () => {
  rig = await openRig()
  const { db, context } = rig
  const item = there(await db("item").where({ sku: scarce }).first("id")).id
  const [first, ...others] = await db("stock").where({ item_id: item, warehouse_id: 1 }).orderBy("id").pluck("id")
  // ten pieces are here: for two orders of four, and two are left for the third
  await db("stock").whereIn("id", others).delete()
  await db("stock").where({ id: first }).update({ on_hand: 10, allocated: 0 })
  const numbers = Array.from({ length: 24 }, (_, index) => `TG-${index}`)
  await takeFile(
    context,
    ...numbers.map((order_number, index) =>
      row({
        order_number,
        po_number: index === 5 ? "PO 4" : `PO ${index}`,
        street: `${index + 1} Growler Row`,
        postal_code: index === 6 ? "10001" : "80205",
        quantity: String(1 + (index % 3)),
        ...(index >= 20 && index < 23 ? { sku: scarce, quantity: "4" } : {}),
      }),
    ),
    // one shipment, of which the second is promised sooner
    ...["TJ-1", "TJ-2"].map((order_number) =>
      row({
        order_number,
        po_number: order_number,
        street: "9 Joint Street",
        promised_on: order_number === "TJ-2" ? "2026-11-25" : "2026-12-02",
      }),
    ),
  )
  const [gone, ...rest] = await Promise.all([...numbers, "TJ-1", "TJ-2"].map(idOf))
  value(await cancelByHand(as(context, { role: "lead" }), there(gone)))
  value(await joinOrders(context, [await idOf("TJ-1"), await idOf("TJ-2")]))
  const { orderId, shipment } = await readyToBuy(context, "TG-label")
  await askForLabels(context, orderId, shipment)
  ids = [there(gone), ...rest, orderId].toSorted((a, b) => a - b)
})
afterAll(() => rig?.drop())

/** As if nobody had ever looked at them. */
async function forget(): Promise<void> {
  const { db } = rig
  const open = await db("sales_order")
    .whereIn("id", ids)
    .whereNull("cancelled_at")
    .whereNot({ source_number: "TG-label" })
  for (const { id } of open) await db.transaction((trx) => freeStock(trx, id))
  await db("order_stop").whereIn("order_id", ids).delete()
  await db("order_word").whereIn("order_id", ids).delete()
  await db("sales_order")
    .whereIn(
      "id",
      open.map((order) => order.id),
    )
    .update({ collection_id: null, planned_service_id: null, must_collection_id: null, planned_packages: 1 })
}

/** All that a check writes of orders. */
async function written() {
  const { db } = rig
  const of = (table: "order_stop" | "order_word") => db(table).whereIn("order_id", ids)
  return {
    orders: await db("sales_order")
      .whereIn("id", ids)
      .orderBy("id")
      .select(
        "id",
        "collection_id",
        "must_collection_id",
        "planned_service_id",
        "planned_packages",
        "ship_to_key",
        "settings",
      ),
    stops: await of("order_stop").orderBy("order_id").orderBy("id").select("order_id", "code", "detail"),
    words: await of("order_word").orderBy("order_id").orderBy("word").select("order_id", "word"),
    held: await db("allocation as a")
      .join("order_line as l", "l.id", "a.order_line_id")
      .whereIn("l.order_id", ids)
      .orderBy("a.order_line_id")
      .orderBy("a.stock_id")
      .select("a.order_line_id", "a.stock_id", "a.quantity", "a.picked"),
    stock: await db("stock").orderBy("id").select("id", "on_hand", "allocated"),
  }
}

/** The statements that some work asks. */
async function statements(work: () => Promise<unknown>): Promise<string[]> {
  const asked: string[] = []
  const note = (one: { sql: string }) => asked.push(one.sql)
  rig.db.on("query", note)
  await work()
  rig.db.removeListener("query", note)
  return asked
}

const many = (some: readonly OrderId[] = ids) => recheckMany(rig.db, some, rig.context.actor, rig.context.now)
const stopsOf = async (number: string) =>
  (
    await rig
      .db("order_stop")
      .where({ order_id: await idOf(number) })
      .select("code")
  ).map((stop) => stop.code)

describe("many orders that are checked together", () => {
  beforeEach(forget)
  it("come to what each comes to by itself, whether stopped, canceled, combined or labeled", async () => {
    for (const id of ids)
      await rig.db.transaction((trx) => recheck(trx, id, rig.context.actor, rig.context.now, { dealing: true }))
    const alone = await written()
    expect(alone.words.length).toBeGreaterThan(200)
    expect(new Set(alone.stops.map((stop) => stop.code))).toEqual(
      new Set(["stop.stock-short", "stop.purchase-order-twice", "address.state-postal"]),
    )
    await forget()
    const reasons = await many()
    expect([...reasons.keys()].toSorted((a, b) => a - b)).toEqual(ids)
    expect(await written()).toEqual(alone)
    const [lead, other] = await Promise.all(["TJ-1", "TJ-2"].map((number) => orderBySource(rig.db, number)))
    const sent = (order: typeof lead) => [order?.collection_id, order?.planned_service_id, order?.must_collection_id]
    expect(other?.joined_to_id).toBe(lead?.id)
    expect(sent(lead)).toEqual(sent(other))
  })
  it("take of what is scarce as they come, and what one holds no other takes when they are checked again", async () => {
    await many()
    expect(await Promise.all(["TG-20", "TG-21", "TG-22"].map(stopsOf))).toEqual([[], [], ["stop.stock-short"]])
    const third = await idOf("TG-22")
    const stop = there(await rig.db("order_stop").where({ order_id: third }).first("detail"))
    expect(stop.detail).toMatchObject({ ordered: "4", available: "2" })
    const backwards = [third, await idOf("TG-21"), await idOf("TG-20")]
    await many(backwards)
    expect(await Promise.all(["TG-20", "TG-21", "TG-22"].map(stopsOf))).toEqual([[], [], ["stop.stock-short"]])
    // nobody holds anything: who is asked for first comes first
    await forget()
    await many(backwards)
    expect(await Promise.all(["TG-20", "TG-21", "TG-22"].map(stopsOf))).toEqual([["stop.stock-short"], [], []])
  })
  it("that are as they were are not written again", async () => {
    const alone = await standingAlone()
    await many(alone)
    const before = await rig.db("allocation").orderBy("id").select()
    const asked = await statements(() => many(alone))
    // that stock be dealt out is asked for as long as somebody waits
    const writes = asked.filter((sql) => /^(insert|delete|update)/i.test(sql) && !/`job`|`words_of`/.test(sql))
    expect(writes).toEqual([])
    expect(await rig.db("allocation").orderBy("id").select()).toEqual(before)
  })
  it("cost as many statements as two", async () => {
    const alone = await standingAlone()
    await many(alone)
    const [few, all] = [
      await statements(() => many(alone.slice(0, 2))),
      await statements(() => many(alone.slice(0, 20))),
    ]
    expect(all.length).toBe(few.length)
  })
})

/** Those that are neither canceled, combined nor labeled. */
const standingAlone = (): Promise<OrderId[]> =>
  rig
    .db("sales_order")
    .whereIn("id", ids)
    .whereNull("cancelled_at")
    .where("source_number", "like", "TG-%")
    .whereNot({ source_number: "TG-label" })
    .orderBy("id")
    .pluck("id") as unknown as Promise<OrderId[]>
