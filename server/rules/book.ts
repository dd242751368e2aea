import type { CustomerId } from "core/ids/index.ts"
import {
  freeRouting,
  type Pattern,
  type Routing,
  type Rule,
  routingSchema,
  ruleSchema,
  settingsSchema,
} from "core/rules/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { RuleRow } from "../db/tables.ts"

/** All that decides what orders are sent with; read once for many orders. */
export interface RuleBook {
  /** The rules that are switched on, in their order. */
  readonly rules: readonly Rule[]
  readonly patterns: readonly (Pattern & { readonly id: number })[]
  /** Routing instructions by customer's id; customers without one are not here. */
  readonly routings: ReadonlyMap<number, Routing>
  readonly customers: ReadonlyMap<number, string>
  readonly sources: ReadonlyMap<number, string>
}

export const ruleOf = (row: RuleRow): Rule => ({ id: row.id, name: row.name, ...ruleSchema.parse(parsed(row.body)) })

/** The rules in force, the patterns, and the customers' instructions. */
export async function ruleBook(db: Knex): Promise<RuleBook> {
  const [rules, patterns, customers, sources] = await Promise.all([
    db("rule").where({ is_on: true }).orderBy("position").orderBy("id"),
    patternRows(db),
    db("customer").whereNot("routing", "{}").select("id", "code", "routing"),
    db("order_source").select("id", "code"),
  ])
  return {
    rules: rules.map(ruleOf),
    patterns,
    routings: new Map(customers.map((row) => [row.id, routingSchema.parse(parsed(row.routing))])),
    customers: new Map(customers.map((row) => [row.id, row.code])),
    sources: new Map(sources.map((row) => [row.id, row.code])),
  }
}

export const patternRows = async (db: Knex): Promise<(Pattern & { id: number; version: number })[]> =>
  (await db("shipping_pattern").orderBy("name")).map((row) => ({
    id: row.id,
    name: row.name,
    version: row.version,
    settings: settingsSchema.parse(parsed(row.body)),
  }))

export const routingOf = (book: RuleBook, customerId: CustomerId | null): Routing =>
  (customerId === null ? undefined : book.routings.get(customerId)) ?? freeRouting

/** The services that a customer's routing instruction, as it is stored, allows; none named: all. */
export const servicesIn = (routing: unknown): readonly string[] =>
  routing === undefined ? [] : routingSchema.parse(parsed(routing)).services
