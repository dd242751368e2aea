import { Decimal } from "decimal.js"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { mass } from "../units/index.ts"
import {
  type Condition,
  conditionSchema,
  freeRouting,
  holds,
  type Pattern,
  type Rule,
  type RuleFacts,
  routingSchema,
  ruleSchema,
  type Settings,
  settingNames,
  settingOf,
  settle,
} from "./index.ts"

/** An order of Kestrel for Duluth's neighborhood: 45 lb, two lines, promised in three days. */
const facts: RuleFacts = {
  customer: "KESTREL",
  source: "shop",
  warehouse: "DLH",
  country: "US",
  state: "WI",
  postalCode: "54880",
  addressKind: "business",
  postBox: false,
  weight: mass(45, "lb"),
  value: new Decimal("480.50"),
  lines: 2,
  pieces: 14,
  items: ["HOP-SAA-5", "YST-ALE"],
  tags: ["fragile"],
  dangerous: false,
  freight: false,
  promise: 3,
}
const when = (field: Condition["field"], is: Condition["is"], value = ""): Condition => ({ field, is, value })

describe("a condition", () => {
  it.each([
    [when("state", "is", "MN, WI"), true],
    [when("state", "is", "mn"), false],
    [when("state", "is-not", "MN, IA"), true],
    [when("postalCode", "begins", "548, 558"), true],
    [when("postalCode", "begins", "55"), false],
    [when("items", "has", "yst-ale, X"), true],
    [when("tags", "has-not", "fragile"), false],
    [when("weight", "at-least", "45 lb"), true],
    // 45 lb = 20.41165665 kg
    [when("weight", "at-least", "20.412 kg"), false],
    [when("weight", "under", "20.412 kg"), true],
    [when("value", "at-least", "480.50"), true],
    [when("value", "under", "480.50"), false],
    [when("promise", "under", "3"), false],
    [when("promise", "under", "4"), true],
    [when("postBox", "no"), true],
    [when("dangerous", "yes"), false],
  ] as const)("%o holds: %s", (condition, expected) => {
    expect(holds(condition, facts)).toBe(expected)
  })
  it("on a promise is neither early nor late where nothing is promised", () => {
    const free = { ...facts, promise: null }
    expect([holds(when("promise", "under", "9"), free), holds(when("promise", "at-least", "0"), free)]).toEqual([
      false,
      false,
    ])
  })
  it.each([
    [when("state", "at-least", "MN"), "rule.comparison"],
    [when("weight", "under", "150"), "rule.weight"],
    [when("value", "under", "much"), "rule.number"],
    [when("customer", "is", " , "), "rule.value"],
  ] as const)("is refused where it means nothing: %o", (condition, code) => {
    expect(conditionSchema.safeParse(condition).error?.issues.map((issue) => issue.message)).toEqual([code])
  })
})

describe("conditions that are each other's contrary", () => {
  const text = fc.constantFrom("WI", "MN", "wi", "CO")
  const figure = fc.integer({ min: 0, max: 900 })
  it("never both hold, and never both fail", () => {
    fc.assert(
      fc.property(text, text, figure, figure, fc.boolean(), (state, asked, pieces, least, postBox) => {
        const order = { ...facts, state, pieces, postBox, tags: [state] }
        const pairs: [Condition, Condition][] = [
          [when("state", "is", asked), when("state", "is-not", asked)],
          [when("tags", "has", asked), when("tags", "has-not", asked)],
          [when("pieces", "at-least", String(least)), when("pieces", "under", String(least))],
          [when("weight", "at-least", `${least} lb`), when("weight", "under", `${least} lb`)],
          [when("postBox", "yes"), when("postBox", "no")],
        ]
        for (const [one, other] of pairs) expect(holds(one, order)).toBe(!holds(other, order))
      }),
    )
  })
  it("a longer list of values never holds for fewer orders", () => {
    fc.assert(
      fc.property(fc.array(text, { minLength: 1, maxLength: 3 }), text, text, (few, more, state) => {
        const order = { ...facts, state }
        if (holds(when("state", "is", few.join(", ")), order))
          expect(holds(when("state", "is", [...few, more].join(",")), order)).toBe(true)
      }),
    )
  })
})

const rule = (id: number, does: Rule["does"], conditions: readonly Condition[] = []): Rule => ({
  id,
  name: `rule ${id}`,
  when: [...conditions],
  does,
})
const settled = (rules: readonly Rule[], more: Partial<Parameters<typeof settle>[0]> = {}) =>
  settle({ routing: freeRouting, customer: "KESTREL", chosen: null, patterns: [], rules, facts, ...more })

describe("what an order is sent with", () => {
  it("is what the first rule that acts says, each setting by itself", () => {
    const result = settled([
      rule(1, { service: "LKX" }, [when("state", "is", "MN")]),
      rule(2, { service: "LKG", liftgate: true }, [when("state", "is", "WI")]),
      rule(3, { service: "MDS", packaging: "K12" }),
    ])
    expect([
      settingOf(result.settled, "service"),
      settingOf(result.settled, "liftgate"),
      settingOf(result.settled, "packaging"),
    ]).toEqual(["LKG", true, "K12"])
    expect(result.settled.packaging?.by).toEqual({ kind: "rule", name: "rule 3" })
    expect(result.rules.map((one) => [one.acts, one.fails, one.sets, one.overruled])).toEqual([
      [false, [0], [], []],
      [true, [], ["service", "liftgate"], []],
      [true, [], ["packaging"], ["service"]],
    ])
  })
  it("is the customer's routing instruction before a pattern by hand before any rule", () => {
    const routing = routingSchema.parse({ payer: { terms: "collect", account: "K-77" }, services: ["LKG", "CVP"] })
    const chosen: Pattern = {
      name: "Cellar door",
      settings: { service: "CVP", payer: { terms: "prepaid", account: "" } },
    }
    const result = settled([rule(1, { service: "LKG", invoiceCopies: 2 })], { routing, chosen })
    expect(result.settled).toEqual({
      payer: { value: { terms: "collect", account: "K-77" }, by: { kind: "routing", name: "KESTREL" } },
      service: { value: "CVP", by: { kind: "pattern", name: "Cellar door" } },
      invoiceCopies: { value: 2, by: { kind: "rule", name: "rule 1" } },
    })
  })
  it("never is a service that the customer does not allow", () => {
    const routing = routingSchema.parse({ services: ["LKG"] })
    const result = settled([rule(1, { service: "MDN" }), rule(2, { service: "LKG" })], { routing })
    expect(settingOf(result.settled, "service")).toBe("LKG")
    expect(result.rules[0]?.overruled).toEqual(["service"])
  })
  it("takes a rule's pattern after the rule's own settings, and its tags and stops", () => {
    const patterns: Pattern[] = [{ name: "Heavy", settings: { service: "IBS", liftgate: true } }]
    const result = settled([rule(1, { pattern: "Heavy", liftgate: false, tag: "heavy", hold: true })], { patterns })
    expect([settingOf(result.settled, "service"), settingOf(result.settled, "liftgate")]).toEqual(["IBS", false])
    expect([result.tags, result.holds]).toEqual([["heavy"], ["rule 1"]])
    expect(result.rules[0]?.overruled).toEqual([])
  })

  const anySettings = fc.record(
    {
      service: fc.constantFrom("LKG", "LKX", "MDS"),
      packaging: fc.constantFrom("K10", "K12"),
      liftgate: fc.boolean(),
      invoiceCopies: fc.integer({ min: 1, max: 9 }),
    },
    { requiredKeys: [] },
  )
  const anyRules = fc.array(
    fc.record({ acts: fc.boolean(), does: anySettings }).map(({ acts, does }) => ({ acts, does })),
    { maxLength: 6 },
  )
  it("changes with a later rule only where nobody before it spoke", () => {
    fc.assert(
      fc.property(anyRules, anySettings, (drawn, last) => {
        const rules = drawn.map((one, index) => rule(index, one.does, [when("dangerous", one.acts ? "no" : "yes")]))
        const before = settled(rules).settled
        const after = settled([...rules, rule(99, last)]).settled
        for (const name of settingNames) {
          const first = rules.find((one, index) => drawn[index]?.acts && one.does[name] !== undefined)
          const expected = first ? first.does[name] : (last as Settings)[name]
          expect(settingOf(after, name)).toEqual(expected)
          if (first) expect(after[name]).toEqual(before[name])
        }
      }),
    )
  })
})

it("refuses a rule that does nothing, and what it does not know", () => {
  const read = (body: unknown) => ruleSchema.safeParse(body).error?.issues[0]
  expect(read({ when: [], does: { hold: false } })?.message).toBe("rule.does-nothing")
  expect(read({ when: [], does: { colour: "red" } })?.code).toBe("unrecognized_keys")
  expect(ruleSchema.safeParse({ when: [], does: { tag: "heavy" } }).success).toBe(true)
})
