import { businessNow } from "../clock/index.ts"
import { type Handler, handler } from "../jobs/kind.ts"
import { telling } from "./jobs.ts"
import { dueMessages, sendMessages } from "./send.ts"

export const tellingHandlers: readonly Handler[] = [
  handler(
    telling,
    ({ db }) => sendMessages(db),
    async (db) =>
      (await dueMessages(db, await businessNow(db)).first("id"))
        ? [{ everyMs: 30_000, key: telling.name, payload: {} }]
        : [],
  ),
]
