import { type Handler, handler } from "../jobs/kind.ts"
import { sendOutbox } from "./index.ts"
import { reporting } from "./jobs.ts"

export const reportsHandlers: readonly Handler[] = [
  handler(reporting, ({ db, payload }) => sendOutbox(db, payload.outboxId)),
]
