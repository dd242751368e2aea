import { isMilitary, isPostBox, type RemoteArea, remoteArea } from "core/address/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"

/** What is special about where an order goes, from its address and from data: a box, armed forces, a remote area. */
export async function addressFlags(
  db: Knex,
  row: { street: string; street2: string; state: string; postal_code: string; country: string },
): Promise<Reason[]> {
  const flags: Reason[] = []
  if (isPostBox(row)) flags.push(reason("flag.post-box"))
  if (isMilitary(row)) flags.push(reason("flag.military"))
  const areas: RemoteArea[] = await db("remote_area")
    .where({ country: row.country })
    .select("name", "country", "from_code as from", "to_code as to")
  const area = remoteArea(areas, { country: row.country, postalCode: row.postal_code })
  if (area) flags.push(reason("flag.remote", { area: area.name }))
  return flags
}
