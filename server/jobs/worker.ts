import type { Knex } from "knex"
import type { Logger } from "pino"
import { businessNow, noteClock } from "../clock/index.ts"
import { clearUp, keepDay } from "../day/keep.ts"
import { databaseFault, troubleOf } from "../db/faults.ts"
import { watchFolder } from "../intake/folder.ts"
import { pullOrders } from "../intake/pull.ts"
import { takeAside, takePart } from "../intake/take.ts"
import { sendMailJob } from "../mail/index.ts"
import { putMissingWords } from "../orders/words.ts"
import { askOutside, sendOutsideJob } from "../outside/index.ts"
import { sendPrintJob } from "../papers/print.ts"
import { rateRun } from "../rating/runs.ts"
import { sendOutbox } from "../reports/index.ts"
import { recheckPart } from "../rules/recheckLine.ts"
import { bookIntent } from "../shipping/book.ts"
import { cancelVoided } from "../shipping/cancel.ts"
import { type Cancels, voidIntent } from "../shipping/void.ts"
import { dealOf, dealStock, dealtTogether } from "../stock/deal.ts"
import { claim, fail, finish, type Job, leaseMs, renew, takeAlong } from "./queue.ts"
import { enqueueRecurring } from "./recurring.ts"

type Handler = (db: Knex, job: Job) => Promise<void>

/** What a worker knows to do, by kind of job. */
export const handlers: Readonly<Record<string, Handler>> = {
  "carrier.book": (db, job) => bookIntent(db, Number(job.payload.intentId), job.tries),
  "carrier.void": async (db, job) => {
    const voided = {
      intentId: Number(job.payload.intentId),
      userId: (job.payload.userId as number | null) ?? null,
      actor: String(job.payload.actor),
    }
    await voidIntent(db, voided)
    if (job.payload.cancels) await cancelVoided(db, voided, job.payload.cancels as Cancels)
  },
  "rating.run": (db, job) => rateRun(db, { runId: Number(job.payload.runId), part: Number(job.payload.part) }),
  "mail.send": (db, job) => sendMailJob(db, Number(job.payload.mailId)),
  print: (db, job) => sendPrintJob(db, Number(job.payload.printJobId), job.tries),
  "outbox.send": (db, job) => sendOutbox(db, Number(job.payload.outboxId)),
  "day.keep": async (db, job) => keepDay(db, Number(job.payload.warehouseId), await businessNow(db)),
  "source.pull": async (db, job) => void (await pullOrders(db, Number(job.payload.sourceId))),
  "source.folder": async (db, job) => void (await watchFolder(db, Number(job.payload.sourceId))),
  "intake.take": async (db, job) =>
    takePart(db, job.payload as unknown as Parameters<typeof takePart>[1], await businessNow(db)),
  "intake.order": async (db, job) =>
    takeAside(db, job.payload as unknown as Parameters<typeof takeAside>[1], await businessNow(db)),
  // well within a lease; what is left is the next job's
  "orders.words": async (db) => void (await putMissingWords(db, Date.now() + 15_000)),
  "outside.send": (db, job) => sendOutsideJob(db, Number(job.payload.orderId)),
  "outside.ask": (db, job) => askOutside(db, Number(job.payload.orderId)),
  "orders.recheck": async (db, job) =>
    recheckPart(db, job.payload as unknown as Parameters<typeof recheckPart>[1], await businessNow(db)),
  "stock.deal": async (db, job) =>
    dealStock(db, dealOf(await takeAlong(db, job, dealtTogether)), await businessNow(db)),
  "clear-up": (db) => clearUp(db),
}

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
  does: Readonly<Record<string, Handler>> = handlers,
): Promise<boolean> {
  const job = await claim(db, Object.keys(does))
  if (!job) return false
  const facts = { job: job.id, kind: job.kind, tries: job.tries }
  const holding = setInterval(() => {
    renew(db, job).then(
      (held) => held || log?.warn(facts, "lease lost"),
      () => undefined,
    )
  }, leaseMs / 3)
  try {
    await (does[job.kind] as Handler)(db, job)
    if (await finish(db, job)) log?.info(facts, "job done")
    // what it did stands; the job is done again by who holds it now, and finds it done
    else log?.warn(facts, "job not done: its lease was lost")
  } catch (error) {
    log?.warn({ ...facts, err: error }, "job failed")
    await untilBack(leaseMs, () => fail(db, job, troubleOf(error)))
  } finally {
    clearInterval(holding)
  }
  return true
}

/** Works until told to stop, `lanes` jobs side by side; an idle lane looks again after `idleMs`. */
export async function work(db: Knex, stop: AbortSignal, log: Logger, lanes = 3, idleMs = 120): Promise<void> {
  const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms))
  const lane = async () => {
    while (!stop.aborted) {
      try {
        if (!(await workOnce(db, log))) await pause(idleMs)
      } catch (error) {
        log.error({ err: error }, "the queue can't be read")
        await pause(1_000)
      }
    }
  }
  const tick = () => {
    void noteClock(db).catch(() => undefined)
    void enqueueRecurring(db).catch((error) => log.error({ err: error }, "recurring work can't be queued"))
  }
  tick()
  const clock = setInterval(tick, 5_000)
  await Promise.all(Array.from({ length: lanes }, lane))
  clearInterval(clock)
}
