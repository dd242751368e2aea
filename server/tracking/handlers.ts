import { businessNow } from "../clock/index.ts"
import { type Handler, handler } from "../jobs/kind.ts"
import { lookingAtUnits, pullingEvents, readdressing, refollowing } from "./jobs.ts"
import { carriersToAsk, pullEvents } from "./pull.ts"
import { sendReaddress } from "./readdress.ts"
import { followDue, refollowCode } from "./take.ts"

/** How often carriers are asked. */
const pullEveryMs = 60_000
/** How often units that are due are looked at. */
const lookEveryMs = 15_000

export const trackingHandlers: readonly Handler[] = [
  handler(
    pullingEvents,
    async ({ db, payload }) => void (await pullEvents(db, payload.carrierId)),
    async (db) =>
      (await carriersToAsk(db)).map((carrierId) => ({
        everyMs: pullEveryMs,
        key: `${pullingEvents.name}:${carrierId}`,
        payload: { carrierId },
      })),
  ),
  handler(
    lookingAtUnits,
    async ({ db }) => void (await followDue(db, await businessNow(db))),
    async (db) =>
      (await db("tracked_unit")
        .where("look_at", "<=", await businessNow(db))
        .first("id"))
        ? [{ everyMs: lookEveryMs, key: lookingAtUnits.name, payload: {} }]
        : [],
  ),
  handler(refollowing, async ({ db, payload }) =>
    refollowCode(db, payload.carrierId, payload.code, await businessNow(db)),
  ),
  handler(readdressing, ({ db, payload }) => sendReaddress(db, payload.readdressId)),
]
