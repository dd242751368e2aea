import { type ChargingBody, type ChargingRule, chargingSchema } from "core/charging/index.ts"
import { accepted, type Outcome, reason, reasonOf, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"

export interface ChargingRow {
  readonly id: number
  readonly name: string
  readonly on: boolean
  readonly version: number
  readonly body: ChargingBody
}

/** All rules of what customers are charged, in force or not, in their order. */
export async function chargingRows(db: Knex): Promise<ChargingRow[]> {
  const rows = await db("charging_rule").orderBy("position").orderBy("id")
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    on: !!row.is_on,
    version: row.version,
    body: chargingSchema.parse(parsed(row.body)),
  }))
}

/** The rules in force. */
export const chargingRules = async (db: Knex): Promise<ChargingRule[]> =>
  (await chargingRows(db)).filter((one) => one.on)

export interface ChargingForm {
  /** Null: a new one, at the end. */
  readonly id: number | null
  readonly version: number
  readonly name: string
  readonly on: boolean
  readonly body: unknown
}

/** Keeps a rule. Refused without a name, with figures that are none, or when somebody else changed it meanwhile. */
export async function saveCharging(context: Context, form: ChargingForm): Promise<Outcome<{ readonly id: number }>> {
  const { db, actor, now } = context
  authorise(actor, "charging.manage")
  const name = form.name.trim().slice(0, 60)
  if (!name) return refused(reason("charging.no-name"))
  const body = chargingSchema.safeParse(form.body)
  if (!body.success)
    return refused(...[...new Set(body.error.issues.map((issue) => issue.message))].map((code) => reasonOf(code)))
  return inTransaction(db, async (trx) => {
    const row = form.id === null ? null : await trx("charging_rule").where({ id: form.id }).forUpdate().first()
    if (form.id !== null && !row) return refused(reason("charging.gone"))
    const text = JSON.stringify(body.data)
    const same = row && row.name === name && !!row.is_on === form.on && JSON.stringify(parsed(row.body)) === text
    if (same) return accepted({ id: row.id })
    if (row && row.version !== form.version) return refused(reason("charging.changed-meanwhile", { name: row.name }))
    let id = row?.id as number
    if (row)
      await trx("charging_rule")
        .where({ id })
        .update({ name, is_on: form.on, body: text, version: row.version + 1 })
    else {
      const last = await trx("charging_rule").max({ position: "position" }).first()
      const position = Number(last?.position ?? 0) + 1
      ;[id] = (await trx("charging_rule").insert({ name, is_on: form.on, body: text, position })) as [number]
    }
    await record(trx, actor, now, { action: "charging.saved", detail: { name } })
    return accepted({ id })
  })
}

/** Moves a rule before the one before it or after the one after it, or takes it away. */
export async function changeCharging(
  context: Context,
  id: number,
  change: "up" | "down" | "drop",
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "charging.manage")
  return inTransaction(db, async (trx) => {
    const rows = await trx("charging_rule").orderBy("position").orderBy("id").forUpdate()
    const at = rows.findIndex((row) => row.id === id)
    const rule = rows[at]
    if (!rule) return change === "drop" ? accepted(null) : refused(reason("charging.gone"))
    if (change === "drop") await trx("charging_rule").where({ id }).delete()
    else {
      const to = change === "up" ? at - 1 : at + 1
      if (!rows[to]) return accepted(null)
      rows.splice(at, 1)
      rows.splice(to, 0, rule)
      for (const [index, row] of rows.entries())
        await trx("charging_rule")
          .where({ id: row.id })
          .update({ position: index + 1 })
    }
    await record(trx, actor, now, { action: `charging.${change}`, detail: { name: rule.name } })
    return accepted(null)
  })
}
