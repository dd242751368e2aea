import { type Wishes, wishesSchema } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { byHandSchema, type Settings, type Settled, settingOf } from "core/rules/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { type FieldChange, parsed, record } from "../audit/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { byHandOf, settledOf } from "../rules/settleOrder.ts"
import { recheck } from "./recheck.ts"

/** What is set for an order by hand, and what its open shipment is asked for; null where nobody opened one. */
export interface ByHand {
  readonly settings: Settings
  readonly wishes: Wishes | null
}

/** What was there before a change, and after it: taken back only where it is still as the change left it. */
export interface ByHandBefore {
  readonly before: ByHand
  readonly after: ByHand
}

/**
 * Sets by hand what an order is sent with, before all that rules say, in the caller's transaction: its open shipment is
 * asked for the same. Null where it was so already. Refused once labels are asked for, and for an order that goes with
 * another: that one is changed.
 *
 * @param make what is set from then on, from what is set now and what the order is sent with by all
 */
export async function putByHand(
  trx: Knex,
  { actor, now }: Context,
  order: SalesOrderRow,
  make: (now: ByHand, settled: Settled) => { readonly next: ByHand; readonly told: readonly FieldChange[] },
): Promise<Outcome<ByHandBefore | null>> {
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (order.joined_to_id !== null) {
    const lead = await trx("sales_order").where({ id: order.joined_to_id }).first("order_number")
    return refused(reason("group.combined", { orderNumber: lead?.order_number ?? "" }))
  }
  if (await labelsAskedFor(trx, order.id)) return refused(reason("order.labels-asked-for"))
  const open = await trx("shipment")
    .where({ order_id: order.id, state: "open" })
    .forUpdate()
    .first("id", "wishes", "version")
  const before: ByHand = {
    settings: byHandOf(order)?.settings ?? {},
    wishes: open ? wishesSchema.parse(parsed(open.wishes)) : null,
  }
  const { next, told } = make(before, settledOf(order))
  const settings = byHandSchema.parse(next.settings)
  const wishes = next.wishes && wishesSchema.parse(next.wishes)
  const after: ByHand = { settings, wishes }
  if (same(before, after)) return accepted(null)
  await trx("sales_order")
    .where({ id: order.id })
    .update({
      by_hand: Object.keys(settings).length > 0 ? JSON.stringify({ name: actor.name, settings }) : null,
      version: order.version + 1,
    })
  if (open && wishes)
    await trx("shipment")
      .where({ id: open.id })
      .update({ wishes: JSON.stringify(wishes), version: open.version + 1, trouble: null })
  await record(trx, actor, now, { action: "order.set-by-hand", orderId: order.id, detail: { changes: told } })
  await recheck(trx, order.id, actor, now, { settleAnew: true })
  return accepted({ before, after })
}

/** Sets by hand again what was set before a change, where it is still as the change left it. */
export async function takeByHandBack(
  trx: Knex,
  context: Context,
  order: SalesOrderRow,
  was: ByHandBefore,
): Promise<Outcome<boolean>> {
  let still = true
  const outcome = await putByHand(trx, context, order, (now) => {
    still = same(now, was.after)
    return { next: still ? { ...was.before, wishes: now.wishes && was.before.wishes } : now, told: [] }
  })
  if (!outcome.ok) return outcome
  return still ? accepted(outcome.value !== null) : refused(reason("order.changed-meanwhile"))
}

const same = (a: ByHand, b: ByHand): boolean => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b))
const sorted = ({ settings, wishes }: ByHand) => [
  Object.entries(settings).sort(([one], [other]) => (one < other ? -1 : 1)),
  wishes && wishesSchema.parse(wishes),
]

/** The options that an order is sent with: of its shipment, or as they are settled. */
export const optionsOf = ({ wishes }: ByHand, settled: Settled): Wishes["options"] =>
  wishes?.options ?? [...(settingOf(settled, "options") ?? [])]
