import { randomUUID } from "node:crypto"
import { localDate } from "core/calendar/index.ts"
import { parse } from "csv-parse/sync"
import { NotAllowed } from "server/actors/index.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { changeGroup, lastGroup, undoGroup } from "server/decisions/group.ts"
import { changePromise } from "server/decisions/promise.ts"
import { exportOrders } from "server/orders/export.ts"
import { filterQuery, type OrderFilter, orderFilter, readFilter } from "server/orders/filter.ts"
import { allOrders, findOrders } from "server/orders/list.ts"
import { mark, marksOf } from "server/orders/marks.ts"
import { dropView, keepView, views } from "server/orders/views.ts"
import { putMissingWords, wordsAreMissing } from "server/orders/words.ts"
import { type Warehouse, warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  openRig,
  orderBySource,
  packed,
  pickAll,
  type Rig,
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
let warehouse: Warehouse
beforeAll(async () => {
  rig = await openRig()
  warehouse = await warehouseById(rig.db, 1)
  // eight orders, from the oldest to the newest
  await takeFile(
    rig.context,
    row({ order_number: "L-1", po_number: "7001", city: "Denver" }),
    row({ order_number: "L-2", customer: "Halvard Brewing", promised_on: "2026-11-25", sku: "PH-METER" }),
    row({ order_number: "L-3", customer: "Halvard Brewing", promised_on: "2026-11-24", city: "Boulder" }),
    row({ order_number: "L-4", street: "Growler Row" }),
    row({ order_number: "L-5", promised_on: "" }),
    row({ order_number: "L-6", city: "Fort Collins", postal_code: "80521" }),
    row({ order_number: "L-7", customer: "Café Überländer" }),
    row({ order_number: "L-8" }),
  )
})
afterAll(() => rig?.drop())

const idOf = async (number: string): Promise<number> => (await orderBySource(rig.db, number)).id
const idsOf = (...numbers: string[]) => Promise.all(numbers.map(idOf))
const numbers = async (filter: Partial<OrderFilter>, size?: number, before: number | null = null) => {
  const page = await findOrders(rig.context, warehouse, orderFilter.parse(filter), before, size)
  return page.orders.map((order) => order.sourceNumber)
}

describe("orders are found", () => {
  it("by the beginnings of any words, all of them, newest first", async () => {
    expect(await numbers({ find: "halv" })).toEqual(["L-3", "L-2"])
    expect(await numbers({ find: "boul halvard" })).toEqual(["L-3"])
    expect(await numbers({ find: "uberl cafe" })).toEqual(["L-7"])
    expect(await numbers({ find: "7001" })).toEqual(["L-1"])
    expect(await numbers({ find: "alvard" })).toEqual([])
  })

  it("the same whichever way the words are looked up, page after page", async () => {
    for (const find of ["denver", "elk run", "halvard boulder", "halvard taproom", "denver 80205 yst"]) {
      const all = await numbers({ find }, 100)
      for (const looks of [
        { rare: 1, oneByOne: 1 },
        { rare: 1, oneByOne: 3 },
        { rare: 4, oneByOne: 2 },
      ]) {
        const found: string[] = []
        for (let before: number | null = null; ; ) {
          const page = await findOrders(rig.context, warehouse, orderFilter.parse({ find }), before, 2, looks)
          found.push(...page.orders.map((order) => order.sourceNumber))
          if (page.next === null) break
          before = page.next
        }
        expect(found).toEqual(all)
      }
    }
  })

  it("by item, by a lot that they hold, and by what is noted on them", async () => {
    const lot = await rig
      .db("allocation as a")
      .join("stock as s", "s.id", "a.stock_id")
      .join("lot", "lot.id", "s.lot_id")
      .join("order_line as l", "l.id", "a.order_line_id")
      .where("l.order_id", await idOf("L-1"))
      .first("lot.code")
    expect(await numbers({ find: lot.code })).toContain("L-1")
    expect(await numbers({ find: lot.code })).not.toContain("L-2")
    expect(await numbers({ find: "ph-met pocket" })).toEqual(["L-2"])
    value(await mark(rig.context, await idOf("L-6"), { what: "note", text: "Ring the brewer at the gate" }))
    expect(await numbers({ find: "brewer gate" })).toEqual(["L-6"])
  })

  it("no more by what is not theirs any more", async () => {
    const id = await idOf("L-6")
    const note = (await marksOf(rig.db, id)).notes[0]
    value(await mark(rig.context, id, { what: "drop-note", id: note?.id ?? 0 }))
    expect(await numbers({ find: "brewer gate" })).toEqual([])
    await takeFile(rig.context, row({ order_number: "L-6", city: "Greeley", postal_code: "80631" }))
    expect(await numbers({ find: "collins" })).toEqual([])
    expect(await numbers({ find: "greeley" })).toEqual(["L-6"])
  })

  it("by conditions that hold together", async () => {
    // L-4 has no house number; no truck brings L-3 to Boulder today
    expect(await numbers({ stage: "stopped" })).toEqual(["L-4", "L-3"])
    // Tuesday 24 November 2026: L-3 is promised for today, L-2 for tomorrow
    expect(await numbers({ promised: "today" })).toEqual(["L-3"])
    expect(await numbers({ promised: "tomorrow" })).toEqual(["L-2"])
    expect(await numbers({ promised: "none" })).toEqual(["L-5"])
    expect(await numbers({ promised: "between", promised_from: "2026-11-25", promised_to: "2026-11-30" })).toEqual([
      "L-2",
    ])
    expect(await numbers({ customer: "Halv", promised: "tomorrow" })).toEqual(["L-2"])
    expect(await numbers({ customer: "nobody" })).toEqual([])
    expect(await numbers({ received: "yesterday" })).toEqual([])
    expect((await numbers({ received: "today", country: "us" })).length).toBe(8)
    expect(await numbers({ find: "halvard", stage: "stopped" })).toEqual(["L-3"])
    expect(await numbers({ find: "halvard", stage: "stopped", promised: "tomorrow" })).toEqual([])
  })

  it("by their stage, which is computed", async () => {
    await pickAll(rig.context, await idOf("L-2"))
    const { orderId, shipment } = await packed(rig.context, "L-8")
    await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    expect(await numbers({ stage: "picked" })).toEqual(["L-2"])
    expect(await numbers({ stage: "labelled" })).toEqual(["L-8"])
    expect(await numbers({ stage: "gone" })).toEqual([])
    expect(await numbers({ stage: "line" })).not.toContain("L-8")
    const { tracking } = there(await rig.db("package").whereNotNull("tracking").first())
    expect(await numbers({ find: there(tracking) })).toEqual(["L-8"])
  })

  it("page by page, each order once, also where a stage leaves few of many", async () => {
    const seen: string[] = []
    for (let before: number | null = null; ; ) {
      const page = await findOrders(rig.context, warehouse, orderFilter.parse({}), before, 3)
      seen.push(...page.orders.map((order) => order.sourceNumber))
      expect(page.orders.length).toBeLessThanOrEqual(3)
      if (page.next === null) break
      before = page.next
    }
    expect(seen).toEqual(["L-8", "L-7", "L-6", "L-5", "L-4", "L-3", "L-2", "L-1"])
    expect(await numbers({ stage: "picked" }, 1)).toEqual(["L-2"])
    expect(await allOrders(rig.context, warehouse, orderFilter.parse({}), 7)).toBeNull()
    expect((await allOrders(rig.context, warehouse, orderFilter.parse({}), 8))?.length).toBe(8)
  })

  it("also when they were made before there were words", async () => {
    await rig.db("order_word").delete()
    await rig.db("sales_order").update({ words_of: 0 })
    expect(await wordsAreMissing(rig.db)).toBe(true)
    expect(await numbers({ find: "greeley" })).toEqual([])
    expect(await putMissingWords(rig.db, Date.now() + 10_000)).toBe(false)
    expect(await numbers({ find: "greeley" })).toEqual(["L-6"])
    expect(await wordsAreMissing(rig.db)).toBe(false)
  })
})

describe("a filter in the address", () => {
  it("is written and read again, and what makes no sense is left out", () => {
    const filter = orderFilter.parse({ find: "a & b", stage: "stopped", promised: "week", tag: "fragile" })
    expect(readFilter(new URLSearchParams(filterQuery(filter)))).toEqual(filter)
    expect(filterQuery(readFilter(new URLSearchParams("stage=lost&promised_from=soon&find=")))).toBe("")
  })
})

describe("views", () => {
  it("keep a filter under a name, one's own or everybody's", async () => {
    const filter = orderFilter.parse({ stage: "stopped" })
    value(await keepView(rig.context, "To solve", filter, true))
    value(await keepView(rig.context, " To  solve ", orderFilter.parse({ stage: "stopped", country: "CA" }), false))
    expect((await views(rig.context)).map((view) => [view.name, view.query, view.shared, view.own])).toEqual([
      ["To solve", "stage=stopped&country=CA", false, true],
    ])
    const other = { ...as(rig.context, {}), actor: { ...rig.context.actor, userId: await userId("tomas") } }
    expect(await views(other)).toEqual([])
    value(await keepView(rig.context, "To solve", filter, true))
    const shown = (await views(other))[0]
    expect(shown).toMatchObject({ name: "To solve", own: false, by: "Maren Holt" })
    await dropView(other, shown?.id ?? 0)
    expect((await views(other)).length).toBe(1)
    await dropView(rig.context, shown?.id ?? 0)
    expect(await views(other)).toEqual([])
  })

  it("are refused without a name or a condition", async () => {
    expect((await keepView(rig.context, " ", orderFilter.parse({ find: "x" }), false)).ok).toBe(false)
    expect((await keepView(rig.context, "All", orderFilter.parse({}), false)).ok).toBe(false)
  })
})

const userId = async (username: string): Promise<number> =>
  there(await rig.db("user").where({ username }).first("id")).id
const promises = async (...of: string[]) =>
  Promise.all(of.map(async (number) => (await orderBySource(rig.db, number)).promised_on))

describe("many orders at once", () => {
  const today = localDate(new Date("2026-11-24T15:00:00Z"), "America/Chicago")

  it("are changed, the ones that can't be are named, and one undo takes it back", async () => {
    const key = randomUUID()
    const ids = await idsOf("L-1", "L-2", "L-5", "L-8")
    const change = { what: "promise", day: "2026-12-04" } as const
    const result = value(await changeGroup(rig.context, warehouse, key, ids, change))
    const l8 = await orderBySource(rig.db, "L-8")
    // the labels of L-8 are bought
    expect(result).toMatchObject({ changed: 3, same: 0, refused: [{ orderNumber: l8.order_number }] })
    expect(result.refused[0]?.reasons[0]?.code).toBe("order.labels-asked-for")
    expect(await promises("L-1", "L-2", "L-5", "L-8")).toEqual(["2026-12-04", "2026-12-04", "2026-12-04", "2026-12-02"])
    // the same again is the same, and is done once
    expect(value(await changeGroup(rig.context, warehouse, key, ids, change))).toEqual(result)
    expect(await lastGroup(rig.context)).toMatchObject({ id: key, changed: 3 })
    // the customer of L-2 called meanwhile: that one stays
    value(await changePromise(rig.context, await idOf("L-2"), "2026-12-07", today))
    const back = value(await undoGroup(rig.context, key))
    expect(back).toMatchObject({ changed: 2, refused: [{ reasons: [{ code: "order.changed-meanwhile" }] }] })
    expect(await promises("L-1", "L-2", "L-5")).toEqual(["2026-12-02", "2026-12-07", null])
    expect(await lastGroup(rig.context)).toBeNull()
    expect(value(await undoGroup(rig.context, key)).changed).toBe(0)
  })

  it("get a tag where they had none, and the undo leaves the one that had it", async () => {
    value(await mark(rig.context, await idOf("L-1"), { what: "tag", tag: " Fragile " }))
    const key = randomUUID()
    const ids = await idsOf("L-1", "L-3")
    const result = value(await changeGroup(rig.context, warehouse, key, ids, { what: "tag", tag: "Fragile" }))
    expect(result).toMatchObject({ changed: 1, same: 1 })
    expect(await numbers({ tag: "Fragile" })).toEqual(["L-3", "L-1"])
    value(await undoGroup(rig.context, key))
    expect(await numbers({ tag: "Fragile" })).toEqual(["L-1"])
  })

  it("are stopped by hand by a clerk, who may take that back but not let others' go", async () => {
    const [l1, l3] = await idsOf("L-1", "L-3")
    const key = randomUUID()
    value(await changeGroup(rig.context, warehouse, key, [l1 as number], { what: "hold" }))
    expect(await numbers({ stage: "stopped", tag: "Fragile" })).toEqual(["L-1"])
    await expect(changeGroup(rig.context, warehouse, randomUUID(), [l3 as number], { what: "let-go" })).rejects.toThrow(
      NotAllowed,
    )
    value(await undoGroup(rig.context, key))
    expect(await numbers({ stage: "stopped", tag: "Fragile" })).toEqual([])
  })

  it("get a note that the undo takes off", async () => {
    const key = randomUUID()
    const id = await idOf("L-3")
    value(await changeGroup(rig.context, warehouse, key, [id], { what: "note", text: "Two straps" }))
    expect((await marksOf(rig.db, id)).notes.map((note) => note.text)).toEqual(["Two straps"])
    value(await undoGroup(rig.context, key))
    expect((await marksOf(rig.db, id)).notes).toEqual([])
  })

  it("are refused when none, too many, a day that is gone, another's key or no right", async () => {
    const one = await idsOf("L-1")
    const code = async (ids: number[], change: Parameters<typeof changeGroup>[4], key: string = randomUUID()) => {
      const outcome = await changeGroup(rig.context, warehouse, key, ids, change)
      return outcome.ok ? "" : outcome.reasons[0]?.code
    }
    expect(await code([], { what: "hold" })).toBe("group.none")
    expect(
      await code(
        Array.from({ length: 501 }, (_, at) => at + 1),
        { what: "hold" },
      ),
    ).toBe("group.too-many")
    expect(await code(one, { what: "promise", day: "2026-11-01" })).toBe("order.promise-gone")
    expect(await code(one, { what: "tag", tag: " , " })).toBe("tag.empty")
    const key = randomUUID()
    expect(await code(one, { what: "note", text: "once" }, key)).toBe("")
    expect(await code(one, { what: "note", text: "other" }, key)).toBe("group.key-used")
    const sales = as(rig.context, { role: "sales" })
    await expect(changeGroup(sales, warehouse, randomUUID(), one, { what: "note", text: "x" })).rejects.toThrow(
      NotAllowed,
    )
    await expect(mark(sales, one[0] as number, { what: "tag", tag: "x" })).rejects.toThrow(NotAllowed)
    const elsewhere = as(rig.context, { warehouseId: 2 })
    expect((await mark(elsewhere, one[0] as number, { what: "tag", tag: "x" })).ok).toBe(false)
  })
})

describe("the list as a file", () => {
  it("has the orders of the filter, with what is computed of them", async () => {
    const lead = as(rig.context, { role: "lead" })
    value(await cancelByHand(lead, await idOf("L-7")))
    let text = ""
    for await (const part of exportOrders(rig.context, warehouse, orderFilter.parse({ customer: "Halv" }), {
      stage: (stage) => stage,
      reasons: (reasons) => reasons.map((one) => one.code).join(" "),
    }))
      text += part
    const rows = parse<Record<string, string>>(text, { columns: true, bom: true })
    expect(rows.map((one) => [one.source_number, one.stage, one.city, one.pieces])).toEqual([
      ["L-3", "received", "Boulder", "4"],
      ["L-2", "picked", "Denver", "4"],
    ])
    expect(await numbers({ stage: "cancelled" })).toEqual(["L-7"])
  })
})
