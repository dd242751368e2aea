import type { CarrierId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { businessNow } from "../clock/index.ts"
import { readCarrierEvents } from "../formats/carrierEvents.ts"
import { CarrierUnreachable } from "../gateways/carrier.ts"
import { type CarrierEvents, httpCarrierEvents } from "../gateways/carrierEvents.ts"
import { noteUnreadable, takeEvents } from "./take.ts"

/** Pages that are read in one go: the rest comes with the next. */
const mostPages = 50

/**
 * Asks a carrier for events since the last that was read. Each page is taken before its cursor is kept, so that what
 * breaks off in between comes again and is the same. Throws where the carrier does not answer.
 */
export async function pullEvents(
  db: Knex,
  carrierId: CarrierId,
  eventsAt: (url: string) => CarrierEvents = httpCarrierEvents,
): Promise<number> {
  const carrier = await db("carrier").where({ id: carrierId }).first("base_url", "events_cursor")
  if (!carrier) return 0
  let cursor = carrier.events_cursor
  let taken = 0
  try {
    for (let page = 0; page < mostPages; page += 1) {
      const now = await businessNow(db)
      const { events, next } = await eventsAt(carrier.base_url).after(cursor, now)
      const read = readCarrierEvents(events, now)
      taken += await takeEvents(db, carrierId, read.events, "pulled", now)
      await db("carrier").where({ id: carrierId }).update({ events_cursor: next, events_at: now, events_trouble: null })
      await noteUnreadable(db, carrierId, read.unreadable, now)
      if (events.length === 0 || next === cursor) break
      cursor = next
    }
    return taken
  } catch (error) {
    if (error instanceof CarrierUnreachable)
      await db("carrier")
        .where({ id: carrierId })
        .update({ events_trouble: error.message.slice(0, 300) })
    throw error
  }
}

/** Carriers that are asked: who carries something of ours that has not ended. */
export const carriersToAsk = (db: Knex): Promise<number[]> =>
  db("tracked_unit")
    .whereNotNull("carrier_id")
    .whereNull("void_at")
    .whereNotIn("state", ["delivered", "returned"])
    .distinct("carrier_id")
    .orderBy("carrier_id")
    .pluck("carrier_id") as unknown as Promise<number[]>
