import type { CarrierId } from "core/ids/index.ts"
import type { EventKind } from "core/tracking/index.ts"
import type { Knex } from "knex"
import { record } from "../audit/index.ts"
import { there } from "../db/there.ts"
import type { CarrierEvent } from "../formats/carrierEvents.ts"
import { followAll } from "./follow.ts"

/** Events that are written at once. */
const eventsAtOnce = 200

/** Notes in the activity that some of what a carrier told could not be read, so that somebody asks him. */
export async function noteUnreadable(db: Knex, carrierId: CarrierId, n: number, now: Date): Promise<void> {
  if (n === 0) return
  const carrier = there(await db("carrier").where({ id: carrierId }).first("name"))
  await record(db, { userId: null, name: "" }, now, {
    action: "tracking.unreadable",
    detail: { carrier: carrier.name, n },
  })
}

/**
 * Takes events of a carrier, each once by the carrier's own id of it, and works out anew what they are of. Codes that
 * nobody has set to a meaning are noted, and their events kept until somebody does. Answers how many were new.
 */
export async function takeEvents(
  db: Knex,
  carrierId: CarrierId,
  events: readonly CarrierEvent[],
  way: "pulled" | "pushed",
  now: Date,
): Promise<number> {
  let fresh = 0
  for (let at = 0; at < events.length; at += eventsAtOnce)
    fresh += await takeSome(db, carrierId, events.slice(at, at + eventsAtOnce), way, now)
  return fresh
}

async function takeSome(
  db: Knex,
  carrierId: CarrierId,
  events: readonly CarrierEvent[],
  way: "pulled" | "pushed",
  now: Date,
): Promise<number> {
  const keyOf = (event: CarrierEvent) => `${carrierId}:${event.id}`
  const known = new Set<string>(await db("tracking_event").whereIn("once_key", events.map(keyOf)).pluck("once_key"))
  const fresh = [...new Map(events.map((event) => [keyOf(event), event])).entries()].filter(([key]) => !known.has(key))
  if (fresh.length === 0) return 0
  const kinds = await kindsOf(
    db,
    carrierId,
    fresh.map(([, event]) => event),
    now,
  )
  await db("tracking_event")
    .insert(
      fresh.map(([key, event]) => {
        const kind = kinds.get(event.code) ?? null
        return {
          once_key: key,
          carrier_id: carrierId,
          way,
          tracking: event.tracking,
          master: event.master,
          code: event.code,
          kind,
          at: event.at,
          zone_offset: event.zoneOffset,
          place: event.place.slice(0, 80),
          postal_code: event.postalCode,
          country: event.country,
          text: event.text,
          estimated_on: event.estimatedOn,
          name: event.name,
          picture: event.picture?.bytes ?? null,
          picture_media: event.picture?.media ?? null,
          taken_at: now,
          known: kind !== null,
        }
      }),
    )
    .onConflict("once_key")
    .ignore()
  await followNumbers(
    db,
    carrierId,
    fresh.map(([, event]) => event),
    now,
  )
  return fresh.length
}

/** Works out anew all that is followed by some numbers. Where it breaks off, the units are looked at again later. */
async function followNumbers(
  db: Knex,
  carrierId: CarrierId,
  events: readonly Pick<CarrierEvent, "tracking" | "master">[],
  now: Date,
): Promise<void> {
  const own = [...new Set(events.flatMap((one) => (one.tracking === "" ? [] : [one.tracking])))]
  const whole = [...new Set(events.flatMap((one) => (one.master === "" ? [] : [one.master])))]
  const ids: number[] = await db("tracked_unit")
    .where({ carrier_id: carrierId })
    .whereNull("void_at")
    .where((any) => any.whereIn("tracking", own).orWhereIn("master", whole))
    .orderBy("order_id")
    .orderBy("id")
    .pluck("id")
  // what is not worked out now, because we are ended in the middle, is due
  await db("tracked_unit").whereIn("id", ids).update({ look_at: now })
  await followAll(db, ids, now)
}

/** What a carrier's codes mean; one that is seen for the first time is noted. */
async function kindsOf(
  db: Knex,
  carrierId: CarrierId,
  events: readonly CarrierEvent[],
  now: Date,
): Promise<Map<string, EventKind | null>> {
  const codes = [...new Map(events.map((event) => [event.code, event])).values()]
  const read = async () =>
    new Map(
      (
        await db("tracking_code")
          .where({ carrier_id: carrierId })
          .whereIn(
            "code",
            codes.map((one) => one.code),
          )
          .select("code", "kind")
      ).map((row) => [row.code, row.kind as EventKind | null]),
    )
  const known = await read()
  const strange = codes.filter((one) => !known.has(one.code))
  if (strange.length === 0) return known
  await db("tracking_code")
    .insert(
      strange.map((one) => ({ carrier_id: carrierId, code: one.code, kind: null, text: one.text, first_at: now })),
    )
    .onConflict(["carrier_id", "code"])
    .ignore()
  return read()
}

/** Units that are due: time itself may say something new of them, or something broke off. */
export async function followDue(db: Knex, now: Date): Promise<number> {
  const ids: number[] = await db("tracked_unit").where("look_at", "<=", now).orderBy("look_at").limit(400).pluck("id")
  await followAll(db, ids, now)
  return ids.length
}

/** Sets what a code of a carrier means, and works out anew what was told by it. */
export async function refollowCode(db: Knex, carrierId: CarrierId, code: string, now: Date): Promise<void> {
  for (let after = 0; ; ) {
    const rows = await db("tracking_event")
      .where({ carrier_id: carrierId, code })
      .where("id", ">", after)
      .orderBy("id")
      .limit(500)
      .select("id", "tracking", "master")
    if (rows.length === 0) return
    await followNumbers(db, carrierId, rows, now)
    after = rows.at(-1)?.id ?? after
  }
}
