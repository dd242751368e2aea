import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { type Context, require } from "../accounts/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { labelsAskedFor } from "./labels.ts"
import { recheck } from "./release.ts"

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
    .regex(/^[A-Z]{2}$/),
  phone: line(24),
  address_kind: z.enum(["unknown", "business", "residential"]),
  incoterm: line(3).transform((value) => value.toUpperCase()),
  incoterm_place: line(60),
})

/**
 * Changes an order's ship-to and looks at its stops again. Refused when somebody else changed the order meanwhile,
 * or once labels are asked for.
 */
export async function changeAddress(
  context: Context,
  orderId: number,
  form: z.infer<typeof addressForm>,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  const { version, ...fields } = form
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!order) return refused(reason("order.unknown"))
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
    const changes = Object.entries(fields).filter(([name, value]) => order[name] !== value)
    if (changes.length === 0) return accepted(null)
    if (order.version !== version) return refused(await changedMeanwhile(trx, order))
    await trx("sales_order")
      .where({ id: orderId })
      .update({ ...fields, version: version + 1 })
    await trx("shipment").where({ order_id: orderId, state: "open" }).increment("version", 1)
    const detail = { changes: changes.map(([field, to]) => ({ field, from: order[field], to })) }
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
  return reason("order.changed-by", {
    actor: last?.actor ?? "",
    fields: changes.map((one) => `${one.field} “${order[one.field] ?? ""}”`).join(", "),
  })
}
