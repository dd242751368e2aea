import { type Handler, handler } from "../jobs/kind.ts"
import { bookIntent } from "./book.ts"
import { cancelVoided } from "./cancel.ts"
import { booking, voiding } from "./jobs.ts"
import { voidIntent } from "./void.ts"

export const shippingHandlers: readonly Handler[] = [
  handler(booking, ({ db, payload, job }) => bookIntent(db, payload.intentId, job.tries)),
  handler(voiding, async ({ db, payload: { cancels, ...voided } }) => {
    await voidIntent(db, voided)
    if (cancels) await cancelVoided(db, voided, cancels)
  }),
]
