import { type Handler, handler } from "../jobs/kind.ts"
import { drainPrinter, waitingPrinters } from "./drain.ts"
import { printing } from "./jobs.ts"

export const documentsHandlers: readonly Handler[] = [
  handler(
    printing,
    ({ db, payload }) => drainPrinter(db, payload.printerId),
    async (db) =>
      (await waitingPrinters(db)).map((printerId) => ({
        everyMs: 3_000,
        key: `print:${printerId}`,
        payload: { printerId },
      })),
  ),
]
