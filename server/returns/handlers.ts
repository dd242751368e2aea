import { businessNow } from "../clock/index.ts"
import { type Handler, handler } from "../jobs/kind.ts"
import { returnWith } from "./ask.ts"
import { bookReturn, lookForScans, makeReturnVoid, scansAwaited } from "./book.ts"
import { comingBack, expectUndelivered } from "./expect.ts"
import { askingReturn, bookingReturn, expectingUndelivered, lookingForScans, voidingReturn } from "./jobs.ts"

export const returnsHandlers: readonly Handler[] = [
  handler(bookingReturn, ({ db, payload, job }) => bookReturn(db, payload.returnId, job.tries)),
  handler(voidingReturn, ({ db, payload }) => makeReturnVoid(db, payload.returnId)),
  handler(askingReturn, ({ db, payload }) => returnWith(db, payload.intentId)),
  handler(
    lookingForScans,
    ({ db }) => lookForScans(db),
    async (db) =>
      (await scansAwaited(db, await businessNow(db)).first("id"))
        ? [{ everyMs: 60_000, key: lookingForScans.name, payload: {} }]
        : [],
  ),
  handler(
    expectingUndelivered,
    ({ db }) => expectUndelivered(db),
    async (db) =>
      (await comingBack(db, await businessNow(db)).first("u.id"))
        ? [{ everyMs: 60_000, key: expectingUndelivered.name, payload: {} }]
        : [],
  ),
]
