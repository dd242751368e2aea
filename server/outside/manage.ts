import { accepted, type Outcome } from "core/refusal/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"

export interface OutsideRow {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly url: string
  readonly active: boolean
  /** Orders that it has and has not shipped. */
  readonly open: number
}

export async function outsideRows({ db, actor }: Context): Promise<OutsideRow[]> {
  authorise(actor, "warehouse.manage")
  const open = db("outside_order as o")
    .whereRaw("o.outside_id = w.id")
    .whereIn("o.state", ["sending", "taken", "recalling"])
    .count("*")
  const rows = await db("outside_warehouse as w").orderBy("name").select("w.*", open.as("open"))
  return rows.map((row) => ({
    id: row.id,
    code: row.code,
    name: row.name,
    url: row.base_url,
    active: !!row.active,
    open: Number(row.open),
  }))
}

export const outsideForm = z.object({
  code: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z0-9]{2,12}$/, { error: "outside.code" }),
  name: z.string().trim().min(1, { error: "outside.name" }).max(60, { error: "outside.name" }),
  url: z.url({ protocol: /^https?$/, error: "outside.url" }).max(300, { error: "outside.url" }),
})

/** Adds an outside warehouse, or changes the one of that code. Safe to repeat. */
export async function saveOutside(context: Context, form: z.infer<typeof outsideForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const row = { name: form.name, base_url: form.url.replace(/\/+$/, "") }
  await inTransaction(db, async (trx) => {
    await trx("outside_warehouse")
      .insert({ code: form.code, ...row })
      .onConflict("code")
      .merge(row)
    await record(trx, actor, now, { action: "outside.saved", detail: { name: form.name } })
  })
  return accepted(null)
}

/** Switches an outside warehouse on or off; orders that it has stay with it. */
export async function switchOutside(context: Context, id: number, on: boolean): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  await inTransaction(db, async (trx) => {
    const changed = await trx("outside_warehouse").where({ id, active: !on }).update({ active: on })
    if (changed === 0) return
    const { name } = there(await trx("outside_warehouse").where({ id }).first("name"))
    await record(trx, actor, now, { action: on ? "outside.on" : "outside.off", detail: { name } })
  })
}
