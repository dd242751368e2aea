import type { ItemId } from "core/ids/index.ts"
import { accepted, type Outcome } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { changeItem, type ItemForm } from "../goods/index.ts"
import { recheckMany } from "./recheck.ts"

/** Completes what an item lacks, and checks the orders again that wait for it. Refused when somebody else changed it. */
export async function completeItem(context: Context, form: ItemForm): Promise<Outcome<{ freed: number }>> {
  const changed = await changeItem(context, form)
  if (!changed.ok) return changed
  return accepted({ freed: changed.value ? await recheckStopped(context.db, context, form.id) : 0 })
}

/** Looks again at every stopped order with an item; how many can go now. */
async function recheckStopped(db: Knex, { actor, now }: Context, itemId: ItemId): Promise<number> {
  const ids: number[] = await db("order_stop")
    .join("order_line", "order_line.order_id", "order_stop.order_id")
    .where({ item_id: itemId })
    .distinct()
    .orderBy("order_stop.order_id")
    .pluck("order_stop.order_id")
  const reasons = await recheckMany(db, ids, actor, now)
  return [...reasons.values()].filter((found) => found.length === 0).length
}
