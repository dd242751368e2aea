import { Decimal } from "decimal.js"
import { z } from "zod"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"
import { shareOut } from "../money/share.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { type PayerTerms, payerTerms } from "../rules/settings.ts"
import { serviceModes } from "../tariff/index.ts"

/** What a customer is charged for freight, by rules; common practice of the trade, no single source. */

const figure = z.string().regex(/^\d{1,9}(\.\d{1,2})?$/, { error: "charging.figure" })
const signed = z.string().regex(/^-?\d{1,6}(\.\d{1,2})?$/, { error: "charging.signed" })

export const chargingSchema = z.strictObject({
  /** Customers' codes; none named: all. */
  customers: z.array(z.string().trim().min(1).max(40)).max(200).default([]),
  /** Kinds of service; none named: all. */
  modes: z.array(z.enum(serviceModes)).default([]),
  /** Countries that goods go to; none named: all. */
  countries: z.array(z.string().regex(/^[A-Z]{2}$/, { error: "charging.country" })).default([]),
  /** Freight terms of the order, such as prepaid and added; none named: all. */
  terms: z.array(z.enum(payerTerms)).default([]),
  /** What it is calculated from: our cost, the carrier's list price, a fixed amount, or nothing at all. */
  from: z.enum(["contract", "list", "flat", "free"]),
  /** The fixed amount, where it is calculated from one. */
  flat: figure.default("0"),
  /** Percent more, or less where it is under nothing. */
  percent: signed.default("0"),
  /** An amount more for the shipment, or less. */
  amount: signed.default("0"),
  perPackage: figure.default("0"),
  /** Nothing is charged when the goods are worth at least so much; null: never. */
  freeFrom: figure.nullable().default(null),
  /** Whether that is asked of each order by itself, or of all that go in one shipment together. */
  freePer: z.enum(["order", "shipment"]).default("order"),
  /** A freight allowance: an amount that the customer is spared, and a percentage of what the goods are worth. */
  allowance: figure.default("0"),
  allowancePercent: figure.default("0"),
  /** At least so much, unless it is free. */
  least: figure.default("0"),
})
export type ChargingBody = z.infer<typeof chargingSchema>

export interface ChargingRule {
  readonly name: string
  readonly body: ChargingBody
}

export interface ChargingFacts {
  readonly customer: string
  readonly mode: (typeof serviceModes)[number]
  readonly country: string
  /** Who pays the freight by the order; prepaid where it is not said. */
  readonly terms?: PayerTerms
  readonly contract: Money
  readonly list: Money
  readonly packages: number
  /** What the goods are worth; null where that is not known. */
  readonly worth: Money | null
  /**
   * The orders that go together: what each whole order is worth, in one shipment or several, null where that is not
   * known; and its weight, by which it has its share. One order of that worth where it is not said.
   */
  readonly orders?: readonly { readonly worth: Money | null; readonly weight: Decimal.Value }[]
  /** Another than us pays the carrier: then there is nothing to charge. */
  readonly theirs: boolean
}

export interface Charged {
  readonly amount: Money
  /** Less our cost; below nothing where the customer pays less than we do. */
  readonly margin: Money
  readonly why: readonly Reason[]
  /** What of it each order is charged, where the orders are known. */
  readonly shares?: readonly Money[]
}

/** Our cost, passed through: what holds where no rule does. */
export const passThrough: ChargingRule = { name: "", body: chargingSchema.parse({ from: "contract" }) }

const holds = ({ body }: ChargingRule, facts: ChargingFacts): boolean =>
  (body.customers.length === 0 || body.customers.includes(facts.customer)) &&
  (body.modes.length === 0 || body.modes.includes(facts.mode)) &&
  (body.countries.length === 0 || body.countries.includes(facts.country)) &&
  (body.terms.length === 0 || body.terms.includes(facts.terms ?? "prepaid"))

/**
 * What the customer is charged for a shipment: by the first rule that holds, or our cost passed through. From its base,
 * percent → amount → per package → less the allowance → at least; never below nothing; rounded half up to the currency's minor unit. Of orders
 * that go together each has its share by weight, and those that go free by their own worth are charged nothing of it.
 */
export function chargedFor(rules: readonly ChargingRule[], facts: ChargingFacts): Charged {
  const { contract, list, worth, packages } = facts
  const { currency } = contract
  const none = (why: Reason): Charged => result(money(0, currency), facts, [why])
  if (facts.theirs) return none(reason("charged.theirs"))
  const rule = rules.find((one) => holds(one, facts)) ?? passThrough
  const { body } = rule
  const named = rule.name === "" ? [] : [reason("charged.rule", { name: rule.name })]
  const orders = facts.orders ?? [{ worth, weight: 1 }]
  const isFree = (one: Money | null) => body.freeFrom !== null && one?.amount.gte(body.freeFrom) === true
  const free = orders.map((one) => isFree(body.freePer === "shipment" ? worth : one.worth))
  if (free.every(Boolean)) {
    const most = body.freePer === "shipment" || orders.length > 1 ? worth : (orders[0]?.worth ?? null)
    return result(money(0, currency), facts, [
      ...named,
      reason("charged.free-from", { worth: most?.amount.toFixed(2) ?? "", from: body.freeFrom ?? "" }),
    ])
  }
  if (body.from === "free") return result(money(0, currency), facts, [...named, reason("charged.free")])
  const base = body.from === "flat" ? new Decimal(body.flat) : (body.from === "list" ? list : contract).amount
  const share = base.mul(body.percent).div(100)
  const more = new Decimal(body.perPackage).mul(packages)
  const ofWorth = (worth?.amount ?? new Decimal(0)).mul(body.allowancePercent).div(100)
  const before = base.add(share).add(body.amount).add(more)
  // no more is spared than would be charged
  const allowance = Decimal.min(Decimal.max(before, 0), ofWorth.add(body.allowance))
  const sum = before.sub(allowance)
  const least = Decimal.max(sum, body.least)
  const why = [
    ...named,
    reason(`charged.${body.from}`, { figure: base.toFixed(2) }),
    ...(Number(body.percent) === 0
      ? []
      : [reason("charged.percent", { percent: body.percent, figure: share.toFixed(2) })]),
    ...(Number(body.amount) === 0 ? [] : [reason("charged.amount", { figure: body.amount })]),
    ...(more.isZero() ? [] : [reason("charged.per-package", { packages, figure: body.perPackage })]),
    ...(allowance.gt(0) ? [reason("charged.allowance", { figure: allowance.toFixed(2) })] : []),
    ...(least.gt(sum) ? [reason("charged.least", { figure: new Decimal(body.least).toFixed(2) })] : []),
  ]
  const whole = roundMoney(money(least, currency))
  const shares = shareOut(
    whole,
    orders.map((one) => one.weight),
  ).map((share, at) => (free[at] ? money(0, currency) : share))
  const frees = free.filter(Boolean).length
  if (frees > 0) why.push(reason("charged.free-orders", { n: frees, of: orders.length, from: body.freeFrom ?? "" }))
  return { ...result(sumMoney(shares, currency), facts, why), shares }
}

/** What is charged by hand, with who said so and why. */
export const chargedByHand = (amount: Money, facts: Pick<ChargingFacts, "contract" | "theirs">, why: Reason): Charged =>
  result(amount, facts, [why])

function result(
  amount: Money,
  { contract, theirs }: Pick<ChargingFacts, "contract" | "theirs">,
  why: readonly Reason[],
): Charged {
  const cost = theirs ? new Decimal(0) : contract.amount
  return { amount, margin: money(amount.amount.sub(cost), amount.currency), why }
}
