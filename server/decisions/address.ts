import { tidyPostalCode } from "core/address/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import type { FieldChange } from "../audit/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { Flag } from "../db/tables.ts"
import { columnOf } from "../db/there.ts"
import { touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { recheck } from "./recheck.ts"

const line = (max: number) => z.string().trim().max(max)

/** The ship-to as a form gives it. */
export const addressForm = z.object({
  version: z.coerce.number().int(),
  company: line(60),
  attention: line(60),
  street: line(60),
  street2: line(60),
  city: line(40),
  state: line(6).transform((value) => value.toUpperCase()),
  postal_code: line(12),
  country: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z]{2}$/, { error: "book.country" }),
  phone: line(24),
  address_kind: z.enum(["unknown", "business", "residential"]),
  /** A person has made sure of the kind. */
  kind_confirmed: z.literal("on").optional(),
  building: line(60).default(""),
  instructions: line(200).default(""),
  opening_hours: line(120).default(""),
  dock: z.enum(["unknown", "yes", "no"]).default("unknown"),
  forklift: z.enum(["unknown", "yes", "no"]).default("unknown"),
  incoterm: line(3).transform((value) => value.toUpperCase()),
  incoterm_place: line(60),
})

type Delivery = "building" | "instructions" | "opening_hours" | "dock" | "forklift"
/** The ship-to with what delivery there needs; what is left out of the latter stays as it is. */
export type AddressForm = Omit<z.infer<typeof addressForm>, Delivery> &
  Partial<Pick<z.infer<typeof addressForm>, Delivery>>

/**
 * Changes an order's ship-to and looks at its stops again. Refused when somebody else changed the order meanwhile,
 * or once labels are asked for.
 */
export async function changeAddress(context: Context, orderId: OrderId, form: AddressForm): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const { version, kind_confirmed: sure, ...typed } = form
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!order) return refused(reason("order.unknown"))
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
    const postal_code = tidyPostalCode(typed.country, typed.postal_code)
    const kind_confirmed: Flag = sure === "on" && typed.address_kind !== "unknown" ? 1 : 0
    const fields = { ...typed, postal_code, kind_confirmed }
    const changes = Object.entries(fields).filter(([name, value]) => columnOf(order, name) !== value)
    if (changes.length === 0) return accepted(null)
    if (order.version !== version) return refused(await changedMeanwhile(trx, { ...order }))
    await trx("sales_order")
      .where({ id: orderId })
      .update({ ...fields, version: version + 1 })
    await touchShipment(trx, orderId)
    const detail = {
      changes: changes.map(([field, to]) => ({ field, from: columnOf(order, field) as FieldChange["from"], to })),
    }
    await record(trx, actor, now, { action: "order.address-changed", orderId, detail })
    await recheck(trx, orderId, actor, now)
    return accepted(null)
  })
}

/** What was changed last and by whom, for the one whose edit stood on old ground. */
async function changedMeanwhile(
  trx: Knex,
  order: { readonly id: number; readonly [field: string]: unknown },
): Promise<Reason> {
  const last = await trx("audit")
    .where({ order_id: order.id })
    .whereIn("action", ["order.address-changed", "order.updated"])
    .orderBy("id", "desc")
    .first("actor", "detail")
  const changes = last ? (parsed<{ changes?: { field: string }[] }>(last.detail).changes ?? []) : []
  if (changes.length === 0) return reason("order.changed-whole")
  return reason("order.changed-by", {
    actor: last?.actor ?? "",
    fields: JSON.stringify(changes.map((one) => [one.field, String(order[one.field] ?? "")])),
  })
}
