import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"

/** Runs that are still to be walked. */
export const openRuns = ["ready", "picking", "left"] as const

/** Those of some orders that are in a run which is still to be walked. */
export async function inOpenRuns(trx: Knex, orderIds: readonly OrderId[]): Promise<ReadonlySet<number>> {
  const ids = await trx("pick_run_order as m")
    .join("pick_run as r", "r.id", "m.run_id")
    .whereIn("m.order_id", [...orderIds])
    .whereIn("r.state", [...openRuns])
    .distinct()
    .pluck("m.order_id")
  return new Set(ids)
}

/** Gives the runs that an order is in what it newly holds, in the caller's transaction: a zone's run what lies there. */
export async function rejoinRuns(trx: Knex, orderId: OrderId): Promise<void> {
  const runs = await trx("pick_run_order as m")
    .join("pick_run as r", "r.id", "m.run_id")
    .where("m.order_id", orderId)
    .whereIn("r.state", [...openRuns])
    .orderBy("r.id")
    .select("r.id", "r.zone", "r.warehouse_id")
  for (const run of runs)
    await trx("allocation as a")
      .join("order_line as l", "l.id", "a.order_line_id")
      .join("stock as s", "s.id", "a.stock_id")
      .join("bin as b", "b.id", "s.bin_id")
      .where({ "l.order_id": orderId, "s.warehouse_id": run.warehouse_id })
      .where((query) => run.zone !== null && query.where("b.zone", run.zone))
      .whereNull("a.run_id")
      .whereRaw("a.quantity > a.picked")
      .update({ "a.run_id": run.id })
  if (runs.length > 0) await leaveRuns(trx, orderId)
}

/** Lets a part of an order be in the open runs that have what it holds, so that it is picked, and packed, with them. */
export async function followRuns(trx: Knex, partId: OrderId): Promise<void> {
  const runs = await trx("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .join("pick_run as r", "r.id", "a.run_id")
    .where("l.order_id", partId)
    .whereIn("r.state", [...openRuns])
    .distinct("r.id")
    .pluck("r.id")
  for (const runId of runs) {
    const last = await trx("pick_run_order").where({ run_id: runId }).max({ at: "position" }).first()
    await trx("pick_run_order")
      .insert({ run_id: runId, order_id: partId, position: Number(last?.at ?? 0) + 1 })
      .onConflict(["run_id", "order_id"])
      .ignore()
  }
}

/**
 * Takes an order out of open runs in which it has nothing to be picked and nothing was picked, such as one that is
 * stopped; its totes there are free again, and a run without orders is dropped.
 */
export async function leaveRuns(trx: Knex, orderId: OrderId): Promise<void> {
  const gone = await trx("pick_run_order as m")
    .join("pick_run as r", "r.id", "m.run_id")
    .where("m.order_id", orderId)
    .whereIn("r.state", [...openRuns])
    .whereNotExists(
      trx("allocation as a")
        .join("order_line as l", "l.id", "a.order_line_id")
        .whereRaw("l.order_id = m.order_id AND a.run_id = m.run_id"),
    )
    .pluck("m.run_id")
  for (const runId of gone) {
    await trx("pick_run_order").where({ run_id: runId, order_id: orderId }).delete()
    await trx("tote").where({ run_id: runId, order_id: orderId }).update({ run_id: null, order_id: null })
    await endEmptyRun(trx, runId)
  }
}

/** Drops a run in which no order is left. */
export async function endEmptyRun(trx: Knex, runId: number): Promise<void> {
  if (await trx("pick_run_order").where({ run_id: runId }).first("order_id")) return
  await trx("pick_run")
    .where({ id: runId })
    .whereIn("state", [...openRuns])
    .update({ state: "dropped" })
}
