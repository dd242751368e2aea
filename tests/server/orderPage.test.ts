import { orderActs } from "app/orders/orderActions.server.ts"
import { orderView } from "app/orders/orderView.server.ts"
import { answerForm } from "app/shell/acts.server.ts"
import type { Role } from "server/actors/index.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { outsideForm, outsideRows, saveOutside, switchOutside } from "server/outside/manage.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, formOf, openRig, orderBySource, type Rig, row, takeFile, value, workOf } from "./rig.ts"

let rig: Rig
let number: string
beforeAll(async () => {
  rig = await openRig()
  await takeFile(rig.context, row({ order_number: "OP-1", quantity: "3" }))
  number = (await orderBySource(rig.db, "OP-1")).order_number
})
afterAll(() => rig?.drop())

const page = async (role: Role = "lead") => there(await orderView(await workOf(as(rig.context, { role })), number))
/** Sends a form of the order's page as somebody of a role. */
async function send(fields: Readonly<Record<string, string | number>>, role: Role = "lead") {
  const work = await workOf(as(rig.context, { role }))
  const order = there(await summaryByNumber(rig.db, work.warehouse, number))
  return answerForm(formOf({ form: "test", ...fields }), work, orderActs(work, order))
}
const told = async (fields: Readonly<Record<string, string | number>>, role: Role = "lead") =>
  (await send(fields, role)).answer

describe("an order's page", () => {
  it("shows the order with what may be done by whom", async () => {
    const seen = await page()
    expect(seen).toMatchObject({ orderNumber: number, source: "OP-1", stage: "released", stops: [], priority: 0 })
    expect([seen.mayCancel, (await page("sales")).mayCancel]).toEqual([true, false])
    expect(await orderView(await workOf(as(rig.context, { warehouseId: 2 })), number)).toBeNull()
  })
  it("is held and released; who may not do that is refused", async () => {
    expect((await told({ intent: "hold" })).refused).toBe(false)
    expect((await page()).stops.map((one) => one.reason.code)).toEqual(["stop.by-hand"])
    await expect(send({ intent: "release" }, "sales")).rejects.toThrow("not allowed")
    expect((await told({ intent: "release" })).refused).toBe(false)
    expect((await page()).stops).toEqual([])
  })
  it("is promised for a day that is still to come; another stands at its field", async () => {
    expect((await told({ intent: "promise", promised_on: "2026-12-02" })).refused).toBe(false)
    const gone = await send({ intent: "promise", promised_on: "2020-01-02" })
    const none = await send({ intent: "promise", promised_on: "2026-02-30" })
    for (const answered of [gone, none])
      expect(answered).toMatchObject({
        answer: { refused: true },
        wrong: { form: "test", result: { error: { promised_on: [expect.any(String)] } } },
      })
    expect((await orderBySource(rig.db, "OP-1")).promised_on).toBe("2026-12-02")
  })
  it("has tags and notes, put on and taken off; an empty one is refused at its field", async () => {
    await told({ intent: "tag", tag: " Fragile " })
    await told({ intent: "note", note: "Ring twice." })
    const { marks } = await page()
    expect([marks.tags, marks.notes.map((one) => one.text)]).toEqual([["Fragile"], ["Ring twice."]])
    expect(await send({ intent: "tag", tag: " " })).toMatchObject({
      wrong: { result: { error: { tag: ["Enter a tag, such as “fragile”."] } } },
    })
    await told({ intent: "untag", tag: "Fragile" })
    await told({ intent: "drop-note", note: marks.notes[0]?.id ?? 0 })
    expect((await page()).marks).toMatchObject({ tags: [], notes: [] })
  })
  it("has a priority, that of the list and no other", async () => {
    expect((await told({ intent: "priority", priority: 1 })).refused).toBe(false)
    expect((await page()).priority).toBe(1)
    expect((await told({ intent: "priority", priority: "soon" })).refused).toBe(true)
    expect((await page()).priority).toBe(1)
  })
  it("has lines that the lead changes, with a reason", async () => {
    const { lines, address } = await page()
    const line = there(lines[0])
    const change = { intent: "lines", version: address.version ?? 0, [`pieces-${line.id}`]: 2 }
    expect(await send({ ...change, why: "" })).toMatchObject({ answer: { refused: true } })
    expect((await told({ ...change, why: "typed wrong" })).words).toBe("Lines changed.")
    expect((await page()).lines[0]?.ordered).toBe(2)
  })
  it("changes its address, and says at which field it can't", async () => {
    const { address } = await page()
    const fields = Object.fromEntries(Object.entries(address).map(([name, of]) => [name, String(of ?? "")]))
    const wrong = await send({ ...fields, intent: "address", country: "Germany", street: "x".repeat(80) })
    expect(wrong).toMatchObject({
      wrong: { result: { error: { country: expect.any(Array), street: ["This is too long."] } } },
    })
  })
  it("is canceled, and nothing can be done with it any more", async () => {
    expect((await told({ intent: "cancel" })).refused).toBe(false)
    expect((await page()).stage).toBe("cancelled")
    expect((await told({ intent: "promise", promised_on: "2026-12-03" })).refused).toBe(true)
  })
})

describe("outside warehouses", () => {
  const ada = () => as(rig.context, { role: "administrator" })
  const form = (more: Record<string, string> = {}) =>
    outsideForm.safeParse({ code: "hol", name: "Hollow Depot", url: "http://127.0.0.1:9/api/", ...more })
  it("are added once by code, changed, switched off and on", async () => {
    const read = form()
    if (!read.success) throw new Error("the form is right")
    value(await saveOutside(ada(), read.data))
    value(await saveOutside(ada(), { ...read.data, name: "Hollow Road" }))
    const own = async () => (await outsideRows(ada())).filter((one) => one.code === "HOL")
    expect(await own()).toMatchObject([{ name: "Hollow Road", url: "http://127.0.0.1:9/api", active: true, open: 0 }])
    const { id } = there((await own())[0])
    await switchOutside(ada(), id, false)
    await switchOutside(ada(), id, false)
    expect((await own())[0]?.active).toBe(false)
    expect(await rig.db("audit").where({ action: "outside.off" })).toHaveLength(1)
    await switchOutside(ada(), id, true)
    expect((await own())[0]?.active).toBe(true)
  })
  it("are refused without a code, a name or an address that is one, each in its words", () => {
    const wrong = (more: Record<string, string>) => form(more).error?.issues.map((issue) => issue.message)
    expect(wrong({ code: "H" })).toEqual(["outside.code"])
    expect(wrong({ name: " " })).toEqual(["outside.name"])
    expect(wrong({ url: "ftp://depot" })).toEqual(["outside.url"])
  })
  it("are the administrator's", async () => {
    await expect(outsideRows(rig.context)).rejects.toThrow("not allowed")
  })
})
