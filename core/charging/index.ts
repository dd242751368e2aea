import { Decimal } from "decimal.js"
import { z } from "zod"
import { type Money, money, roundMoney } from "../money/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
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
  /** What it is reckoned from: our cost, the carrier's list price, a fixed amount, or nothing at all. */
  from: z.enum(["contract", "list", "flat", "free"]),
  /** The fixed amount, where it is reckoned from one. */
  flat: figure.default("0"),
  /** Percent more, or less where it is under nothing. */
  percent: signed.default("0"),
  /** An amount more for the shipment, or less. */
  amount: signed.default("0"),
  perPackage: figure.default("0"),
  /** Nothing is charged when the goods are worth at least so much; null: never. */
  freeFrom: figure.nullable().default(null),
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
  readonly contract: Money
  readonly list: Money
  readonly packages: number
  /** What the goods are worth; null where that is not known. */
  readonly worth: Money | null
  /** Another than us pays the carrier: then there is nothing to charge. */
  readonly theirs: boolean
}

export interface Charged {
  readonly amount: Money
  /** Less our cost; below nothing where the customer pays less than we do. */
  readonly margin: Money
  readonly why: readonly Reason[]
}

/** Our cost, passed through: what holds where no rule does. */
export const passThrough: ChargingRule = { name: "", body: chargingSchema.parse({ from: "contract" }) }

const holds = ({ body }: ChargingRule, facts: ChargingFacts): boolean =>
  (body.customers.length === 0 || body.customers.includes(facts.customer)) &&
  (body.modes.length === 0 || body.modes.includes(facts.mode)) &&
  (body.countries.length === 0 || body.countries.includes(facts.country))

/**
 * What the customer is charged for a shipment: by the first rule that holds, or our cost passed through. From its base,
 * percent → amount → per package → at least; never below nothing; rounded half up to the currency's minor unit.
 */
export function chargedFor(rules: readonly ChargingRule[], facts: ChargingFacts): Charged {
  const { contract, list, worth, packages } = facts
  const { currency } = contract
  const none = (why: Reason): Charged => result(money(0, currency), facts, [why])
  if (facts.theirs) return none(reason("charged.theirs"))
  const rule = rules.find((one) => holds(one, facts)) ?? passThrough
  const { body } = rule
  const named = rule.name === "" ? [] : [reason("charged.rule", { name: rule.name })]
  if (body.freeFrom !== null && worth?.amount.gte(body.freeFrom))
    return result(money(0, currency), facts, [
      ...named,
      reason("charged.free-from", { worth: worth.amount.toFixed(2), from: body.freeFrom }),
    ])
  if (body.from === "free") return result(money(0, currency), facts, [...named, reason("charged.free")])
  const base = body.from === "flat" ? new Decimal(body.flat) : (body.from === "list" ? list : contract).amount
  const share = base.mul(body.percent).div(100)
  const more = new Decimal(body.perPackage).mul(packages)
  const sum = base.add(share).add(body.amount).add(more)
  const least = Decimal.max(sum, body.least)
  const why = [
    ...named,
    reason(`charged.${body.from}`, { figure: base.toFixed(2) }),
    ...(Number(body.percent) === 0
      ? []
      : [reason("charged.percent", { percent: body.percent, figure: share.toFixed(2) })]),
    ...(Number(body.amount) === 0 ? [] : [reason("charged.amount", { figure: body.amount })]),
    ...(more.isZero() ? [] : [reason("charged.per-package", { packages, figure: body.perPackage })]),
    ...(least.gt(sum) ? [reason("charged.least", { figure: new Decimal(body.least).toFixed(2) })] : []),
  ]
  return result(roundMoney(money(least, currency)), facts, why)
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
