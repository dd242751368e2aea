import { randomUUID } from "node:crypto"
import type { CollectionId } from "core/ids/index.ts"
import { Decimal } from "decimal.js"
import fc from "fast-check"
import { simpleParser } from "mailparser"
import { closeAll, closeCollection } from "server/dock/close.ts"
import { depart, sendForm, sendNow, settleForm, tellAgain, tellForm } from "server/dock/depart.ts"
import { doorsAtWork } from "server/dock/doors.ts"
import { contentsOf, discardForm, formsOf, makeFormsOf, searchForms } from "server/dock/forms.ts"
import { addAddress, addressesFor, removeAddress, setClosingWait } from "server/dock/handover.ts"
import { leaveBehind, load, takeOff } from "server/dock/load.ts"
import { endSupplement, openForSupplement, reopen } from "server/dock/reopen.ts"
import { byCode } from "server/papers/byCode.ts"
import { askVoid } from "server/shipping/void.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import { as, askForLabels, carrierAt, codes, fault, openRig, type Rig, readyToBuy, value, workAll } from "./rig.ts"

let rig: Rig
const back = readBack()
beforeAll(async () => {
  rig = await openRig()
  await rig.db("closing_address").delete()
})
afterAll(async () => {
  back.end()
  await rig?.drop()
})

const lead = () => as(rig.context, { role: "lead" })

/** Orders labeled by a service: their package and the collection that it leaves with. */
async function labelled(prefix: string, n: number, service: string) {
  const orders: number[] = []
  for (let at = 1; at <= n; at += 1) {
    const { orderId, shipment } = await readyToBuy(rig.context, `${prefix}-${at}`)
    await askForLabels(rig.context, orderId, shipment, service)
    orders.push(orderId)
  }
  await workAll(rig.db)
  const rows = await rig
    .db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", "o.id", "h.order_id")
    .whereIn("h.order_id", orders)
    .orderBy("p.id")
    .select("p.id", "p.number", "p.sscc", "p.tracking", "p.collection_id", "h.order_id", "o.order_number")
  return rows.map((row) => ({
    id: row.id as number,
    name: `${row.order_number}-${row.number}`,
    sscc: row.sscc as string,
    tracking: row.tracking as string,
    collection: row.collection_id as number,
    orderId: row.order_id as number,
  }))
}

const on = (one: { sscc: string; collection: number }) =>
  load(rig.context, one.collection, { sscc: one.sscc }, randomUUID())
const doorForms = (collection: CollectionId) => formsOf(rig.db, 1, [collection])
const inForce = async (collection: CollectionId) =>
  (await doorForms(collection)).filter((form) => form.state !== "discarded")
const toldOf = async (code: string) =>
  (
    (await (await fetch(`${carrierAt(rig, code)}/v1/handover`)).json()) as {
      closings: { form: string; number: string; trackingNumbers: string[] }[]
    }
  ).closings
const reportsOf = async (number: string) =>
  ((await (await fetch(`${rig.at.orderSource}/reports`)).json()) as { body: { orderNumber: string } }[]).filter(
    (one) => one.body.orderNumber === number,
  )
const bytesOf = async (id: number | null) =>
  there(
    await rig
      .db("document")
      .where({ id: there(id) })
      .first("bytes", "void_at"),
  )

describe("a carrier's own way", () => {
  it("is one form whose one barcode stands for all packages, told to him as data", async () => {
    const packs = await labelled("ONE", 2, "LKG")
    const door = there(packs[0]).collection
    for (const one of packs) value(await on(one))
    const { numbers } = value(await closeCollection(rig.context, door, 2))
    // the warehouse's GS1 prefix, its code, the day, the door and the cut-off
    expect(numbers).toEqual(["9521234DLH-261124-2-0930"])
    const [form] = await inForce(door)
    expect(form).toMatchObject({ way: "one-barcode", packages: 2, account: "LK-558-0042", state: "made" })
    const { bytes } = await bytesOf(there(form).documentId)
    const { results } = await back.symbols(bytes, 200)
    // GS1 General Specifications: AI 401 before the consignment number
    expect(results.map((one) => one.text)).toEqual(["(401)9521234DLH-261124-2-0930"])
    const text = back.words(bytes)
    for (const one of packs) expect(text).toContain(one.tracking)
    expect(text).toContain("ONE-1")
    expect(await toldOf("LARK")).toEqual([])
    await workAll(rig.db)
    expect((await toldOf("LARK")).map((one) => [one.form, one.trackingNumbers])).toEqual([
      [numbers[0], packs.map((one) => one.tracking)],
    ])
    expect(await inForce(door)).toMatchObject([{ state: "done", carrierNumber: "LARK-F000001" }])
    // scanned from the paper, with the identifier that a scanner sends before it, it leads to its door
    for (const scan of [`]C1401${numbers[0]}`, `(401)${numbers[0]}`, numbers[0] as string])
      expect(await byCode(rig.db, 1, scan)).toMatchObject({ kind: "manifest", collectionId: door })
    expect(await reportsOf("ONE-1")).toHaveLength(1)
  })

  it("is a manifest for each service, several a day", async () => {
    const [slow] = await labelled("SVC-A", 1, "MDN")
    const [fast] = await labelled("SVC-B", 1, "MDS")
    for (const one of [slow, fast]) value(await on(there(one)))
    const door = there(slow).collection
    value(await closeCollection(rig.context, door, 2))
    expect((await inForce(door)).map((form) => [form.number, form.service, form.packages])).toEqual([
      ["DLH-261124-6-1710", expect.any(String), 1],
      ["DLH-261124-6-1710-2", expect.any(String), 1],
    ])
    expect(new Set((await inForce(door)).map((form) => form.service)).size).toBe(2)
  })

  it("is data alone, or nothing: then nothing is printed, and what left is known all the same", async () => {
    for (const [way, told] of [
      ["electronic", true],
      ["none", false],
    ] as const) {
      await closingIs("LARK", { way, by: "account", told, copies: 1 })
      const [pack] = await labelled(`WAY-${way}`, 1, "LKG")
      value(await on(there(pack)))
      const door = there(pack).collection
      value(await closeDoor(door, 1))
      const [form] = await inForce(door)
      expect(form).toMatchObject({ way, told, documentId: null, packages: 1 })
      expect((await contentsOf(rig.db, there(form))).map((one) => one.trackingNumber)).toEqual([there(pack).tracking])
      await workAll(rig.db)
      expect((await toldOf("LARK")).some((one) => one.form === form?.number)).toBe(told)
      expect(await inForce(door)).toMatchObject([{ state: "done" }])
    }
    await closingIs("LARK", { way: "one-barcode", by: "account", told: true, copies: 1 })
  })
})

/** Sets how a carrier wants goods handed over, in the tariff that is in force. */
async function closingIs(code: string, closing: object): Promise<void> {
  const { id } = there(await rig.db("carrier").where({ code }).first("id"))
  await rig
    .db("tariff_version")
    .where({ carrier_id: id })
    .update({
      body: rig.db.raw("JSON_SET(body, '$.handover.closing', JSON_EXTRACT(?, '$'))", [JSON.stringify(closing)]),
      revision: rig.db.raw("revision + 1"),
    })
}

/** Closes a door ahead of its time, knowing what misses it. */
async function closeDoor(door: CollectionId, packages: number) {
  const missing = await rig
    .db("sales_order")
    .where({ collection_id: door })
    .whereNull("left_line_at")
    .count({ n: "id" })
  return closeCollection(rig.context, door, packages, Number(missing[0]?.n))
}

describe("a door that is closed", () => {
  it("is reopened by a lead until it is sent: forms are discarded, what stayed may come, nobody was told", async () => {
    await closingIs("MERI", { way: "manifest", by: "account", told: true, copies: 1 })
    const before = (await toldOf("MERI")).length
    const [goes, stays] = await labelled("RE", 2, "MDN")
    const door = there(goes).collection
    value(await on(there(goes)))
    await leaveBehind(rig.context, door, [there(stays).id], true)
    value(await closeDoor(door, 1))
    expect(
      await rig
        .db("package")
        .where({ id: there(stays).id })
        .first("collection_id", "state"),
    ).toMatchObject({
      state: "labelled",
      collection_id: expect.not.toSatisfy((id: number) => id === door),
    })
    await expect(reopen(rig.context, door)).rejects.toThrow("not allowed: dock.reopen")
    const [early] = await inForce(door)
    value(await reopen(lead(), door))
    value(await reopen(lead(), door))
    expect(await inForce(door)).toEqual([])
    expect((await bytesOf(there(early).documentId)).void_at).not.toBeNull()
    expect(await rig.db("package").where({ collection_id: door }).orderBy("id").select("state", "form_id")).toEqual([
      { state: "on-truck", form_id: null },
      { state: "left-behind", form_id: null },
    ])
    // the job of the closing that was reopened does nothing
    await workAll(rig.db)
    expect(await reportsOf("RE-1")).toEqual([])
    expect(await toldOf("MERI")).toHaveLength(before)
    value(await on({ ...there(stays), collection: door }))
    value(await closeDoor(door, 2))
    const [form] = await inForce(door)
    expect(form).toMatchObject({ packages: 2, number: "DLH-261125-6-1710-2" })
    await workAll(rig.db)
    expect(await reportsOf("RE-1")).toHaveLength(1)
    expect((await toldOf("MERI")).slice(before).map((one) => one.form)).toEqual([form?.number])
    expect(codes(await reopen(lead(), door))).toEqual(["dock.final"])
    expect(codes(await discardForm(lead(), there(form).id))).toEqual(["form.had"])
  })
})

describe("some packages of a truck", () => {
  it("go on a form of their own before the door is closed, and stay on the truck with it", async () => {
    const packs = await labelled("PART", 3, "MDN")
    const [one, two] = packs.map((pack) => there(pack))
    const door = there(one).collection
    for (const pack of packs) value(await on(pack))
    expect(codes(await makeFormsOf(rig.context, door, []))).toEqual(["form.choose"])
    const { numbers } = value(await makeFormsOf(rig.context, door, [there(one).id]))
    // pressed twice it is one form
    expect(value(await makeFormsOf(rig.context, door, [there(one).id])).numbers).toEqual([])
    const [early] = await inForce(door)
    expect(early).toMatchObject({ number: numbers[0], packages: 1, state: "made" })
    expect(codes(await takeOff(rig.context, door, there(one).id))).toEqual(["form.on-it"])
    // discarded, it may be unloaded; made again and sent, it may not
    await expect(discardForm(rig.context, there(early).id)).rejects.toThrow("not allowed: dock.reopen")
    value(await discardForm(lead(), there(early).id))
    value(await discardForm(lead(), there(early).id))
    value(await takeOff(rig.context, door, there(one).id))
    expect(codes(await makeFormsOf(rig.context, door, [there(one).id]))).toEqual(["form.not-loaded"])
    value(await on(there(one)))
    value(await makeFormsOf(rig.context, door, [there(one).id, there(two).id]))
    const [sent] = await inForce(door)
    value(await sendForm(rig.context, there(sent).id))
    value(await sendForm(rig.context, there(sent).id))
    expect(codes(await takeOff(rig.context, door, there(two).id))).toEqual(["form.on-sent"])
    await workAll(rig.db)
    expect((await toldOf("MERI")).filter((form) => form.form === sent?.number)).toHaveLength(1)
    // the rest goes on the form of the closing
    value(await closeDoor(door, 3))
    expect((await inForce(door)).map((form) => form.packages)).toEqual([2, 1])
    value(await reopen(lead(), door))
    // what the carrier has had stays gone
    const ids = packs.map((pack) => pack.id)
    expect(await rig.db("package").whereIn("id", ids).orderBy("id").pluck("state")).toEqual([
      "gone",
      "gone",
      "on-truck",
    ])
    value(await closeDoor(door, 1))
    value(await sendNow(rig.context, door))
    value(await sendNow(rig.context, door))
    await workAll(rig.db)
    expect(await reportsOf("PART-3")).toHaveLength(1)
    const onForms = (await toldOf("MERI")).flatMap((form) => form.trackingNumbers)
    expect(new Set(onForms).size).toBe(onForms.length)
    expect(packs.every((pack) => onForms.includes(pack.tracking))).toBe(true)
  })

  it("come after the carrier was told: on a supplementary form, that day alone", async () => {
    const [first, late] = await labelled("SUP", 2, "MDS")
    const door = there(first).collection
    value(await on(there(first)))
    await leaveBehind(rig.context, door, [there(late).id], true)
    value(await closeDoor(door, 1))
    expect(codes(await openForSupplement(rig.context, door))).toEqual(["dock.not-final"])
    await workAll(rig.db)
    const nextWeek = { ...rig.context, now: new Date(rig.context.now.getTime() + 20 * 86_400_000) }
    expect(codes(await openForSupplement(nextWeek, door))).toEqual(["dock.day-over"])
    const onDay = { ...rig.context, now: await dayOf(door) }
    value(await openForSupplement(onDay, door))
    value(await openForSupplement(onDay, door))
    value(await endSupplement(onDay, door))
    value(await openForSupplement(onDay, door))
    value(await on({ ...there(late), collection: door }))
    expect(codes(await endSupplement(onDay, door))).toEqual(["dock.no-supplement"])
    value(await closeCollection(onDay, door, 1, await missedBy(door)))
    expect((await inForce(door)).map((form) => [form.packages, form.supplement])).toEqual([
      [1, false],
      [1, true],
    ])
    const [, supplement] = await inForce(door)
    expect(back.words((await bytesOf(there(supplement).documentId)).bytes)).toContain("Supplementary manifest")
    await workAll(rig.db)
    expect(await reportsOf("SUP-2")).toHaveLength(1)
    expect((await inForce(door)).map((form) => form.state)).toEqual(["done", "done"])
  })
})

const dayOf = async (door: CollectionId) =>
  new Date(there(await rig.db("collection").where({ id: door }).first("cut_off")).cut_off.getTime() - 3_600_000)
const missedBy = async (door: CollectionId) =>
  Number(
    (await rig.db("sales_order").where({ collection_id: door }).whereNull("left_line_at").count({ n: "id" }))[0]?.n,
  )

describe("a carrier that is told", () => {
  it("does not answer, or only the second time: one form, in its book once", async () => {
    const [pack] = await labelled("LOST", 1, "MDN")
    const door = there(pack).collection
    value(await on(there(pack)))
    value(await closeDoor(door, 1))
    const [form] = await inForce(door)
    await fault(carrierAt(rig, "MERI"), "lose-answer")
    await workAll(rig.db, 1)
    expect(await inForce(door)).toMatchObject([{ state: "sending" }])
    await fault(carrierAt(rig, "MERI"), null)
    await workAll(rig.db)
    const [done] = await inForce(door)
    expect([done?.state, done?.carrierNumber]).toEqual(["done", expect.stringMatching(/^MERI-F\d{6}$/)])
    expect((await toldOf("MERI")).filter((one) => one.form === form?.number)).toHaveLength(1)
    // run again after it was done, nothing is asked
    await tellForm(rig.db, there(form).id, 1, () => {
      throw new Error("asked again")
    })
  })

  it("refuses: it is shown, sent again, or settled by a lead with what was agreed", async () => {
    const [pack] = await labelled("NO", 1, "MDN")
    const door = there(pack).collection
    value(await on(there(pack)))
    value(await closeDoor(door, 1))
    await fault(carrierAt(rig, "MERI"), "refuse")
    await workAll(rig.db)
    const [form] = await inForce(door)
    expect(form).toMatchObject({
      state: "refused",
      trouble: { code: "form.refused", values: { why: "account on hold" } },
    })
    // the goods have left: their source knows
    expect(await reportsOf("NO-1")).toHaveLength(1)
    value(await tellAgain(rig.context, there(form).id))
    value(await tellAgain(rig.context, there(form).id))
    await workAll(rig.db)
    expect(await inForce(door)).toMatchObject([{ state: "refused" }])
    await expect(settleForm(rig.context, there(form).id, "agreed")).rejects.toThrow("not allowed: dock.reopen")
    value(await settleForm(lead(), there(form).id, "told by telephone"))
    expect(await inForce(door)).toMatchObject([{ state: "done", trouble: null }])
    await fault(carrierAt(rig, "MERI"), null)
  })
})

describe("addresses", () => {
  it("get each form of their carrier once, with the paper and the numbers", async () => {
    const admin = as(rig.context, { role: "administrator" })
    const box = new URL(rig.at.mail)
    const at = `http://${box.hostname}:${box.searchParams.get("mailbox")}`
    await expect(addAddress(rig.context, { email: "a@example.com", carrier: null, purpose: "forms" })).rejects.toThrow(
      "not allowed",
    )
    expect(codes(await addAddress(admin, { email: "nobody", carrier: null, purpose: "forms" }))).toEqual([
      "papers.no-address",
    ])
    expect(codes(await addAddress(admin, { email: "a@example.com", carrier: "NONE", purpose: "forms" }))).toEqual([
      "tariff.no-carrier",
    ])
    value(await addAddress(admin, { email: "all@example.com", carrier: null, purpose: "forms" }))
    value(await addAddress(admin, { email: "all@example.com", carrier: null, purpose: "forms" }))
    value(await addAddress(admin, { email: "meri@example.com", carrier: "MERI", purpose: "forms" }))
    value(await addAddress(admin, { email: "lark@example.com", carrier: "LARK", purpose: "forms" }))
    expect((await addressesFor(rig.db, 1, "forms")).map((one) => one.email)).toHaveLength(3)
    const [pack] = await labelled("MAIL", 1, "MDN")
    const door = there(pack).collection
    value(await on(there(pack)))
    value(await closeDoor(door, 1))
    await workAll(rig.db)
    const [form] = await inForce(door)
    const list = (await (await fetch(`${at}/messages`)).json()) as { number: number; to: string[] }[]
    const own = list.filter((one) => one.to[0]?.endsWith("@example.com"))
    expect(own.map((one) => one.to[0]).sort()).toEqual(["all@example.com", "meri@example.com"])
    // read by an independent parser of mail (RFC 5322, MIME)
    const mail = await simpleParser(await (await fetch(`${at}/messages/${own[0]?.number}.eml`)).text())
    expect(mail.subject).toContain(there(form).number)
    expect(mail.text).toContain(there(pack).tracking)
    expect(mail.attachments.map((one) => [one.filename, one.contentType])).toEqual([
      [`${form?.number}.pdf`, "application/pdf"],
    ])
    for (const one of await addressesFor(rig.db, 1, "forms")) await removeAddress(admin, one.id)
    expect(await addressesFor(rig.db, 1, "forms")).toEqual([])
    expect(codes(await setClosingWait(admin, 241))).toEqual(["handover.wait-range"])
    value(await setClosingWait(admin, 5))
  })
})

it("a package that is scanned while its door closes is on the truck, or is told that the door is closed", async () => {
  const packs = await labelled("RACE", 4, "MDN")
  const door = there(packs[0]).collection
  for (const pack of packs.slice(0, 2)) value(await on(pack))
  await leaveBehind(
    rig.context,
    door,
    packs.slice(2).map((pack) => pack.id),
    true,
  )
  const [closed, ...scans] = await Promise.all([
    closeDoor(door, 2),
    ...packs.slice(2).map((pack) => on({ ...pack, collection: door })),
  ])
  for (const [at, scan] of scans.entries()) {
    const is = there(
      await rig
        .db("package")
        .where({ id: there(packs[at + 2]).id })
        .first("state", "collection_id"),
    )
    const aboard = is.collection_id === door && ["on-truck", "gone"].includes(is.state)
    // whoever is told that it is loaded finds it there
    expect([scan.ok, aboard]).toEqual([aboard, aboard])
  }
  expect(closed.ok || codes(closed)[0] === "dock.count-changed").toBe(true)
  // what is left of it is out of the way of the tests below
  const left = packs.map((pack) => pack.id)
  await rig
    .db("package")
    .whereIn("id", left)
    .whereNot({ state: "gone" })
    .update({ state: "closed", collection_id: null })
})

it("closes all doors that are complete, and says why another stays open", async () => {
  const [a] = await labelled("ALL-A", 1, "MDN")
  const [b] = await labelled("ALL-B", 1, "LKG")
  value(await on(there(a)))
  const outcome = await closeAll(rig.context, [
    { collectionId: there(a).collection, expected: 1 },
    { collectionId: there(b).collection, expected: 1 },
  ])
  expect(outcome.closed).toHaveLength(1)
  expect(outcome.refused.map((one) => one.why.map((why) => why.code))).toEqual([["dock.missing"]])
  const all = { text: "", from: "", until: "", state: "" as const, page: 1 }
  expect(await searchForms(rig.db, 1, { ...all, text: there(a).tracking })).toHaveLength(1)
  expect(await searchForms(rig.db, 1, { ...all, text: "meridian", state: "made" })).toHaveLength(1)
  expect(await searchForms(rig.db, 1, { ...all, text: "50%" })).toEqual([])
  expect(await searchForms(rig.db, 2, all)).toEqual([])
  const onDay = { ...rig.context, now: await dayOf(there(a).collection) }
  const shown = async () => (await doorsAtWork(onDay, "America/Chicago", null)).doors.map((one) => one.collection.id)
  expect(await shown()).toContain(there(a).collection)
  await workAll(rig.db)
  // a door that is sent is out of sight, and found where it is asked for
  expect(await shown()).not.toContain(there(a).collection)
  const asked = await doorsAtWork(onDay, "America/Chicago", there(a).collection)
  expect(asked.doors.find((one) => one.collection.id === there(a).collection)?.counts.gone).toBe(1)
})

const act = fc.oneof(
  ...(
    [
      ["load", 6],
      ["unload", 1],
      ["leave", 3],
      ["come", 1],
      ["form", 2],
      ["discard", 1],
      ["close", 4],
      ["reopen", 2],
      ["depart", 1],
      ["supplement", 2],
      ["void", 1],
      ["together", 1],
    ] as const
  ).map(([kind, weight]) => ({ weight, arbitrary: fc.record({ kind: fc.constant(kind), at: fc.nat(5) }) })),
)

it("whatever is done at a door, in any order: nothing leaves without a form, or on two, and a form is what it says", async () => {
  await closingIs("MERI", { way: "manifest", by: "service", told: false, copies: 1 })
  const packs = await labelled("ANY", 6, "MDN")
  const door = there(packs[0]).collection
  const context = { ...rig.context, now: await dayOf(door) }
  const boss = as(context, { role: "lead" })
  const ids = packs.map((pack) => pack.id)
  await fc.assert(
    fc.asyncProperty(fc.array(act, { minLength: 8, maxLength: 24 }), async (acts) => {
      const fresh = { state: "labelled", collection_id: door, form_id: null, missed_id: null } as const
      await rig.db("package").whereIn("id", ids).update(fresh)
      await rig.db("closing_form").where({ collection_id: door }).delete()
      await rig.db("collection").where({ id: door }).update({ closed_at: null, final_at: null, closings: 0 })
      for (const { kind, at } of acts) {
        const pack = there(packs[at])
        const [loaded] = await rig.db("package").where({ collection_id: door, state: "on-truck" }).count({ n: "id" })
        const close = async () => closeCollection(context, door, Number(loaded?.n), await missedBy(door))
        const scan = () => load(context, door, { sscc: pack.sscc }, randomUUID())
        if (kind === "load") await scan()
        if (kind === "unload") await takeOff(context, door, pack.id)
        if (kind === "leave") await leaveBehind(context, door, ids.slice(at), true)
        if (kind === "come") await leaveBehind(context, door, [pack.id], false)
        if (kind === "form") await makeFormsOf(context, door, ids.slice(at))
        if (kind === "discard") await discardForm(boss, (await doorForms(door))[at]?.id ?? 0)
        if (kind === "close") await close()
        if (kind === "reopen") await reopen(boss, door)
        if (kind === "depart")
          await depart(rig.db, door, there(await rig.db("collection").where({ id: door }).first("closings")).closings)
        if (kind === "supplement") await openForSupplement(context, door)
        if (kind === "void") expect(await voidsOnTruck(pack)).toBe(false)
        if (kind === "together") await Promise.all([close(), scan(), close(), scan()])
        await holds(door)
      }
    }),
    { numRuns: 20 },
  )
})

/** Whether a label can be voided once its package is on the truck or gone; one that is here is left alone. */
async function voidsOnTruck(pack: { id: number; orderId: number }): Promise<boolean> {
  const { state } = there(await rig.db("package").where({ id: pack.id }).first("state"))
  return (state === "on-truck" || state === "gone") && (await askVoid(rig.context, pack.orderId)).ok
}

/** What must hold at a door at every moment. */
async function holds(door: CollectionId): Promise<void> {
  const forms = await rig.db("closing_form").where({ collection_id: door })
  const packages = await rig.db("package").where({ collection_id: door }).select("id", "state", "form_id", "sent_kg")
  const closed = there(await rig.db("collection").where({ id: door }).first("closed_at")).closed_at !== null
  for (const one of packages) {
    const form = forms.find((candidate) => candidate.id === one.form_id)
    if (one.state === "gone") expect(form?.state).toMatch(/^(made|sending|done|refused)$/)
    if (one.form_id !== null) {
      expect(one.state).toMatch(/^(on-truck|gone)$/)
      expect(form?.state).not.toBe("discarded")
    }
    // what is on the truck of a closed door has left
    if (closed) expect(one.state).not.toBe("on-truck")
  }
  for (const form of forms) {
    const own = packages.filter((one) => one.form_id === form.id)
    if (form.state === "discarded") expect(own).toEqual([])
    else {
      expect(own).toHaveLength(form.packages)
      const kg = own.reduce((sum, one) => sum.add(there(one.sent_kg)), new Decimal(0))
      expect(kg.toFixed(12)).toBe(new Decimal(form.weight_kg).toFixed(12))
    }
  }
}

it("eight people at one door: each package is on once, and one of them closes it", async () => {
  // not at the door where the test before this one leaves what its dice say on the truck
  await closingIs("LARK", { way: "manifest", by: "account", told: false, copies: 1 })
  const packs = await labelled("EIGHT", 8, "LKG")
  const door = there(packs[0]).collection
  const context = { ...rig.context, now: await dayOf(door) }
  // two stay, as two of the eight have said, and what a test before left here; everybody scans all the others in an
  // order of his own, and closes
  const going = packs.slice(0, 6).map((pack) => pack.id)
  const staying = () => rig.db("package").where({ collection_id: door, state: "labelled" }).whereNotIn("id", going)
  await leaveBehind(context, door, await staying().pluck("id"), true)
  const missing = await missedBy(door)
  const person = async (at: number): Promise<string[]> => {
    const own = packs.slice(0, 6).map((_, index) => there(packs[(index * 5 + at) % 6]))
    for (const pack of own) {
      const scanned = await load(context, door, { sscc: pack.sscc }, randomUUID())
      // who scans after another has closed is told so
      if (!scanned.ok) expect(["dock.closed", "dock.already-gone"]).toContain(codes(scanned)[0])
    }
    const closed = [await closeCollection(context, door, 6, missing), await closeCollection(context, door, 6, missing)]
    return closed.flatMap((one) =>
      one.ok ? [] : one.reasons.map((why) => `${why.code} ${JSON.stringify(why.values)}`),
    )
  }
  const answers = await Promise.all(Array.from({ length: 8 }, (_, at) => person(at)))
  // whoever came second finds it closed, with the same form
  expect(answers.flat()).toEqual([])
  await holds(door)
  expect(await inForce(door)).toMatchObject([{ packages: 6 }])
  const ids = packs.map((pack) => pack.id)
  expect(await rig.db("package").whereIn("id", ids).where({ state: "gone" }).count({ n: "*" }).first()).toEqual({
    n: 6,
  })
  const closings = await rig
    .db("audit")
    .where({ action: "dock.collection-closed", collection_id: door })
    .count({ n: "*" })
    .first()
  expect(closings).toEqual({ n: 1 })
})
