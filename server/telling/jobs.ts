import { randomUUID } from "node:crypto"
import type { Knex } from "knex"
import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"

/** Makes the words of messages that are due, and hands them on. */
export const telling = jobKind({
  name: "telling.send",
  payload: z.object({}),
  needs: "outside",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 24,
  patient: true,
})

/** Asks that what waits be sent, unless somebody has. */
export async function askToTell(trx: Knex): Promise<void> {
  const asked = await trx("job").where({ kind: telling.name, state: "waiting" }).whereNull("leased_until").first("id")
  if (!asked) await telling.queue(trx, `${telling.name}:${randomUUID()}`, {})
}
