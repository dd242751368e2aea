import { type LocalDate, localDate } from "core/calendar/index.ts"
import type { WarehouseId } from "core/ids/index.ts"
import type { Service } from "core/tariff/index.ts"
import type { Knex } from "knex"
import { businessNow } from "../clock/index.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { inForce, type RatedService, servicesOn } from "./tariffs.ts"

/** The service that something is planned to be sent with: by its id, or by its code where that was settled. */
export interface PlannedService {
  readonly id: number | null
  readonly code: string | undefined
}

/** What the tariff of a planned service says on a day; null where none is planned, or nothing is in force. */
export function termsOn(services: readonly RatedService[], planned: PlannedService, day: LocalDate): Service | null {
  const service =
    services.find((one) => one.id === planned.id) ?? services.find((one) => one.code === (planned.code ?? ""))
  return (service && inForce(service, day)?.terms) ?? null
}

/** The same, read from the database for today at a warehouse. */
export async function plannedTerms(
  db: Knex,
  warehouseId: WarehouseId,
  planned: PlannedService,
): Promise<Service | null> {
  if (planned.id === null && planned.code === undefined) return null
  const { zone } = await warehouseById(db, warehouseId)
  const today = localDate(await businessNow(db), zone)
  return termsOn(await servicesOn(db, today), planned, today)
}
