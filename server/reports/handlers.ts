import { type Handler, handler } from "../jobs/kind.ts"
import { reporting } from "./jobs.ts"
import { sendOutbox } from "./send.ts"

export const reportsHandlers: readonly Handler[] = [
  handler(reporting, ({ db, payload }) => sendOutbox(db, payload.outboxId)),
]
