import { randomUUID } from "node:crypto"
import type { JobId, OrderId, WarehouseId } from "core/ids/index.ts"
import { coded, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"

export interface Job {
  readonly id: number
  readonly kind: string
  readonly payload: Record<string, unknown>
  /** 1 on the first run. */
  readonly tries: number
}

/** How long a worker may hold a job before another may take it (real time); longer than any gateway's time limits. */
export const leaseMs = Number(process.env.VARNOK_LEASE_MS ?? 60_000)
/** So often a job may take its worker with it; then it is set aside, so that it does not take the next one too. */
export const lossesBeforeAside = 2
/**
 * The same of a job that asks somebody outside and computes nothing: it hardly ever is what took its worker, is asked by
 * a key, and what waits for it waits for good where it is set aside.
 */
export const lossesOutside = 8
/** After so many tries a job is dead and stands in Papers until a person sends it again. */
export const triesBeforeDead = 60
/** The same of a job that tells somebody who may be away for hours: at 30 seconds each, for a day. */
export const triesOfPatient = 2_900

export interface NewJob {
  readonly kind: string
  readonly onceKey: string
  readonly payload: unknown
  readonly warehouseId?: WarehouseId | null
  readonly orderId?: OrderId | null
  readonly afterMs?: number
}

/**
 * Puts work into the queue, in the transaction of the change that asks for it. The same key again is the same job. Rooms
 * queue by their kinds of jobs (`kind.ts`), which know whose a job is.
 */
export async function enqueue(trx: Knex, job: NewJob): Promise<void> {
  const now = new Date()
  await trx("job")
    .insert({
      kind: job.kind,
      once_key: job.onceKey,
      payload: JSON.stringify(job.payload),
      warehouse_id: job.warehouseId ?? null,
      order_id: job.orderId ?? null,
      run_at: new Date(now.getTime() + (job.afterMs ?? 0)),
      created_at: now,
    })
    .onConflict("once_key")
    .ignore()
}

/**
 * Takes the next due job under a lease, committed before anything is done outside, so that a failed commit means not
 * taken. A job whose lease ran out is due again, and set aside when that happened before.
 */
export async function claim(
  db: Knex,
  kinds: readonly string[],
  lossesOf: (kind: string) => number = () => lossesBeforeAside,
): Promise<(Job & { lease: string }) | null> {
  for (;;) {
    const taken = await claimOne(db, kinds, lossesOf)
    if (taken !== "aside") return taken
  }
}

function claimOne(
  db: Knex,
  kinds: readonly string[],
  lossesOf: (kind: string) => number,
): Promise<(Job & { lease: string }) | "aside" | null> {
  const now = new Date()
  return inTransaction(db, async (trx) => {
    const row = await trx("job")
      .where({ state: "waiting" })
      .whereIn("kind", [...kinds])
      .where("run_at", "<=", now)
      .where((free) => free.whereNull("leased_until").orWhere("leased_until", "<", now))
      .orderBy("run_at")
      .first("id", "kind", "payload", "tries", "losses", "leased_until")
      .forUpdate()
      .skipLocked()
    if (!row) return null
    // a lease that ran out was never given back: whoever held it is gone, or is still at it and too late
    const losses = row.losses + (row.leased_until === null ? 0 : 1)
    const most = lossesOf(row.kind)
    if (losses >= most) {
      await trx("job")
        .where({ id: row.id })
        .update({ state: "dead", losses, lease: null, leased_until: null, trouble: setAside(most) })
      return "aside"
    }
    const lease = randomUUID()
    await trx("job")
      .where({ id: row.id })
      .update({ lease, losses, leased_until: new Date(now.getTime() + leaseMs), tries: row.tries + 1 })
    return { id: row.id, kind: row.kind, payload: parsed(row.payload), tries: row.tries + 1, lease }
  })
}

/** Why a job is dead that nobody has seen fail. */
const setAside = (times: number): string => coded(reason("job.worker-lost", { times }))

/** Holds a job for another span. False when it is held no longer: another worker has it, or may take it. */
export async function renew(db: Knex, job: Job & { lease: string }): Promise<boolean> {
  const held = await db("job")
    .where({ id: job.id, lease: job.lease, state: "waiting" })
    .update({ leased_until: new Date(Date.now() + leaseMs) })
  return held > 0
}

/**
 * Takes other waiting jobs of a kind along with one in hand, such as many that ask for the same: their payloads are put
 * into one, which is the job's own from now on, so that a failure loses nothing, and they are done.
 *
 * @param join the payload of two jobs in one, or null where they are not done together
 */
export async function takeAlong(
  db: Knex,
  job: Job,
  join: (mine: Job["payload"], other: Job["payload"]) => Job["payload"] | null,
  most = 1_000,
): Promise<Job["payload"]> {
  const now = new Date()
  return inTransaction(db, async (trx) => {
    const rows = await trx("job")
      .where({ kind: job.kind, state: "waiting" })
      .whereNot("id", job.id)
      .where((free) => free.whereNull("leased_until").orWhere("leased_until", "<", now))
      .orderBy("run_at")
      .limit(most)
      .forUpdate()
      .skipLocked()
      .select("id", "payload")
    let payload = job.payload
    const along: number[] = []
    for (const row of rows) {
      const joined = join(payload, parsed(row.payload))
      if (!joined) continue
      payload = joined
      along.push(row.id)
    }
    if (along.length === 0) return payload
    await trx("job").whereIn("id", along).update({ state: "done", done_at: now, leased_until: null })
    await trx("job")
      .where({ id: job.id })
      .update({ payload: JSON.stringify(payload) })
    return payload
  })
}

/** Notes that a job is done. False when its lease was lost meanwhile: then it is another's, and not done by this one. */
export const finish = async (db: Knex, job: Job & { lease: string }): Promise<boolean> =>
  (await db("job")
    .where({ id: job.id, lease: job.lease, state: "waiting" })
    .update({ state: "done", done_at: new Date(), leased_until: null, trouble: null })) > 0

/** Puts a failed job back with growing delay (0.5 s, 1 s, 2 s … 30 s), or declares it dead: after its last try, or at once. */
export async function fail(
  db: Knex,
  job: Job & { lease: string },
  trouble: string,
  { atOnce = false, patient = false }: { readonly atOnce?: boolean; readonly patient?: boolean } = {},
): Promise<void> {
  // by the row as it is now: somebody may have asked anew while it was tried, and then this is as if the first time
  const delay = "LEAST(30000, 500 * POW(2, LEAST(20, GREATEST(tries, 1) - 1)))"
  await db("job")
    .where({ id: job.id, lease: job.lease })
    .update({
      state: atOnce
        ? "dead"
        : db.raw("IF(tries >= ?, 'dead', 'waiting')", [patient ? triesOfPatient : triesBeforeDead]),
      run_at: db.raw(`TIMESTAMPADD(MICROSECOND, ${delay} * 1000, ?)`, [new Date()]),
      leased_until: null,
      trouble: trouble.slice(0, 500),
    })
}

/** Tries a waiting job at once and, where that fails, again after short delays: somebody asks for its end now. */
export const askAnew = (db: Knex, onceKey: string): Promise<number> =>
  db("job").where({ once_key: onceKey, state: "waiting" }).update({ run_at: new Date(), tries: 0 })

/** Sends a waiting or dead job at once. */
export const retryNow = (db: Knex, jobId: JobId): Promise<number> =>
  db("job")
    .where({ id: jobId })
    .whereIn("state", ["waiting", "dead"])
    .update({ state: "waiting", run_at: new Date(), tries: 1, losses: 0 })
