import { businessNow } from "../clock/index.ts"
import { type Handler, handler } from "../jobs/kind.ts"
import { rechecking } from "./jobs.ts"
import { recheckPart } from "./recheckLine.ts"

export const rulesHandlers: readonly Handler[] = [
  handler(rechecking, async ({ db, payload }) => recheckPart(db, payload, await businessNow(db))),
]
