import { type Handler, handler } from "../jobs/kind.ts"
import { askCollection } from "./collecting.ts"
import { depart, tellForm } from "./depart.ts"
import { collecting, departing, telling } from "./jobs.ts"

export const dockHandlers: readonly Handler[] = [
  handler(departing, ({ db, payload }) => depart(db, payload.collectionId, payload.closing)),
  handler(collecting, ({ db, payload, job }) => askCollection(db, payload.bookingId, job.tries)),
  handler(telling, ({ db, payload, job }) => tellForm(db, payload.formId, job.tries)),
]
