import { type Handler, handler } from "../jobs/kind.ts"
import { stuckRuns } from "../shippingRuns/answered.ts"
import { runBuying, runPrinting } from "../shippingRuns/jobs.ts"
import { bookIntent } from "./book.ts"
import { cancelVoided } from "./cancel.ts"
import { booking, voiding } from "./jobs.ts"
import { printBoughtRun } from "./printRun.ts"
import { buyNext } from "./runs.ts"
import { voidIntent } from "./void.ts"

export const shippingHandlers: readonly Handler[] = [
  handler(
    runBuying,
    ({ db, payload, job }) => buyNext(db, payload, job.id),
    async (db) =>
      (await stuckRuns(db)).map((runId) => ({ everyMs: 4_000, key: `run-buy:${runId}:due`, payload: { runId } })),
  ),
  handler(runPrinting, ({ db, payload }) => printBoughtRun(db, payload)),
  handler(booking, ({ db, payload, job }) => bookIntent(db, payload.intentId, job.tries)),
  handler(voiding, async ({ db, payload: { cancels, ...voided } }) => {
    await voidIntent(db, voided)
    if (cancels) await cancelVoided(db, voided, cancels)
  }),
]
