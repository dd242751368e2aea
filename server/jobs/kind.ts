import type { OrderId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { MessageKey } from "words/catalogue.ts"
import type { z } from "zod"
import { enqueue, type Job } from "./queue.ts"

/** Names of jobs: each has words of its own, `job.` in `words`, for whoever sees it fail. */
export type JobName = MessageKey extends infer Key ? (Key extends `job.${infer Name}` ? Name : never) : never

/** Whose a job is: its warehouse, or null where it is everybody's; and the order that it is about, where there is one. */
export interface Owner {
  readonly warehouseId: WarehouseId | null
  readonly orderId?: OrderId | null
}

/** What a job works with, which decides how many of its kind a worker does side by side. */
export type Needs =
  /** Our database alone. */
  | "database"
  /** A carrier, printer, mail server, source or warehouse of others, which may hang until its time limit. */
  | "outside"
  /** A core of the machine for seconds. */
  | "computing"

export interface JobKind<Payload> {
  readonly name: JobName
  /** What is kept with the job; one that does not have this shape any more is set aside at once. */
  readonly payload: z.ZodType<Payload>
  readonly needs: Needs
  /** Who sees it when it fails. Asked when it is queued, in the same transaction. */
  readonly owner: (trx: Knex, payload: Payload) => Owner | Promise<Owner>
  /** For how long it is kept once it is done, in days; null for good, so that its key counts once for ever. */
  readonly keptDays: number | null
  /** Tried on for a day, where whoever it is told may be away for hours. */
  readonly patient?: boolean
}

export interface QueuedKind<Payload> extends JobKind<Payload> {
  /** Queues a job in the transaction of what asks for it. The same key again is the same job. */
  readonly queue: (trx: Knex, onceKey: string, payload: Payload, afterMs?: number) => Promise<void>
}

/** A kind of job, in one place: what it is called, keeps, needs, whose it is and how long it is kept. */
export const jobKind = <Payload>(kind: JobKind<Payload>): QueuedKind<Payload> => ({
  ...kind,
  queue: async (trx, onceKey, payload, afterMs = 0) =>
    enqueue(trx, { kind: kind.name, onceKey, payload, afterMs, ...(await kind.owner(trx, payload)) }),
})

export interface Task<Payload> {
  readonly db: Knex
  readonly payload: Payload
  readonly job: Job
}

/** A job that is due by itself, with the key by which it is queued once for each span of time. */
export interface Due<Payload> {
  readonly everyMs: number
  readonly key: string
  readonly payload: Payload
}

/** What a worker does for a kind of job, and what of it comes back by itself. */
export interface Handler {
  readonly name: JobName
  readonly needs: Needs
  readonly keptDays: number | null
  readonly patient: boolean
  readonly run: (db: Knex, job: Job) => Promise<void>
  readonly queueDue: (db: Knex, now: number) => Promise<void>
}

/** A job whose payload does not have the shape of its kind: it can't succeed, however often it is tried. */
export class WrongPayload extends Error {}

/**
 * Joins a kind of job with what is done for it. Rooms queue by the kind, which knows nothing of them; the worker is
 * given the handlers.
 *
 * @param due what comes back by itself: asked every few seconds, queued once for each span of its time
 */
export const handler = <Payload>(
  kind: QueuedKind<Payload>,
  does: (task: Task<Payload>) => Promise<void>,
  due: (db: Knex) => Promise<readonly Due<Payload>[]> = async () => [],
): Handler => ({
  name: kind.name,
  needs: kind.needs,
  keptDays: kind.keptDays,
  patient: kind.patient ?? false,
  run: async (db, job) => {
    const read = kind.payload.safeParse(job.payload)
    if (!read.success)
      throw new WrongPayload(
        read.error.issues
          .slice(0, 5)
          .map((issue) => issue.path.join("."))
          .join(", "),
      )
    await does({ db, payload: read.data, job })
  },
  queueDue: async (db, now) => {
    for (const one of await due(db)) await kind.queue(db, `${one.key}:${Math.floor(now / one.everyMs)}`, one.payload)
  },
})
