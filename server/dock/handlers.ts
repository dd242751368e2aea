import { type Handler, handler } from "../jobs/kind.ts"
import { depart, tellForm } from "./depart.ts"
import { departing, telling } from "./jobs.ts"

export const dockHandlers: readonly Handler[] = [
  handler(departing, ({ db, payload }) => depart(db, payload.collectionId, payload.closing)),
  handler(telling, ({ db, payload, job }) => tellForm(db, payload.formId, job.tries)),
]
