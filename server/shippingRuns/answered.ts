import type { IntentId, JobId, ShippingRunId } from "core/ids/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { announce } from "../audit/index.ts"
import { there } from "../db/there.ts"
import { runBuying, runPrinting } from "./jobs.ts"

/** Orders of a run that may be with carriers at once: so many are still bought when the run is paused. */
export const inFlight = 16

/**
 * Notes in the transaction of a carrier's answer what it means for the run that the intent was bought with: the order is
 * bought, or falls back into the open part with its reason. Then the next are asked for, or the run is at its end.
 */
export async function noteAnswer(trx: Knex, intentId: IntentId, failed: Reason | null, now: Date): Promise<void> {
  const ids: number[] = await trx("shipping_run_order")
    .where({ intent_id: intentId, state: "buying" })
    .orderBy("run_id")
    .pluck("run_id")
  if (ids.length === 0) return
  // before the order's own row is written: of two answers at once the later one then sees what the earlier wrote
  await trx("shipping_run").whereIn("id", ids).orderBy("id").forUpdate().select("id")
  await trx("shipping_run_order")
    .where({ intent_id: intentId, state: "buying" })
    .update(
      failed
        ? { state: "failed", reasons: JSON.stringify([failed]), intent_id: null }
        : { state: "bought", reasons: "[]" },
    )
  for (const id of ids) await goOn(trx, id, now)
}

/** Asks for the next orders of a run that is bought, where there is room and it is not paused; else it may be at its end. */
export async function goOn(trx: Knex, runId: ShippingRunId, now: Date, byJob?: JobId): Promise<void> {
  const run = there(
    await trx("shipping_run").where({ id: runId }).forUpdate().first("id", "state", "parts", "warehouse_id"),
  )
  const counts = await countsOf(trx, runId)
  if (run.state === "buying" && counts.asked > 0 && counts.buying < inFlight / 2) await askNext(trx, runId, byJob)
  if (run.state !== "open" && counts.asked === 0 && counts.buying === 0) {
    await trx("shipping_run").where({ id: runId }).update({ state: "open", ended_at: now, seen_at: null })
    const key = `run-print:${runId}:${run.parts}`
    await runPrinting.queue(trx, key, { runId, key })
  }
  await announce(trx, { warehouseId: run.warehouse_id })
}

/**
 * Queues asking for the next orders of a run, whose row the caller has locked. One job of a run does so at a time: two
 * would close the same packages.
 *
 * @param byJob the job that asks for the next one as it ends
 */
export async function askNext(trx: Knex, runId: ShippingRunId, byJob?: JobId): Promise<void> {
  const there = await trx("job")
    .where({ kind: runBuying.name, state: "waiting" })
    .where("once_key", "like", `${keyOf(runId)}%`)
    .where((other) => void (byJob !== undefined && other.whereNot({ id: byJob })))
    .first("id")
  if (there) return
  await trx("shipping_run").where({ id: runId }).increment("parts", 1)
  const run = await trx("shipping_run").where({ id: runId }).first("parts")
  await runBuying.queue(trx, `${keyOf(runId)}${run?.parts}`, { runId })
}

const keyOf = (runId: number): string => `run-buy:${runId}:`

/** Runs that are being bought, with nothing at a carrier, that no job goes on with: such as after one was set aside. */
export async function stuckRuns(db: Knex): Promise<number[]> {
  const job = db("job as j")
    .where({ "j.kind": runBuying.name, "j.state": "waiting" })
    .whereRaw("j.once_key LIKE CONCAT('run-buy:', n.id, ':%')")
  return db("shipping_run as n")
    .where("n.state", "buying")
    .whereNotExists(
      db("shipping_run_order as r").whereRaw("r.run_id = n.id").where("r.state", "buying").select(db.raw("1")),
    )
    .whereNotExists(job.select(db.raw("1")))
    .pluck("n.id")
}

export async function countsOf(
  trx: Knex,
  runId: ShippingRunId,
): Promise<{ readonly asked: number; readonly buying: number }> {
  const rows = await trx("shipping_run_order")
    .where({ run_id: runId })
    .whereIn("state", ["asked", "buying"])
    // as it stands now, not as it stood when the transaction first read something
    .forShare()
    .pluck("state")
  const of = (state: string) => rows.filter((one) => one === state).length
  return { asked: of("asked"), buying: of("buying") }
}

/** An order whose labels are void comes back to the open part of the run that they were bought with. */
export const noteVoided = (trx: Knex, intentId: IntentId): Promise<number> =>
  trx("shipping_run_order")
    .where({ intent_id: intentId, state: "bought" })
    .update({ state: "rated", rated_version: null, intent_id: null })
