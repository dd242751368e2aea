import { addDays, instantAt, type LocalDate, localDate, weekday } from "core/calendar/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { Warehouse } from "./warehouse.ts"

export interface Collection {
  readonly id: number
  readonly carrierId: number
  readonly carrier: string
  readonly carrierCode: string
  readonly door: string
  readonly onDate: LocalDate
  readonly cutOff: Date
  /** Codes of the services that this truck takes. */
  readonly services: readonly string[]
  readonly closedAt: Date | null
  readonly closedBy: string | null
  readonly manifestNumber: string | null
  readonly manifestDocumentId: number | null
}

const daysAhead = 7

/**
 * Makes the regular collections of today and the days ahead that are not there yet, leaving out a carrier's holidays.
 * Safe to repeat: a collection is one by warehouse, door and cut-off.
 */
export async function ensureCollections(db: Knex, warehouse: Warehouse, now: Date): Promise<void> {
  const today = localDate(now, warehouse.zone)
  const rules = await db("collection_rule")
    .join("carrier", "carrier.id", "collection_rule.carrier_id")
    .where({ warehouse_id: warehouse.id })
    .select("collection_rule.*", "carrier.holidays")
  const lastServed = [...Array(daysAhead + 1).keys()]
    .map((day) => addDays(today, day))
    .findLast((date) => rules.some((rule) => isServed(rule, date)))
  if (!lastServed || (await db("collection").where({ warehouse_id: warehouse.id, on_date: lastServed }).first("id")))
    return
  const rows: object[] = []
  for (let day = 0; day <= daysAhead; day += 1) {
    const date = addDays(today, day)
    for (const rule of rules) {
      if (!isServed(rule, date)) continue
      rows.push({
        warehouse_id: warehouse.id,
        carrier_id: rule.carrier_id,
        door: rule.door,
        on_date: date,
        cut_off: instantAt(date, rule.cut_off, warehouse.zone),
        services: JSON.stringify(parsed(rule.services)),
      })
    }
  }
  await db("collection").insert(rows).onConflict(["warehouse_id", "door", "cut_off"]).ignore()
}

const isServed = (rule: { weekdays: unknown; holidays: unknown }, date: LocalDate): boolean =>
  parsed<number[]>(rule.weekdays).includes(weekday(date)) && !parsed<string[]>(rule.holidays).includes(date)

const select = (db: Knex) =>
  db("collection")
    .join("carrier", "carrier.id", "collection.carrier_id")
    .select("collection.*", "carrier.name as carrier", "carrier.code as carrier_code")

/** All collections of a date, by cut-off. */
export async function collectionsOn(db: Knex, warehouseId: number, date: LocalDate): Promise<Collection[]> {
  return (await select(db).where({ warehouse_id: warehouseId, on_date: date }).orderBy("cut_off")).map(fromRow)
}

/** Open collections whose cut-off is still to come, by cut-off. */
export async function openCollections(db: Knex, warehouseId: number, now: Date): Promise<Collection[]> {
  return (
    await select(db)
      .where({ warehouse_id: warehouseId })
      .whereNull("closed_at")
      .where("cut_off", ">", now)
      .orderBy("cut_off")
  ).map(fromRow)
}

export async function collectionById(db: Knex, id: number): Promise<Collection | null> {
  const row = await select(db).where("collection.id", id).first()
  return row ? fromRow(row) : null
}

// biome-ignore lint/suspicious/noExplicitAny: a row as the driver gives it
function fromRow(row: any): Collection {
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
    manifestNumber: row.manifest_number,
    manifestDocumentId: row.manifest_document_id,
  }
}
