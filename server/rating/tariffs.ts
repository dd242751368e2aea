import { zip3 } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import { type Tariff, tariffSchema, type ZoneChart, zoneChartSchema } from "core/rating/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"

export interface RatedService {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly carrierId: number
  readonly carrier: string
  readonly holidays: ReadonlySet<LocalDate>
  /** The carrier can't be asked to book until then (real time), or null. */
  readonly downUntil: Date | null
  readonly tariff: Tariff | null
  readonly chart: ZoneChart | null
}

/** Every service with its tariff in force on a date and its zones from an origin. Bodies were checked when stored. */
export async function servicesOn(db: Knex, date: LocalDate, originPostalCode: string): Promise<RatedService[]> {
  const services = await db("service")
    .join("carrier", "carrier.id", "service.carrier_id")
    .orderBy("service.id")
    .select(
      "service.id",
      "service.code",
      "service.name",
      "carrier.id as carrier_id",
      "carrier.name as carrier",
      "carrier.holidays",
      "carrier.down_until",
    )
  const tariffs = await db("tariff").where("valid_from", "<=", date).orderBy("valid_from").select("service_id", "body")
  const charts = await db("zone_chart")
    .where({ origin: zip3(originPostalCode) })
    .select("carrier_id", "body")
  const tariffOf = new Map(tariffs.map((row) => [row.service_id, row.body]))
  const chartOf = new Map(charts.map((row) => [row.carrier_id, row.body]))
  return services.map((row) => ({
    id: row.id,
    code: row.code,
    name: row.name,
    carrierId: row.carrier_id,
    carrier: row.carrier,
    holidays: new Set(parsed<string[]>(row.holidays)),
    downUntil: row.down_until,
    tariff: tariffOf.has(row.id) ? parsed<Tariff>(tariffOf.get(row.id)) : null,
    chart: chartOf.has(row.carrier_id) ? parsed<ZoneChart>(chartOf.get(row.carrier_id)) : null,
  }))
}

/** Stores a service's tariff from its day on. Throws a ZodError when the document is not a tariff. */
export async function putTariff(db: Knex, serviceId: number, document: unknown): Promise<void> {
  const tariff = tariffSchema.parse(document)
  await db("tariff")
    .insert({ service_id: serviceId, valid_from: tariff.validFrom, body: JSON.stringify(tariff) })
    .onConflict(["service_id", "valid_from"])
    .merge()
}

export async function putZoneChart(db: Knex, carrierId: number, document: unknown): Promise<void> {
  const chart = zoneChartSchema.parse(document)
  await db("zone_chart")
    .insert({ carrier_id: carrierId, origin: chart.origin, body: JSON.stringify(chart) })
    .onConflict(["carrier_id", "origin"])
    .merge()
}
