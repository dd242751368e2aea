import { readFileSync } from "node:fs"
import { type Tariff, tariffText } from "core/tariff/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { tryOnLastMonth } from "server/rating/pastShipments.ts"
import { changeVersion, copyVersion, importTariff, saveDraft, versionOf, versionRows } from "server/rating/versions.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, askForLabels, codes, openRig, orderBySource, type Rig, readyToBuy, value, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const admin = () => as(rig.context, { role: "administrator" })
const larkspur = (): Tariff => JSON.parse(readFileSync("demo/tariffs/LARK.json", "utf8"))
/** Ground with every list price of the first row of weights raised by a dollar, or changed otherwise. */
function changed(change: (tariff: Tariff) => void): string {
  const tariff = larkspur()
  change(tariff)
  return tariffText(tariff)
}
const groundOf = (tariff: Tariff) => tariff.services.find((one) => one.code === "LKG") as Tariff["services"][number]
const version = async (number: number) => {
  const found = await versionOf(rig.db, "LARK", number)
  if (!found) throw new Error(`no version ${number}`)
  return found
}
const carrierId = async () => there(await rig.db("carrier").where({ code: "LARK" }).first("id")).id as number

describe("a tariff's document", () => {
  it("comes in as a draft, once however often it is sent, and prices nothing yet", async () => {
    const text = changed((tariff) => {
      groundOf(tariff).leastNet = "31.00"
    })
    expect(value(await importTariff(admin(), "LARK", text))).toEqual({ number: 2 })
    expect(value(await importTariff(admin(), "LARK", text))).toEqual({ number: 2 })
    expect((await versionRows(rig.db, await carrierId())).map((one) => [one.number, one.state])).toEqual([
      [2, "draft"],
      [1, "released"],
    ])
    const { shipment } = await readyToBuy(rig.context, "TF-1")
    const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
    expect(offers.find((one) => one.service.code === "LKG")?.version?.number).toBe(1)
  })

  it.each([
    ["no JSON", "{", "tariff.flaw"],
    [
      "another carrier's",
      tariffText(JSON.parse(readFileSync("demo/tariffs/MERI.json", "utf8"))),
      "tariff.other-carrier",
    ],
    [
      "a figure that is none",
      changed((tariff) => {
        groundOf(tariff).leastNet = "7,10"
      }),
      "tariff.flaw",
    ],
  ])("is refused with what and where: %s", async (_, text, code) => {
    const outcome = await importTariff(admin(), "LARK", text)
    expect(codes(outcome)).toEqual([code])
    if (code === "tariff.flaw" && text !== "{")
      expect(outcome.ok ? "" : outcome.reasons[0]?.values.path).toMatch(/^services\.\d+\.leastNet$/)
  })

  it("is the administrator's alone", async () => {
    for (const role of ["clerk", "lead", "sales"] as const)
      await expect(importTariff(as(rig.context, { role }), "LARK", "{}")).rejects.toThrow("tariffs.manage")
  })

  it("is changed as a draft only, and by one at a time", async () => {
    const text = changed((tariff) => {
      groundOf(tariff).leastNet = "32.00"
    })
    expect(value(await saveDraft(admin(), "LARK", 2, 1, text))).toEqual({ revision: 2 })
    // the same again is the same; another from the old state is refused
    expect(value(await saveDraft(admin(), "LARK", 2, 1, text))).toEqual({ revision: 2 })
    const other = changed((tariff) => {
      groundOf(tariff).leastNet = "33.00"
    })
    expect(codes(await saveDraft(admin(), "LARK", 2, 1, other))).toEqual(["tariff.changed-meanwhile"])
    expect(codes(await saveDraft(admin(), "LARK", 1, 1, other))).toEqual(["tariff.no-draft"])
    expect(codes(await saveDraft(admin(), "LARK", 9, 1, other))).toEqual(["tariff.no-version"])
  })

  it("is not released while the linter finds an error", async () => {
    const text = changed((tariff) => {
      const { price } = groundOf(tariff)
      if (price.by === "weight") price.rows[0]?.pop()
    })
    const { number } = value(await importTariff(admin(), "LARK", text))
    const outcome = await changeVersion(admin(), "LARK", number, "release")
    expect(codes(outcome)).toEqual(["tariff.has-errors", "lint.row-length"])
    value(await changeVersion(admin(), "LARK", number, "drop"))
    expect(await versionOf(rig.db, "LARK", number)).toBeNull()
  })
})

describe("a version", () => {
  it("is tried on what was booked before it is used, to the cent", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "TF-2")
    const { amount } = await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    const intent = there(await rig.db("buy_intent").orderBy("id", "desc").first("tariff_version_id"))
    expect(intent.tariff_version_id).toBe((await version(1)).id)
    const kept = there(await rig.db("shipment").where({ order_id: orderId }).first("tariff_version_id"))
    expect(kept.tariff_version_id).toBe(intent.tariff_version_id)
    const same = await tryOnLastMonth(rig.db, await carrierId(), (await version(1)).tariff, rig.context.now)
    expect(same.services).toEqual([
      {
        service: "LKG",
        shipments: 1,
        before: { amount, currency: "USD" },
        after: { amount, currency: "USD" },
        refused: 0,
      },
    ])
    expect(same.changes).toEqual([])
    // the least net charge of 32.00 and 15.75 % of fuel on it: 32.00 + 5.04 = 37.04
    const dearer = await tryOnLastMonth(rig.db, await carrierId(), (await version(2)).tariff, rig.context.now)
    expect(dearer.changes.map((one) => [one.before, one.after])).toEqual([[amount, "37.04"]])
    const gone = structuredClone((await version(1)).tariff)
    groundOf(gone).limits.weight = "1"
    const refused = await tryOnLastMonth(rig.db, await carrierId(), gone, rig.context.now)
    expect(refused.services.map((one) => [one.shipments, one.refused])).toEqual([[1, 1]])
    expect(refused.changes[0]?.reasons.map((one) => one.code)).toEqual(["rate.over-weight"])
  })

  it("prices from its first day on, and until it is withdrawn", async () => {
    const { shipment, orderId } = await readyToBuy(rig.context, "TF-3")
    const ground = async () => {
      const { offers } = await offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
      const offer = offers.find((one) => one.service.code === "LKG")
      return [offer?.version?.number, offer?.rate?.contract.amount.toFixed(2)]
    }
    const before = await ground()
    value(await changeVersion(admin(), "LARK", 2, "release"))
    value(await changeVersion(admin(), "LARK", 2, "release"))
    expect(await ground()).toEqual([2, "37.04"])
    // what was seen by the version before is not bought
    const outcome = await buy(rig.context, orderId, {
      version: shipment.version,
      serviceCode: "LKG",
      expected: { amount: before[1] as string, currency: "USD" },
    })
    expect(codes(outcome)).toEqual(["buy.price-changed"])
    value(await changeVersion(admin(), "LARK", 2, "withdraw"))
    expect(await ground()).toEqual(before)
    expect(codes(await changeVersion(admin(), "LARK", 2, "release"))).toEqual(["tariff.withdrawn"])
    // one for December does not hold in November
    const { number } = value(
      await importTariff(
        admin(),
        "LARK",
        changed((tariff) => {
          tariff.validFrom = "2026-12-01"
          groundOf(tariff).leastNet = "40.00"
        }),
      ),
    )
    value(await changeVersion(admin(), "LARK", number, "release"))
    expect(await ground()).toEqual(before)
    expect(value(await copyVersion(admin(), "LARK", number))).toEqual({ number: number + 1 })
    expect(await shipmentOf(rig.db, (await orderBySource(rig.db, "TF-2")).id)).toMatchObject({ state: "bought" })
  })
})
