import { accepted, type Outcome, type Reason, reason, reasonOf, refused } from "core/refusal/index.ts"
import { type RuleBody, ruleSchema, type Settings, settingsSchema } from "core/rules/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { patternRows, ruleOf } from "../rules/book.ts"
import { recheckLine } from "./recheckAll.ts"

export interface RuleRow {
  readonly id: number
  readonly name: string
  readonly on: boolean
  readonly version: number
  readonly body: RuleBody
}

/** All rules, in force or not, in their order. */
export async function ruleRows(db: Knex): Promise<RuleRow[]> {
  const rows = await db("rule").orderBy("position").orderBy("id")
  return rows.map((row) => {
    const { when, does } = ruleOf(row)
    return { id: row.id, name: row.name, on: !!row.is_on, version: row.version, body: { when, does } }
  })
}

/** A rule as it is written down. `id` null: a new one, at the end and switched off. */
export interface RuleForm {
  readonly id: number | null
  readonly version: number
  readonly name: string
  readonly body: RuleBody
}

/** What a rule names must be there: services, packagings, patterns. */
export async function unknownIn(db: Knex, body: RuleBody): Promise<Reason[]> {
  const found = await unknownSettings(db, body.does)
  const { pattern } = body.does
  if (pattern && !(await db("shipping_pattern").where({ name: pattern }).first("id")))
    found.push(reason("rule.no-such-pattern", { name: pattern }))
  return found
}

async function unknownSettings(db: Knex, { service, returnService, packaging, payer }: Settings): Promise<Reason[]> {
  const found: Reason[] = []
  for (const [code, returns] of [
    [service, false],
    [returnService, true],
  ] as const)
    if (code && !(await db("service").where({ code, returns }).first("id")))
      found.push(reason("rule.no-such-service", { code }))
  if (packaging && !(await db("packaging").where({ code: packaging }).first("id")))
    found.push(reason("rule.no-such-packaging", { code: packaging }))
  if (payer?.terms === "third-party" && !payer.account) found.push(reason("rule.account"))
  return found
}

/**
 * Keeps a rule. One that is in force acts at once: the open orders that nobody has begun are checked again.
 * Refused when it names what is not there, has no name, or was changed by somebody else meanwhile.
 */
export async function saveRule(context: Context, form: RuleForm): Promise<Outcome<{ id: number }>> {
  const { db, actor, now } = context
  authorise(actor, "rules.manage")
  const name = form.name.trim().slice(0, 60)
  if (!name) return refused(reason("rule.no-name"))
  const body = ruleSchema.safeParse(form.body)
  if (!body.success) return { ok: false, reasons: body.error.issues.map((issue) => reasonOf(issue.message)) }
  const unknown = await unknownIn(db, body.data)
  if (unknown.length > 0) return { ok: false, reasons: unknown }
  const saved = await inTransaction(db, async (trx): Promise<Outcome<{ id: number; on: boolean }>> => {
    const row = form.id === null ? null : await trx("rule").where({ id: form.id }).forUpdate().first()
    if (form.id !== null && !row) return refused(reason("rule.gone"))
    if (row && row.version !== form.version) return refused(reason("rule.changed-meanwhile", { name: row.name }))
    const text = JSON.stringify(body.data)
    let id = row?.id as number | undefined
    if (row)
      await trx("rule")
        .where({ id: row.id })
        .update({ name, body: text, version: row.version + 1 })
    else {
      const last = await trx("rule").max({ position: "position" }).first()
      ;[id] = await trx("rule").insert({ name, body: text, position: Number(last?.position ?? 0) + 1 })
    }
    await record(trx, actor, now, { action: "rule.saved", detail: { name } })
    return accepted({ id: id as number, on: !!row?.is_on })
  })
  if (!saved.ok) return saved
  if (saved.value.on) await recheckLine(context)
  return accepted({ id: saved.value.id })
}

/** Switches a rule on or off, moves it before the one before it or after the one after it, or takes it away. */
export async function changeRule(
  context: Context,
  id: number,
  change: "on" | "off" | "up" | "down" | "drop",
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "rules.manage")
  const acts = await inTransaction(db, async (trx): Promise<boolean | null> => {
    const rows = await trx("rule").orderBy("position").orderBy("id").forUpdate()
    const at = rows.findIndex((row) => row.id === id)
    const rule = rows[at]
    if (!rule) return null
    if (change === "on" || change === "off") {
      if (!!rule.is_on === (change === "on")) return false
      await trx("rule")
        .where({ id })
        .update({ is_on: change === "on" })
    } else if (change === "drop") await trx("rule").where({ id }).delete()
    else {
      const other = rows[change === "up" ? at - 1 : at + 1]
      if (!other) return false
      rows.splice(at, 1)
      rows.splice(change === "up" ? at - 1 : at + 1, 0, rule)
      for (const [index, row] of rows.entries())
        if (row.position !== index + 1)
          await trx("rule")
            .where({ id: row.id })
            .update({ position: index + 1 })
    }
    await record(trx, actor, now, { action: `rule.${change}`, detail: { name: rule.name } })
    return change === "on" || change === "off" || !!rule.is_on
  })
  if (acts === null) return change === "drop" ? accepted(null) : refused(reason("rule.gone"))
  if (acts) await recheckLine(context)
  return accepted(null)
}

export interface PatternForm {
  readonly id: number | null
  readonly version: number
  readonly name: string
  readonly settings: Settings
}

/** Keeps a shipping pattern; the open orders that use it are checked again. Refused as rules are. */
export async function savePattern(context: Context, form: PatternForm): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "rules.manage")
  const name = form.name.trim().slice(0, 40)
  if (!name) return refused(reason("pattern.no-name"))
  const settings = settingsSchema.safeParse(form.settings)
  if (!settings.success || Object.keys(settings.data).length === 0) return refused(reason("pattern.empty"))
  const unknown = await unknownSettings(db, settings.data)
  if (unknown.length > 0) return { ok: false, reasons: unknown }
  const saved = await inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const same = await trx("shipping_pattern").where({ name }).first("id")
    if (same && same.id !== form.id) return refused(reason("pattern.name-taken", { name }))
    const row = form.id === null ? null : await trx("shipping_pattern").where({ id: form.id }).forUpdate().first()
    if (form.id !== null && !row) return refused(reason("pattern.gone"))
    if (row && row.version !== form.version) return refused(reason("rule.changed-meanwhile", { name: row.name }))
    const body = JSON.stringify(settings.data)
    if (row) {
      await trx("shipping_pattern")
        .where({ id: row.id })
        .update({ name, body, version: row.version + 1 })
      // rules know it by its name
      if (row.name !== name)
        for (const rule of await trx("rule").forUpdate()) {
          const { when, does } = ruleOf(rule)
          if (does.pattern === row.name)
            await trx("rule")
              .where({ id: rule.id })
              .update({ body: JSON.stringify({ when, does: { ...does, pattern: name } }) })
        }
    } else await trx("shipping_pattern").insert({ name, body })
    await record(trx, actor, now, { action: "pattern.saved", detail: { name } })
    return accepted(null)
  })
  if (saved.ok) await recheckLine(context)
  return saved
}

/** Takes a pattern away. Refused while a rule or an open order uses it. */
export async function dropPattern(context: Context, id: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "rules.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const pattern = (await patternRows(trx)).find((one) => one.id === id)
    if (!pattern) return accepted(null)
    const rule = (await ruleRows(trx)).find((one) => one.body.does.pattern === pattern.name)
    if (rule) return refused(reason("pattern.in-rule", { name: pattern.name, rule: rule.name }))
    const order = await trx("sales_order").where({ pattern_id: id }).whereNull("left_line_at").first("order_number")
    if (order) return refused(reason("pattern.in-order", { name: pattern.name, order: order.order_number }))
    await trx("sales_order").where({ pattern_id: id }).update({ pattern_id: null })
    await trx("shipping_pattern").where({ id }).delete()
    await record(trx, actor, now, { action: "pattern.dropped", detail: { name: pattern.name } })
    return accepted(null)
  })
}
