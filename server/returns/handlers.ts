import { type Handler, handler } from "../jobs/kind.ts"
import { returnWith } from "./ask.ts"
import { bookReturn, lookForScans, makeReturnVoid } from "./book.ts"
import { askingReturn, bookingReturn, lookingForScans, voidingReturn } from "./jobs.ts"

export const returnsHandlers: readonly Handler[] = [
  handler(bookingReturn, ({ db, payload, job }) => bookReturn(db, payload.returnId, job.tries)),
  handler(voidingReturn, ({ db, payload }) => makeReturnVoid(db, payload.returnId)),
  handler(askingReturn, ({ db, payload }) => returnWith(db, payload.intentId)),
  handler(
    lookingForScans,
    ({ db }) => lookForScans(db),
    async (db) =>
      (await db("return_intent").where({ state: "booked", paid: "when-scanned" }).whereNull("scanned_at").first("id"))
        ? [{ everyMs: 60_000, key: lookingForScans.name, payload: {} }]
        : [],
  ),
]
