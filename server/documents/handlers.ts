import { type Handler, handler } from "../jobs/kind.ts"
import { printing } from "./jobs.ts"
import { sendPrintJob } from "./print.ts"

export const documentsHandlers: readonly Handler[] = [
  handler(printing, ({ db, payload, job }) => sendPrintJob(db, payload.printJobId, job.tries)),
]
