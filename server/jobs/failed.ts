import type { JobId } from "core/ids/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { retryNow } from "./queue.ts"

/** A job that failed at least once and is not done. */
export interface FailedJob {
  readonly id: number
  readonly kind: string
  /** `dead` has given up and waits for a person; `waiting` is tried again by itself. */
  readonly state: "waiting" | "dead"
  readonly tries: number
  /** Why, as a coded reason or the text of another program. */
  readonly trouble: string
  readonly runAt: Date
  /** The order that it is about, where there is one. */
  readonly orderNumber: string | null
}

/** Jobs that are shown at once, those that have given up before those that are still tried. */
const shown = 50

/**
 * Jobs of the own warehouse, and those that are everybody's, that failed and are not done: what a person may have to
 * look at; one of them where its id is given.
 */
export async function failedJobs({ db, actor }: Context, id?: number): Promise<FailedJob[]> {
  const rows = await db("job as j")
    .leftJoin("sales_order as o", "o.id", "j.order_id")
    .whereIn("j.state", ["dead", "waiting"])
    .whereNotNull("j.trouble")
    .where((own) => own.where("j.warehouse_id", actor.warehouseId).orWhereNull("j.warehouse_id"))
    .where((one) => void (id !== undefined && one.where("j.id", id)))
    .orderByRaw("j.state = 'dead' DESC, j.id DESC")
    .limit(shown)
    .select("j.id", "j.kind", "j.state", "j.tries", "j.trouble", "j.run_at", "o.order_number")
  return rows.map((row) => ({
    id: row.id,
    kind: row.kind,
    state: row.state,
    tries: row.tries,
    trouble: row.trouble,
    runAt: row.run_at,
    orderNumber: row.order_number ?? null,
  }))
}

/** Sends a waiting or dead job of the own warehouse again at once. */
export async function retryJob(context: Context, jobId: JobId): Promise<void> {
  authorise(context.actor, "orders.work")
  const [own] = await failedJobs(context, jobId)
  if (own) await retryNow(context.db, jobId)
}
