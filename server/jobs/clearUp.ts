import { eventsKeptDays } from "core/tracking/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { businessNow } from "../clock/index.ts"
import { type Handler, handler, jobKind } from "./kind.ts"

const dayMs = 86_400_000

/** Takes away what is not needed any more. */
export const clearingUp = jobKind({
  name: "clear-up",
  payload: z.object({}),
  needs: "database",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})

/** Real time for which short-lived rows are kept, in milliseconds. */
const keptFor = {
  notices: 3_600_000,
  presences: 60_000,
  requests: 30 * dayMs,
  trackingFiles: 90 * dayMs,
  devices: 180 * dayMs,
}

/** Jobs that are taken away in one statement, so that no lock is held for long. */
const atOnce = 2_000

/** Takes away notices, presences, ended sessions, and jobs that are done for as long as their kind is kept. */
export async function clearUp(db: Knex, all: readonly Handler[]): Promise<void> {
  const before = (ms: number) => new Date(Date.now() - ms)
  await db("change_notice").where("at", "<", before(keptFor.notices)).delete()
  await db("presence").where("seen_at", "<", before(keptFor.presences)).delete()
  await db("session").where("expires_at", "<", new Date()).delete()
  await db("known_device").where("seen_at", "<", before(keptFor.devices)).delete()
  await db("api_request").where("at", "<", before(keptFor.requests)).delete()
  // what people made is dated by the business clock
  const old = new Date((await businessNow(db)).getTime() - keptFor.trackingFiles)
  await db("tracking_file").where("made_at", "<", old).whereNot({ state: "taking" }).delete()
  // where a package stands by its events is kept with it
  const told = new Date((await businessNow(db)).getTime() - eventsKeptDays * dayMs)
  while ((await db("tracking_event").where("taken_at", "<", told).limit(atOnce).delete()) === atOnce) {
    // until none is left
  }
  for (const { name, keptDays } of all)
    if (keptDays !== null)
      for (;;) {
        const gone = await db("job")
          .where({ kind: name, state: "done" })
          .where("done_at", "<", before(keptDays * dayMs))
          .limit(atOnce)
          .delete()
        if (gone < atOnce) break
      }
}

export const clearUpHandler = (all: () => readonly Handler[]): Handler =>
  handler(
    clearingUp,
    ({ db }) => clearUp(db, all()),
    async () => [{ everyMs: 600_000, key: clearingUp.name, payload: {} }],
  )
