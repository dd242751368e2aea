import type { OrderId } from "core/ids/index.ts"
import { type Money, type MoneyText, moneyText } from "core/money/index.ts"
import { accepted, type Outcome, reason, reasonOf, refused } from "core/refusal/index.ts"
import {
  type Rule,
  type RuleBody,
  ruleSchema,
  type SettingName,
  type SettleResult,
  settingNames,
  settingOf,
} from "core/rules/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { levelsOf } from "../packaging/catalog.ts"
import { type Ground, groundOf, planOrder } from "../plan/plan.ts"
import { plannedRows } from "../plan/plannedRows.ts"
import type { RuleBook } from "../rules/book.ts"
import { customerCode, type OrderRows, settleOrder } from "../rules/settleOrder.ts"
import { ruleRows, unknownIn } from "./rules.ts"

/** A rule as it would be, beside those that are there: a new one is last; one that is there is as if switched on. */
export interface Candidate {
  readonly id: number | null
  readonly name: string
  readonly body: RuleBody
}

/** The rules that would be in force with a candidate among them. */
async function rulesWith(db: Knex, candidate: Candidate): Promise<Rule[]> {
  const rows = await ruleRows(db)
  const own: Rule = { id: candidate.id ?? 0, name: candidate.name, ...candidate.body }
  const list = rows
    .filter((row) => row.on || row.id === candidate.id)
    .map((row) => (row.id === candidate.id ? own : { id: row.id, name: row.name, ...row.body }))
  return candidate.id === null ? [...list, own] : list
}

async function rowsFor(db: Knex, orderId: OrderId): Promise<OrderRows> {
  const { order, lines } = await plannedRows(db, orderId)
  const levels = await levelsOf(
    db,
    lines.map((line) => line.item_id),
  )
  const tags = await db("order_tag").where({ order_id: orderId }).pluck("tag")
  return { order, lines, levels, tags, customer: await customerCode(db, order.customer_id) }
}

/** Which rules act on an order as they stand, with a candidate where there is one, and what it is sent with then. */
export async function tryRules(
  context: Context,
  orderNumber: string,
  candidate: Candidate | null,
): Promise<Outcome<SettleResult & { readonly orderNumber: string }>> {
  const { db, actor, now } = context
  authorise(actor, "rules.manage")
  const order = await db("sales_order").where({ order_number: orderNumber }).first("id", "warehouse_id")
  if (!order) return refused(reason("order.unknown"))
  const ground = await groundOf(db, order.warehouse_id, now)
  const rules = candidate ? await rulesWith(db, candidate) : ground.book.rules
  const book: RuleBook = { ...ground.book, rules }
  return accepted({
    orderNumber,
    ...settleOrder(book, await rowsFor(db, order.id), ground.warehouse.code, ground.today),
  })
}

/** What a rule would change on an open order. */
export interface Effect {
  readonly orderNumber: string
  readonly customer: string
  readonly settings: readonly { readonly name: SettingName; readonly from: unknown; readonly to: unknown }[]
  readonly tags: readonly string[]
  readonly holds: boolean
  readonly service: { readonly from: string; readonly to: string }
  readonly cost: { readonly from: MoneyText | null; readonly to: MoneyText | null }
}

export interface EffectOnDay {
  readonly looked: number
  readonly effects: readonly Effect[]
  /** Dearer by so much a day, where both sides have a price. */
  readonly dearer: string
  readonly currency: string
}

/**
 * What a rule would do to the open orders of the actor's warehouse that nobody has begun, before it is switched
 * on: which would be sent otherwise, and what that costs. Nothing is changed.
 */
export async function effectOf(context: Context, candidate: Candidate): Promise<Outcome<EffectOnDay>> {
  const { db, actor, now } = context
  authorise(actor, "rules.manage")
  const body = ruleSchema.safeParse(candidate.body)
  if (!body.success) return { ok: false, reasons: body.error.issues.map((issue) => reasonOf(issue.message)) }
  const unknown = await unknownIn(db, body.data)
  if (unknown.length > 0) return { ok: false, reasons: unknown }
  const ground = await groundOf(db, actor.warehouseId, now)
  const after: RuleBook = { ...ground.book, rules: await rulesWith(db, { ...candidate, body: body.data }) }
  const ids: number[] = await db("sales_order as o")
    .where({ warehouse_id: actor.warehouseId })
    .whereNull("left_line_at")
    .whereNotExists(db("shipment as h").whereRaw("h.order_id = o.id").select(db.raw("1")))
    .whereNotExists(
      db("allocation as a")
        .join("order_line as l", "l.id", "a.order_line_id")
        .whereRaw("l.order_id = o.id")
        .where("a.picked", ">", 0)
        .select(db.raw("1")),
    )
    .orderBy("o.id")
    .pluck("o.id")
  const effects: Effect[] = []
  let dearer = new Decimal(0)
  for (const id of ids) {
    const rows = await rowsFor(db, id)
    const [was, will] = [ground.book, after].map((book) =>
      settleOrder(book, rows, ground.warehouse.code, ground.today),
    ) as [SettleResult, SettleResult]
    const settings = settingNames
      .map((name) => ({ name, from: settingOf(was.settled, name) ?? null, to: settingOf(will.settled, name) ?? null }))
      .filter((one) => JSON.stringify(one.from) !== JSON.stringify(one.to))
    const tags = will.tags.filter((tag) => !was.tags.includes(tag))
    const holds = will.holds.length > was.holds.length
    if (settings.length === 0 && tags.length === 0 && !holds) continue
    const [before, then] = [was, will].map((one) => planned(ground, rows, one)) as [Planned, Planned]
    if (before.cost && then.cost) dearer = dearer.add(then.cost.amount).sub(before.cost.amount)
    effects.push({
      orderNumber: rows.order.order_number,
      customer: rows.order.customer_name,
      settings,
      tags,
      holds,
      service: { from: before.service, to: then.service },
      cost: { from: before.cost && moneyText(before.cost), to: then.cost && moneyText(then.cost) },
    })
  }
  return accepted({ looked: ids.length, effects, dearer: dearer.toFixed(2), currency: ground.warehouse.currency })
}

interface Planned {
  readonly service: string
  readonly cost: Money | null
}

function planned(ground: Ground, { order, lines }: OrderRows, { settled, tags }: SettleResult): Planned {
  const plan = planOrder(ground, { ...order, settings: { settled, tags } }, lines)
  return {
    service: ground.services.find((one) => one.id === plan.serviceId)?.name ?? "",
    cost: plan.cost,
  }
}
