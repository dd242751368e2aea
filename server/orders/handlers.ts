import { type Handler, handler } from "../jobs/kind.ts"
import { wording } from "./jobs.ts"
import { putMissingWords, wordsAreMissing } from "./words.ts"

export const ordersHandlers: readonly Handler[] = [
  handler(
    wording,
    // well within a lease; what is left is the next job's
    async ({ db }) => void (await putMissingWords(db, Date.now() + 15_000)),
    async (db) => ((await wordsAreMissing(db)) ? [{ everyMs: 20_000, key: wording.name, payload: {} }] : []),
  ),
]
