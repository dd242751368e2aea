import { randomUUID } from "node:crypto"
import { noPreferences } from "core/preferences/index.ts"
import { saveUses } from "server/documents/setUp.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { openShipment } from "server/packing/index.ts"
import { savePreferences } from "server/setup/preferences.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { saveWays, waysForm } from "server/setup/ways.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { printPapers } from "server/shipping/papersOut.ts"
import { labelsGoTo } from "server/shipping/printsTo.ts"
import { askFor } from "server/shipping/wishes.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { shipmentViewOf } from "../../app/shipment/shipmentView.server.ts"
import { newId, there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  openRig,
  pickAll,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  value,
  workAll,
  workOf,
} from "./rig.ts"

let rig: Rig
let bench: number
beforeAll(async () => {
  rig = await openRig()
  bench = newId(await rig.db("bench").insert({ warehouse_id: 1, name: "Bench 9" }))
})
afterAll(async () => rig?.drop())
const lead = () => as(rig.context, { role: "lead" })
const atBench = () => ({ ...rig.context, benchId: bench })
const prefers = (whose: "own" | { bench: number }, body: object) =>
  savePreferences(whose === "own" ? rig.context : lead(), whose, { ...noPreferences, ...body })
const clear = () => rig.db("preference").delete()

async function picked(number: string): Promise<number> {
  await takeFile(rig.context, row({ order_number: number }))
  const { id } = there(await rig.db("sales_order").where({ source_number: number }).first("id"))
  await pickAll(rig.context, id)
  return id
}

describe("options that somebody prefers", () => {
  it("are asked for where nobody says otherwise: the person's before the bench's before the warehouse's", async () => {
    await clear()
    value(await prefers({ bench: 0 }, { options: ["signature"] }))
    value(await prefers({ bench }, { options: ["signature-adult"] }))
    const wishes = async (number: string, context = rig.context) =>
      value(await openShipment(context, await picked(number))).wishes
    expect(await wishes("PF-1")).toMatchObject({
      options: ["signature"],
      optionsBy: { kind: "warehouse", name: "Duluth" },
    })
    expect(await wishes("PF-2", atBench())).toMatchObject({
      options: ["signature-adult"],
      optionsBy: { kind: "bench", name: "Bench 9" },
    })
    value(await prefers("own", { options: ["declared-value"] }))
    expect(await wishes("PF-3", atBench())).toMatchObject({ options: ["declared-value"], optionsBy: { kind: "user" } })
    // what a rule says is said
    const ruled = await picked("PF-4")
    const said = { settled: { options: { value: ["saturday"], by: { kind: "rule", name: "weekend" } } } }
    const { settings } = there(await rig.db("sales_order").where({ id: ruled }).first("settings"))
    const kept = typeof settings === "string" ? JSON.parse(settings) : settings
    await rig
      .db("sales_order")
      .where({ id: ruled })
      .update({ settings: JSON.stringify({ ...kept, ...said, ...said.settled }) })
    expect(value(await openShipment(rig.context, ruled)).wishes).toMatchObject({
      options: ["saturday"],
      optionsBy: null,
    })
    // and once somebody changes them for the shipment they are nobody's default any more
    const own = there(await shipmentOf(rig.db, ruled))
    expect(own.wishes.optionsBy).toBeNull()
  })

  it("are nobody's default any more once they are changed for the shipment", async () => {
    await clear()
    value(await prefers("own", { options: ["signature"] }))
    const id = await picked("PF-5")
    value(await openShipment(rig.context, id))
    const drop = { words: "−signature", change: () => [] }
    const changed = value(await askFor(rig.context, id, {}, randomUUID(), drop))
    expect(changed.wishes).toMatchObject({ options: [], optionsBy: null })
  })
})

describe("services that somebody hides", () => {
  it("are neither shown nor proposed to him, and can be bought all the same", async () => {
    await clear()
    const { orderId, shipment } = await readyToBuy(rig.context, "PF-6")
    const view = async (context = rig.context) =>
      there(await shipmentViewOf(await workOf(context), shipment.orderNumber))
    const first = there((await view()).offers.find((one) => one.preselected))
    value(await prefers("own", { hiddenServices: [first.code] }))
    const mine = await view()
    const second = there(mine.offers.find((one) => one.preselected))
    expect(second.code).not.toBe(first.code)
    expect(mine.offers.find((one) => one.code === first.code)).toMatchObject({ hiddenBy: { kind: "user" } })
    value(await prefers({ bench }, { hiddenCarriers: [second.carrierCode] }))
    expect((await view(atBench())).offers.find((one) => one.preselected)?.carrierCode).not.toBe(second.carrierCode)
    // others see what they saw
    const other = newId(await rig.db("user").insert({ ...(await userRow()), username: "other" }))
    const theirs = await view(as(rig.context, { userId: other }))
    expect(theirs.offers.find((one) => one.preselected)?.code).toBe(first.code)
    // the warehouse's holds for what nobody looks at as well
    value(await prefers({ bench: 0 }, { hiddenServices: [first.code] }))
    const rated = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    expect(rated.preselected?.service.code).not.toBe(first.code)
    const expected = there(first.contract)
    value(await buy(rig.context, orderId, { version: shipment.version, serviceCode: first.code, expected }))
  })

  it("are proposed where there is nothing else", async () => {
    await clear()
    const { shipment } = await readyToBuy(rig.context, "PF-7")
    const carriers: string[] = await rig.db("carrier").pluck("code")
    value(await prefers({ bench: 0 }, { hiddenCarriers: carriers }))
    const rated = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    expect(rated.preselected).not.toBeNull()
  })
})

const userRow = async () => {
  const { id: _, ...rest } = there(
    await rig
      .db("user")
      .where({ id: rig.context.actor.userId ?? 0 })
      .first(),
  )
  return rest
}

describe("the form of labels", () => {
  it("is the carrier's, else the person's, where the printer has the sheet; and it is said whose it is", async () => {
    await clear()
    const printer = there(await rig.db("printer").where("media", "like", "na_letter%").first("id"))
    value(await saveUses(rig.context, "own", [{ kind: "labels", benchId: 0, printerId: printer.id }]))
    const { orderId, shipment } = await readyToBuy(rig.context, "PF-8")
    const goes = async () => labelsGoTo(rig.context, await shipmentOf(rig.db, orderId))
    expect(await goes()).toMatchObject({ form: "letter", formBy: { kind: "printer" }, printerBy: { kind: "user" } })
    value(await prefers({ bench: 0 }, { labelForm: "half-letter" }))
    expect(await goes()).toMatchObject({ form: "half-letter", formBy: { kind: "warehouse", name: "Duluth" } })
    // a form on a sheet that the printer does not have is not taken
    value(await prefers("own", { labelForm: "a4" }))
    expect(await goes()).toMatchObject({ form: "letter", formBy: { kind: "printer" } })
    value(await prefers("own", { labelForm: "letter-slip" }))
    await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    const job = there(
      await rig
        .db("print_job as j")
        .join("document as d", "d.id", "j.document_id")
        .where({ "d.order_id": orderId, "d.kind": "label" })
        .first("j.id", "j.form", "d.id as document"),
    )
    expect(job.form).toBe("letter-slip")
    expect(await goes()).toMatchObject({ form: "letter-slip", formBy: { kind: "user" } })
    const { service_id } = there(await rig.db("shipment").where({ order_id: orderId }).first("service_id"))
    const { carrier_id } = there(
      await rig
        .db("service")
        .where({ id: service_id ?? 0 })
        .first("carrier_id"),
    )
    await rig.db("carrier").where({ id: carrier_id }).update({ label_form: "half-letter" })
    expect(await goes()).toMatchObject({ form: "half-letter", formBy: { kind: "carrier" } })
    value(await printPapers(rig.context, orderId, [job.document], randomUUID()))
    await workAll(rig.db)
    expect(await rig.db("print_job").where({ document_id: job.document }).pluck("state")).toEqual([
      "printed",
      "printed",
    ])
  })
})

it("defaults are kept by who may, here, and are what can be", async () => {
  expect(codes(await savePreferences(lead(), { bench: 99_999 }, noPreferences))).toEqual(["preference.no-bench"])
  expect(codes(await savePreferences(as(lead(), { role: "lead", warehouseId: 2 }), { bench }, noPreferences))).toEqual([
    "preference.no-bench",
  ])
  expect(codes(await savePreferences(rig.context, "own", { labelForm: "b5" }))).toEqual(["preference.shape"])
  await expect(savePreferences(rig.context, { bench: 0 }, noPreferences)).rejects.toThrow("printers.manage")
  await expect(savePreferences(as(rig.context, { role: "sales" }), "own", noPreferences)).rejects.toThrow("orders.work")
  await expect(
    saveWays(lead(), { pack: true, weigh: true, together: "lines", heavy: true, cold: false, fill: 12.5 }),
  ).rejects.toThrow("warehouse.manage")
  // what is no percentage, or more than is ever left, is refused in words of its own
  for (const fill of ["abc", "61", "-1", "12.55"])
    expect(waysForm.safeParse({ fill }).error?.issues[0]?.message).toBe("ways.fill-wrong")
  expect(waysForm.parse({ fill: "12,5", together: "lots" })).toMatchObject({ fill: 12.5, together: "lots" })
  value(
    await saveWays(as(rig.context, { role: "administrator" }), {
      pack: false,
      weigh: true,
      together: "no",
      heavy: false,
      cold: false,
      fill: 0,
    }),
  )
  expect(await warehouseById(rig.db, 1)).toMatchObject({ packInRuns: false, weighAll: true })
})
