import { labelForms } from "core/documents/index.ts"
import type { CarrierId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"

export interface CarrierRow {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly account: string
  readonly accountForm: string
  /** What is left on a prepaid account; null where the carrier bills us. */
  readonly balance: string | null
  readonly labelForm: string
  /** The code that the trade knows it by, on bills of lading. */
  readonly tradeCode: string
  /** Numbers of its own that it gave us for bills of lading, and the next of them; empty: none. */
  readonly proFrom: string
  readonly proTo: string
  readonly proNext: string
  readonly tolerance: string
  readonly services: number
  /** Number and first day of the version in force today, if there is one. */
  readonly version: { readonly number: number; readonly from: string } | null
  readonly drafts: number
}

/** All carriers, with what is in force today. */
export async function carrierRows(db: Knex, today: string): Promise<CarrierRow[]> {
  const rows = await db("carrier").orderBy("name")
  const services = await db("service")
    .groupBy("carrier_id")
    .select<{ carrier_id: number; n: number }[]>("carrier_id", db.raw("COUNT(*) AS n"))
  const versions = await db("tariff_version")
    .orderBy([
      { column: "valid_from", order: "desc" },
      { column: "number", order: "desc" },
    ])
    .select("carrier_id", "number", "state", "valid_from", "valid_to")
  return rows.map((row) => {
    const own = versions.filter((one) => one.carrier_id === row.id)
    const held = own.find(
      (one) => one.state === "released" && one.valid_from <= today && (one.valid_to === null || one.valid_to >= today),
    )
    return {
      id: row.id,
      code: row.code,
      name: row.name,
      account: row.account,
      accountForm: row.account_form,
      balance: row.prepaid_balance === null ? null : Number(row.prepaid_balance).toFixed(2),
      labelForm: row.label_form,
      tradeCode: row.carrier_code,
      proFrom: proText(row.pro_from, row.pro_digits),
      proTo: proText(row.pro_to, row.pro_digits),
      proNext: proText(row.pro_next, row.pro_digits),
      tolerance: Number(row.tolerance).toFixed(2),
      services: Number(services.find((one) => one.carrier_id === row.id)?.n ?? 0),
      version: held ? { number: held.number, from: held.valid_from } : null,
      drafts: own.filter((one) => one.state === "draft").length,
    }
  })
}

const amount = z
  .string()
  .trim()
  .regex(/^\d{1,9}(\.\d{1,2})?$/, { error: "carrier.amount" })

/** A number as the carrier writes it, with the zeros before it; empty: none. */
const proText = (number: number | null, digits: number): string =>
  number === null ? "" : String(number).padStart(digits, "0")

const proNumber = z
  .string()
  .trim()
  .regex(/^(\d{1,15})?$/, { error: "carrier.pro-shape" })
  .default("")

export const carrierForm = z.object({
  code: z.string().regex(/^[A-Z0-9]{2,8}$/, { error: "carrier.code" }),
  account: z.string().trim().min(1, { error: "carrier.account" }).max(40),
  accountForm: z.string().trim().max(40).default(""),
  balance: z.union([z.literal(""), amount]).default(""),
  /** The form in which the carrier wants its labels; empty: any. */
  labelForm: z.enum(["", ...labelForms], { error: "printer.form" }).default(""),
  tolerance: amount,
  tradeCode: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^([A-Z]{2,4})?$/, { error: "carrier.trade-code-shape" })
    .default(""),
  proFrom: proNumber,
  proTo: proNumber,
})
export type CarrierForm = z.infer<typeof carrierForm>

/** Changes our account with a carrier, the balance of a prepaid one, and how far its answers may lie from our figures. */
export async function saveCarrier(context: Context, form: CarrierForm): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "tariffs.manage")
  return inTransaction(db, async (trx) => {
    const row = await trx("carrier").where({ code: form.code }).forUpdate().first()
    if (!row) return refused(reason("tariff.no-carrier"))
    if ((form.proFrom === "") !== (form.proTo === "") || Number(form.proFrom) > Number(form.proTo))
      return refused(reason("carrier.pro-range", { field: "proTo" }))
    const changed = {
      account: form.account,
      account_form: form.accountForm,
      prepaid_balance: form.balance === "" ? null : form.balance,
      tolerance: form.tolerance,
      label_form: form.labelForm,
      carrier_code: form.tradeCode,
      pro_from: form.proFrom === "" ? null : Number(form.proFrom),
      pro_to: form.proFrom === "" ? null : Number(form.proTo),
      pro_next: form.proFrom === "" ? null : await firstUnused(trx, row.id, Number(form.proFrom), Number(form.proTo)),
      pro_digits: form.proFrom.length,
    }
    await trx("carrier").where({ id: row.id }).update(changed)
    await record(trx, actor, now, {
      action: "carrier.saved",
      detail: { carrier: row.name, code: form.code, ...changed },
    })
    return accepted(null)
  })
}

/** The first number of a range that no shipment has, nor any after it. */
async function firstUnused(trx: Knex, carrierId: CarrierId, from: number, to: number): Promise<number> {
  const number = "CAST(JSON_VALUE(i.request, '$.proNumber') AS UNSIGNED)"
  const last = await trx("buy_intent as i")
    .join("service as s", "s.id", "i.service_id")
    .where("s.carrier_id", carrierId)
    .whereRaw(`JSON_VALUE(i.request, '$.proNumber') REGEXP '^[0-9]{1,15}$' AND ${number} BETWEEN ? AND ?`, [from, to])
    .max({ used: trx.raw(number) })
    .first()
  return last?.used == null ? from : Number(last.used) + 1
}

/** Carriers by name. */
export const carrierNames = (db: Knex): Promise<{ code: string; name: string }[]> =>
  db("carrier").orderBy("name").select("code", "name")

/**
 * The next number of those that a carrier gave us for bills of lading, taken for good; empty text where it gave none.
 * Refused where all are used. Runs in the caller's transaction.
 */
export async function nextProNumber(trx: Knex, carrierId: CarrierId): Promise<Outcome<string>> {
  const row = await trx("carrier")
    .where({ id: carrierId })
    .forUpdate()
    .first("name", "pro_to", "pro_next", "pro_digits")
  if (row?.pro_next === null || row?.pro_next === undefined || row.pro_to === null) return accepted("")
  if (Number(row.pro_next) > Number(row.pro_to)) return refused(reason("carrier.pro-used-up", { carrier: row.name }))
  await trx("carrier").where({ id: carrierId }).increment("pro_next", 1)
  return accepted(proText(row.pro_next, row.pro_digits))
}
