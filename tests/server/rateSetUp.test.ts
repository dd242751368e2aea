import { Readable } from "node:stream"
import { RouterContextProvider } from "react-router"
import { workContext } from "server/http/context.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { askedFrom } from "server/quotes/form.ts"
import { versionOf } from "server/rating/versions.ts"
import { carrierForm, carrierRows, saveCarrier } from "server/setup/carriers.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { action as tariffAction } from "../../app/setup/tariff.tsx"
import { loader as tariffFile } from "../../app/setup/tariff-file.ts"
import { shipmentViewOf } from "../../app/shipment/shipmentView.server.ts"
import { as, codes, formOf, header, openRig, packed, type Rig, row, value, workOf } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())
const admin = () => as(rig.context, { role: "administrator" })

describe("a carrier in set-up", () => {
  const form = {
    code: "CIVI",
    account: "CP-1",
    labelForm: "" as const,
    tradeCode: "",
    proFrom: "",
    proTo: "",
    accountForm: "CP-9",
    balance: "12.50",
    tolerance: "0.05",
  }
  it("keeps account, balance and tolerance, for an administrator", async () => {
    await expect(saveCarrier(rig.context, form)).rejects.toThrow("tariffs.manage")
    value(await saveCarrier(admin(), form))
    const kept = (await carrierRows(rig.db, "2026-11-24")).find((one) => one.code === "CIVI")
    expect(kept).toMatchObject({
      account: "CP-1",
      labelForm: "" as const,
      accountForm: "CP-9",
      balance: "12.50",
      tolerance: "0.05",
      services: 6,
      version: { number: 1, from: "2026-01-05" },
    })
    value(await saveCarrier(admin(), { ...form, balance: "" }))
    expect((await carrierRows(rig.db, "2026-11-24")).find((one) => one.code === "CIVI")?.balance).toBeNull()
    expect(codes(await saveCarrier(admin(), { ...form, code: "NONE" }))).toEqual(["tariff.no-carrier"])
  })
  it.each([
    [{ balance: "12,50" }, "carrier.amount"],
    [{ tolerance: "" }, "carrier.amount"],
    [{ account: " " }, "carrier.account"],
  ])("refuses %j", (change, message) =>
    expect(carrierForm.safeParse({ ...form, ...change }).error?.issues.map((one) => one.message)).toEqual([message]),
  )
})

describe("a tariff's pages", () => {
  const call = async (fields: Record<string, string>, number = "1") => {
    const context = new RouterContextProvider()
    context.set(workContext, await workOf(admin()))
    const request = new Request("http://x/", { method: "POST", body: new URLSearchParams(fields) })
    return tariffAction({ request, params: { code: "BORE", number }, context } as never)
  }
  it("copy a version and save the draft only as a tariff", async () => {
    await expect(call({ intent: "copy" })).rejects.toMatchObject({ status: 302 })
    const saved = (await call({ intent: "save", revision: "1", document: "{}" }, "2")) as {
      answer: { refused: boolean }
    }
    expect(saved.answer.refused).toBe(true)
    expect((await versionOf(rig.db, "BORE", 2))?.revision).toBe(1)
  })
  it("give out a table as CSV, and nothing that is not there", async () => {
    const context = new RouterContextProvider()
    context.set(workContext, await workOf(admin()))
    const get = (file: string) => tariffFile({ params: { code: "BORE", number: "1", file }, context } as never)
    expect((await (await get("rates.BRD.csv")).text()).split("\n")[0]).toMatch(/^weight,2,3/)
    await expect(get("rates.LKG.csv")).rejects.toMatchObject({ status: 404 })
  })
})

describe("what the customer asked and paid for", () => {
  it("is marked on its service, whether it is said by code or by name", async () => {
    for (const [number, service_asked] of [
      ["A-1", "LKX"],
      ["A-2", "larkspur express two"],
    ] as const) {
      const text = `${header},service_asked,freight_paid\n${row({ order_number: number })},${service_asked},64.00\n`
      await takeIn(rig.context, await previewFile(rig.context, "file", "asked.csv", Readable.from([Buffer.from(text)])))
      const { orderId } = await packed(rig.context, number)
      const name = (await shipmentOf(rig.db, orderId))?.orderNumber as string
      const view = await shipmentViewOf(await workOf(rig.context), name)
      expect(view?.offers.filter((one) => one.asked).map((one) => one.code)).toEqual(["LKX"])
      expect(view?.wishes?.paid).toBe("64.00")
    }
  })
})

describe("the form of a quote", () => {
  it("reads lines and fields, and tells every one that is wrong", () => {
    const outcome = askedFrom(
      formOf({ postalCode: "58102", packages: "2 × 5 lb 8 × 8 × 8 in", worth: "12,50", customer: "halvrd" }),
    )
    expect(outcome.ok && [outcome.value.customer, outcome.value.worth, outcome.value.packages[0]?.count]).toEqual([
      "HALVRD",
      "12.50",
      2,
    ])
    expect(codes(askedFrom(formOf({ postalCode: "58102", packages: "five", items: "1 2 3" })))).toEqual([
      "quote.line-bad",
      "quote.line-bad",
    ])
    expect(codes(askedFrom(formOf({ packages: "5 lb 8 × 8 × 8 in" })))).toEqual(["quote.postal-code"])
    expect(codes(askedFrom(formOf({ postalCode: "58102", packages: "0 lb 8 × 8 × 8 in" })))).toEqual(["quote.figure"])
  })
})
