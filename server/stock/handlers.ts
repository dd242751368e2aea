import { businessNow } from "../clock/index.ts"
import { type Handler, handler } from "../jobs/kind.ts"
import { takeAlong } from "../jobs/queue.ts"
import { dealStock, dealtTogether } from "./deal.ts"
import { dealing } from "./jobs.ts"

export const stockHandlers: readonly Handler[] = [
  handler(dealing, async ({ db, job }) => {
    // many that ask for the same warehouse are dealt out together
    const deal = dealing.payload.parse(await takeAlong(db, job, dealtTogether))
    await dealStock(db, deal, await businessNow(db))
  }),
]
