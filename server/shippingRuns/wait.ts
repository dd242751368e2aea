import type { OrderId, ShippingRunId } from "core/ids/index.ts"
import type { Knex } from "knex"

/** Waits until orders of a run are packed and rated in the background, or the time is over (real time). */
export async function waitPrepared(
  db: Knex,
  runId: ShippingRunId,
  orderIds: readonly OrderId[] | null,
  limitMs: number,
): Promise<void> {
  for (const end = Date.now() + limitMs; Date.now() < end; ) {
    const waiting = await db("shipping_run_order")
      .where({ run_id: runId, state: "waiting" })
      .where((own) => void (orderIds && own.whereIn("order_id", [...orderIds])))
      .first("order_id")
    if (!waiting) return
    await new Promise((resolve) => setTimeout(resolve, 60))
  }
}
