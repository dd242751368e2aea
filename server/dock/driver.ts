import { instantAt, type LocalTime, localTime } from "core/calendar/index.ts"
import { arrivalsKept, usualTime } from "core/handover/index.ts"
import type { CollectionId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { isSigned, strokesFrom } from "core/signature/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { type Driver, driverSchema } from "../papers/driver.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { saveCollected } from "../shipping/collected.ts"
import { withTruck } from "./close.ts"
import { redrawForms } from "./forms.ts"
import { packagesOf } from "./packages.ts"

const text = (most: number) => z.string().trim().max(most).default("")
const time = z
  .string()
  .trim()
  .regex(/^(([01]\d|2[0-3]):[0-5]\d)?$/, "driver.time")
  .default("")

/** What is typed and written when a truck is there. */
export const driverForm = z.object({
  name: text(60),
  units: z
    .string()
    .trim()
    .regex(/^\d{0,4}$/, "driver.units")
    .default(""),
  reason: text(120),
  seal: text(20),
  trailer: text(20),
  arrived: time,
  departed: time,
  onPaper: z.boolean().default(false),
  /** Points of the signature, as the screen sends them; empty: as it is kept. */
  signature: z.string().max(120_000, "signature.too-long").default(""),
})
export type DriverForm = z.infer<typeof driverForm>

const nobody: Driver = { name: "", units: null, reason: "", seal: "", trailer: "", onPaper: false, strokes: [] }

/**
 * Keeps who fetches a truck's goods: name, count, seal, trailer, when it came and went, and the signature; of it what
 * somebody changed. Forms that are
 * made already are drawn again with it, and freight's bills of lading as well. Refused where the count differs from
 * what is on the truck and nobody says why. Safe to repeat.
 */
export async function saveDriver(
  context: Context,
  collectionId: CollectionId,
  changed: Partial<DriverForm>,
): Promise<Outcome<{ readonly door: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const strokes = strokesFrom(changed.signature ?? "")
  if (strokes === null) return refused(reason("driver.bad-signature", { field: "signature" }))
  if (strokes.length > 0 && !isSigned(strokes)) return refused(reason("driver.touch", { field: "signature" }))
  const warehouse = await warehouseById(db, actor.warehouseId)
  const saved = await withTruck(
    db,
    actor.warehouseId,
    collectionId,
    async (trx, collection): Promise<Outcome<Saved>> => {
      if (!collection) return refused(reason("dock.no-such-collection"))
      const row = await trx("collection").where({ id: collectionId }).first("driver", "arrived_at", "departed_at")
      const had = row?.driver ? driverSchema.parse(parsed(row.driver)) : nobody
      const wall = (at: Date | null | undefined) => (at ? localTime(at, warehouse.zone) : "")
      // what was not changed here is as it is kept: somebody else may have typed it meanwhile
      const said = {
        ...had,
        units: had.units === null ? "" : String(had.units),
        arrived: wall(row?.arrived_at),
        departed: wall(row?.departed_at),
        ...changed,
      }
      const driver: Driver = {
        name: said.name,
        units: said.units === "" ? null : Number(said.units),
        reason: said.reason,
        seal: said.seal,
        trailer: said.trailer,
        onPaper: said.onPaper,
        strokes: said.onPaper ? [] : strokes.length > 0 ? strokes : had.strokes,
      }
      const at = (time: string) => (time ? instantAt(collection.onDate, time as LocalTime, warehouse.zone) : null)
      const [arrivedAt, departedAt] = [at(said.arrived), at(said.departed)]
      const future = [
        ["arrived", arrivedAt],
        ["departed", departedAt],
      ].find(([, when]) => when instanceof Date && when.getTime() > now.getTime() + 60_000)
      if (future) return refused(reason("driver.future", { field: String(future[0]) }))
      if (arrivedAt && departedAt && departedAt < arrivedAt)
        return refused(reason("driver.order", { field: "departed" }))
      if (driver.strokes.length > 0 && driver.name === "") return refused(reason("driver.name", { field: "name" }))
      const packages = (await packagesOf(trx, [collectionId])).get(collectionId) ?? []
      const loaded = packages.filter((one) => one.state === "on-truck" || one.state === "gone")
      if (driver.units !== null && driver.units !== loaded.length && driver.reason.length < 3)
        return refused(reason("driver.difference", { counted: driver.units, packages: loaded.length, field: "reason" }))
      const same =
        JSON.stringify(driver) === JSON.stringify(had) &&
        arrivedAt?.getTime() === row?.arrived_at?.getTime() &&
        departedAt?.getTime() === row?.departed_at?.getTime()
      const freight = [...new Set(loaded.filter((one) => one.freight).map((one) => one.orderId))]
      const done = accepted({ door: collection.door, driver, freight })
      if (same) return done
      await trx("collection")
        .where({ id: collectionId })
        .update({ driver: JSON.stringify(driver), arrived_at: arrivedAt, departed_at: departedAt })
      await redrawForms(trx, context, collection)
      await record(trx, actor, now, {
        action: "dock.driver",
        collectionId,
        detail: {
          door: collection.door,
          name: driver.name,
          units: driver.units ?? "",
          signed: driver.strokes.length > 0 || driver.onPaper ? "yes" : "no",
        },
      })
      return done
    },
  )
  if (!saved.ok) return saved
  const { door, driver, freight } = saved.value
  // each bill of lading says the same, and keeps what is only its own
  for (const orderId of freight) {
    const bill = await saveCollected(context, orderId, {
      driver: driver.name,
      ...(driver.trailer ? { trailer: driver.trailer } : {}),
      ...(driver.seal ? { seal: driver.seal } : {}),
      strokes: driver.strokes,
    })
    // freight without a bill of lading has nothing to sign
    if (!bill.ok && bill.reasons.some((one) => one.code !== "lading.not-bought")) return bill
  }
  return accepted({ door })
}

interface Saved {
  readonly door: string
  readonly driver: Driver
  readonly freight: readonly number[]
}

/** When trucks usually come, by door and cut-off, from when they came lately. */
export async function usualTimes(
  db: Knex,
  warehouse: { readonly id: WarehouseId; readonly zone: string },
  collections: readonly {
    readonly id: number
    readonly door: string
    readonly cutOff: Date
    readonly carrierId: number
  }[],
): Promise<Map<number, LocalTime>> {
  if (collections.length === 0) return new Map()
  const rows = await db("collection")
    .where({ warehouse_id: warehouse.id })
    .whereIn("door", [...new Set(collections.map((one) => one.door))])
    .whereNotNull("arrived_at")
    .orderBy("arrived_at", "desc")
    .limit(arrivalsKept * 4 * Math.min(collections.length, 200))
    .select("door", "carrier_id", "cut_off", "arrived_at")
  const key = (door: string, carrier: number, cutOff: Date) => `${door} ${carrier} ${localTime(cutOff, warehouse.zone)}`
  const arrivals = new Map<string, LocalTime[]>()
  for (const row of rows) {
    const own = key(row.door, row.carrier_id, row.cut_off)
    const known = arrivals.get(own)
    const at = localTime(row.arrived_at as Date, warehouse.zone)
    if (known) known.push(at)
    else arrivals.set(own, [at])
  }
  return new Map(
    collections.flatMap((one) => {
      const usual = usualTime(arrivals.get(key(one.door, one.carrierId, one.cutOff)) ?? [])
      return usual ? [[one.id, usual] as const] : []
    }),
  )
}
