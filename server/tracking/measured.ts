import { addDays, businessDaysBetween, type LocalDate, localDate, type WorkingDays } from "core/calendar/index.ts"
import { type Lateness, leastMeasured } from "core/rating/index.ts"
import { chanceLate, type Followed, follow, type TrackingEvent, type TrackingState } from "core/tracking/index.ts"
import type { Knex } from "knex"
import type { TrackedUnitRow } from "../db/tables.ts"

/** Days back that are measured, as on-time is. */
const measuredDays = 90

/** From where the time to the delivery is measured. */
const legStates = ["accepted", "in-transit", "out-for-delivery"] as const

const monthOf = (day: LocalDate): LocalDate => `${day.slice(0, 7)}-01` as LocalDate

/**
 * Counts a delivery, once: on which day it came against the one that was expected, and how many business days it took
 * from each state. What our carriers' events say and what a file brings are one measure.
 */
export async function measureDelivered(
  trx: Knex,
  unit: TrackedUnitRow,
  events: readonly TrackingEvent[],
  at: Date,
  days: WorkingDays,
): Promise<void> {
  if (unit.service_id === null || unit.shipped_on === null || unit.arrives_on === null) return
  const on = localDate(at, unit.zone)
  await trx("delivery")
    .insert({
      tracking: unit.tracking,
      service_id: unit.service_id,
      ship_date: unit.shipped_on,
      promised_on: unit.arrives_on,
      delivered_on: on,
      lane: unit.lane,
    })
    .onConflict("tracking")
    .merge(["delivered_on", "lane"])
  if (unit.measured) return
  await trx("tracked_unit").where({ id: unit.id }).update({ measured: true })
  for (const state of legStates) {
    const from = firstIn(events, state)
    if (!from || from > at) continue
    const took = businessDaysBetween(localDate(from, unit.zone), on, days)
    for (const lane of new Set(["", unit.lane]))
      await trx("delivery_leg")
        .insert({ service_id: unit.service_id, lane, state, month: monthOf(on), days: took, packages: 1 })
        .onConflict(["service_id", "lane", "state", "month", "days"])
        .merge({ packages: trx.raw("packages + 1") })
  }
}

/** When a package first stood so. */
function firstIn(events: readonly TrackingEvent[], state: TrackingState): Date | null {
  const at = events
    .filter((event) => event.kind !== null && follow([event]).state === state)
    .map((event) => event.at.getTime())
  return at.length > 0 ? new Date(Math.min(...at)) : null
}

/** Takes a delivery out of the measure that was none. */
export async function unmeasure(trx: Knex, unit: TrackedUnitRow): Promise<void> {
  if (unit.service_id === null) return
  await trx("delivery").where({ tracking: unit.tracking, service_id: unit.service_id }).delete()
}

/**
 * The chance that each of some units comes in late, by what others took: by lane where enough were measured there, else of the
 * service; from the state it stands in, else past the day on which it was expected. Null where too little is known.
 */
export async function chancesOf(trx: Knex, units: readonly TrackedUnitRow[], now: Date) {
  const services = [...new Set(units.flatMap((one) => one.service_id ?? []))]
  const since = addDays(localDate(now, "UTC"), -measuredDays)
  const legs =
    services.length === 0
      ? []
      : await trx("delivery_leg")
          .whereIn("service_id", services)
          .where("month", ">=", monthOf(since))
          .groupBy("service_id", "lane", "state", "days")
          .select("service_id", "lane", "state", "days")
          .sum({ packages: "packages" })
  const late =
    services.length === 0
      ? []
      : await trx("delivery")
          .whereIn("service_id", services)
          .where("ship_date", ">=", since)
          .groupByRaw("service_id, lane, DATEDIFF(delivered_on, promised_on)")
          .select<{ service_id: number; lane: string; days: number; packages: number }[]>(
            "service_id",
            "lane",
            trx.raw("DATEDIFF(delivered_on, promised_on) AS days"),
            trx.raw("COUNT(*) AS packages"),
          )
  const sum = (rows: readonly { days: number; packages?: unknown }[]): Lateness =>
    rows.map((row) => ({ days: Number(row.days), packages: Number(row.packages) }))
  const enough = (took: Lateness) => took.reduce((total, one) => total + one.packages, 0) >= leastMeasured

  return (unit: TrackedUnitRow) =>
    (followed: Followed, days: WorkingDays): number | null => {
      if (unit.service_id === null || !unit.due_on) return null
      const today = localDate(now, unit.zone)
      const from = followed.since && localDate(followed.since, unit.zone)
      if (from) {
        const own = legs.filter((row) => row.service_id === unit.service_id && row.state === followed.state)
        for (const lane of [unit.lane, ""]) {
          const took = sum(own.filter((row) => row.lane === lane))
          if (!enough(took)) continue
          const over = businessDaysBetween(from, today, days)
          const until = businessDaysBetween(from, unit.due_on, days)
          return chanceLate(took, { over, until })
        }
      }
      if (!unit.arrives_on) return null
      const own = late.filter((row) => row.service_id === unit.service_id)
      const onLane = sum(own.filter((row) => row.lane === unit.lane))
      const took = enough(onLane) ? onLane : sum(own)
      const past = (day: LocalDate) =>
        Math.round((Date.parse(day) - Date.parse(unit.arrives_on as LocalDate)) / 86_400_000)
      return chanceLate(took, { over: past(today), until: past(unit.due_on) })
    }
}
