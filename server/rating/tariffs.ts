import type { LocalDate } from "core/calendar/index.ts"
import type { CarrierId } from "core/ids/index.ts"
import { type Money, money } from "core/money/index.ts"
import { type Service, type serviceModes, type Tariff, tariffSchema } from "core/tariff/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"

/** A released version of a carrier's tariff. */
export interface TariffVersion {
  readonly id: number
  readonly number: number
  readonly tariff: Tariff
}

export interface RatedService {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly mode: (typeof serviceModes)[number]
  readonly carrierId: CarrierId
  readonly carrierCode: string
  /** The code that the trade knows the carrier by. */
  readonly tradeCode: string
  readonly carrier: string
  /** The carrier can't be asked to book until then (real time), or null. */
  readonly downUntil: Date | null
  /** What is left on a prepaid account; null where the carrier bills us. */
  readonly balance: Money | null
  /** How its accounts are written; see `accountMatches`. */
  readonly accountForm: string
  /** Versions that hold on or after the day that was asked for, the latest first. */
  readonly versions: readonly TariffVersion[]
}

/** What a service is priced by on a day. */
export interface InForce {
  readonly version: TariffVersion
  readonly terms: Service
}

/** The version of the tariff that holds on a day, with what it says of the service; null where none does. */
export function inForce({ versions, code }: RatedService, day: LocalDate): InForce | null {
  const version = versions.find(
    ({ tariff }) => tariff.validFrom <= day && (tariff.validTo === null || day <= tariff.validTo),
  )
  const terms = version?.tariff.services.find((one) => one.code === code)
  return version && terms ? { version, terms } : null
}

/** Every service that goods go out with, or that they come back by, with the tariffs that are in force from a day on. */
export async function servicesOn(db: Knex, day: LocalDate, returns = false): Promise<RatedService[]> {
  const services = await db("service")
    .where("service.returns", returns)
    .join("carrier", "carrier.id", "service.carrier_id")
    .orderBy("service.id")
    .select(
      "service.id",
      "service.code",
      "service.name",
      "service.mode",
      "carrier.id as carrier_id",
      "carrier.code as carrier_code",
      "carrier.carrier_code as trade_code",
      "carrier.name as carrier",
      "carrier.down_until",
      "carrier.prepaid_balance",
      "carrier.account_form",
    )
  const asked = await askedFor(db)
  const rows = await db("tariff_version")
    .where({ state: "released" })
    .where((query) => query.whereNull("valid_to").orWhere("valid_to", ">=", day))
    .orderBy([
      { column: "valid_from", order: "desc" },
      { column: "number", order: "desc" },
    ])
    .select("id", "carrier_id", "number", "revision")
  const bodies = await documents(db, rows)
  const versionsOf = new Map<number, TariffVersion[]>()
  for (const row of rows) {
    const version = { id: row.id, number: row.number, tariff: bodies.get(row.id) as Tariff }
    versionsOf.set(row.carrier_id, [...(versionsOf.get(row.carrier_id) ?? []), version])
  }
  return services.map((row) => {
    const versions = versionsOf.get(row.carrier_id) ?? []
    return {
      id: row.id,
      code: row.code,
      name: row.name,
      mode: row.mode,
      carrierId: row.carrier_id,
      carrierCode: row.carrier_code,
      tradeCode: row.trade_code || row.carrier_code,
      carrier: row.carrier,
      downUntil: row.down_until,
      balance:
        row.prepaid_balance === null
          ? null
          : money(
              new Decimal(row.prepaid_balance).sub(asked.get(row.carrier_id) ?? 0),
              versions[0]?.tariff.currency ?? "USD",
            ),
      accountForm: row.account_form,
      versions,
    }
  })
}

/** A carrier's tariff that holds on a day; null where none does. */
export async function tariffOn(db: Knex, carrierId: CarrierId, day: LocalDate): Promise<Tariff | null> {
  const row = await db("tariff_version")
    .where({ carrier_id: carrierId, state: "released" })
    .where("valid_from", "<=", day)
    .where((open) => open.whereNull("valid_to").orWhere("valid_to", ">=", day))
    .orderBy([
      { column: "valid_from", order: "desc" },
      { column: "number", order: "desc" },
    ])
    .first("id", "revision")
  return row ? ((await documents(db, [row])).get(row.id) ?? null) : null
}

/** What labels that are being bought from each prepaid carrier will cost us; where another pays, nothing. */
async function askedFor(db: Knex): Promise<Map<number, string>> {
  const rows = await db("buy_intent as i")
    .join("service as s", "s.id", "i.service_id")
    .join("carrier as c", "c.id", "s.carrier_id")
    .where({ "i.state": "open" })
    .whereNotNull("c.prepaid_balance")
    .whereRaw("COALESCE(JSON_VALUE(i.rate, '$.payer'), 'shipper') = 'shipper'")
    .groupBy("c.id")
    .select("c.id", db.raw("SUM(i.expected_amount) AS amount"))
  return new Map(rows.map((row) => [row.id, row.amount]))
}

/** Documents already read, by database and row; read again when the row's revision counts up. */
const kept = new Map<string, { revision: number; body: Tariff }>()

async function documents(
  db: Knex,
  rows: readonly { readonly id: number; readonly revision: number }[],
): Promise<Map<number, Tariff>> {
  const { host, port, database } = db.client.connectionSettings
  const key = (id: number) => `${host}:${port}/${database} ${id}`
  const missing = rows.filter((row) => kept.get(key(row.id))?.revision !== row.revision).map((row) => row.id)
  if (missing.length > 0)
    for (const row of await db("tariff_version").whereIn("id", missing).select("id", "revision", "body"))
      kept.set(key(row.id), { revision: row.revision, body: tariffSchema.parse(parsed(row.body)) })
  return new Map(rows.map((row) => [row.id, kept.get(key(row.id))?.body as Tariff]))
}
