import { type Address, addressLines } from "core/address/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import type { AddressColumns } from "../addresses/row.ts"
import { addressOf } from "../addresses/row.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { columnOf } from "../db/there.ts"
import { touchShipment } from "./joined.ts"
import { labelsAskedFor } from "./labels.ts"

/** Parties of an order beside its ship-to: who is shown as sender, where it returns to, who is told. */
export const partyRoles = ["sender", "return-to", "notify"] as const
export type PartyRole = (typeof partyRoles)[number]

export interface Party extends Address {
  readonly role: PartyRole
  readonly email: string
  /** Set for this order, or by the rule of its customer. */
  readonly by: "order" | "customer"
}

const line = (max: number) => z.string().trim().max(max).default("")
export const partyForm = z.object({
  role: z.enum(partyRoles),
  company: line(60),
  attention: line(60),
  street: line(60),
  street2: line(60),
  city: line(40),
  state: line(6).transform((text) => text.toUpperCase()),
  postal_code: line(12),
  country: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z]{2}$/, { error: "book.country" }),
  phone: line(24),
  email: z.union([z.literal(""), z.email({ error: "party.email" }).max(120)], { error: "party.email" }).default(""),
})
export type PartyForm = z.infer<typeof partyForm>

const partyOf = (
  row: AddressColumns & { readonly email?: string | null },
  role: PartyRole,
  by: Party["by"],
): Party => ({
  role,
  by,
  ...addressOf(row),
  email: row.email ?? "",
})

/**
 * The other parties of an order. Where it names no sender and its customer's goods are shipped blind, the customer is
 * shown as sender, with its first address in the directory.
 */
export const partiesOf = async (db: Knex, order: OrderOfParties): Promise<Party[]> =>
  (await partiesOfMany(db, [order])).get(order.id) ?? []

interface OrderOfParties {
  readonly id: number
  readonly customer_id: number | null
}

/** The same of many orders, by their ids. */
export async function partiesOfMany(db: Knex, orders: readonly OrderOfParties[]): Promise<Map<number, Party[]>> {
  const rows = await db("order_party")
    .whereIn(
      "order_id",
      orders.map((order) => order.id),
    )
    .orderBy("role")
  const own = grouped(rows, (row) => row.order_id as number)
  const blind = await db("customer as c")
    .join("address_book as a", "a.customer_id", "c.id")
    .whereIn("c.id", [...new Set(orders.flatMap((order) => order.customer_id ?? []))])
    .where({ "c.blind_ship": true })
    .orderBy("a.id")
    .select("a.*", "c.name")
  return new Map(
    orders.map((order) => {
      const named = (own.get(order.id) ?? []).map((row) => partyOf(row, row.role, "order"))
      if (named.some((one) => one.role === "sender") || order.customer_id === null) return [order.id, named]
      const first = blind.find((row) => row.customer_id === order.customer_id)
      return [
        order.id,
        first ? [...named, partyOf({ ...first, company: first.company || first.name }, "sender", "customer")] : named,
      ]
    }),
  )
}

/** The lines that a label shows as sender: names, street and place, and the telephone. */
export const senderLines = (party: Party, home: string): string[] =>
  [...addressLines({ ...party, attention: "" }), party.country === home ? party.phone : ""].filter(Boolean)

/**
 * Names a party of an order, or with an empty street takes it away. Refused once labels are asked for, and for a sender
 * or a return address without name, street and city. Safe to repeat.
 */
export async function saveParty(context: Context, orderId: OrderId, form: PartyForm): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const { role, ...fields } = form
  const away = !fields.street && !fields.company && !fields.email
  if (!away && role === "notify" && !fields.email && !fields.phone) return refused(reason("party.no-contact"))
  if (!away && role !== "notify" && !(fields.company && fields.street && fields.city))
    return refused(reason("party.incomplete"))
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    if (role !== "notify" && (await labelsAskedFor(trx, orderId))) return refused(reason("order.labels-asked-for"))
    const before = await trx("order_party").where({ order_id: orderId, role }).first()
    const same = before ? Object.entries(fields).every(([name, value]) => columnOf(before, name) === value) : away
    if (same && !(before && away)) return accepted(null)
    await trx("order_party").where({ order_id: orderId, role }).delete()
    if (!away) await trx("order_party").insert({ order_id: orderId, role, ...fields })
    await touchShipment(trx, orderId)
    await record(trx, actor, now, {
      action: "order.party-changed",
      orderId,
      detail: {
        changes: [
          {
            field: `party-${role}`,
            from: before?.company ?? before?.email ?? "",
            to: away ? "" : fields.company || fields.email,
          },
        ],
      },
    })
    return accepted(null)
  })
}
