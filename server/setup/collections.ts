import { addDays, instantAt, type LocalDate, type LocalTime, localDate, weekday } from "core/calendar/index.ts"
import type { CarrierId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { CollectionRow } from "../db/tables.ts"
import type { Warehouse } from "./warehouse.ts"

/** A carrier's place where we bring packages. */
export interface DropOff {
  readonly code: string
  readonly name: string
  readonly street: string
  readonly city: string
  readonly state: string
  readonly postalCode: string
  readonly country: string
  /** Until when it takes packages. */
  readonly until: LocalTime
  /** By road from the warehouse, as estimated; null where that is not known. */
  readonly km: number | null
}

export interface Collection {
  readonly id: number
  readonly carrierId: CarrierId
  readonly carrier: string
  readonly carrierCode: string
  readonly door: string
  readonly onDate: LocalDate
  readonly cutOff: Date
  /** Codes of the services that this truck takes. */
  readonly services: readonly string[]
  readonly closedAt: Date | null
  readonly closedBy: string | null
  /** From then on the carrier has been told, or may have been: it can't be reopened any more. */
  readonly finalAt: Date | null
  /** It was booked, and then canceled: it does not come. */
  readonly cancelledAt: Date | null
  /** It comes only when it is booked. */
  readonly onCall: boolean
  /** Where packages are brought instead of being fetched; null: a truck comes. */
  readonly dropOff: DropOff | null
  /** How often it was closed. */
  readonly closings: number
}

/** Days for which collections are known; goods are promised no further than ten business days ahead (practice). */
const daysAhead = 15

/**
 * Makes the regular collections of today and the days ahead that are not there yet, leaving out a carrier's holidays and
 * days on which the warehouse is closed. Answers how many it made. Safe to repeat: a collection is one by warehouse,
 * door and cut-off.
 */
export async function ensureCollections(db: Knex, warehouse: Warehouse, now: Date): Promise<number> {
  const today = localDate(now, warehouse.zone)
  const days = Array.from({ length: daysAhead + 1 }, (_, day) => addDays(today, day))
  const last = days.at(-1) as LocalDate
  const [rules, known, closed] = await Promise.all([
    db("collection_rule")
      .join("carrier", "carrier.id", "collection_rule.carrier_id")
      .where({ warehouse_id: warehouse.id })
      .select("collection_rule.*", "carrier.holidays"),
    db("collection")
      .where({ warehouse_id: warehouse.id })
      .whereBetween("on_date", [today, last])
      .select("door", "cut_off"),
    db("day_exception")
      .where({ warehouse_id: warehouse.id, closed: true })
      .where("on_date", ">=", today)
      .pluck("on_date"),
  ])
  const key = (door: string, cutOff: Date) => `${door} ${cutOff.getTime()}`
  const there = new Set(known.map((one) => key(one.door, one.cut_off)))
  const rows = days
    .filter((date) => !closed.includes(date))
    .flatMap((date) =>
      rules
        .filter((rule) => isServed(rule, date))
        .map((rule) => ({
          warehouse_id: warehouse.id,
          carrier_id: rule.carrier_id,
          door: rule.door,
          on_date: date,
          cut_off: instantAt(date, rule.cut_off, warehouse.zone),
          services: JSON.stringify(parsed(rule.services)),
          on_call: rule.on_call,
        })),
    )
    .filter((row) => !there.has(key(row.door, row.cut_off)))
  if (rows.length > 0) await db("collection").insert(rows).onConflict(["warehouse_id", "door", "cut_off"]).ignore()
  return rows.length
}

const isServed = (rule: { weekdays: unknown; holidays: unknown }, date: LocalDate): boolean =>
  parsed<number[]>(rule.weekdays).includes(weekday(date)) && !parsed<string[]>(rule.holidays).includes(date)

const select = (db: Knex) =>
  db("collection")
    .join("carrier", "carrier.id", "collection.carrier_id")
    .select("collection.*", "carrier.name as carrier", "carrier.code as carrier_code")

/** All collections of a date by cut-off, but canceled ones, and drop-offs that nothing is brought with. */
export async function collectionsOn(db: Knex, warehouseId: WarehouseId, date: LocalDate): Promise<Collection[]> {
  return (
    await select(db)
      .where({ warehouse_id: warehouseId, on_date: date })
      .whereNull("cancelled_at")
      .where((either) =>
        either
          .whereNull("drop_off")
          .orWhereExists(db("package as p").whereRaw("p.collection_id = collection.id").whereNot("p.state", "void")),
      )
      .orderBy("cut_off")
  ).map(fromRow)
}

/** Open collections whose cut-off is still to come, by cut-off. */
export async function openCollections(db: Knex, warehouseId: WarehouseId, now: Date): Promise<Collection[]> {
  return (
    await select(db)
      .where({ warehouse_id: warehouseId })
      .whereNull("closed_at")
      .where("cut_off", ">", now)
      .orderBy("cut_off")
  ).map(fromRow)
}

/** A collection of a warehouse. */
export async function collectionById(db: Knex, warehouseId: WarehouseId, id: number): Promise<Collection | null> {
  const row = await select(db).where("collection.id", id).where("collection.warehouse_id", warehouseId).first()
  return row ? fromRow(row) : null
}

function fromRow(row: CollectionRow & { readonly carrier: string; readonly carrier_code: string }): Collection {
  return {
    id: row.id,
    carrierId: row.carrier_id,
    carrier: row.carrier,
    carrierCode: row.carrier_code,
    door: row.door,
    onDate: row.on_date,
    cutOff: row.cut_off,
    services: parsed<string[]>(row.services),
    closedAt: row.closed_at,
    closedBy: row.closed_by,
    finalAt: row.final_at,
    cancelledAt: row.cancelled_at,
    onCall: !!row.on_call,
    dropOff: parsed<DropOff | null>(row.drop_off),
    closings: row.closings,
  }
}
