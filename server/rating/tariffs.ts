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

/** Every service with its tariff in force on a date and its zones from an origin. */
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
  const tariffs = await db("tariff")
    .where("valid_from", "<=", date)
    .orderBy("valid_from")
    .select("id", "revision", "service_id")
  const charts = await db("zone_chart")
    .where({ origin: zip3(originPostalCode) })
    .select("id", "revision", "carrier_id")
  const inForce = new Map(tariffs.map((row) => [row.service_id, row]))
  const tariffOf = await bodies<Tariff>(db, "tariff", inForce)
  const chartOf = await bodies<ZoneChart>(db, "zone_chart", new Map(charts.map((row) => [row.carrier_id, row])))
  return services.map((row) => ({
    id: row.id,
    code: row.code,
    name: row.name,
    carrierId: row.carrier_id,
    carrier: row.carrier,
    holidays: new Set(parsed<string[]>(row.holidays)),
    downUntil: row.down_until,
    tariff: tariffOf.get(row.id) ?? null,
    chart: chartOf.get(row.carrier_id) ?? null,
  }))
}

/** Documents already parsed, by database, table and row; a document is read again when its revision counts up. */
const kept = new Map<string, { revision: number; body: unknown }>()

/** The parsed documents of rows, from memory where their revision is the same. */
async function bodies<T>(
  db: Knex,
  table: "tariff" | "zone_chart",
  rows: ReadonlyMap<number, { id: number; revision: number }>,
): Promise<Map<number, T>> {
  const { host, port, database } = db.client.connectionSettings
  const key = (id: number) => `${host}:${port}/${database} ${table} ${id}`
  const missing = [...rows.values()].filter((row) => kept.get(key(row.id))?.revision !== row.revision)
  if (missing.length > 0) {
    const read = await db(table)
      .whereIn(
        "id",
        missing.map((row) => row.id),
      )
      .select("id", "revision", "body")
    const schema = table === "tariff" ? tariffSchema : zoneChartSchema
    for (const row of read) kept.set(key(row.id), { revision: row.revision, body: schema.parse(parsed(row.body)) })
  }
  return new Map([...rows].map(([owner, row]) => [owner, kept.get(key(row.id))?.body as T]))
}

/** Stores a service's tariff from its day on. Throws a ZodError when the document is not a tariff. */
export async function putTariff(db: Knex, serviceId: number, document: unknown): Promise<void> {
  const tariff = tariffSchema.parse(document)
  await db("tariff")
    .insert({ service_id: serviceId, valid_from: tariff.validFrom, body: JSON.stringify(tariff) })
    .onConflict(["service_id", "valid_from"])
    .merge({ body: JSON.stringify(tariff), revision: db.raw("tariff.revision + 1") })
}

export async function putZoneChart(db: Knex, carrierId: number, document: unknown): Promise<void> {
  const chart = zoneChartSchema.parse(document)
  await db("zone_chart")
    .insert({ carrier_id: carrierId, origin: chart.origin, body: JSON.stringify(chart) })
    .onConflict(["carrier_id", "origin"])
    .merge({ body: JSON.stringify(chart), revision: db.raw("zone_chart.revision + 1") })
}
