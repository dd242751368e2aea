import type { Knex } from "knex"

/**
 * The business clock: real time plus an offset in the database, so that the demo's day is alive whenever it is
 * started and tests can set it. Days, cut-offs and stamps on documents use it; leases and sessions use real time.
 */
export async function businessNow(db: Knex): Promise<Date> {
  const row = await db("business_clock").where({ id: 1 }).first("offset_ms")
  return new Date(Date.now() + Number(row?.offset_ms ?? 0))
}

export async function setBusinessNow(db: Knex, now: Date): Promise<void> {
  await db("business_clock")
    .where({ id: 1 })
    .update({ offset_ms: now.getTime() - Date.now(), seen_at: now })
}

/** Notes the time reached, so that a demo that was stopped can go on from there (`resumeClock`). */
export async function noteClock(db: Knex): Promise<void> {
  await db("business_clock")
    .where({ id: 1 })
    .update({ seen_at: await businessNow(db) })
}

/** Sets the clock back to the last time noted. Only for demo mode, where the day must not pass while nothing runs. */
export async function resumeClock(db: Knex): Promise<void> {
  const row = await db("business_clock").where({ id: 1 }).first("seen_at")
  if (row?.seen_at) await setBusinessNow(db, new Date(row.seen_at))
}
