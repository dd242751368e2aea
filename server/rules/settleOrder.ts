import { isPostBox } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import type { CustomerId } from "core/ids/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import {
  byHandSchema,
  type Pattern,
  type RuleFacts,
  type Settled,
  type SettleResult,
  settle,
} from "core/rules/index.ts"
import { mass, sumMass, timesMass } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { addressOf } from "../addresses/row.ts"
import { parsed } from "../audit/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { customsOf } from "../goods/customs.ts"
import type { ItemLineRow } from "../orders/itemLine.ts"
import { type RuleBook, routingOf } from "./book.ts"

/** What is known of an order when it is settled what it is sent with. */
export interface OrderRows {
  readonly order: SalesOrderRow
  /** Lines with their item's columns. */
  readonly lines: readonly ItemLineRow[]
  readonly levels: ReadonlyMap<number, readonly ItemLevel[]>
  readonly tags: readonly string[]
  /** The customer's code, where it is known. */
  readonly customer: string
}

/** What the rules look at in an order. */
export function factsOf(
  book: Pick<RuleBook, "sources">,
  { order, lines, levels, tags, customer }: OrderRows,
  warehouse: string,
  today: LocalDate,
): RuleFacts {
  const day = (date: string) => Date.parse(`${date}T00:00:00Z`) / 86_400_000
  return {
    customer,
    source: book.sources.get(order.source_id) ?? "",
    warehouse,
    country: order.country,
    state: order.state,
    postalCode: order.postal_code,
    addressKind: order.address_kind,
    postBox: isPostBox(addressOf(order)),
    weight: sumMass(lines.map((line) => timesMass(mass(line.weight_kg ?? 0, "kg"), line.ordered))),
    value: lines.reduce<Decimal>((sum, line) => {
      const { unitValue } = customsOf(line, order.currency, levels.get(line.item_id) ?? [])
      return unitValue ? sum.add(unitValue.mul(line.ordered)) : sum
    }, new Decimal(0)),
    lines: lines.length,
    pieces: lines.reduce((sum, line) => sum + Number(line.ordered), 0),
    items: lines.map((line) => line.sku),
    tags,
    dangerous: lines.some((line) => line.un_number),
    freight: lines.some((line) => line.freight_only),
    promise: order.promised_on === null ? null : day(order.promised_on) - day(today),
  }
}

/** What an order is sent with by the customer's instruction, the pattern chosen for it and the rules. */
export function settleOrder(book: RuleBook, rows: OrderRows, warehouse: string, today: LocalDate): SettleResult {
  const { order } = rows
  return settle({
    routing: routingOf(book, order.customer_id),
    customer: (order.customer_id === null ? undefined : book.customers.get(order.customer_id)) ?? "",
    byHand: byHandOf(order),
    chosen: book.patterns.find((one) => one.id === order.pattern_id) ?? null,
    rules: book.rules,
    patterns: book.patterns,
    facts: factsOf(book, rows, warehouse, today),
  })
}

/** What a person set for an order alone, under the person's name; null where nobody did. */
export const byHandOf = (order: { readonly by_hand?: unknown }): Pattern | null => {
  if (!order.by_hand) return null
  const { name, settings } = parsed<Pattern>(order.by_hand)
  return { name, settings: byHandSchema.parse(settings) }
}

/** What is kept with an order of how it was settled: its settings, and the tags that rules gave it. */
interface Kept {
  readonly settled: Settled
  readonly tags: readonly string[]
}

/** What is kept of how an order was settled, as its row holds it. */
export const kept = ({ settled, tags }: Kept): string => JSON.stringify({ settled, tags })

/** What was settled for an order when it was looked at last. */
export const keptOf = (order: { readonly settings?: unknown }): Kept =>
  order.settings ? parsed<Kept>(order.settings) : { settled: {}, tags: [] }

export const settledOf = (order: { readonly settings?: unknown }): Settled => keptOf(order).settled

export const customerCode = async (db: Knex, customerId: CustomerId | null): Promise<string> =>
  customerId === null ? "" : ((await db("customer").where({ id: customerId }).first("code"))?.code ?? "")

/** The same as its row holds it; null where nothing was settled yet. */
export const keptText = (order: { readonly settings?: unknown }): string | null =>
  order.settings ? kept(keptOf(order)) : null
