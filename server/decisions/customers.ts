import type { SlipSettings } from "core/documents/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { freeRouting, type Routing, routingSchema } from "core/rules/index.ts"
import { paperLanguages } from "words/papers.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { likeInAnyCase } from "../db/words.ts"
import { recheckWhere } from "./again.ts"

export interface CustomerRow {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly creditStop: boolean
  readonly creditNote: string
  /** Its goods go to others in its own name: it is shown as sender. */
  readonly blindShip: boolean
  /** Language of its papers. */
  readonly language: string
  readonly routing: Routing
  /** What its packing slips show other than usual. */
  readonly slip: Partial<SlipSettings>
  readonly version: number
  /** Open orders of any warehouse. */
  readonly open: number
}

/** Customers that are listed at most. */
export const mostCustomers = 200

/** Customers that hold every word in name or code, by name. */
export async function findCustomers(
  { db, actor }: Context,
  words: string,
  most = mostCustomers,
): Promise<CustomerRow[]> {
  authorise(actor, "orders.see")
  const query = db("customer as c")
  for (const word of words.trim().split(/\s+/).filter(Boolean).slice(0, 6)) {
    const like = `%${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`
    query.where((any) => void any.where("c.name", "like", like).orWhere(likeInAnyCase(db, "c.code", like)))
  }
  const open = db("sales_order as o").whereRaw("o.customer_id = c.id").whereNull("o.left_line_at").count("*")
  const rows = await query.orderBy("c.name").limit(most).select("c.*", open.as("open"))
  return rows.map((row) => ({
    id: row.id,
    code: row.code,
    name: row.name,
    creditStop: !!row.credit_stop,
    creditNote: row.credit_note,
    blindShip: !!row.blind_ship,
    language: row.language,
    routing: routingSchema.parse(parsed(row.routing)),
    slip: parsed<Partial<SlipSettings>>(row.slip),
    version: row.version,
    open: Number(row.open),
  }))
}

export const customerForm = z.object({
  id: z.coerce.number().int().positive(),
  version: z.coerce.number().int(),
  credit_stop: z.literal("on").optional(),
  credit_note: z.string().trim().max(120),
  blind_ship: z.literal("on").optional(),
  language: z.enum(paperLanguages, { error: "customers.language-unknown" }).optional(),
})

/**
 * Sets or ends a customer's credit stop, and looks again at the orders of that customer that are still open. Refused
 * when somebody else changed the customer meanwhile, or when a stop has no reason.
 */
export async function saveCustomer(
  context: Context,
  form: z.infer<typeof customerForm>,
): Promise<Outcome<{ freed: number }>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  const stop = form.credit_stop === "on"
  if (stop && !form.credit_note) return refused(reason("customer.no-note"))
  const blind = form.blind_ship === "on"
  const saved = await inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const row = await trx("customer").where({ id: form.id }).forUpdate().first()
    if (!row) return refused(reason("customer.unknown"))
    const sameCredit = !!row.credit_stop === stop && row.credit_note === form.credit_note
    const language = form.language ?? row.language
    if (sameCredit && !!row.blind_ship === blind && row.language === language) return accepted(null)
    if (row.version !== form.version) return refused(reason("customer.changed-meanwhile", { name: row.name }))
    await trx("customer")
      .where({ id: form.id })
      .update({
        credit_stop: stop,
        credit_note: form.credit_note,
        blind_ship: blind,
        language,
        version: row.version + 1,
      })
    await record(trx, actor, now, {
      action: sameCredit ? "customer.changed" : stop ? "customer.credit-stopped" : "customer.credit-free",
      detail: { name: row.name, note: form.credit_note },
    })
    return accepted(null)
  })
  if (!saved.ok) return saved
  const freed = await recheckWhere(context, (query) =>
    query.where({ "o.customer_id": form.id }).whereNull("o.left_line_at"),
  )
  return accepted({ freed })
}

/** What may be wrong with where messages go. */
const messageFaults = [
  "routing.message-mail",
  "routing.message-folder",
  "routing.message-http",
  "routing.message-receiver",
] as const

/**
 * Sets a customer's routing instruction and looks again at its open orders. Refused when somebody else changed the
 * customer meanwhile, or when it names what is not there.
 */
export async function saveRouting(
  context: Context,
  at: { readonly id: number; readonly version: number },
  typed: unknown,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "rules.manage")
  const read = routingSchema.safeParse(typed)
  if (!read.success) {
    const own = read.error.issues.map(({ message }) => messageFaults.find((code) => code === message))
    return refused(reason(own.find((code) => code !== undefined) ?? "routing.shape"))
  }
  const routing = read.data
  const named = [...routing.services, ...(routing.service ? [routing.service] : [])]
  const known = new Set(await db("service").whereIn("code", named).where({ returns: false }).pluck("code"))
  const strange = named.find((code) => !known.has(code))
  if (strange) return refused(reason("rule.no-such-service", { code: strange }))
  if (routing.returnService && !(await db("service").where({ code: routing.returnService, returns: true }).first("id")))
    return refused(reason("rule.no-such-service", { code: routing.returnService }))
  if (routing.service && routing.services.length > 0 && !routing.services.includes(routing.service))
    return refused(reason("routing.service-not-allowed", { code: routing.service }))
  if (routing.packaging && !(await db("packaging").where({ code: routing.packaging }).first("id")))
    return refused(reason("rule.no-such-packaging", { code: routing.packaging }))
  if (routing.payer?.terms === "third-party" && !routing.payer.account) return refused(reason("rule.account"))
  const free = JSON.stringify(routing) === JSON.stringify(freeRouting)
  const saved = await inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const row = await trx("customer").where({ id: at.id }).forUpdate().first()
    if (!row) return refused(reason("customer.unknown"))
    if (row.version !== at.version) return refused(reason("customer.changed-meanwhile", { name: row.name }))
    await trx("customer")
      .where({ id: at.id })
      .update({ routing: free ? "{}" : JSON.stringify(routing), version: row.version + 1 })
    await record(trx, actor, now, { action: "customer.routing", detail: { name: row.name } })
    return accepted(null)
  })
  if (saved.ok)
    await recheckWhere(context, (query) => query.where({ "o.customer_id": at.id }).whereNull("o.left_line_at"))
  return saved
}
