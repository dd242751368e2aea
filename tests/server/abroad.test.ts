import { execFileSync } from "node:child_process"
import { writeFileSync } from "node:fs"
import { join } from "node:path"
import { changeAddress } from "server/decisions/address.ts"
import { summaryById } from "server/orders/facts.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import {
  askForLabels,
  carrierAt,
  codes,
  ledger,
  openRig,
  orderBySource,
  packed,
  type Rig,
  takeWith,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const abroad = {
  customer: "Brauhaus Kesselwehr",
  street: "Gärbottichweg 4",
  city: "Berlin",
  state: "",
  postal_code: "10115",
  country: "DE",
}

const take = (number: string, more: Record<string, string>, fields: Record<string, string> = {}) =>
  takeWith(rig.context, { order_number: number, ...abroad, ...fields }, more)
const stops = async (number: string) => {
  const order = await orderBySource(rig.db, number)
  return (await summaryById(rig.db, await warehouseById(rig.db, 1), order.id))?.stops.map((stop) => stop.code)
}

describe("an order abroad", () => {
  it("stops with every gap by its name, and goes on when all are closed", async () => {
    await take("X-1", { incoterm: "FOB", incoterm_place: "", phone: "" }, { sku: "TSP-SMP-12", quantity: "2" })
    expect(await stops("X-1")).toEqual([
      "customs.sea-incoterm",
      "customs.no-place",
      "customs.no-phone",
      "customs.vague-description",
    ])
    await rig.db("item").where({ sku: "TSP-SMP-12" }).update({ customs_description: "Plastic test strips, 12 pack" })
    const order = await orderBySource(rig.db, "X-1")
    value(
      await changeAddress(rig.context, order.id, {
        version: order.version,
        company: order.company,
        attention: "",
        street: order.street,
        street2: "",
        city: "Berlin",
        state: "",
        postal_code: "10115",
        country: "DE",
        phone: "+49 30 5550142",
        address_kind: "business",
        incoterm: "DAP",
        incoterm_place: "Berlin",
      }),
    )
    expect(await stops("X-1")).toEqual([])
  })

  it("is offered international services only, and each at home says why not", async () => {
    await take("X-2", { incoterm: "DAP", incoterm_place: "Berlin", phone: "+49 30 5550142" })
    const { shipment } = await packed(rig.context, "X-2")
    const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    expect(offers.filter((offer) => offer.rate).map((offer) => offer.service.code)).toEqual([
      "MDW",
      "MDC",
      "SWI",
      "SWE",
      "HLG",
    ])
    expect(offers.find((offer) => offer.service.code === "LKC")?.refusals.map((why) => why.code)).toEqual([
      "rate.country",
    ])
    // a European express arrives three business days after its truck on the 24th, the 26th being a holiday: the 30th
    expect(offers.find((offer) => offer.service.code === "SWI")?.rate?.arrival.date).toBe("2026-11-30")
  })

  it("is bought once, with a commercial invoice of what is in the packages, printed four times", async () => {
    await take(
      "X-3",
      { incoterm: "DAP", incoterm_place: "Berlin", phone: "+49 30 5550142", unit_price: "77.335" },
      { quantity: "3" },
    )
    await rig.db("customer").where({ code: "KESSEL" }).update({ language: "en" })
    const { orderId, shipment } = await packed(rig.context, "X-3")
    await askForLabels(rig.context, orderId, shipment, "MDW")
    await workAll(rig.db)
    const entries = (await ledger(carrierAt(rig, "MERI"))).filter((one) => one.reference === shipment.orderNumber)
    expect(entries.map((one) => one.state)).toEqual(["booked"])
    const papers = await rig
      .db("document as d")
      .join("print_job as p", "p.document_id", "d.id")
      .where({ order_id: orderId })
      .orderBy("d.id")
      .select("d.id", "d.kind", "d.name", "d.bytes", "p.copies")
    expect(papers.map((one) => [one.kind, one.name, one.copies])).toEqual([
      ["label", `${shipment.orderNumber}-1`, 1],
      ["invoice", `CI-${shipment.orderNumber}`, 4],
      ["packing-list", `PL-${shipment.orderNumber}`, 1],
    ])
    writeFileSync(join(rig.folder, "invoice.pdf"), papers[1].bytes)
    const words = execFileSync("pdftotext", ["-layout", join(rig.folder, "invoice.pdf"), "-"]).toString()
    // 3 × 77.335 = 232.005 → 232.01; net 3 × 1.15 lb = 3.45 lb = 1.56 kg
    for (const answer of [
      "Commercial invoice",
      "Brauhaus Kesselwehr",
      "10115 Berlin",
      "GERMANY",
      "DAP Berlin (Incoterms 2020)",
      "2102.10",
      "3 pc",
      "1.56",
      "77.3350",
      "232.01 USD",
      "Maren Holt",
    ])
      expect(words).toContain(answer)
  })

  it("goes on with dangerous goods whose data are whole, and stops with what lacks of them", async () => {
    const more = { incoterm: "DAP", incoterm_place: "Berlin", phone: "+49 30 5550142" }
    await take("X-4", more, { sku: "CLN-PHOS-5" })
    expect(await stops("X-4")).toEqual([])
    await rig.db("item").where({ sku: "CLN-PHOS-5" }).update({ inner_quantity: "5.01" })
    await take("X-5", more, { sku: "CLN-PHOS-5" })
    // UN 1805 III: 5 L at most in an inner packaging of a limited quantity
    expect(await stops("X-5")).toEqual(["dangerous.over-limit"])
    await rig.db("item").where({ sku: "CLN-PHOS-5" }).update({ proper_shipping_name: "" })
    await take("X-6", more, { sku: "CLN-PHOS-5" })
    expect(await stops("X-6")).toEqual(["dangerous.properShippingName"])
  })
})

describe("a label", () => {
  it("whose texts do not fit is refused before anything is bought, by field and text", async () => {
    // sixty wide letters: more than the field holds at its smallest size
    const company = "W".repeat(60)
    await take("X-5", { incoterm: "DAP", incoterm_place: "Berlin", phone: "+49 30 5550142", company })
    const { orderId, shipment } = await packed(rig.context, "X-5")
    const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    const offer = offers.find((one) => one.service.code === "SWI")
    const answer = await buy(rig.context, orderId, {
      version: shipment.version,
      serviceCode: "SWI",
      expected: { amount: offer?.rate?.contract.amount.toFixed(2) ?? "", currency: "USD" },
    })
    expect(codes(answer)).toEqual(["label.does-not-fit"])
    expect(answer.ok ? {} : answer.reasons[0]?.values).toMatchObject({ field: "receiver", text: company })
    expect(await rig.db("buy_intent").where({ shipment_id: shipment.id })).toEqual([])
  })
})
