import { type Handler, handler } from "../jobs/kind.ts"
import { askOutside, sendOutsideJob, withOutside } from "./index.ts"
import { askingOutside, sendingOutside, takingTracking } from "./jobs.ts"
import { takeTrackingRows } from "./trackingFile.ts"

export const outsideHandlers: readonly Handler[] = [
  handler(sendingOutside, ({ db, payload }) => sendOutsideJob(db, payload.orderId)),
  handler(
    askingOutside,
    ({ db, payload }) => askOutside(db, payload.orderId),
    async (db) =>
      (await withOutside(db)).map((orderId) => ({
        everyMs: 20_000,
        key: `${askingOutside.name}:${orderId}`,
        payload: { orderId },
      })),
  ),
  handler(takingTracking, ({ db, payload }) => takeTrackingRows(db, payload.fileId)),
]
