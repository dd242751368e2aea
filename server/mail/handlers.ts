import { type Handler, handler } from "../jobs/kind.ts"
import { sendMailJob } from "./index.ts"
import { mailing } from "./jobs.ts"

export const mailHandlers: readonly Handler[] = [handler(mailing, ({ db, payload }) => sendMailJob(db, payload.mailId))]
