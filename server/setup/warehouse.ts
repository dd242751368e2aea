import { type Crew, crewOn, type WorkPeriod } from "core/calendar/crew.ts"
import type { LocalDate } from "core/calendar/index.ts"
import type { WarehouseId } from "core/ids/index.ts"
import type { WorkCoefficients } from "core/orders/index.ts"
import type { KeepTogether } from "core/packing/index.ts"
import { type ShipperSettings, shipperSchema } from "core/papers/shipper.ts"
import type { LeavePolicy } from "core/plan/index.ts"
import type { Preferred } from "core/preferences/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { parsed } from "../audit/index.ts"
import { onceForEachChange } from "../live/kept.ts"
import { preferencesAt } from "./preferences.ts"

export interface Warehouse {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly zone: string
  /** People of a shift that has no number of its own. */
  readonly hands: number
  readonly sender: readonly string[]
  readonly company: string
  readonly street: string
  readonly city: string
  readonly phone: string
  /** What papers over a border and of dangerous goods say of the shipper. */
  readonly shipper: ShipperSettings
  readonly postalCode: string
  readonly state: string
  readonly country: string
  readonly gs1Prefix: string
  readonly ssccExtension: number
  readonly workload: WorkCoefficients
  readonly periods: readonly WorkPeriod[]
  /** What an hour of one person more costs, in the warehouse's currency; 0: not said. */
  readonly handHour: string
  readonly currency: string
  readonly leavePolicy: LeavePolicy
  /** Shipping runs may pack as suggested what nobody has packed. */
  readonly packInRuns: boolean
  /** Every package that is handled by itself is weighed before it is closed. */
  readonly weighAll: boolean
  /** The share of a carton's inside that is left for filling material. */
  readonly fillShare: number
  /** Walks take heavy goods before others, and cold ones after them. */
  readonly heavyFirst: boolean
  readonly coldLast: boolean
  /** What is to stay in one package where it can. */
  readonly keepTogether: KeepTogether
  /** What is usual in all of it. */
  readonly preferred: readonly Preferred[]
  readonly version: number
}

/** A warehouse with its working time. Throws when there is none with this id. */
export async function warehouseById(db: Knex, id: number): Promise<Warehouse> {
  const [row, periods, preferred] = await Promise.all([
    db("warehouse").where({ id }).first(),
    db("work_period")
      .where({ warehouse_id: id })
      .orderBy("starts")
      .orderBy("id")
      .select("kind", "starts", "ends", "hands"),
    preferencesAt(db, { warehouseId: id }),
  ])
  if (!row) throw new Error(`no warehouse has the id ${id}`)
  return {
    id,
    code: row.code,
    name: row.name,
    zone: row.zone,
    hands: row.hands,
    sender: [row.company, row.street, `${row.city} ${row.state} ${row.postal_code}`, row.phone],
    company: row.company,
    street: row.street,
    city: row.city,
    phone: row.phone,
    shipper: shipperSchema.parse(parsed(row.shipper)),
    postalCode: row.postal_code,
    state: row.state,
    country: row.country,
    gs1Prefix: row.gs1_prefix,
    ssccExtension: row.sscc_extension,
    workload: {
      perOrder: Number(row.work_per_order),
      perBin: Number(row.work_per_bin),
      perLine: Number(row.work_per_line),
      perPackage: Number(row.work_per_package),
      perPaper: Number(row.work_per_paper),
    },
    periods,
    handHour: row.hand_hour,
    currency: row.currency,
    leavePolicy: row.leave_policy,
    packInRuns: !!row.pack_in_runs,
    weighAll: !!row.weigh_all,
    fillShare: Number(row.fill_share),
    keepTogether: row.keep_together,
    heavyFirst: !!row.heavy_first,
    coldLast: !!row.cold_last,
    preferred,
    version: row.version,
  }
}

/** Who works when in a warehouse on a day: nobody where it is closed, so many as were set for this day alone. */
export async function crewOf(db: Knex, warehouse: Warehouse, date: LocalDate): Promise<Crew[]> {
  const own = await db("day_exception").where({ warehouse_id: warehouse.id, on_date: date }).first("closed", "hands")
  return own?.closed ? [] : crewOn(date, warehouse.zone, warehouse.periods, warehouse.hands, own?.hands ?? null)
}

/** People who were set for one day alone; null: as the shifts say. */
export async function handsSetFor(db: Knex, warehouse: Pick<Warehouse, "id">, date: LocalDate): Promise<number | null> {
  const own = await db("day_exception").where({ warehouse_id: warehouse.id, on_date: date }).first("hands")
  return own?.hands ?? null
}

/** People at work at an instant; between shifts and in breaks those of the stretch to come, or of the last one. */
export const handsAt = (crew: readonly Crew[], now: Date): number =>
  (crew.find((span) => span.to > now) ?? crew.at(-1))?.hands ?? 0

/** Warehouses at work. */
export const warehouses = (db: Knex): Promise<{ id: number; name: string }[]> =>
  db("warehouse").where({ at_work: true }).orderBy("id").select("id", "name")

/** Those where somebody may work. */
export async function warehousesOf(
  context: Pick<Context, "db" | "actor" | "changes"> & { readonly places?: readonly WarehouseId[] },
): Promise<{ id: number; name: string }[]> {
  const { db, actor } = context
  const [all, own] = await Promise.all([
    onceForEachChange(context, actor.warehouseId, "warehouses", () => warehouses(db)),
    context.places ?? db("user_warehouse").where("user_id", actor.userId).pluck("warehouse_id"),
  ])
  return all.filter((one) => own.includes(one.id))
}
