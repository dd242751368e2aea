import { type Handler, handler } from "../jobs/kind.ts"
import { readAnswers } from "./answers.ts"
import { readingAnswers, sendingEdi } from "./jobs.ts"
import { sendEdi } from "./send.ts"

/** How often the folders are looked into. */
const everyMs = 30_000

export const ediHandlers: readonly Handler[] = [
  handler(sendingEdi, ({ db, payload }) => sendEdi(db, payload.messageId)),
  handler(
    readingAnswers,
    ({ db }) => readAnswers(db),
    async () => [{ everyMs, key: readingAnswers.name, payload: {} }],
  ),
]
