import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import type { Shipment } from "server/packages/shipment.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import type { Offer } from "server/rating/offers.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { reconcile } from "server/shipping/reconcile.ts"
import { askFor, optionCosts, withOption } from "server/shipping/wishes.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { answerForm } from "../../app/shell/acts.server.ts"
import { shipmentActs } from "../../app/shipment/shipmentActions.server.ts"
import { parsed } from "../../server/audit/index.ts"
import { there } from "../../server/db/there.ts"
import {
  askForLabels,
  carrierAt,
  codes,
  formOf,
  ledger,
  openRig,
  type Rig,
  readyToBuy,
  row,
  value,
  workAll,
  workOf,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const rated = async (shipment: Shipment) => offersFor(rig.db, await warehouseById(rig.db, 1), shipment, rig.context.now)
const offer = async (shipment: Shipment, code: string): Promise<Offer> => {
  const found = (await rated(shipment)).offers.find((one) => one.service.code === code)
  if (!found) throw new Error(`no service ${code}`)
  return found
}
const cents = (of: Offer) => Math.round(Number(of.rate?.contract.amount) * 100)
const send = async (orderId: OrderId, fields: Record<string, string>) => {
  const work = await workOf(rig.context)
  return answerForm(formOf({ key: randomUUID(), ...fields }), work, shipmentActs(work, orderId))
}
const again = async (orderId: OrderId) => (await shipmentOf(rig.db, orderId)) as Shipment
const purchase = (shipment: Shipment, of: Offer, more: { leaves?: string } = {}) => ({
  version: shipment.version,
  serviceCode: of.service.code,
  expected: { ...moneyText(of.rate?.contract ?? { amount: 0 as never, currency: "USD" }), ...more },
})

describe("options", () => {
  it("cost what the tariff says, before they are chosen and after", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "W-1")
    const before = await offer(shipment, "LKG")
    const costs = optionCosts(await rated(shipment), shipment, before)
    const signature = costs.find((one) => one.option === "signature")
    expect([signature?.asked, costs.map((one) => one.option)]).toEqual([
      false,
      before.terms?.options.map((one) => one.option),
    ])
    await send(orderId, { intent: "ask-option", ask: "signature", service: "LKG" })
    const asked = await again(orderId)
    expect(asked.wishes.options).toEqual(["signature"])
    const after = await offer(asked, "LKG")
    expect(cents(after) - cents(before)).toBe(Math.round(Number(signature?.cost?.amount) * 100))
    // one signature excludes the other; a service that knows none says so
    await send(orderId, { intent: "ask-option", ask: "signature-adult", service: "LKG" })
    const adult = await again(orderId)
    expect(adult.wishes.options).toEqual(["signature-adult"])
    expect((await offer(adult, "BRE")).refusals.map((one) => one.code)).toContain("rate.option")
    await send(orderId, { intent: "ask-option", drop: "signature-adult", service: "LKG" })
    expect(cents(await offer(await again(orderId), "LKG"))).toBe(cents(before))
  })

  it("hold it at a location only where somebody says which", async () => {
    const { orderId } = await readyToBuy(rig.context, "W-8")
    await send(orderId, { intent: "ask-option", ask: "hold-at-location", service: "LKG" })
    const asked = await again(orderId)
    expect(codes(await buy(rig.context, orderId, purchase(asked, await offer(asked, "LKG"))))).toEqual([
      "wish.hold-where",
    ])
    await send(orderId, { intent: "ask-hold", hold: "Larkspur depot, 12 Mill Road" })
    const answer = await again(orderId)
    const { intentId } = value(await buy(rig.context, orderId, purchase(answer, await offer(answer, "LKG"))))
    const { request } = there(await rig.db("buy_intent").where({ id: intentId }).first("request"))
    expect((typeof request === "string" ? JSON.parse(request) : request).holdAt).toBe("Larkspur depot, 12 Mill Road")
  })

  it("make what was seen before stale: it can't be bought", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "W-2")
    const seen = await offer(shipment, "LKG")
    await send(orderId, { intent: "ask-option", ask: "signature", service: "LKG" })
    expect(codes(await buy(rig.context, orderId, purchase(shipment, seen)))).toEqual(["order.changed-meanwhile"])
    const now = await again(orderId)
    expect(codes(await buy(rig.context, orderId, purchase(now, seen)))).toEqual(["buy.price-changed"])
    const fresh = await offer(now, "LKG")
    expect(codes(await buy(rig.context, orderId, purchase(now, fresh, { leaves: "2026-11-20" })))).toEqual([
      "buy.truck-changed",
    ])
    value(await buy(rig.context, orderId, purchase(now, fresh, { leaves: "2026-11-24" })))
    await workAll(rig.db)
    // the carrier, who calculates by itself, came to the same
    const entry = (await ledger(carrierAt(rig, "LARK"))).find((one) => one.reference === shipment.orderNumber)
    expect(entry?.charge.amount).toBe(fresh.rate?.contract.amount.toFixed(2))
  })

  it("declare what the goods are worth, or what was typed, shared over the packages", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "W-3", row({ order_number: "W-3", quantity: "3" }))
    const item = there(await rig.db("item").where({ sku: shipment.lines[0]?.sku }).first("value"))
    await send(orderId, { intent: "ask-option", ask: "declared-value", service: "LKG" })
    const told = (of: Offer) => of.rate?.packages.map((one) => one.one.declared?.amount.toFixed(2))
    expect(told(await offer(await again(orderId), "LKG"))).toEqual([(3 * Number(item.value)).toFixed(2)])
    await send(orderId, { intent: "ask-declared", declared: "1.250" })
    expect((await again(orderId)).wishes.declared).toBeNull()
    await send(orderId, { intent: "ask-declared", declared: "1250" })
    expect(told(await offer(await again(orderId), "LKG"))).toEqual(["1250.00"])
  })

  it("are asked once when they are sent twice, and told in the order's story", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "W-4")
    const key = randomUUID()
    value(await askFor(rig.context, orderId, { options: ["saturday"] }, key))
    value(await askFor(rig.context, orderId, { options: ["saturday"] }, key))
    expect((await again(orderId)).version).toBe(shipment.version + 1)
    const story = await rig.db("audit").where({ order_id: orderId, action: "ship.asked" })
    expect(story.map((one) => parsed<{ wanted: string }>(one.detail).wanted)).toEqual(["options saturday"])
  })

  it("asked for by two at once are both asked for", async () => {
    const { orderId } = await readyToBuy(rig.context, "W-9")
    await Promise.all(
      ["signature", "lower-emission"].map((ask) => send(orderId, { intent: "ask-option", ask, service: "LKG" })),
    )
    expect([...(await again(orderId)).wishes.options].sort()).toEqual(["lower-emission", "signature"])
  })

  it("bring with them what they need and drop what they exclude", async () => {
    const { shipment } = await readyToBuy(rig.context, "W-5")
    const { terms } = await offer(shipment, "LKX")
    expect(withOption(["saturday", "signature"], "hold-at-location", terms)).toEqual(["signature", "hold-at-location"])
    expect(withOption(["saturday"], "hold-at-location", null)).toEqual(["saturday", "hold-at-location"])
  })
})

describe("who pays", () => {
  it("another's account is checked by each carrier's own way of writing it, and our cost is not compared", async () => {
    const { orderId } = await readyToBuy(rig.context, "W-6")
    await send(orderId, { intent: "ask-payer", terms: "third-party", account: "" })
    expect((await again(orderId)).wishes.payer).toBeNull()
    await send(orderId, { intent: "ask-payer", terms: "third-party", account: "LK-101-2000" })
    const shipment = await again(orderId)
    const theirs = await offer(shipment, "LKG")
    expect([theirs.rate?.payer, theirs.refusals]).toEqual(["third-party", []])
    expect((await offer(shipment, "MDN")).refusals.map((one) => one.code)).toEqual(["rate.account"])
    expect((await offer(shipment, "CVP")).refusals.map((one) => one.code)).toContain("rate.account")
    // what another pays is not kept back from our own balance while it is bought
    const balance = async () => (await offer(shipment, "LKG")).service.balance?.amount.toFixed(2)
    await rig.db("carrier").where({ code: "LARK" }).update({ prepaid_balance: "500.00" })
    const { intentId } = value(await buy(rig.context, orderId, purchase(shipment, theirs)))
    expect(await balance()).toBe("500.00")
    const { orderId: own, shipment: ours } = await readyToBuy(rig.context, "W-10")
    const { amount } = await askForLabels(rig.context, own, ours)
    expect(await balance()).toBe((500 - Number(amount)).toFixed(2))
    await rig.db("carrier").where({ code: "LARK" }).update({ prepaid_balance: null })
    const { request } = there(await rig.db("buy_intent").where({ id: intentId }).first("request"))
    expect((typeof request === "string" ? JSON.parse(request) : request).billing).toEqual({
      terms: "third-party",
      account: "LK-101-2000",
    })
    await workAll(rig.db)
    // the carrier has it on its books, and it is no cost of ours
    const kept = there(
      await rig.db("shipment").where({ id: shipment.id }).first("contract_amount", "list_amount", "state"),
    )
    expect([kept.state, Number(kept.contract_amount), Number(kept.list_amount) > 0]).toEqual(["bought", 0, true])
    expect((await reconcile(rig.db)).differences).toEqual([])
  })

  it("a prepaid balance that is too low is said beforehand and nothing is bought", async () => {
    const { orderId, shipment } = await readyToBuy(rig.context, "W-7")
    const post = await offer(shipment, "CVP")
    const charge = post.rate?.contract.amount.toFixed(2) as string
    await rig.db("carrier").where({ code: "CIVI" }).update({ prepaid_balance: "1.00" })
    const short = await offer(shipment, "CVP")
    expect(short.short?.amount.toFixed(2)).toBe("1.00")
    const outcome = await buy(rig.context, orderId, purchase(shipment, short))
    expect(outcome.ok ? [] : outcome.reasons.map((one) => [one.code, one.values.lacks])).toEqual([
      ["buy.balance-short", (Number(charge) - 1).toFixed(2)],
    ])
    await rig.db("carrier").where({ code: "CIVI" }).update({ prepaid_balance: charge })
    expect((await offer(shipment, "CVP")).short).toBeNull()
    value(await buy(rig.context, orderId, purchase(shipment, await offer(shipment, "CVP"))))
    await workAll(rig.db)
    // what was bought is taken from it
    expect(there(await rig.db("carrier").where({ code: "CIVI" }).first("prepaid_balance")).prepaid_balance).toBe("0.00")
  })
})
