import { randomUUID } from "node:crypto"
import { moneyText } from "core/money/index.ts"
import { simpleParser } from "mailparser"
import { PNG } from "pngjs"
import {
  addPhoto,
  answerClaim,
  answerForm,
  claimForm,
  openClaim,
  removePhoto,
  saveClaim,
  setClaimTerms,
  termsForm,
} from "server/claims/claims.ts"
import { fileClaim, fileForm } from "server/claims/file.ts"
import { claimWhole, openClaims, photoOf, searchClaims } from "server/claims/list.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { askReturn } from "server/returns/ask.ts"
import { returnAsk } from "server/returns/goods.ts"
import { returnOffers } from "server/returns/offers.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import { labelledOn, pulled, scanned, shipped } from "./followed.ts"
import { as, codes, openRig, type Rig, readyToBuy, row, value, workAll } from "./rig.ts"

let rig: Rig
let papers: ReturnType<typeof readBack>
beforeAll(async () => {
  rig = await openRig()
  papers = readBack()
})
afterAll(async () => {
  papers.end()
  await rig?.drop()
})

const admin = () => as(rig.context, { role: "administrator" })
const terms = (more: object = {}) =>
  rig
    .db("carrier")
    .where({ code: "LARK" })
    .first("id")
    .then((carrier) =>
      setClaimTerms(
        admin(),
        termsForm.parse({
          carrier: there(carrier).id,
          email: "claims@lark.example",
          loss: 60,
          lossUnit: "days",
          lossFrom: "shipped",
          damage: 30,
          damageUnit: "days",
          perPackage: "40",
          freight: "on",
          ...more,
        }),
      ),
    )
const unitOf = async (tracking: string) => there(await rig.db("tracked_unit").where({ tracking }).first()).id
const whole = async (number: number) => there(await claimWhole(rig.db, 1, number, rig.context.now))
/** What is saved of a claim, with what is changed of it. */
async function save(number: number, more: object = {}, who = rig.context) {
  const claim = await whole(number)
  return saveClaim(
    who,
    number,
    claimForm.parse({
      kind: claim.kind,
      happened: claim.happened,
      goods: claim.goods,
      papers: claim.papers.filter((one) => one.chosen).map((one) => one.id),
      version: claim.version,
      ...more,
    }),
  )
}
const answers = (number: number, said: object, who = rig.context) => answerClaim(who, number, answerForm.parse(said))
const files = (number: number, said: object, who = rig.context) => fileClaim(who, number, fileForm.parse(said))

it("begins with all that is known of a package: goods at their price, the freight, the carrier's last day", async () => {
  value(await terms())
  const [one] = await shipped(rig, ["CL-1"])
  const { orderId, tracking } = there(one)
  const unit = await unitOf(there(tracking[0]))
  await scanned(rig, "LARK", {
    trackingNumber: tracking[0],
    code: "DMG",
    occurredAt: "2026-11-24T08:00:00-06:00",
    description: "Corner crushed",
    place: { city: "Denver", state: "CO" },
  })
  await pulled(rig, "LARK")
  const { number } = value(await openClaim(rig.context, unit, "damage"))
  // asked again it is the same
  expect(value(await openClaim(rig.context, unit, "damage")).number).toBe(number)
  const claim = await whole(number)
  expect(claim.happened).toContain("Corner crushed")
  const item = there(await rig.db("item").where({ sku: "YST-ALE-500" }).first())
  const shipment = there(await rig.db("shipment").where({ order_id: orderId }).whereNot({ state: "void" }).first())
  // four pieces at the item's value, since the file names no price; all of the goods, so all of the freight
  const goods = Math.round(Number(item.value) * 4 * 100) / 100
  const freight = Number(shipment.contract_amount)
  expect([claim.amounts.goods, claim.amounts.freight, claim.total].map((sum) => Number(sum.amount))).toEqual([
    goods,
    freight,
    Math.round((goods + freight) * 100) / 100,
  ])
  // not delivered yet: 30 days from when it was shipped, 24 November
  expect([claim.facts.shippedOn, claim.next]).toEqual(["2026-11-24", { what: "file", day: "2026-12-24", over: false }])
  // a carrier that sets nothing, by what it carries
  const clerk = rig.context
  await expect(
    setClaimTerms(
      clerk,
      termsForm.parse({ carrier: 1, loss: 1, lossUnit: "days", lossFrom: "due", damage: 1, damageUnit: "days" }),
    ),
  ).rejects.toThrow("not allowed")
})

it("claims no more than went out, and is changed by one at a time until it is filed", async () => {
  const [one] = await shipped(rig, ["CL-2"])
  const unit = await unitOf(there(there(one).tracking[0]))
  const { number } = value(await openClaim(rig.context, unit, "loss"))
  const [line] = (await whole(number)).facts.lines
  const { lineId, pieces } = there(line)
  const goods = (n: number, unitValue = "30.00") => ({ goods: [{ lineId, pieces: n, unitValue }] })
  expect(codes(await save(number, goods(pieces + 1)))).toEqual(["claim.too-many"])
  expect(codes(await save(number, { goods: [{ lineId: 999_999, pieces: 1, unitValue: "1" }] }))).toEqual([
    "claim.not-in-it",
  ])
  expect(claimForm.safeParse({ kind: "loss", ...goods(1, "1e3") }).success).toBe(false)
  const seen = (await whole(number)).version
  value(await save(number, { ...goods(2), happened: "Never arrived." }))
  // 2 × 30.00; a package is good for 40 at most, and its freight
  const { amounts } = await whole(number)
  expect([amounts.goods.amount, amounts.limit?.amount]).toEqual(["60.00", "40.00"])
  expect(Number(amounts.expected.amount)).toBeCloseTo(40 + Number(amounts.freight.amount), 6)
  expect(codes(await save(number, { ...goods(1), version: seen }))).toEqual(["claim.changed"])
  // the same again is no change, whatever version was seen
  value(await save(number, { version: seen }))
  expect(codes(await files(number, { way: "mail" }, as(rig.context, { warehouseId: 2 })))).toEqual(["claim.gone"])
})

it("goes to the carrier once, with photos and papers, and is read back", async () => {
  const [one] = await shipped(rig, ["CL-3"])
  const unit = await unitOf(there(there(one).tracking[0]))
  const { number } = value(await openClaim(rig.context, unit, "damage"))
  expect(codes(await files(number, { way: "mail" }))).toEqual(["claim.what-happened"])
  const label = there((await whole(number)).papers.find((paper) => paper.kind === "label"))
  value(await save(number, { happened: "Carton wet, two jars broken.", papers: [label.id] }))
  const photo = PNG.sync.write(new PNG({ width: 40, height: 30 }))
  value(await addPhoto(rig.context, number, { name: "wet.png", bytes: photo }))
  value(await addPhoto(rig.context, number, { name: "again.png", bytes: photo }))
  expect((await whole(number)).photos).toHaveLength(1)
  expect(codes(await addPhoto(rig.context, number, { name: "x.png", bytes: Buffer.from("<svg/>") }))).toEqual([
    "signature.kind",
  ])
  const id = there((await whole(number)).photos[0]).id
  expect(there(await photoOf(rig.db, 1, number, id)).media).toBe("image/png")
  expect(await photoOf(rig.db, 2, number, id)).toBeUndefined()

  const [first, second] = await Promise.all([files(number, { way: "mail" }), files(number, { way: "mail" })])
  expect([first, second].map((each) => (each ? value(each).to : ""))).toEqual([
    "claims@lark.example",
    "claims@lark.example",
  ])
  await workAll(rig.db)
  const claim = await whole(number)
  expect([claim.state, claim.filedOn, claim.next]).toEqual([
    "filed",
    "2026-11-24",
    // 49 CFR 370.5(a): within 30 days
    { what: "acknowledge", day: "2026-12-24", over: false },
  ])
  const box = new URL(rig.at.mail).searchParams.get("mailbox")
  const list = (await (await fetch(`http://127.0.0.1:${box}/messages`)).json()) as { number: number; to: string[] }[]
  const mine = list.filter((mail) => mail.to.includes("claims@lark.example"))
  expect(mine).toHaveLength(1)
  const mail = await simpleParser(await (await fetch(`http://127.0.0.1:${box}/messages/${mine[0]?.number}.eml`)).text())
  expect(mail.subject).toBe(`Claim CL-${number}, shipment ${claim.facts.tracking[0]}`)
  const [paper] = mail.attachments
  const text = papers.words(there(paper).content)
  // 49 CFR 370.3(b): the shipment, the liability and a determined amount
  for (const said of [
    "Claim for damage",
    `CL-${number}`,
    there(claim.facts.tracking[0]),
    "Carton wet, two jars broken.",
    `We claim payment of $${claim.total.amount}`,
    "wet.png",
  ])
    expect(text).toContain(said)
  // filed is filed
  expect(codes(await save(number, { happened: "Otherwise." }))).toEqual(["claim.is-filed"])
  expect(codes(await addPhoto(rig.context, number, { name: "x.png", bytes: photo }))).toEqual(["claim.is-filed"])
  expect(codes(await removePhoto(rig.context, number, id))).toEqual(["claim.is-filed"])
})

it("is acknowledged, paid no more than was claimed, or denied with a reason; each once", async () => {
  const [one] = await shipped(rig, ["CL-4"])
  const unit = await unitOf(there(there(one).tracking[0]))
  const { number } = value(await openClaim(rig.context, unit, "loss"))
  expect(codes(await answers(number, { to: "paid", paid: "5" }))).toEqual(["claim.not-now"])
  value(await save(number, { happened: "Lost." }))
  value(await files(number, { way: "hand", reference: "LK-77" }))
  value(await files(number, { way: "hand" }))
  expect(codes(await answers(number, { to: "acknowledged", on: "2026-12-24" }))).toEqual(["claim.day"])
  value(await answers(number, { to: "acknowledged", on: "2026-11-24" }))
  value(await answers(number, { to: "acknowledged", on: "2026-11-24" }))
  const claim = await whole(number)
  // 120 days from November 24: 6 left, 31, 31, 28, then 24 in March (49 CFR 370.9(a))
  expect([claim.reference, claim.next?.day]).toEqual(["LK-77", "2027-03-24"])
  expect(codes(await answers(number, { to: "paid" }))).toEqual(["claim.how-much"])
  expect(codes(await answers(number, { to: "paid", paid: "99999" }))).toEqual(["claim.paid-more"])
  expect(codes(await answers(number, { to: "denied" }))).toEqual(["claim.why"])
  value(await answers(number, { to: "denied", note: "No proof." }))
  // they pay after all
  value(await answers(number, { to: "paid", paid: "12.50" }))
  expect((await whole(number)).paid).toEqual({ amount: "12.50", currency: "USD" })
  expect(codes(await answers(number, { to: "withdrawn", note: "x" }))).toEqual(["claim.not-now"])
  // settled: another may begin
  expect(value(await openClaim(rig.context, unit, "loss")).number).not.toBe(number)
  const story = await rig
    .db("audit")
    .where("action", "like", "claim.%")
    .whereRaw("JSON_VALUE(detail, '$.number') = ?", [number])
    .orderBy("id")
    .pluck("action")
  expect(story).toEqual(["claim.opened", "claim.filed-by-hand", "claim.acknowledged", "claim.denied", "claim.paid"])
})

it("is answered once: the same said again is nothing, another amount or day is refused and not lost", async () => {
  const [one] = await shipped(rig, ["CL-10"])
  const unit = await unitOf(there(there(one).tracking[0]))
  const { number } = value(await openClaim(rig.context, unit, "loss"))
  value(await save(number, { happened: "Lost." }))
  value(await files(number, { way: "hand" }))
  value(await answers(number, { to: "acknowledged", on: "2026-11-24", reference: "LK-90" }))
  for (const other of [{ reference: "LK-91" }, { on: "2026-11-23" }, { note: "by telephone" }])
    expect(codes(await answers(number, { to: "acknowledged", ...other }))).toEqual(["claim.not-now"])
  // two at once note what was paid: one of them is told that it is noted already
  const both = await Promise.all([
    answers(number, { to: "paid", paid: "10.00" }),
    answers(number, { to: "paid", paid: "12.00" }),
  ])
  expect(both.map((each) => (each.ok ? "kept" : codes(each)[0])).sort()).toEqual(["claim.not-now", "kept"])
  const paid = there((await whole(number)).paid).amount
  expect(["10.00", "12.00"]).toContain(paid)
  // 10 is 10.00
  expect(value(await answers(number, { to: "paid", paid: String(Number(paid)) })).state).toBe("paid")
  expect(codes(await answers(number, { to: "paid", paid: "11.00" }))).toEqual(["claim.not-now"])
  expect(
    await rig.db("audit").where({ action: "claim.paid" }).whereRaw("JSON_VALUE(detail, '$.number') = ?", [number]),
  ).toHaveLength(1)
})

it("takes another package of the shipment in, with its goods, its weight and its share of the carrier's limit", async () => {
  value(await terms())
  const [one] = await shipped(rig, ["CL-11"], "LKG", {}, [3, 1])
  const [first, second] = await Promise.all(there(one).tracking.map(unitOf))
  const { number } = value(await openClaim(rig.context, there(first), "loss"))
  const alone = await whole(number)
  expect(alone.facts.lines.map((line) => line.pieces)).toEqual([3])
  expect(alone.others).toEqual([expect.objectContaining({ id: second, chosen: false })])
  // 40 for each package
  expect(alone.amounts.limit?.amount).toBe("40.00")
  const { lineId, unitValue } = there(alone.goods[0])
  const goods = (pieces: number) => ({ goods: [{ lineId, pieces, unitValue }] })
  expect(codes(await save(number, goods(4)))).toEqual(["claim.too-many"])
  value(await save(number, { ...goods(4), units: [second] }))
  const both = await whole(number)
  expect([both.facts.lines.map((line) => line.pieces), both.facts.tracking.length]).toEqual([[4], 2])
  expect(both.amounts.limit?.amount).toBe("80.00")
  expect(both.others.map((each) => each.chosen)).toEqual([true])
  const sum = Number(unitValue) * 4
  expect(Number(both.amounts.goods.amount)).toBeCloseTo(sum, 2)
  // all of the goods are claimed, so all of the freight; with three of four, three quarters of it
  const shipment = there(
    await rig
      .db("shipment")
      .where({ order_id: there(one).orderId })
      .first(),
  )
  const freight = Number(shipment.contract_amount)
  expect(Number(both.amounts.freight.amount)).toBeCloseTo(freight, 2)
  expect(Number(alone.amounts.freight.amount)).toBeCloseTo(Math.round(freight * 75) / 100, 2)
  // by the pound: 0.50 each, of what both weighed when they went
  const [weight] = await rig
    .db("package")
    .where({ shipment_id: shipment.id })
    .sum({ kg: rig.db.raw("COALESCE(sent_kg, measured_kg)") })
  value(await terms({ perPackage: "", perPound: "0.50" }))
  value(await save(number, { ...goods(4), units: [second], happened: "Both never came." }))
  // 1 lb is 0.45359237 kg (NIST Handbook 44, appendix C)
  const pounds = Number((weight as unknown as { kg: string }).kg) / 0.45359237
  expect(Number((await whole(number)).amounts.limit?.amount)).toBeCloseTo(pounds * 0.5, 1)
  value(await terms())
  // a claim of the other alone is this one
  expect(value(await openClaim(rig.context, there(second), "loss")).number).toBe(number)
})

it("is for what a label was to bring back, where that is lost on its way", async () => {
  const [one] = await shipped(rig, ["CL-12"])
  const { orderId, tracking } = there(one)
  const shipment = there(await shipmentOf(rig.db, orderId))
  const [line] = shipment.lines
  const ask = returnAsk.parse({ pieces: { [there(line).id]: 1 } })
  const priced = value(await returnOffers(rig.db, await warehouseById(rig.db, 1), shipment, ask, rig.context.now))
  const price = moneyText(there(there(priced.offers.find((each) => each.service.code === "LKR")).rate).contract)
  const { returnId } = value(
    await askReturn(
      rig.context,
      orderId,
      ask,
      { serviceCode: "LKR", expected: price, prints: true, mailTo: "" },
      randomUUID(),
    ),
  )
  await workAll(rig.db)
  const back = there(await rig.db("tracked_unit").where({ return_id: returnId }).first())
  // it has not been handed in anywhere
  expect(codes(await openClaim(rig.context, back.id, "loss"))).toEqual(["claim.not-left"])
  await scanned(rig, "LARK", { trackingNumber: back.tracking, code: "PU", occurredAt: "2026-11-23T17:00:00-06:00" })
  await pulled(rig, "LARK")
  const { number } = value(await openClaim(rig.context, back.id, "loss"))
  const claim = await whole(number)
  // the one piece that it was to bring, and what the label costs
  expect(claim.facts.lines.map((each) => each.pieces)).toEqual([1])
  expect(claim.amounts.freight).toEqual({ amount: Number(price.amount).toFixed(2), currency: "USD" })
  // it was handed in on November 23; 60 days are 7 left of November, 31, and 22 of January
  expect([claim.facts.shippedOn, claim.next?.day]).toEqual(["2026-11-23", "2027-01-22"])
  expect(claim.others).toEqual([])
  // what went out is no part of it
  expect(codes(await save(number, { units: [await unitOf(there(tracking[0]))] }))).toEqual(["claim.no-package"])
})

it("is filed after the carrier's last day by a lead alone, and where nothing is declared wrong", async () => {
  const [one] = await shipped(rig, ["CL-5"])
  const unit = await unitOf(there(there(one).tracking[0]))
  const { number } = value(await openClaim(rig.context, unit, "loss"))
  value(await save(number, { happened: "Lost." }))
  await rig.db("claim").where({ number }).update({ file_by: "2026-11-20" })
  expect((await whole(number)).next).toEqual({ what: "file", day: "2026-11-20", over: true })
  expect(codes(await files(number, { way: "mail" }))).toEqual(["claim.over"])
  await expect(files(number, { way: "mail", late: "on" })).rejects.toThrow("not allowed")
  value(await files(number, { way: "mail", late: "on" }, as(rig.context, { role: "lead" })))
  // no answer for 30 days: filed on October 25 it is due today, November 24; a day before, it was
  const overdue = async (more: object) => {
    await rig.db("claim").where({ number }).update(more)
    return [(await openClaims(rig.db, 1, rig.context.now)).overdue, (await whole(number)).next?.over]
  }
  expect(await overdue({ filed_on: "2026-10-25" })).toEqual([0, false])
  expect(await overdue({ filed_on: "2026-10-24" })).toEqual([1, true])
  // known of, it has 120: July 27 has 4 left, then 31, 30, 31 and 24
  expect(await overdue({ state: "acknowledged" })).toEqual([0, false])
  expect(await overdue({ filed_on: "2026-07-27" })).toEqual([0, false])
  expect(await overdue({ filed_on: "2026-07-26" })).toEqual([1, true])
  expect(await overdue({ state: "filed" })).toEqual([1, true])
  const search = (text: string, list: "draft" | "overdue" = "draft") =>
    searchClaims(rig.db, 1, { text, list, page: 1 }, rig.context.now)
  expect((await search("", "overdue")).map((each) => each.number)).toEqual([number])
  // found by its number, its package and its carrier's number
  for (const text of [`CL-${number}`, there(there(one).tracking[0])])
    expect((await search(text)).map((each) => each.number)).toEqual([number])
  expect((await search("LK-77")).length).toBe(1)
  expect(await searchClaims(rig.db, 2, { text: `CL-${number}`, list: "draft", page: 1 }, rig.context.now)).toEqual([])
})

it("is not filed without an address, an amount or words that can be printed, nor with more than mail takes", async () => {
  const [one] = await shipped(rig, ["CL-13"])
  const unit = await unitOf(there(there(one).tracking[0]))
  const { number } = value(await openClaim(rig.context, unit, "damage"))
  const { lineId } = there((await whole(number)).goods[0])
  // no face of the papers has these; one can be told which
  const refusal = await save(number, { happened: "Wet \u{1F4A9} carton \u0628" })
  expect(refusal).toMatchObject({
    reasons: [{ code: "claim.signs", values: { signs: "\u{1F4A9}\u0628", field: "happened" } }],
  })
  value(await save(number, { happened: "Mouillé: żółć.", goods: [{ lineId, pieces: 0, unitValue: "5" }] }))
  value(await terms({ freight: undefined }))
  value(await save(number, { happened: "Wet.", goods: [] }))
  expect(codes(await files(number, { way: "mail" }))).toEqual(["claim.nothing"])
  value(await save(number, { goods: [{ lineId, pieces: 1, unitValue: "5" }] }))
  value(await terms({ email: "" }))
  expect(codes(await files(number, { way: "mail" }))).toEqual(["claim.no-address"])
  value(await terms())
  expect(
    termsForm.safeParse({ carrier: 1, loss: 0, lossUnit: "days", lossFrom: "due", damage: 1, damageUnit: "days" })
      .success,
  ).toBe(false)
  expect(codes(await terms({ carrier: 999_999 }))).toEqual(["claim.no-carrier"])

  // twelve photos, each another picture; the thirteenth is one too many, and can take the place of one
  const photo = (n: number) => {
    const png = new PNG({ width: 20 + n, height: 20 })
    return PNG.sync.write(png)
  }
  for (let n = 0; n < 12; n += 1)
    value(await addPhoto(rig.context, number, { name: `photo ${n}.png`, bytes: photo(n) }))
  expect(codes(await addPhoto(rig.context, number, { name: "one more.png", bytes: photo(12) }))).toEqual([
    "claim.many-photos",
  ])
  const [first] = (await whole(number)).photos
  value(await removePhoto(rig.context, number, there(first).id))
  value(await removePhoto(rig.context, number, there(first).id))
  // signs that a file's name may not have are left out of it
  value(await addPhoto(rig.context, number, { name: "../<b>wet</b>\u0000.png", bytes: photo(12) }))
  expect((await whole(number)).photos.map((each) => each.name).at(-1)).toBe("..bwetb.png")
  // 15 MB at most (common practice): one byte more than that is not mailed, and the claim stays a draft
  const size = 15 * 1024 * 1024
  await rig
    .db("claim_photo")
    .where({ id: there((await whole(number)).photos[0]).id })
    .update({ bytes: Buffer.alloc(size + 1) })
  expect(codes(await files(number, { way: "mail" }))).toEqual(["claim.too-large"])
  expect((await whole(number)).state).toBe("draft")
  expect(await rig.db("document").where({ order_id: there(one).orderId, kind: "claim" })).toEqual([])
})

it("is of no package of another shipment, and of none that never left; two who begin it begin one", async () => {
  const [first] = await shipped(rig, ["CL-6"])
  const [second] = await shipped(rig, ["CL-7"])
  const unit = await unitOf(there(there(first).tracking[0]))
  const stranger = await unitOf(there(there(second).tracking[0]))
  const { number } = value(await openClaim(rig.context, unit, "loss"))
  expect(codes(await save(number, { units: [stranger] }))).toEqual(["claim.no-package"])
  expect(codes(await openClaim(as(rig.context, { warehouseId: 2 }), unit, "loss"))).toEqual(["claim.no-package"])
  await expect(openClaim(as(rig.context, { role: "sales" }), unit, "loss")).rejects.toThrow("not allowed")
  const { orderId } = await readyToBuy(rig.context, "CL-8", row({ order_number: "CL-8" }))
  expect(await rig.db("tracked_unit").where({ order_id: orderId }).first("id")).toBeUndefined()
  // a label alone is nothing to claim for
  const here = await labelledOn(rig, "CL-9", "LKG")
  expect(codes(await openClaim(rig.context, await unitOf(there(here.tracking[0])), "loss"))).toEqual(["claim.not-left"])
  // two who begin at once begin one
  const [a, b] = await Promise.all([openClaim(rig.context, stranger, "loss"), openClaim(rig.context, stranger, "loss")])
  expect(value(there(a)).number).toBe(value(there(b)).number)
})
