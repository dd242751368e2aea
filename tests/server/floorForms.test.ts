import { randomUUID } from "node:crypto"
import { RouterContextProvider } from "react-router"
import { countTasks } from "server/decisions/count.ts"
import { findStock, type StockRow } from "server/decisions/stock.ts"
import { type Work, workContext } from "server/http/context.ts"
import { carts, runs } from "server/picking/runs.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { action as countsAction } from "../../app/pick/counts.tsx"
import { action as runAction } from "../../app/pick/run.tsx"
import { action as runsAction, loader as runsLoader } from "../../app/pick/runs.tsx"
import { action as floorAction, loader as floorLoader } from "../../app/setup/floor-plan.tsx"
import { action as packagingAction } from "../../app/setup/packaging.tsx"
import { action as stockAction } from "../../app/setup/stock.tsx"
import { there } from "../../server/db/there.ts"
import { as, formOf, openRig, type Rig, row, takeFile, workOf } from "./rig.ts"

/** The forms of stock, counts, runs, packaging and the floor's setup, as their pages send them. */
let rig: Rig
let work: Work
beforeAll(async () => {
  rig = await openRig()
  work = await workOf(rig.context)
})
afterAll(() => rig?.drop())

const admin = (): Work => ({ ...work, ...as(rig.context, { role: "administrator" }) })
const lead = (): Work => ({ ...work, ...as(rig.context, { role: "lead" }) })
type Fields = Record<string, string | number | File>
type Answer = { answer: { refused: boolean; words: string } }
// biome-ignore lint/suspicious/noExplicitAny: the router's generated argument types differ from route to route
async function send(action: (args: any) => unknown, fields: Fields, who: Work = work, params = {}): Promise<Answer> {
  const form = formOf(fields)
  const context = new RouterContextProvider()
  context.set(workContext, who)
  const files = Object.values(fields).some((field) => field instanceof File)
  const body = files ? form : new URLSearchParams([...form].map(([name, field]) => [name, String(field)]))
  const request = new Request("http://varnok.test/", { method: "POST", body })
  return (await action({ request, params, context })) as Answer
}
/** What who may not is told: not here. */
const forbidden = { status: 403 }
const refusedOf = (answers: readonly Answer[]): boolean[] => answers.map((one) => one.answer.refused)
const places = async (words: string): Promise<StockRow[]> =>
  (await findStock(rig.context, { words, empty: false })).rows

describe("stock by its page", () => {
  const receipt = {
    intent: "receive",
    sku: "PH-METER",
    bin: "a-01-1",
    lot: "",
    expires: "",
    quantity: 7,
    released: "on",
  }
  it("is received once, however often the form is sent; bad figures are refused in words", async () => {
    const key = randomUUID()
    const told = [await send(stockAction, { ...receipt, key }), await send(stockAction, { ...receipt, key })]
    expect(told.map((one) => one.answer.words)).toEqual(Array(2).fill(told[0]?.answer.words))
    expect((await places("PH-METER A-01-1"))[0]?.onHand).toBe(7)
    for (const bad of [
      { quantity: 0 },
      { quantity: -3 },
      { quantity: "many" },
      { quantity: 1e7 },
      { sku: "NO-SUCH" },
      { bin: "Z-99-9" },
      { bin: "" },
      { expires: "1 May" },
      { expires: "2028-01-01" },
      { key: "x" },
    ])
      expect([bad, (await send(stockAction, { ...receipt, key: randomUUID(), ...bad })).answer.refused]).toEqual([
        bad,
        true,
      ])
    expect((await places("PH-METER A-01-1"))[0]?.onHand).toBe(7)
  })
  it("is moved to another bin as far as it is free, and once", async () => {
    const [from] = await places("PH-METER A-01-1")
    const move = { intent: "transfer", key: randomUUID(), stockId: from?.id ?? 0, to: "A-02-1", quantity: 3 }
    expect(refusedOf([await send(stockAction, move), await send(stockAction, move)])).toEqual([false, false])
    expect((await places("PH-METER A-0")).map((one) => one.onHand)).toEqual([4, 3])
    for (const bad of [{ quantity: 5 }, { to: "A-01-1" }, { to: "nowhere" }, { stockId: 99_999 }, { quantity: "" }])
      expect((await send(stockAction, { ...move, key: randomUUID(), ...bad })).answer.refused).toBe(true)
  })
  it("of a bin that is blocked, or a lot out of use, is the lead's to say", async () => {
    const block = { intent: "block", bin: "A-02-1", why: "upright bent" }
    await expect(send(stockAction, block)).rejects.toMatchObject(forbidden)
    expect((await send(stockAction, block, lead())).answer.refused).toBe(false)
    expect((await places("PH-METER A-02-1"))[0]?.blockedWhy).toBe("upright bent")
    expect((await send(stockAction, { ...block, why: "" }, lead())).answer.refused).toBe(true)
    await send(stockAction, { intent: "free", bin: "A-02-1" }, lead())
    expect((await places("PH-METER A-02-1"))[0]?.blockedWhy).toBeNull()
    const [lot] = await places("YST-ALE-500")
    const state = { intent: "lot", lotId: lot?.lotId ?? 0, state: "blocked" }
    await expect(send(stockAction, state)).rejects.toMatchObject(forbidden)
    expect((await send(stockAction, { ...state, state: "gone" }, lead())).answer.refused).toBe(true)
    expect((await send(stockAction, state, lead())).answer.refused).toBe(false)
    expect((await places("YST-ALE-500"))[0]?.lotState).toBe("blocked")
    await send(stockAction, { ...state, state: "released" }, lead())
  })
  it("that is doubted is counted: a number or nothing, and what was counted stands", async () => {
    const [place] = await places("PH-METER A-02-1")
    await send(stockAction, { intent: "doubt", stockId: place?.id ?? 0 })
    const [task] = await countTasks(rig.db, 1)
    const count = { intent: "count", task: task?.id ?? 0, bin: task?.bin ?? "" }
    for (const counted of ["", "-1", "three", "1.5", "99999999"])
      expect((await send(countsAction, { ...count, counted })).answer.refused).toBe(true)
    expect((await send(countsAction, { ...count, counted: "2" })).answer.words).toContain("−1")
    // sent again it is the same; another figure comes too late
    expect((await send(countsAction, { ...count, counted: "2" })).answer.refused).toBe(false)
    expect((await send(countsAction, { ...count, counted: "9" })).answer.refused).toBe(true)
    expect((await places("PH-METER A-02-1"))[0]?.onHand).toBe(2)
    expect(await reconcileStock(rig.db)).toEqual([])
  })
})

describe("runs by their pages", () => {
  it("are made once, begun, left, handed on, packed and broken up; what can't be is refused", async () => {
    await takeFile(
      rig.context,
      ...["1", "2"].map((n) =>
        row({ order_number: `F-${n}`, po_number: `F${n}`, sku: "BUN-10", quantity: n, promised_on: "2026-12-04" }),
      ),
    )
    const make = { intent: "make", key: randomUUID(), by: "all", value: "", cart: "", most: 12 }
    const told = [await send(runsAction, make), await send(runsAction, make)]
    expect(told[1]?.answer.words).toBe(told[0]?.answer.words)
    const [run] = await runs(rig.db, 1)
    const number = String(run?.number)
    const on = (fields: Fields) => send(runAction, fields, work, { number })
    expect((await send(runsAction, { ...make, key: randomUUID() })).answer.refused).toBe(true)
    expect((await on({ intent: "enter", cart: 9_999 })).answer.refused).toBe(true)
    const [cart] = await carts(rig.db, 1)
    expect((await on({ intent: "enter", cart: cart?.id ?? 0 })).answer.refused).toBe(false)
    expect((await on({ intent: "hand", to: 9_999 })).answer.refused).toBe(true)
    expect((await on({ intent: "pack" })).answer.refused).toBe(true)
    expect((await on({ intent: "print", paper: "list", key: randomUUID() })).answer.refused).toBe(false)
    expect((await on({ intent: "print", paper: "poem" })).answer.refused).toBe(true)
    const away = (fields: Fields) =>
      on(fields).then(
        () => null,
        (thrown: Response) => thrown.headers.get("location"),
      )
    expect(await away({ intent: "leave" })).toBe("/pick")
    expect((await runs(rig.db, 1))[0]?.state).toBe("left")
    expect(await away({ intent: "break-up" })).toBe("/pick")
    expect(await runs(rig.db, 1)).toEqual([])
    await expect(send(runAction, { intent: "leave" }, work, { number: "5" })).rejects.toMatchObject({
      init: { status: 404 },
    })
  })
  it("are proposed for what was asked, and unknown wishes are those for all", async () => {
    const load = async (search: string, who = work) => {
      const context = new RouterContextProvider()
      context.set(workContext, who)
      const request = new Request(`http://varnok.test/pick?${search}`)
      return runsLoader({ request, context, params: {} } as unknown as Parameters<typeof runsLoader>[0])
    }
    expect((await load("")).proposed).toBeNull()
    expect((await load("by=all&most=1")).proposed?.runs).toHaveLength(2)
    expect((await load("by=poem")).wish.by).toBe("all")
    expect((await load("by=zone&value=nowhere")).proposed?.runs).toEqual([])
    await expect(load("", { ...work, ...as(rig.context, { role: "sales" }) })).rejects.toMatchObject({ status: 403 })
  })
})

describe("set-up by its pages", () => {
  const file = (name: string, text: string) => new File([text], name)
  it("takes a floor in as it gave it out; a bad one, an old one and one by a clerk are refused, and the floor stands", async () => {
    const context = new RouterContextProvider()
    context.set(workContext, admin())
    const seen = async () =>
      floorLoader({ request: new Request("http://varnok.test/"), context, params: {} } as unknown as Parameters<
        typeof floorLoader
      >[0])
    const { version, floor, marks } = await seen()
    const { floorOf } = await import("server/floorPlan/index.ts")
    const { plan } = await floorOf(rig.db, 1)
    const json = JSON.stringify(plan)
    const upload = (name: string, text: string, at = version, who = admin()) =>
      send(floorAction, { version: at, file: file(name, text) }, who)
    for (const [name, text] of [
      ["plan.json", "{"],
      ["plan.json", "{}"],
      ["plan.json", json.replace(/"bins":\[.*\]/, '"bins":[]')],
      ["bins.csv", "code,aisle\nA-01-1,A\n"],
      ["bins.csv", "code,aisle,x_m,y_m,level\nA-01-1,A,far,2,1\n"],
      ["bins.csv", ""],
    ] as const)
      expect([text, (await upload(name, text)).answer.refused]).toEqual([text, true])
    expect((await upload("plan.json", json, version - 1)).answer.refused).toBe(true)
    await expect(upload("plan.json", json, version, work)).rejects.toMatchObject(forbidden)
    expect((await seen()).version).toBe(version)
    expect((await upload("plan.json", json)).answer.refused).toBe(false)
    const after = await seen()
    expect([after.version, after.floor, after.marks.length]).toEqual([version + 1, floor, marks.length])
  })
  it("sets what is scanned, carts and packaging; figures that are none are refused", async () => {
    expect(
      (await send(floorAction, { intent: "item-steps", sku: "NO-SUCH", lot: "yes" }, admin())).answer.refused,
    ).toBe(true)
    expect((await send(floorAction, { intent: "item-steps", sku: "BUN-10", bin: "no" }, admin())).answer.refused).toBe(
      false,
    )
    const cart = {
      intent: "cart",
      code: "C9",
      name: "",
      litres: "",
      kilograms: "90,5",
      totes: 2,
      firstTote: 901,
      toteLitres: 40,
    }
    expect((await send(floorAction, cart, admin())).answer.refused).toBe(false)
    expect((await carts(rig.db, 1)).find((one) => one.code === "C9")).toMatchObject({ totes: 2, kilograms: 90.5 })
    for (const bad of [{ code: "" }, { totes: 61 }, { kilograms: "heavy" }, { toteLitres: 0 }, { firstTote: "x" }])
      expect((await send(floorAction, { ...cart, ...bad }, admin())).answer.refused).toBe(true)
    const { id } = there(await rig.db("packaging").where({ code: "K12" }).first("id"))
    const count = { intent: "count", id, code: "K12", onHand: 12, lowAt: 20 }
    expect((await send(packagingAction, count)).answer.refused).toBe(false)
    for (const bad of [{ onHand: "" }, { onHand: -1 }, { lowAt: "few" }, { id: 9_999 }])
      expect((await send(packagingAction, { ...count, ...bad })).answer.refused).toBe(true)
    await expect(send(packagingAction, { intent: "off", code: "K12" })).rejects.toMatchObject(forbidden)
    expect((await send(packagingAction, { intent: "off", code: "K12" }, admin())).answer.refused).toBe(false)
    expect((await send(packagingAction, { intent: "slip", tolerance: "0" }, admin())).answer.refused).toBe(true)
  })
})
