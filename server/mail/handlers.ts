import { type Handler, handler } from "../jobs/kind.ts"
import { sendWaiting } from "./index.ts"
import { mailing } from "./jobs.ts"

export const mailHandlers: readonly Handler[] = [
  handler(
    mailing,
    ({ db }) => sendWaiting(db),
    async (db) =>
      (await db("mail").where({ state: "waiting" }).first("id"))
        ? [{ everyMs: 30_000, key: mailing.name, payload: {} }]
        : [],
  ),
]
