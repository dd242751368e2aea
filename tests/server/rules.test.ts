import type { OrderId } from "core/ids/index.ts"
import type { RuleBody } from "core/rules/index.ts"
import { settingOf } from "core/rules/index.ts"
import { NotAllowed } from "server/actors/index.ts"
import { saveRouting } from "server/decisions/customers.ts"
import { changeGroup, undoGroup } from "server/decisions/group.ts"
import { choosePattern } from "server/decisions/pattern.ts"
import { recheckPart } from "server/decisions/recheckAll.ts"
import { reroute } from "server/decisions/reroute.ts"
import { changeRule, dropPattern, ruleRows, savePattern, saveRule } from "server/decisions/rules.ts"
import { effectOf, tryRules } from "server/decisions/tryRules.ts"
import { waive } from "server/decisions/waive.ts"
import { openShipment } from "server/packing/index.ts"
import { settledOf } from "server/rules/settleOrder.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, afterEach, beforeAll, describe, expect, it } from "vitest"
import { newId, there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  openRig,
  orderBySource,
  packed,
  pickAll,
  type Rig,
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
let admin: Rig["context"]
beforeAll(async () => {
  rig = await openRig()
  admin = as(rig.context, { role: "administrator" })
})
afterAll(() => rig?.drop())
afterEach(async () => {
  await rig.db("rule").delete()
})

const rule = async (name: string, body: RuleBody, on = true): Promise<number> => {
  const { id } = value(await saveRule(admin, { id: null, version: 0, name, body }))
  if (on) value(await changeRule(admin, id, "on"))
  return id
}
const take = async (number: string, more: Record<string, string> = {}) => {
  await takeFile(rig.context, row({ order_number: number, ...more }))
  return orderBySource(rig.db, number)
}
const serviceOf = async (number: string) => {
  const { planned_service_id: id } = await orderBySource(rig.db, number)
  return (await rig.db("service").where("id", id).first("code"))?.code
}
const tagsOf = (orderId: OrderId) => rig.db("order_tag").where({ order_id: orderId }).orderBy("tag").pluck("tag")

describe("a rule that is on", () => {
  it("sets the service of what comes in and of what is on the line, unless it breaks the promise", async () => {
    await take("R-1", { promised_on: "2026-12-02" })
    expect(await serviceOf("R-1")).toBe("LKG")
    await rule("Colorado by air", {
      when: [{ field: "state", is: "is", value: "CO, UT" }],
      does: { service: "MDS" },
    })
    // two-day air for a week's promise, because the rule says so
    expect(await serviceOf("R-1")).toBe("MDS")
    await take("R-2", { promised_on: "2026-12-02" })
    expect(await serviceOf("R-2")).toBe("MDS")
    await take("R-3", { promised_on: "2026-12-02", state: "IL", city: "Chicago", postal_code: "60601" })
    expect(await serviceOf("R-3")).not.toBe("MDS")
    // tomorrow is too soon for two days
    await take("R-4", { promised_on: "2026-11-25" })
    expect(await serviceOf("R-4")).toBe("LKN")
    const [{ id = 0 } = {}] = await ruleRows(rig.db)
    value(await changeRule(admin, id, "off"))
    expect(await serviceOf("R-1")).toBe("LKG")
  })

  it("tags once: a tag that a person takes off stays off", async () => {
    await rule("Yeast is cold", { when: [{ field: "items", is: "has", value: "YST-ALE-500" }], does: { tag: "cold" } })
    const order = await take("R-5")
    expect(await tagsOf(order.id)).toEqual(["cold"])
    await rig.db("order_tag").where({ order_id: order.id }).delete()
    await recheckPart(rig.db, { after: 0, by: { userId: null, name: "test" } }, rig.context.now)
    expect(await tagsOf(order.id)).toEqual([])
  })

  it("stops an order until somebody lets it pass, for this rule only", async () => {
    const id = await rule("Look twice", {
      when: [{ field: "pieces", is: "at-least", value: "40" }],
      does: { hold: true },
    })
    const order = await take("R-6", { quantity: "40" })
    const stops = () => rig.db("order_stop").where({ order_id: order.id }).pluck("code")
    expect(await stops()).toEqual(["stop.rule"])
    expect(value(await waive(rig.context, order.id, "stop.rule"))).toEqual([])
    expect(await stops()).toEqual([])
    const body: RuleBody = { when: [], does: { hold: true } }
    value(await saveRule(admin, { id, version: 1, name: "Look twice again", body }))
    expect(await stops()).toEqual(["stop.rule"])
    value(await changeRule(admin, id, "off"))
    expect(await stops()).toEqual([])
  })

  it("does not change what is begun: who packs finds it as it was", async () => {
    const order = await take("R-7")
    await pickAll(rig.context, order.id)
    await rule("All to the lift", { when: [], does: { liftgate: true } })
    expect(settledOf(await orderBySource(rig.db, "R-7"))).toEqual({})
    await take("R-8")
    const next = await orderBySource(rig.db, "R-8")
    expect(settingOf(settledOf(next), "liftgate")).toBe(true)
    await pickAll(rig.context, next.id)
    expect(value(await openShipment(rig.context, next.id)).wishes.options).toEqual(["liftgate"])
  })

  it("sets payer and papers, which the carrier and the printer are told", async () => {
    await rule("Denver pays", {
      when: [{ field: "postalCode", is: "begins", value: "802" }],
      does: { payer: { terms: "third-party", account: "LK-447-1180" }, packaging: "K12" },
    })
    await take("R-9")
    const { orderId, shipment } = await packed(rig.context, "R-9")
    const { intentId } = await askForLabels(rig.context, orderId, shipment)
    const intent = there(await rig.db("buy_intent").where({ id: intentId }).first("request"))
    const request = typeof intent.request === "string" ? JSON.parse(intent.request) : intent.request
    expect(request.billing).toEqual({ terms: "third-party", account: "LK-447-1180" })
    await workAll(rig.db)
    expect((await orderBySource(rig.db, "R-9")).left_line_at).not.toBeNull()
  })
})

describe("a rule is tried", () => {
  it("against an order: which rules act, and what comes of it", async () => {
    await rule("First", { when: [{ field: "country", is: "is", value: "US" }], does: { service: "LKG" } })
    const order = await take("T-1")
    const body: RuleBody = {
      when: [
        { field: "weight", is: "at-least", value: "1 lb" },
        { field: "state", is: "is", value: "CO" },
      ],
      does: { service: "MDS", packaging: "K12" },
    }
    const tried = value(await tryRules(admin, order.order_number, { id: null, name: "New", body }))
    expect(tried.rules.map((one) => [one.name, one.acts, one.fails, one.sets, one.overruled])).toEqual([
      ["First", true, [], ["service"], []],
      // four flasks of yeast weigh more than a pound; the first rule has said the service
      ["New", true, [], ["packaging"], ["service"]],
    ])
    const far = { ...body, when: [{ field: "state", is: "is", value: "NV" } as const] }
    const other = value(await tryRules(admin, order.order_number, { id: null, name: "New", body: far }))
    expect(other.rules[1]).toMatchObject({ acts: false, fails: [0] })
    expect(codes(await tryRules(admin, "99999", null))).toEqual(["order.unknown"])
  })

  it("on all orders of the day before it is switched on, and changes nothing by that", async () => {
    const order = await take("T-2", { customer: "Kettle Yard" })
    const id = await rule(
      "Upgrade",
      { when: [{ field: "state", is: "is", value: "CO" }], does: { service: "MDN" } },
      false,
    )
    const [candidate] = await ruleRows(rig.db)
    const effect = value(await effectOf(admin, { id, name: "Upgrade", body: candidate?.body as RuleBody }))
    const one = effect.effects.find((change) => change.orderNumber === order.order_number)
    expect(one?.settings).toEqual([{ name: "service", from: null, to: "MDN" }])
    expect(Number(one?.cost.to?.amount)).toBeGreaterThan(Number(one?.cost.from?.amount))
    const sum = effect.effects.reduce(
      (total, change) => total + Number(change.cost.to?.amount) - Number(change.cost.from?.amount),
      0,
    )
    expect(Number(effect.dearer)).toBeCloseTo(sum, 2)
    expect(await serviceOf("T-2")).toBe("LKG")
    expect(await rig.db("rule").where({ is_on: true })).toEqual([])
  })
})

describe("rules are kept", () => {
  it("in an order that can be changed, and refuse what they can't mean", async () => {
    const a = await rule("A", { when: [], does: { tag: "a" } }, false)
    await rule("B", { when: [], does: { tag: "b" } }, false)
    value(await changeRule(admin, a, "down"))
    expect((await ruleRows(rig.db)).map((one) => one.name)).toEqual(["B", "A"])
    value(await changeRule(admin, a, "down"))
    value(await changeRule(admin, a, "up"))
    expect((await ruleRows(rig.db)).map((one) => one.name)).toEqual(["A", "B"])
    const save = async (more: object) =>
      codes(await saveRule(admin, { id: a, version: 1, name: "A", body: { when: [], does: { tag: "a" } }, ...more }))
    expect(await save({ name: " " })).toEqual(["rule.no-name"])
    expect(await save({ body: { when: [], does: {} } })).toEqual(["rule.does-nothing"])
    expect(await save({ body: { when: [], does: { service: "ZZZ" } } })).toEqual(["rule.no-such-service"])
    expect(await save({ body: { when: [], does: { payer: { terms: "third-party", account: "" } } } })).toEqual([
      "rule.account",
    ])
    expect(await save({ version: 7 })).toEqual(["rule.changed-meanwhile"])
    expect(await save({})).toEqual([])
    await expect(
      saveRule(rig.context, { id: null, version: 0, name: "x", body: { when: [], does: {} } }),
    ).rejects.toThrow(NotAllowed)
    value(await changeRule(admin, a, "drop"))
    value(await changeRule(admin, a, "drop"))
    expect(await save({ version: 2 })).toEqual(["rule.gone"])
  })
})

describe("a shipping pattern", () => {
  it("is chosen for an order by hand before what rules say, for many at once, and taken back", async () => {
    value(
      await savePattern(admin, { id: null, version: 0, name: "By air", settings: { service: "MDS", liftgate: true } }),
    )
    const { id } = there(await rig.db("shipping_pattern").where({ name: "By air" }).first("id"))
    await rule("Ground", { when: [], does: { service: "LKG" } })
    const order = await take("P-1")
    value(await choosePattern(rig.context, order.id, id))
    expect(await serviceOf("P-1")).toBe("MDS")
    value(await choosePattern(rig.context, order.id, null))
    expect(await serviceOf("P-1")).toBe("LKG")
    const other = await take("P-2")
    const key = "11111111-2222-4333-8444-555555555555"
    const warehouse = await warehouseById(rig.db, 1)
    const changed = await changeGroup(rig.context, warehouse, key, [order.id, other.id], {
      what: "pattern",
      pattern: id,
    })
    expect(value(changed).changed).toBe(2)
    expect([await serviceOf("P-1"), await serviceOf("P-2")]).toEqual(["MDS", "MDS"])
    expect(codes(await dropPattern(admin, id))).toEqual(["pattern.in-order"])
    value(await undoGroup(rig.context, key))
    expect([await serviceOf("P-1"), await serviceOf("P-2")]).toEqual(["LKG", "LKG"])
    await rule("Uses it", { when: [{ field: "state", is: "is", value: "NV" }], does: { pattern: "By air" } })
    expect(codes(await dropPattern(admin, id))).toEqual(["pattern.in-rule"])
    value(await savePattern(admin, { id, version: 1, name: "Air", settings: { service: "MDS" } }))
    expect((await ruleRows(rig.db)).map((one) => one.body.does.pattern)).toContain("Air")
    expect(
      codes(await savePattern(admin, { id: null, version: 0, name: "Air", settings: { service: "MDS" } })),
    ).toEqual(["pattern.name-taken"])
    expect(codes(await choosePattern(rig.context, order.id, 9999))).toEqual(["pattern.gone"])
  })
})

describe("a customer's routing instruction", () => {
  it("allows services, which neither plan, rule nor comparison leaves", async () => {
    const customer = newId(await rig.db("customer").insert({ code: "ROUTED", name: "Routed Cellars" }))
    const route = (typed: unknown, version: number) => saveRouting(admin, { id: customer, version }, typed)
    expect(codes(await route({ services: ["NOPE"] }, 1))).toEqual(["rule.no-such-service"])
    expect(codes(await route({ services: ["MDS"], service: "LKG" }, 1))).toEqual(["routing.service-not-allowed"])
    expect(codes(await route({ colour: "red" }, 1))).toEqual(["routing.shape"])
    await take("C-1", { customer: "Routed Cellars" })
    expect(await serviceOf("C-1")).toBe("LKG")
    value(await route({ services: ["MDS", "MDN"], payer: { terms: "collect", account: "MA-90210" } }, 1))
    expect(await serviceOf("C-1")).toBe("MDS")
    await rule("Ground", { when: [], does: { service: "LKG" } })
    expect(await serviceOf("C-1")).toBe("MDS")
    expect(settingOf(settledOf(await orderBySource(rig.db, "C-1")), "payer")).toEqual({
      terms: "collect",
      account: "MA-90210",
    })
    const { orderId, shipment } = await packed(rig.context, "C-1")
    await expect(askForLabels(rig.context, orderId, shipment, "LKG")).rejects.toThrow("rate.routing")
    expect(codes(await route({}, 1))).toEqual(["customer.changed-meanwhile"])
    await expect(saveRouting(as(rig.context, { role: "lead" }), { id: customer, version: 2 }, {})).rejects.toThrow(
      NotAllowed,
    )
  })
})

it("a rule reaches every order on the line: the first at once, the others by the worker, in every warehouse", async () => {
  const one = (index: number) =>
    row({ order_number: `ALL-${index}`, street: `${index + 1} Long Street`, sku: "AIR-LOCK-50", quantity: "1" })
  await takeFile(rig.context, ...Array.from({ length: 70 }, (_, index) => one(index)))
  const away = await take("ALL-AWAY", { sku: "AIR-LOCK-50", quantity: "1" })
  value(await reroute(rig.context, away.id, 2))
  await rule("Everything", { when: [{ field: "items", is: "has", value: "AIR-LOCK-50" }], does: { tag: "seen" } })
  const tagged = async () => Number((await rig.db("order_tag").where({ tag: "seen" }).count({ n: "*" }))[0]?.n)
  expect(await tagged()).toBeLessThan(71)
  await workAll(rig.db)
  expect(await tagged()).toBe(71)
  expect(await tagsOf(away.id)).toEqual(["seen"])
})
