import type { ItemId } from "core/ids/index.ts"
import { accepted, type Outcome } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { inTransaction } from "../db/connection.ts"
import { changeItem, type ItemForm } from "../goods/index.ts"
import { recheck } from "./recheck.ts"

/** Completes what an item lacks, and checks the orders again that wait for it. Refused when somebody else changed it. */
export async function completeItem(context: Context, form: ItemForm): Promise<Outcome<{ freed: number }>> {
  const changed = await changeItem(context, form)
  if (!changed.ok) return changed
  return accepted({ freed: changed.value ? await recheckStopped(context.db, context, form.id) : 0 })
}

/** Looks again at every stopped order with an item; how many can go now. Each in a transaction of its own. */
async function recheckStopped(db: Knex, { actor, now }: Context, itemId: ItemId): Promise<number> {
  const orders = await db("order_stop")
    .join("order_line", "order_line.order_id", "order_stop.order_id")
    .where({ item_id: itemId })
    .distinct<{ order_id: number }[]>("order_stop.order_id")
  let freed = 0
  for (const { order_id } of orders) {
    const reasons = await inTransaction(db, (trx) => recheck(trx, order_id, actor, now))
    if (reasons.length === 0) freed += 1
  }
  return freed
}
