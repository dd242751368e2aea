import { identifier } from "core/identifier/index.ts"
import type { Knex } from "knex"

/**
 * The customer that a text names: by code, byte by byte, or by name; a name that is written otherwise than ours is taken
 * where it can only be one (`elk run taproom`), and never for one of two that differ by a letter's case or accent.
 */
export async function customerNamed(trx: Knex, text: string): Promise<{ id: number; name: string } | undefined> {
  const code = identifier(text)
  const found: { id: number; code: string; name: string }[] = await trx("customer")
    .where({ code })
    .orWhere({ name: text })
    .orderBy("id")
    .limit(50)
    .select("id", "code", "name")
  return (
    found.find((one) => one.code === code) ??
    found.find((one) => one.name === text) ??
    (found.length === 1 ? found[0] : undefined)
  )
}

/** Customers by name, 500 at most. */
export const customersByName = (db: Knex): Promise<{ code: string; name: string }[]> =>
  db("customer").orderBy("name").limit(500).select("code", "name")
