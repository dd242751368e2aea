import { businessNow } from "../clock/index.ts"
import { type Handler, handler } from "../jobs/kind.ts"
import { takeAlong } from "../jobs/queue.ts"
import { dealing } from "../stock/jobs.ts"
import { dealStock, dealtTogether } from "./deal.ts"
import { rechecking } from "./jobs.ts"
import { recheckPart } from "./recheckAll.ts"

export const decisionsHandlers: readonly Handler[] = [
  handler(rechecking, async ({ db, payload }) => recheckPart(db, payload, await businessNow(db))),
  handler(dealing, async ({ db, job }) => {
    // many that ask for the same warehouse are dealt out together
    const deal = dealing.payload.parse(await takeAlong(db, job, dealtTogether))
    await dealStock(db, deal, await businessNow(db))
  }),
]
