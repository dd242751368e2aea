import { localTime } from "core/calendar/index.ts"
import type { DriverOnPaper } from "core/documents/index.ts"
import type { CollectionId } from "core/ids/index.ts"
import { strokesSchema } from "core/signature/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { parsed } from "../audit/index.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** What is kept of a driver: what was typed and written when his truck was there. */
export const driverSchema = z.object({
  name: z.string(),
  /** Handling units that he counted; null: he did not. */
  units: z.number().int().nullable(),
  reason: z.string(),
  seal: z.string(),
  trailer: z.string(),
  /** He signed the paper instead of the screen. */
  onPaper: z.boolean(),
  strokes: strokesSchema,
})
export type Driver = z.infer<typeof driverSchema>

/** The driver of a truck, with when it came and went; null where nothing is known yet. */
export async function driverOf(
  db: Knex,
  warehouse: Pick<Warehouse, "id" | "zone">,
  collectionId: CollectionId,
): Promise<{
  readonly driver: Driver | null
  readonly arrivedAt: Date | null
  readonly departedAt: Date | null
} | null> {
  const row = await db("collection")
    .where({ id: collectionId, warehouse_id: warehouse.id })
    .first("driver", "arrived_at", "departed_at")
  return row
    ? {
        driver: row.driver === null ? null : driverSchema.parse(parsed(row.driver)),
        arrivedAt: row.arrived_at,
        departedAt: row.departed_at,
      }
    : null
}

/** The same as it stands on papers. */
export async function driverOnPaper(
  db: Knex,
  warehouse: Pick<Warehouse, "id" | "zone">,
  collectionId: CollectionId,
): Promise<DriverOnPaper | null> {
  const known = await driverOf(db, warehouse, collectionId)
  if (!known || (!known.driver && !known.arrivedAt && !known.departedAt)) return null
  const at = (time: Date | null) => (time ? localTime(time, warehouse.zone) : "")
  const { driver } = known
  return {
    name: driver?.name ?? "",
    strokes: driver?.strokes ?? [],
    units: driver?.units === null || driver === null ? "" : String(driver.units),
    reason: driver?.reason ?? "",
    seal: driver?.seal ?? "",
    trailer: driver?.trailer ?? "",
    arrived: at(known.arrivedAt),
    departed: at(known.departedAt),
  }
}
