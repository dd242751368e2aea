import type { LocalTime } from "core/calendar/index.ts"
import type { WorkCoefficients } from "core/orders/index.ts"
import type { Knex } from "knex"
import type { Context } from "../accounts/index.ts"

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

/** Warehouses at work. */
export const warehouses = (db: Knex): Promise<{ id: number; name: string }[]> =>
  db("warehouse").where({ at_work: true }).orderBy("id").select("id", "name")

/** Those where somebody may work. */
export const warehousesOf = ({ db, actor }: Pick<Context, "db" | "actor">): Promise<{ id: number; name: string }[]> =>
  warehouses(db).then(async (all) => {
    const own = await db("user_warehouse").where({ user_id: actor.userId }).pluck("warehouse_id")
    return all.filter((one) => own.includes(one.id))
  })
