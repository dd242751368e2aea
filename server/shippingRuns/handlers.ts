import { type Handler, handler } from "../jobs/kind.ts"
import { preparing } from "./jobs.ts"
import { prepareRun, staleRuns } from "./prepare.ts"

export const shippingRunsHandlers: readonly Handler[] = [
  handler(
    preparing,
    ({ db, payload }) => prepareRun(db, payload),
    async (db) =>
      (await staleRuns(db)).map((runId) => ({ everyMs: 4_000, key: `prepare:${runId}`, payload: { runId } })),
  ),
]
