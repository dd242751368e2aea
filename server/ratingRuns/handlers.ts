import { type Handler, handler } from "../jobs/kind.ts"
import { ratingRun } from "./jobs.ts"
import { rateRun } from "./runs.ts"

export const ratingRunsHandlers: readonly Handler[] = [handler(ratingRun, ({ db, payload }) => rateRun(db, payload))]
