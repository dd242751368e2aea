import type { Decimal } from "decimal.js"
import { z } from "zod"
import { type Mass, mass } from "../units/index.ts"
import { settingsSchema } from "./settings.ts"

/** What rules can look at in an order. */
export interface RuleFacts {
  /** Codes. */
  readonly customer: string
  readonly source: string
  readonly warehouse: string
  readonly country: string
  readonly state: string
  readonly postalCode: string
  readonly addressKind: string
  readonly postBox: boolean
  /** Of the goods, without packaging. */
  readonly weight: Mass
  /** In the order's currency. */
  readonly value: Decimal
  readonly lines: number
  /** Base units. */
  readonly pieces: number
  /** SKUs. */
  readonly items: readonly string[]
  readonly tags: readonly string[]
  readonly dangerous: boolean
  /** Something in it that no parcel service takes. */
  readonly freight: boolean
  /** Days from today to the promise; null: nothing is promised. */
  readonly promise: number | null
}

/** The kind of each field, which decides how it can be compared. */
export const ruleFields = {
  customer: "text",
  country: "text",
  state: "text",
  postalCode: "text",
  addressKind: "text",
  source: "text",
  warehouse: "text",
  items: "list",
  tags: "list",
  weight: "mass",
  value: "number",
  lines: "number",
  pieces: "number",
  promise: "number",
  postBox: "yes-no",
  dangerous: "yes-no",
  freight: "yes-no",
} as const satisfies Record<keyof RuleFacts, string>
export type RuleField = keyof typeof ruleFields

/** How fields of a kind are compared. Texts and lists take several values with commas between: any of them. */
export const comparisons = {
  text: ["is", "is-not", "begins"],
  list: ["has", "has-not"],
  mass: ["at-least", "under"],
  number: ["at-least", "under"],
  "yes-no": ["yes", "no"],
} as const
export type Comparison = (typeof comparisons)[keyof typeof comparisons][number]

const allComparisons = [...new Set(Object.values(comparisons).flat())] as [Comparison, ...Comparison[]]

/** One condition. Messages are codes, put into words at the edge. */
export const conditionSchema = z
  .strictObject({
    field: z.enum(Object.keys(ruleFields) as [RuleField, ...RuleField[]]),
    is: z.enum(allComparisons),
    value: z.string().trim().max(200).default(""),
  })
  .superRefine((one, context) => {
    const kind = ruleFields[one.field]
    const wrong = (message: string) => context.addIssue({ code: "custom", message, path: ["value"] })
    if (!(comparisons[kind] as readonly string[]).includes(one.is)) wrong("rule.comparison")
    else if (kind === "mass" && massOf(one.value) === null) wrong("rule.weight")
    else if (kind === "number" && !/^\d{1,9}(\.\d{1,2})?$/.test(one.value)) wrong("rule.number")
    else if ((kind === "text" || kind === "list") && valuesOf(one.value).length === 0) wrong("rule.value")
  })
export type Condition = z.infer<typeof conditionSchema>

/** What a rule does. A pattern's settings come after its own. */
export const actionSchema = z.strictObject({
  ...settingsSchema.shape,
  /** Name of a shipping pattern. */
  pattern: z.string().trim().min(1).max(40).optional(),
  tag: z.string().trim().min(1).max(24).optional(),
  /** Stops the order until a person lets it pass. */
  hold: z.boolean().optional(),
})
export type RuleAction = z.infer<typeof actionSchema>

export const ruleSchema = z.strictObject({
  when: z.array(conditionSchema).max(12),
  does: actionSchema.refine((action) => Object.values(action).some((value) => value !== undefined && value !== false), {
    message: "rule.does-nothing",
  }),
})
export type RuleBody = z.infer<typeof ruleSchema>
export interface Rule extends RuleBody {
  readonly id: number
  readonly name: string
}

const valuesOf = (text: string): string[] =>
  text
    .split(",")
    .map((one) => one.trim().toUpperCase())
    .filter(Boolean)

function massOf(text: string): Mass | null {
  const [, figure, unit] = /^(\d{1,7}(?:\.\d{1,3})?)\s*(lb|kg)$/i.exec(text.trim()) ?? []
  return figure && unit ? mass(figure, unit.toLowerCase() as "lb" | "kg") : null
}

/** Whether one condition holds. A promise that is not there is neither early nor late. */
export function holds({ field, is, value }: Condition, facts: RuleFacts): boolean {
  const fact = facts[field]
  if (typeof fact === "boolean") return fact === (is === "yes")
  if (typeof fact === "string") {
    const text = fact.toUpperCase()
    const some = valuesOf(value).some((one) => (is === "begins" ? text.startsWith(one) : text === one))
    return is === "is-not" ? !some : some
  }
  if (Array.isArray(fact)) {
    const have = new Set((fact as readonly string[]).map((one) => one.toUpperCase()))
    const some = valuesOf(value).some((one) => have.has(one))
    return is === "has-not" ? !some : some
  }
  if (fact === null) return false
  const least = ruleFields[field] === "mass" ? massOf(value) : Number(value)
  if (least === null) return false
  const enough = typeof fact === "number" ? fact >= Number(least) : (fact as Decimal).gte(least)
  return is === "at-least" ? enough : !enough
}
