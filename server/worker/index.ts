import { coded, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Logger } from "pino"
import { noteClock } from "../clock/index.ts"
import { databaseFault, troubleOf } from "../db/faults.ts"
import { type Handler, WrongPayload } from "../jobs/kind.ts"
import { claim, fail, finish, leaseMs, lossesBeforeAside, lossesOutside, renew } from "../jobs/queue.ts"
import { handlers } from "./handlers.ts"

/** Does what must be written down, again while the database is away, so that an outage is not taken for a death. */
async function untilBack(withinMs: number, write: () => Promise<void>): Promise<void> {
  for (const end = Date.now() + withinMs; ; ) {
    try {
      return await write()
    } catch (error) {
      if (databaseFault(error) !== "away" || Date.now() > end) throw error
      await new Promise((resolve) => setTimeout(resolve, 250))
    }
  }
}

/** Takes and does one job, and holds its lease while work goes on; false when none was due. */
export async function workOnce(
  db: Knex,
  log?: Logger,
  does: readonly {
    readonly name: string
    readonly run: Handler["run"]
    readonly needs?: Handler["needs"]
    readonly patient?: boolean
  }[] = handlers,
): Promise<boolean> {
  const outside = new Set(does.filter((one) => one.needs === "outside").map((one) => one.name))
  const job = await claim(
    db,
    does.map((one) => one.name),
    (kind) => (outside.has(kind) ? lossesOutside : lossesBeforeAside),
  )
  if (!job) return false
  const facts = { job: job.id, kind: job.kind, tries: job.tries }
  const holding = setInterval(() => {
    renew(db, job).then(
      (held) => held || log?.warn(facts, "lease lost"),
      () => undefined,
    )
  }, leaseMs / 3)
  try {
    await does.find((one) => one.name === job.kind)?.run(db, job)
    if (await finish(db, job)) log?.info(facts, "job done")
    // what it did stands; the job is done again by who holds it now, and finds it done
    else log?.warn(facts, "job not done: its lease was lost")
  } catch (error) {
    log?.warn({ ...facts, err: error }, "job failed")
    const hopeless = error instanceof WrongPayload
    const patient = does.find((one) => one.name === job.kind)?.patient ?? false
    const trouble = hopeless ? coded(reason("job.wrong-payload", { fields: error.message })) : troubleOf(error)
    await untilBack(leaseMs, () => fail(db, job, trouble, { atOnce: hopeless, patient }))
  } finally {
    clearInterval(holding)
  }
  return true
}

/** Queues what comes back by itself, once for each span of time however many workers ask. */
export async function queueDue(db: Knex, now = Date.now()): Promise<void> {
  for (const one of handlers) await one.queueDue(db, now)
}

/**
 * Lanes of a worker: what computes takes one at most, since there are few cores; and one is never taken by what may hang
 * outside, so that what needs our own database alone goes on.
 */
const laneTakes: readonly ((needs: Handler["needs"]) => boolean)[] = [
  () => true,
  (needs) => needs !== "computing",
  (needs) => needs !== "computing",
  (needs) => needs === "outside",
  (needs) => needs === "database",
]

/** Works until told to stop, a job in each lane; an idle lane looks again after `idleMs`. */
export async function work(db: Knex, stop: AbortSignal, log: Logger, idleMs = 120): Promise<void> {
  const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms))
  const lane = async (takes: (needs: Handler["needs"]) => boolean) => {
    const own = handlers.filter((one) => takes(one.needs))
    while (!stop.aborted) {
      try {
        if (!(await workOnce(db, log, own))) await pause(idleMs)
      } catch (error) {
        log.error({ err: error }, "the queue can't be read")
        await pause(1_000)
      }
    }
  }
  const tick = () => {
    void noteClock(db).catch(() => undefined)
    void queueDue(db).catch((error) => log.error({ err: error }, "recurring work can't be queued"))
  }
  tick()
  const clock = setInterval(tick, 5_000)
  await Promise.all(laneTakes.map(lane))
  clearInterval(clock)
}
