import { type Address, tidyPostalCode } from "core/address/index.ts"
import type { CustomerId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { columnOf, newId } from "../db/there.ts"
import { customerNamed } from "../setup/customerNamed.ts"
import { locate } from "./places.ts"
import { addressOf } from "./row.ts"
import { askedFor, idsWithWords, wordsOf } from "./words.ts"

/** What delivery at an address needs to know. */
export interface Delivery {
  readonly building: string
  readonly instructions: string
  readonly openingHours: string
  readonly dock: "unknown" | "yes" | "no"
  readonly forklift: "unknown" | "yes" | "no"
}

/** An address of the directory, by a short code of our own where it has one. */
export interface BookAddress extends Address, Delivery {
  readonly id: number
  readonly code: string
  readonly customer: string
  readonly kindConfirmed: boolean
  readonly zone: string | null
  readonly version: number
}

const line = (max: number) => z.string().trim().max(max).default("")
const known = z.enum(["unknown", "yes", "no"]).default("unknown")

/** An address of the directory as a form or a file gives it. */
export const bookForm = z.object({
  code: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^([A-Z0-9][A-Z0-9-]{0,23})?$/, { error: "book.code" })
    .default(""),
  customer: line(60),
  company: line(60),
  attention: line(60),
  street: z.string().trim().min(1, { error: "book.street" }).max(60, { error: "book.street" }),
  street2: line(60),
  city: z.string().trim().min(1, { error: "book.city" }).max(40, { error: "book.city" }),
  state: line(6).transform((text) => text.toUpperCase()),
  postal_code: line(12),
  country: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z]{2}$/, { error: "book.country" }),
  phone: line(24),
  address_kind: z.enum(["unknown", "business", "residential"]).default("unknown"),
  building: line(60),
  instructions: line(200),
  opening_hours: line(120),
  dock: known,
  forklift: known,
})
export type BookForm = z.infer<typeof bookForm>

/** The addresses that have a word beginning with each of the typed ones; a short code typed whole comes first. */
export async function findAddresses({ db, actor }: Context, typed: string, most = 12): Promise<BookAddress[]> {
  authorise(actor, "orders.see")
  const code = typed.trim().toUpperCase()
  const byCode = /^[A-Z0-9][A-Z0-9-]{0,23}$/.test(code) ? await db("address_book").where({ code }).pluck("id") : []
  const byWords = await idsWithWords(db, "address_word", "address_id", askedFor(typed), most)
  return addressesOf(db, [...new Set<number>([...byCode, ...byWords])].slice(0, most))
}

/** The addresses that were used or put in last, for a page that nobody has typed into. */
export async function recentAddresses({ db, actor }: Context, most = 50): Promise<BookAddress[]> {
  authorise(actor, "orders.see")
  return addressesOf(db, await db("address_book").orderBy("id", "desc").limit(most).pluck("id"))
}

export async function bookAddress({ db, actor }: Context, id: number): Promise<BookAddress | null> {
  authorise(actor, "orders.see")
  return (await addressesOf(db, [id]))[0] ?? null
}

async function addressesOf(db: Knex, ids: readonly number[]): Promise<BookAddress[]> {
  if (ids.length === 0) return []
  const rows = await db("address_book as a")
    .leftJoin("customer as c", "c.id", "a.customer_id")
    .whereIn("a.id", [...ids])
    .select("a.*", "c.name as customer_name")
  const found = rows.map(
    (row): BookAddress => ({
      id: row.id,
      code: row.code ?? "",
      customer: row.customer_name ?? "",
      ...addressOf(row),
      kindConfirmed: !!row.kind_confirmed,
      building: row.building,
      instructions: row.instructions,
      openingHours: row.opening_hours,
      dock: row.dock,
      forklift: row.forklift,
      zone: row.zone,
      version: row.version,
    }),
  )
  return found.sort((a, b) => ids.indexOf(a.id) - ids.indexOf(b.id))
}

/**
 * Puts an address into the directory, or changes the one of `id`. Refused when its code is another's, its customer is
 * not known, or somebody else changed it meanwhile.
 */
export async function saveAddress(
  context: Context,
  form: BookForm,
  at: { readonly id: number; readonly version: number } | null,
): Promise<Outcome<{ id: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<{ id: number }>> => {
    const twin = form.code ? await trx("address_book").where({ code: form.code }).first("id", "company") : null
    if (twin && twin.id !== at?.id)
      return refused(reason("book.code-taken", { code: form.code, company: twin.company }))
    const customer = form.customer ? await customerNamed(trx, form.customer) : null
    if (form.customer && !customer) return refused(reason("book.no-customer", { customer: form.customer }))
    const fields = rowOf(form, customer?.id ?? null)
    let id = at?.id ?? 0
    if (at) {
      const row = await trx("address_book").where({ id: at.id }).forUpdate().first()
      if (!row) return refused(reason("book.unknown"))
      if (row.version !== at.version) return refused(reason("book.changed-meanwhile"))
      // another street is another place: what was confirmed of the old one is not known of this
      const moved = ["street", "street2", "city", "state", "postal_code", "country"].some(
        (name) => columnOf(row, name) !== columnOf(fields, name),
      )
      const confirmed = !moved && row.kind_confirmed && row.address_kind === form.address_kind
      await trx("address_book")
        .where({ id })
        .update({ ...fields, kind_confirmed: confirmed, version: row.version + 1 })
    } else {
      const inserted = newId(await trx("address_book").insert(fields))
      id = inserted
    }
    await putWords(trx, id, form, customer?.name ?? "")
    await record(trx, actor, now, {
      action: at ? "address.changed" : "address.added",
      detail: { code: form.code, company: form.company },
    })
    return accepted({ id })
  })
}

/** Takes an address out of the directory; orders keep what they have. Safe to repeat. */
export async function dropAddress({ db, actor, now }: Context, id: number): Promise<void> {
  authorise(actor, "orders.work")
  await inTransaction(db, async (trx) => {
    const row = await trx("address_book").where({ id }).first("code", "company")
    if (!row) return
    await trx("address_word").where({ address_id: id }).delete()
    await trx("address_book").where({ id }).delete()
    await record(trx, actor, now, { action: "address.dropped", detail: { code: row.code ?? "", company: row.company } })
  })
}

function rowOf(form: BookForm, customerId: CustomerId | null) {
  const postalCode = tidyPostalCode(form.country, form.postal_code)
  const { place, zone } = locate(form.country, postalCode)
  const { customer: _, ...fields } = form
  return {
    ...fields,
    code: form.code || null,
    customer_id: customerId,
    postal_code: postalCode,
    latitude: place?.latitude ?? null,
    longitude: place?.longitude ?? null,
    zone,
  }
}

const wordsFor = (form: BookForm, customer: string): string[] =>
  wordsOf(
    [form.code, form.company, form.attention, customer, form.street, form.street2, form.city, form.postal_code].join(
      " ",
    ),
  )

async function putWords(trx: Knex, id: number, form: BookForm, customer: string): Promise<void> {
  await trx("address_word").where({ address_id: id }).delete()
  await trx("address_word").insert(wordsFor(form, customer).map((word) => ({ word, address_id: id })))
}

/** Puts many addresses in at once, such as a customer list; for an empty directory and for figures. */
export async function putAddresses(
  db: Knex,
  forms: readonly (BookForm & { readonly kindConfirmed?: boolean })[],
): Promise<void> {
  const customers = new Map<string, { id: number; name: string }>()
  for (const row of await db("customer").select("id", "name", "code")) customers.set(row.name, row)
  for (let at = 0; at < forms.length; at += 500) {
    const chunk = forms.slice(at, at + 500)
    await inTransaction(db, async (trx) => {
      const insert = trx("address_book").insert(
        chunk.map(({ kindConfirmed, ...form }) => ({
          ...rowOf(form, customers.get(form.customer)?.id ?? null),
          kind_confirmed: kindConfirmed ?? false,
        })),
      )
      // which number a row was given is the database's to say: in a cluster they do not follow each other
      const [rows] = (await trx.raw(`${insert.toQuery()} RETURNING id`)) as [{ id: number }[]]
      await trx("address_word").insert(
        chunk.flatMap((form, index) =>
          wordsFor(form, form.customer).map((word) => ({ word, address_id: (rows[index] as { id: number }).id })),
        ),
      )
    })
  }
}
