import type { LocalTime } from "core/calendar/index.ts"
import type { WorkCoefficients } from "core/orders/index.ts"
import type { Knex } from "knex"

export interface Warehouse {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly zone: string
  readonly hands: number
  readonly sender: readonly string[]
  readonly postalCode: string
  readonly country: string
  readonly gs1Prefix: string
  readonly ssccExtension: number
  readonly work: WorkCoefficients
  readonly periods: readonly { kind: "shift" | "break"; starts: LocalTime; ends: LocalTime }[]
}

/** A warehouse with its working time. Throws when there is none with this id. */
export async function warehouseById(db: Knex, id: number): Promise<Warehouse> {
  const row = await db("warehouse").where({ id }).first()
  if (!row) throw new Error(`no warehouse has the id ${id}`)
  const periods = await db("work_period").where({ warehouse_id: id }).orderBy("starts").select("kind", "starts", "ends")
  return {
    id,
    code: row.code,
    name: row.name,
    zone: row.zone,
    hands: row.hands,
    sender: [row.company, row.street, `${row.city} ${row.state} ${row.postal_code}`, row.phone],
    postalCode: row.postal_code,
    country: row.country,
    gs1Prefix: row.gs1_prefix,
    ssccExtension: row.sscc_extension,
    work: {
      perOrder: Number(row.work_per_order),
      perBin: Number(row.work_per_bin),
      perLine: Number(row.work_per_line),
      perPackage: Number(row.work_per_package),
    },
    periods,
  }
}

export const warehouses = (db: Knex): Promise<{ id: number; name: string; at_work: number }[]> =>
  db("warehouse").orderBy("id").select("id", "name", "at_work")
