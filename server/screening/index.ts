import type { Address } from "core/address/index.ts"
import { type ListedParty, type ScreeningHit, screen } from "core/screening/index.ts"
import type { Knex } from "knex"

/** The lists as they were read last, by what tells that they are others now; one per process, never stale. */
let known: { readonly mark: string; readonly parties: readonly ListedParty[] } | null = null

async function parties(db: Knex): Promise<readonly ListedParty[]> {
  const mark = await db("screening_entry").count({ n: "*" }).max({ last: "id" }).first()
  const key = `${mark?.n} ${mark?.last} ${db.client.config.connection?.database}`
  if (known?.mark !== key) known = { mark: key, parties: await db("screening_entry").orderBy("id") }
  return known.parties
}

/**
 * The listed parties that an order's names or its address abroad come too close to; who is named besides the receiver, such
 * as an importer or a buyer, by name and by his own address.
 */
export async function screeningHits(
  db: Knex,
  customer: string,
  shipTo: Address,
  others: readonly Omit<Address, "kind">[] = [],
): Promise<ScreeningHit[]> {
  const listed = await parties(db)
  return [
    ...screen([customer, shipTo.company, shipTo.attention], shipTo, listed),
    ...others.flatMap((one) => screen([one.company, one.attention], one, listed)),
  ]
}
