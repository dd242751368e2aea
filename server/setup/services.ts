import type { Knex } from "knex"

/** A service with its carrier, as it is chosen and shown. */
export interface ServiceRow {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly carrier: string
  readonly carrier_code: string
  /** How long after it was bought a label can be voided. */
  readonly void_minutes: number
}

const services = (db: Knex) =>
  db("service")
    .join("carrier", "carrier.id", "service.carrier_id")
    .select(
      "service.id",
      "service.code",
      "service.name",
      "carrier.name as carrier",
      "carrier.code as carrier_code",
      "carrier.void_minutes",
    )

/** All services that goods go out with, or that they come back by, by their carriers' names, then their own. */
export const servicesByName = (db: Knex, returns = false): Promise<ServiceRow[]> =>
  services(db).where("service.returns", returns).orderBy("carrier.name").orderBy("service.name")

export const serviceById = async (db: Knex, id: number): Promise<ServiceRow | null> =>
  (await services(db).where("service.id", id).first()) ?? null
