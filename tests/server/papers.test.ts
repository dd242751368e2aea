import { execFileSync } from "node:child_process"
import { randomUUID } from "node:crypto"
import { writeFileSync } from "node:fs"
import { join } from "node:path"
import { noDetails } from "core/customs/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { money } from "core/money/index.ts"
import { hsProposals, saveCustoms, saveLading, saveLineCustoms } from "server/decisions/customs.ts"
import { reprint } from "server/documents/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment, palletise } from "server/packing/index.ts"
import { masterBillOf } from "server/papers/masterBill.ts"
import { putTable, saveShipper, setVagueWord, tableCsv } from "server/papers/setUp.ts"
import { carrierRows, saveCarrier } from "server/setup/carriers.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { offersFor } from "server/shipping/buy.ts"
import { saveCollected } from "server/shipping/collected.ts"
import { dataOf, papersInForce, printPapers } from "server/shipping/papersOut.ts"
import { reconcile } from "server/shipping/reconcile.ts"
import { askVoid } from "server/shipping/void.ts"
import { askFor } from "server/shipping/wishes.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  carrierAt,
  codes,
  openRig,
  orderBySource,
  packed,
  pickAll,
  type Rig,
  takeWith,
  tryToBuy as tryToBuyBy,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const bremen = {
  customer: "Nordhefe Kontor",
  street: "Speicherzeile 31",
  city: "Bremen",
  state: "",
  postal_code: "28195",
  country: "DE",
}
const terms = { incoterm: "DAP", incoterm_place: "Bremen", phone: "+49 421 5550177" }

const take = (number: string, fields: Record<string, string> = {}, more: Record<string, string> = terms) =>
  takeWith(rig.context, { order_number: number, ...bremen, ...fields }, more)

/** Codes of what an order is stopped for. */
const stopsOf = (number: string): Promise<string[]> =>
  rig
    .db("order_stop as s")
    .join("sales_order as o", "o.id", "s.order_id")
    .where("o.source_number", number)
    .orderBy("s.id")
    .pluck("s.code")

const tryToBuy = (orderId: OrderId, service: string) => tryToBuyBy(rig.context, orderId, service)

/** The kept papers of an order as text, by kind. */
async function papersOf(orderId: number): Promise<Map<string, string>> {
  const rows = await rig
    .db("document")
    .where({ order_id: orderId, media: "application/pdf" })
    .whereNull("void_at")
    .orderBy("id")
  return new Map(
    rows.map((one) => {
      const file = join(rig.folder, `${one.id}.pdf`)
      writeFileSync(file, one.bytes)
      return [one.kind, execFileSync("pdftotext", ["-layout", file, "-"]).toString()]
    }),
  )
}

describe("a gap", () => {
  it("keeps a shipment from being bought, by its name, until it is filled in place", async () => {
    const order = await take("P-1", {}, { ...terms, incoterm: "DDP" })
    const orderId = order.id
    // it stands on the day as stopped, with the minute by which it must be solved
    expect(await stopsOf("P-1")).toEqual(["customs.no-importer"])
    const importer = {
      company: "Zollagent Weser",
      attention: "",
      street: "Am Freihafen 2",
      street2: "",
      city: "Bremen",
      state: "",
      postalCode: "28217",
      country: "DE",
      phone: "",
      taxNumber: "DE136695976",
      eori: "DE1234567",
    }
    const wrong = { ...importer, taxNumber: "DE136695977" }
    expect(
      codes(await saveCustoms(rig.context, order.id, { details: {}, party: { role: "importer", party: wrong } })),
    ).toEqual(["customs.tax-check"])
    const change = { details: {}, party: { role: "importer" as const, party: importer } }
    value(await saveCustoms(rig.context, order.id, change))
    // the same again is the same
    value(await saveCustoms(rig.context, order.id, change))
    expect(await rig.db("audit").where({ order_id: order.id, action: "order.customs-changed" })).toHaveLength(1)
    expect(await stopsOf("P-1")).toEqual([])
    await packed(rig.context, "P-1")
    value(await tryToBuy(orderId, "MDW"))
    await workAll(rig.db)
    const invoice = (await papersOf(orderId)).get("invoice") ?? ""
    expect(invoice).toContain("Zollagent Weser")
    // the customer's papers are in German, with that language's numbers
    expect(invoice).toContain("Handelsrechnung")
    expect(invoice).toContain("296,00 USD")
    expect(codes(await saveCustoms(rig.context, order.id, { details: { remarks: "late" } }))).toEqual([
      "order.labels-asked-for",
    ])
  })

  it("of a line is filled for this order, or kept with the item for the next", async () => {
    await rig.db("item").where({ sku: "HYD-TRI" }).update({ hs_code: null, customs_description: "Samples" })
    const order = await take("P-2", { sku: "HYD-TRI", quantity: "2" })
    expect(await stopsOf("P-2")).toEqual(["customs.no-hs-code", "customs.vague-description"])
    const line = there(await rig.db("order_line").where({ order_id: order.id }).first("id"))
    const said = { line: line.id, material: "glass", use: "", unit: "" as const, netKg: "", value: "", origin: "" }
    const vague = { ...said, description: "parts", hsCode: "9025.80", keep: false }
    expect(codes(await saveLineCustoms(rig.context, order.id, vague))).toEqual(["customs.vague-description"])
    const good = { ...vague, description: "Hydrometer with jar", keep: true }
    value(await saveLineCustoms(rig.context, order.id, good))
    value(await saveLineCustoms(rig.context, order.id, good))
    expect(await stopsOf("P-2")).toEqual([])
    const item = there(await rig.db("item").where({ sku: "HYD-TRI" }).first())
    expect([item.hs_code, item.customs_description, item.material]).toEqual(["9025.80", "Hydrometer with jar", "glass"])
    expect((await hsProposals(rig.context, line.id, "hydrometer"))[0]).toMatchObject({
      code: "9025.80",
      from: "history",
    })
    // somebody of another warehouse finds nothing by the line's number
    expect(await hsProposals(as(rig.context, { warehouseId: 2 }), line.id, "hydrometer")).toEqual([])
    expect(codes(await saveLineCustoms(as(rig.context, { warehouseId: 2 }), order.id, good))).toEqual(["order.unknown"])
  })

  it("is a character that no face has, told before anything is bought", async () => {
    await take("P-3", { customer: "מבשלה Bremen" })
    const { orderId } = await packed(rig.context, "P-3")
    expect(codes(await tryToBuy(orderId, "MDW"))).toEqual(["paper.not-printable"])
  })

  it("is a word that the house calls vague", async () => {
    const admin = as(rig.context, { role: "administrator" })
    await expect(setVagueWord(rig.context, "yeast", true)).rejects.toThrow("warehouse.manage")
    for (const word of ["Dry", "ale", "yeast", "brick"]) value(await setVagueWord(admin, word, true))
    await take("P-4")
    expect(await stopsOf("P-4")).toEqual(["customs.vague-description"])
    for (const word of ["dry", "ale", "yeast", "brick"]) value(await setVagueWord(admin, word, false))
  })
})

/** A place at home, where nothing else is needed. */
const usual = {
  customer: "Elk Run Taproom",
  street: "14 Growler Row",
  city: "Denver",
  state: "CO",
  postal_code: "80205",
  country: "US",
}

describe("dangerous goods", () => {
  it("in limited quantity go with a mark on their package and no declaration", async () => {
    await take("P-10", { ...usual, sku: "CLN-PHOS-5", quantity: "1" }, {})
    const { orderId, shipment } = await packed(rig.context, "P-10")
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    expect([...(await papersOf(orderId)).keys()].sort()).toEqual(["goods-mark", "label"])
  })

  it("under all rules go on pallets with their entry and the telephone on the bill of lading", async () => {
    const { context, db } = rig
    await take("P-11", { ...usual, sku: "CLN-CAU-20", quantity: "2" }, {})
    const orderId = (await orderBySource(db, "P-11")).id
    await pickAll(context, orderId)
    value(await openShipment(context, orderId))
    value(await addPackage(context, orderId, "K14", true))
    value(await palletise(context, orderId, "P10"))
    value(await closePackages(context, orderId))
    const admin = as(context, { role: "administrator" })
    const shipper = async (emergencyPhone: string) => {
      const { shipper: had, version } = await warehouseById(db, 1)
      value(await saveShipper(admin, { ...had, emergencyPhone, version }))
    }
    await shipper("")
    expect(codes(await tryToBuy(orderId, "IBS"))).toEqual(["shipper.no-emergency-phone"])
    // parcels take limited quantities only
    expect(codes(await tryToBuy(orderId, "LKG"))).toContain("rate.not-limited")
    await shipper("+1 800 555 0199")
    value(await saveLading(context, orderId, { ...there(await shipmentOf(db, orderId)).lading, seal: "S-4711" }))
    value(await tryToBuy(orderId, "IBS"))
    await workAll(db)
    const papers = await papersOf(orderId)
    const lading = (papers.get("bill-of-lading") ?? "").replace(/\s+/g, " ")
    // 49 CFR 172.202: number, name, class, group, in that order, then total quantity and packages
    expect(lading).toContain("UN1824, Sodium hydroxide solution, 8, PG II 40 L 1 carton")
    expect(lading).toContain("24-hour emergency phone: +1 800 555 0199")
    expect(lading).toContain("Seal: S-4711")
    expect([...papers.keys()].sort()).toEqual(["bill-of-lading", "label", "pallet-label"])
    // the same for the carrier's program, as it went with the booking
    const [told] = await dataOf(db, orderId)
    const edi = there(
      await db("document")
        .where({ id: there(told).id })
        .first("media", "bytes"),
    )
    expect([edi.media, edi.bytes.toString("latin1").slice(0, 3)]).toEqual(["application/edifact", "UNA"])
    const theirs = (await (await fetch(`${carrierAt(rig, "IRON")}/v1/papers`)).json()) as {
      kind: string
      data: string
    }[]
    expect(theirs.map((one) => one.kind)).toEqual(["IFTMIN"])
    expect(theirs[0]?.data).toContain("DGS+CFR+8+1824")
    // nothing but papers is ever printed
    expect(await reprint(context, there(told).id, randomUUID())).toBe(false)
  })

  it("frozen with dry ice need its mass, and a mark with it", async () => {
    await take("P-12", { ...usual, sku: "YST-LIQ-1", quantity: "1" }, {})
    const { orderId } = await packed(rig.context, "P-12")
    value(await askFor(rig.context, orderId, { options: ["dry-ice"], dryIceKg: null }, randomUUID()))
    value(await closePackages(rig.context, orderId))
    expect(codes(await tryToBuy(orderId, "MDN"))).toEqual(["dangerous.no-ice-mass"])
    value(await askFor(rig.context, orderId, { dryIceKg: "2.5" }, randomUUID()))
    value(await tryToBuy(orderId, "MDN"))
    await workAll(rig.db)
    const mark = (await papersOf(orderId)).get("goods-mark") ?? ""
    expect(mark).toContain("UN1845")
    expect(mark).toContain("Dry ice, 2.5 kg net")
  })

  it("that are spirits are taken by who takes them, with license and signature", async () => {
    await take("P-13", { ...usual, sku: "BIT-ORG-200", quantity: "3" }, {})
    const { orderId } = await packed(rig.context, "P-13")
    expect(codes(await tryToBuy(orderId, "CVP"))).toEqual(["rate.category"])
    expect(codes(await tryToBuy(orderId, "LKG"))).toEqual(["rate.category-needs", "rate.category-needs"])
    value(await saveCustoms(rig.context, orderId, { details: { receiverLicence: "CO-1234" } }))
    value(await askFor(rig.context, orderId, { options: ["signature-adult"] }, randomUUID()))
    value(await tryToBuy(orderId, "LKG"))
    await workAll(rig.db)
    expect(there(await shipmentOf(rig.db, orderId)).state).toBe("bought")
  })

  it("that are printed matter have a cheaper rate, once the shipper declares that they are nothing else", async () => {
    await take("P-14", { ...usual, sku: "CAT-2027", quantity: "1" }, {})
    const { orderId } = await packed(rig.context, "P-14")
    expect(codes(await tryToBuy(orderId, "CVM"))).toEqual(["rate.category-needs"])
    value(await saveCustoms(rig.context, orderId, { details: { declaresKind: true } }))
    value(await tryToBuy(orderId, "CVM"))
    await workAll(rig.db)
    expect(there(await shipmentOf(rig.db, orderId)).state).toBe("bought")
  })
})

it("a bill of lading has the carrier's number from its range, each once, and a truck's bills have a master bill", async () => {
  const { context, db } = rig
  const admin = as(context, { role: "administrator" })
  const iron = there((await carrierRows(db, "2026-11-24")).find((one) => one.code === "IRON"))
  const form = {
    code: "IRON",
    account: iron.account,
    accountForm: iron.accountForm,
    balance: "",
    labelForm: "" as const,
    tolerance: iron.tolerance,
    tradeCode: "IRBK",
  }
  expect(codes(await saveCarrier(admin, { ...form, proFrom: "700", proTo: "650" }))).toEqual(["carrier.pro-range"])
  value(await saveCarrier(admin, { ...form, proFrom: "0700", proTo: "0701" }))
  const freight = async (number: string) => {
    await take(number, { ...usual, sku: "MALT-PIL-50", quantity: "2" }, {})
    const orderId = (await orderBySource(db, number)).id
    await pickAll(context, orderId)
    value(await openShipment(context, orderId))
    value(await addPackage(context, orderId, "P10", true))
    value(await closePackages(context, orderId))
    return { orderId, bought: await tryToBuy(orderId, "IBS") }
  }
  const [first, second, third] = [await freight("P-60"), await freight("P-61"), await freight("P-62")]
  expect([first, second, third].map((one) => codes(one.bought))).toEqual([[], [], ["carrier.pro-used-up"]])
  await workAll(db)
  const lading = (await papersOf(first.orderId)).get("bill-of-lading") ?? ""
  expect(lading).toContain("PRO number: 0700")
  expect(lading).toContain("Carrier code IRBK")
  const truck = there(await db("shipment").where({ order_id: first.orderId }).first("collection_id"))
  const master = there(await masterBillOf(db, await warehouseById(db, 1), truck.collection_id as number))
  expect(master.bills.filter((one) => ["0700", "0701"].includes(one.proNumber)).map((one) => one.units)).toEqual([1, 1])
  const sum = master.bills.reduce((all, one) => all.add(one.weight), master.weight.mul(0))
  expect(master.weight.toFixed(6)).toBe(sum.toFixed(6))
  expect(await masterBillOf(db, await warehouseById(db, 2), truck.collection_id as number)).toBeNull()

  // when the truck is there: the driver and his count, once; the carrier's number is his already
  const inForce = (orderId: OrderId) =>
    db("document").where({ order_id: orderId, kind: "bill-of-lading" }).whereNull("void_at").pluck("id")
  const [before] = await inForce(first.orderId)
  const there1 = { trailer: "T-77", seal: "S-1203", driver: "Ode Vang", counted: "1" }
  expect(codes(await saveCollected(context, first.orderId, { ...there1, proNumber: "999" }))).toEqual([
    "lading.numbered",
  ])
  expect(codes(await saveCollected(context, first.orderId, { driver: "啤酒" }))).toEqual(["paper.not-printable"])
  expect(await inForce(first.orderId)).toEqual([before])
  value(await saveCollected(context, first.orderId, there1))
  value(await saveCollected(context, first.orderId, there1))
  const after = await inForce(first.orderId)
  expect([after.length, after[0] === before]).toEqual([1, false])
  expect(await db("document").where({ order_id: first.orderId, kind: "bill-of-lading" }).pluck("id")).toHaveLength(2)
  const again = (await papersOf(first.orderId)).get("bill-of-lading") ?? ""
  for (const word of ["Ode Vang", "T-77", "S-1203", "PRO number: 0700"]) expect(again).toContain(word)
  const job = there(await db("print_job").where({ document_id: after[0] }).first("copies"))
  expect(job.copies).toBe(3)

  // what is void gives its number to nobody, and its truck is forgotten; a longer range goes on after the last
  value(await askVoid(context, first.orderId))
  await workAll(db)
  value(await saveCarrier(admin, { ...form, proFrom: "0700", proTo: "0702" }))
  value(await tryToBuy(first.orderId, "IBS"))
  await workAll(db)
  const bought = (await papersOf(first.orderId)).get("bill-of-lading") ?? ""
  expect(bought).toContain("PRO number: 0702")
  expect(bought).not.toContain("Ode Vang")

  // a carrier without a range: his number is typed at collection
  value(await saveCarrier(admin, { ...form, proFrom: "", proTo: "" }))
  const { orderId } = await freight("P-63")
  await workAll(db)
  value(await saveCollected(context, orderId, { proNumber: "IB 4455" }))
  expect((await papersOf(orderId)).get("bill-of-lading")).toContain("PRO number: IB 4455")
  expect(codes(await saveCollected(as(context, { warehouseId: 2 }), orderId, { seal: "9" }))).toEqual(["order.unknown"])
  expect(codes(await saveCollected(context, third.orderId, { seal: "9" }))).toEqual(["lading.not-bought"])
})

describe("the post abroad", () => {
  // 300 SDR at 1.3425 dollars (rate of November 16): 402.75 dollars; CVS takes goods up to 400 dollars
  it.each([
    ["P-20", "CVS", "1", "CN22"],
    ["P-21", "CVI", "1", "CN23"],
  ])("%s by %s with %s pieces has a %s on its package", async (number, service, quantity, form) => {
    await take(number, { sku: "HOP-CAS-1", quantity })
    const orderId = (await orderBySource(rig.db, number)).id
    await pickAll(rig.context, orderId)
    value(await openShipment(rig.context, orderId))
    value(await addPackage(rig.context, orderId, "K02", true))
    value(await closePackages(rig.context, orderId))
    value(await tryToBuy(orderId, service))
    await workAll(rig.db)
    const declaration = (await papersOf(orderId)).get("postal-declaration") ?? ""
    expect(declaration).toContain(`Zollinhaltserklärung ${form}`)
    // the item's number, S10
    const { tracking } = there(
      await rig
        .db("package as p")
        .join("shipment as s", "s.id", "p.shipment_id")
        .where("s.order_id", orderId)
        .first("p.tracking"),
    )
    expect(declaration.replace(/\s/g, "")).toContain(tracking)
  })
})

it("papers that the carrier takes as data go with the booking, print nothing, and can still be printed", async () => {
  await take("P-30")
  const { orderId, shipment } = await packed(rig.context, "P-30")
  await askForLabels(rig.context, orderId, shipment, "SWI")
  await workAll(rig.db)
  const kept = await papersInForce(rig.db, orderId)
  const invoice = there(kept.find((one) => one.kind === "invoice"))
  expect([invoice.electronic, invoice.printed, invoice.waiting]).toEqual([true, 0, 0])
  const theirs = (await (await fetch(`${carrierAt(rig, "SWIF")}/v1/papers`)).json()) as {
    reference: string
    kind: string
    data: { goods: { amount: string; currency: string }; lines: unknown[] }
  }[]
  const own = theirs.filter((one) => one.reference === shipment.orderNumber)
  // 4 × 74.00
  expect(own.map((one) => [one.kind, one.data.goods, one.data.lines.length])).toEqual([
    ["invoice", { amount: "296.00", currency: "USD" }, 1],
  ])
  value(await printPapers(rig.context, orderId, [invoice.id], randomUUID()))
  await workAll(rig.db)
  expect((await papersInForce(rig.db, orderId)).find((one) => one.kind === "invoice")?.printed).toBe(1)
})

it("a tariff in another currency is compared by the day's rate, which is kept, and the carrier's own amount is booked", async () => {
  const { context, db } = rig
  await take("P-40", { sku: "MALT-PIL-50", quantity: "4", promised_on: "2027-02-01" })
  const orderId = (await orderBySource(db, "P-40")).id
  await pickAll(context, orderId)
  value(await openShipment(context, orderId))
  value(await addPackage(context, orderId, "P10", true))
  value(await closePackages(context, orderId))
  const shipment = there(await shipmentOf(db, orderId))
  const { offers } = await offersFor(db, await warehouseById(db, 1), shipment, context.now)
  const offer = there(offers.find((one) => one.service.code === "HLG"))
  const native = there(offer.native)
  // 1 EUR = 1.1085 USD on November 16
  const usd = native.contract.amount.mul("1.1085").toDecimalPlaces(2, 4)
  expect(offer.rate?.contract).toEqual(money(usd, "USD"))
  const lines = there(offer.rate).charges.reduce((sum, one) => sum.add(one.contract.amount), usd.mul(0))
  expect(lines.toFixed(2)).toBe(usd.toFixed(2))
  value(await tryToBuy(orderId, "HLG"))
  await workAll(db)
  const bought = there(
    await db("shipment").where({ order_id: orderId }).first("currency", "contract_amount", "exchange"),
  )
  expect([bought.currency, Number(bought.contract_amount)]).toEqual(["USD", usd.toNumber()])
  expect(
    JSON.parse(String(typeof bought.exchange === "string" ? bought.exchange : JSON.stringify(bought.exchange))),
  ).toMatchObject({ from: "EUR", to: "USD", rate: "1.1085", on: "2026-11-16" })
  const intent = there(
    await db("buy_intent as i")
      .join("shipment as s", "s.id", "i.shipment_id")
      .where("s.order_id", orderId)
      .first("i.currency", "i.expected_amount"),
  )
  expect([intent.currency, Number(intent.expected_amount)]).toEqual(["EUR", native.contract.amount.toNumber()])
  expect((await reconcile(db)).differences).toEqual([])
})

describe("an export filing", () => {
  it("is worked out across what leaves with the same carrier and day for the same consignee", async () => {
    // 58.00 each: 25 pieces are 1450, two such orders 2900 under 9027.50
    await take("P-50", { sku: "REF-BRIX-32", quantity: "25" })
    await take("P-51", { sku: "REF-BRIX-32", quantity: "25" })
    const first = await packed(rig.context, "P-50")
    await rig
      .db("sales_order")
      .where({ source_number: "P-51" })
      .update({ planned_service_id: null, collection_id: null })
    await askForLabels(rig.context, first.orderId, first.shipment, "MDW")
    await workAll(rig.db)
    expect((await papersOf(first.orderId)).get("invoice")).toContain("NOEEI 30.37(a)")
    const second = await packed(rig.context, "P-51")
    expect(codes(await tryToBuy(second.orderId, "MDW"))).toEqual(["filing.over-value"])
    value(await saveCustoms(rig.context, second.orderId, { details: { itn: "X20261124000042" } }))
    value(await tryToBuy(second.orderId, "MDW"))
    await workAll(rig.db)
    expect((await papersOf(second.orderId)).get("invoice")).toContain("X20261124000042")
  })
})

describe("a dated table", () => {
  it("is imported and exported as the same rows, refused whole with line and column, and only by who may", async () => {
    const admin = as(rig.context, { role: "administrator" })
    await expect(putTable(rig.context, "exchange", "")).rejects.toThrow("warehouse.manage")
    expect(codes(await putTable(admin, "exchange", "date,from,to,rate\n"))).toEqual(["table.empty"])
    const bad = await putTable(
      admin,
      "exchange",
      "date,from,to,rate\n2026-11-20,GBP,USD,1.3\n2026-13-01,GBP,USD,1\n2026-11-20,GBP,USD,0\n",
    )
    expect(bad.ok ? [] : bad.reasons.map((one) => [one.values.line, one.values.column])).toEqual([
      ["3", "date"],
      ["4", "rate"],
    ])
    expect(await rig.db("exchange_rate").where({ from_currency: "GBP" })).toEqual([])
    for (let twice = 0; twice < 2; twice += 1)
      value(await putTable(admin, "exchange", "\ufeffdate,from,to,rate\r\n2026-11-20,GBP,USD,1.3055\r\n"))
    const csv = await tableCsv(rig.db, "exchange")
    expect(csv).toContain("2026-11-20,GBP,USD,1.3055\r\n")
    for (const kind of ["exchange", "imports", "duties"] as const) {
      const before = await tableCsv(rig.db, kind)
      value(await putTable(admin, kind, before))
      expect(await tableCsv(rig.db, kind)).toBe(before)
    }
  })
})

it("somebody who is named on papers is looked for in the lists of restricted parties, as the receiver is", async () => {
  const order = await take("P-70")
  expect(await stopsOf("P-70")).toEqual([])
  const party = {
    company: "Grauwasser Chemie Handel",
    attention: "",
    street: "Kesselgasse 14",
    street2: "",
    city: "Bamberg",
    state: "",
    postalCode: "96047",
    country: "DE",
    phone: "",
    taxNumber: "",
    eori: "",
  }
  value(await saveCustoms(rig.context, order.id, { details: {}, party: { role: "buyer", party } }))
  expect(await stopsOf("P-70")).toEqual(["stop.screening"])
  value(await saveCustoms(rig.context, order.id, { details: {}, party: { role: "buyer", party: null } }))
  expect(await stopsOf("P-70")).toEqual([])
})

it("has details of nothing where nobody said any", () => {
  expect(noDetails).toMatchObject({ purpose: "sale", itn: "", freight: null })
})
