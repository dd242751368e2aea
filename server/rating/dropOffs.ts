import { addDays, instantAt, type LocalDate, type LocalTime, localDate, weekday } from "core/calendar/index.ts"
import type { CarrierId } from "core/ids/index.ts"
import type { DropPlace, Tariff } from "core/tariff/index.ts"
import { lengthIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { wayBetween } from "../addresses/way.ts"
import type { DropOff } from "../setup/collections.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { tariffOn } from "./tariffs.ts"

/** Days ahead for which drop-offs are known, as trucks are. */
const daysAhead = 7

/** Kilometers an hour that it takes to a place, and minutes besides (common practice, no source). */
const speed = 50
const aside = 15

/** Places of a carrier with how far each is from the warehouse, the nearest first; unknown ones last. */
export const placesFrom = (
  warehouse: Pick<Warehouse, "country" | "postalCode">,
  places: readonly DropPlace[],
): DropOff[] =>
  places
    .map((one) => {
      const way = wayBetween(warehouse, one)
      const { weekdays: _, ...place } = one
      return { ...place, until: place.until as LocalTime, km: way ? lengthIn(way, "cm").div(100_000).toNumber() : null }
    })
    .sort(
      (a, b) => (a.km ?? Number.POSITIVE_INFINITY) - (b.km ?? Number.POSITIVE_INFINITY) || (a.code < b.code ? -1 : 1),
    )

/** When one has to leave for a place to be there in time. */
export function leaveBy(place: Pick<DropOff, "until" | "km">, date: LocalDate, zone: string): Date {
  const minutes = Math.ceil(((place.km ?? 0) / speed) * 60) + aside
  return new Date(instantAt(date, place.until, zone).getTime() - minutes * 60_000)
}

/** Codes of a tariff's services that take packages at the carrier's places. */
export const broughtServices = (tariff: Tariff): string[] =>
  tariff.services.filter((one) => one.options.some(({ option }) => option === "drop-off")).map((one) => one.code)

/** The place that packages of a carrier are brought to on a day: the one that was chosen, else the nearest that is open. */
export function placeOn(places: readonly DropOff[], open: ReadonlySet<string>, chosen: string | null): DropOff | null {
  const some = places.filter((one) => open.has(one.code))
  return some.find((one) => one.code === chosen) ?? some[0] ?? null
}

export const openOn = (tariff: Tariff, date: LocalDate): ReadonlySet<string> =>
  tariff.holidays.includes(date)
    ? new Set()
    : new Set(tariff.handover.dropOff.filter((one) => one.weekdays.includes(weekday(date) || 7)).map((one) => one.code))

/**
 * Makes the drop-offs of today and the days ahead that are not there yet: one for each carrier and day on which a place
 * of his is open and services of his take packages there. Doors of theirs are named D with a number. Safe to repeat.
 */
export async function ensureDropOffs(db: Knex, warehouse: Warehouse, now: Date): Promise<number> {
  const today = localDate(now, warehouse.zone)
  const last = addDays(today, daysAhead)
  const [carriers, known, closed, chosen] = await Promise.all([
    db("carrier").orderBy("id").select("id"),
    db("collection")
      .where({ warehouse_id: warehouse.id })
      .whereNotNull("drop_off")
      .whereBetween("on_date", [today, last])
      .select("carrier_id", "on_date"),
    db("day_exception")
      .where({ warehouse_id: warehouse.id, closed: true })
      .where("on_date", ">=", today)
      .pluck("on_date"),
    db("drop_place").where({ warehouse_id: warehouse.id }).select("carrier_id", "code"),
  ])
  const there = new Set(known.map((one) => `${one.carrier_id} ${one.on_date}`))
  const rows = []
  let door = 0
  for (const { id } of carriers) {
    const first = await tariffOn(db, id, today)
    if (!first || first.handover.dropOff.length === 0) continue
    door += 1
    for (let date = today; date <= last; date = addDays(date, 1)) {
      if (there.has(`${id} ${date}`) || closed.includes(date)) continue
      const tariff = date === today ? first : await tariffOn(db, id, date)
      const services = tariff ? broughtServices(tariff) : []
      if (!tariff || services.length === 0) continue
      const place = placeOn(
        placesFrom(warehouse, tariff.handover.dropOff),
        openOn(tariff, date),
        chosen.find((one) => one.carrier_id === id)?.code ?? null,
      )
      if (!place) continue
      rows.push({
        warehouse_id: warehouse.id,
        carrier_id: id as CarrierId,
        door: `D${door}`,
        on_date: date,
        cut_off: leaveBy(place, date, warehouse.zone),
        services: JSON.stringify(services),
        drop_off: JSON.stringify(place),
      })
    }
  }
  if (rows.length > 0) await db("collection").insert(rows).onConflict(["warehouse_id", "door", "cut_off"]).ignore()
  return rows.length
}
