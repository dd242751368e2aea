import type { OrderId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { summaryById } from "../orders/facts.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** Longer than this between two acts of a person is a pause, and no work on what comes next. */
const longestGap = 600

/**
 * Counts the time since a person's act before as work on an order: what was scanned or packed now took that long. What
 * a program does is not measured.
 */
export async function measure(
  trx: Knex,
  actor: Pick<Actor, "userId">,
  now: Date,
  orderId: OrderId,
  kind: "pick" | "pack" | "papers",
): Promise<void> {
  if (actor.userId === null) return
  const last = await trx("work_measure").where({ user_id: actor.userId }).max({ at: "last_at" }).first()
  const gap = last?.at ? (now.getTime() - new Date(last.at).getTime()) / 1000 : 0
  const seconds = gap > 0 && gap <= longestGap ? gap : 0
  await trx("work_measure")
    .insert({
      order_id: orderId,
      kind,
      user_id: actor.userId,
      began_at: new Date(now.getTime() - seconds * 1000),
      last_at: now,
      active_s: seconds.toFixed(3),
      acts: 1,
    })
    .onConflict(["order_id", "kind", "user_id"])
    .merge({ last_at: now, active_s: trx.raw("active_s + ?", [seconds.toFixed(3)]), acts: trx.raw("acts + 1") })
}

/** Keeps what was predicted of an order's work, and from which facts, when its labels are bought. */
export async function keepPrediction(trx: Knex, warehouse: Warehouse, orderId: OrderId, now: Date): Promise<void> {
  const order = await summaryById(trx, warehouse, orderId)
  if (!order) return
  const row = {
    warehouse_id: warehouse.id,
    at: now,
    bins: order.bins,
    order_lines: order.lines,
    packages: order.packages,
    papers: order.papers,
    predicted_pick: order.workload.pick.toFixed(2),
    predicted_pack: order.workload.pack.toFixed(2),
    predicted_papers: order.workload.papers.toFixed(2),
  }
  await trx("work_done")
    .insert({ order_id: orderId, ...row })
    .onConflict("order_id")
    .merge(row)
}

export interface Measured {
  /** Orders that were both predicted and measured. */
  readonly orders: number
  /** Minutes of all of them: predicted, and as they were measured. */
  readonly predicted: { readonly pick: number; readonly pack: number; readonly papers: number }
  readonly measured: { readonly pick: number; readonly pack: number; readonly papers: number }
}

/** The last orders of a warehouse: what their work was thought to take, and what it took. */
export async function measuredWork(db: Knex, warehouseId: WarehouseId, most = 500): Promise<Measured> {
  const done = await db("work_done as d")
    .where({ warehouse_id: warehouseId })
    .whereExists(db("work_measure as m").whereRaw("m.order_id = d.order_id").where("m.active_s", ">", 0))
    .orderBy("at", "desc")
    .limit(most)
  const measures: { kind: string; seconds: string }[] = await db("work_measure")
    .whereIn(
      "order_id",
      done.map((row) => row.order_id),
    )
    .select("kind")
    .sum({ seconds: "active_s" })
    .groupBy("kind")
  const sum = (name: string) => done.reduce((total, row) => total + Number(row[name]), 0)
  const took = (kind: string) => Number(measures.find((row) => row.kind === kind)?.seconds ?? 0) / 60
  return {
    orders: done.length,
    predicted: { pick: sum("predicted_pick"), pack: sum("predicted_pack"), papers: sum("predicted_papers") },
    measured: { pick: took("pick"), pack: took("pack"), papers: took("papers") },
  }
}
