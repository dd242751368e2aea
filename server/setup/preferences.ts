import { type Preferences, type Preferred, preferencesSchema } from "core/preferences/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"

/** Who works where: nobody and no bench means the warehouse alone. */
export interface WorksAt {
  readonly warehouseId: number
  readonly userId?: number | null
  readonly benchId?: number | null
}

/** What is preferred by a person, at a bench and in a warehouse, as far as anybody said. */
export async function preferencesAt(db: Knex, { warehouseId, userId, benchId }: WorksAt): Promise<Preferred[]> {
  const rows = await db("preference as p")
    .join("warehouse as w", "w.id", "p.warehouse_id")
    .leftJoin("bench as b", (on) => void on.on("b.id", "p.bench").andOn("b.warehouse_id", "p.warehouse_id"))
    .where("p.warehouse_id", warehouseId)
    .whereIn("p.person", [0, userId ?? 0])
    .whereIn("p.bench", [0, benchId ?? 0])
    .select("p.bench", "p.person", "p.body", "w.name as warehouse", "b.name as benchName")
  return rows
    .filter((row) => row.person === 0 || row.bench === 0)
    .map((row) => ({
      by:
        row.person !== 0
          ? { kind: "user", name: "" }
          : row.bench !== 0
            ? { kind: "bench", name: row.benchName ?? "" }
            : { kind: "warehouse", name: row.warehouse },
      body: preferencesSchema.parse(parsed(row.body)),
    }))
}

export const worksAt = ({ actor, benchId }: Pick<Context, "actor" | "benchId">): WorksAt => ({
  warehouseId: actor.warehouseId,
  userId: actor.userId,
  benchId: benchId ?? null,
})

/** What the warehouse (0) and each of its benches prefer by themselves, by the bench's id; not said: nothing. */
export async function preferencesOfPlaces(db: Knex, warehouseId: number): Promise<Map<number, Preferences>> {
  const rows = await db("preference").where({ warehouse_id: warehouseId, person: 0 }).select("bench", "body")
  return new Map(rows.map((row) => [row.bench, preferencesSchema.parse(parsed(row.body))]))
}

/**
 * Keeps what the actor is used to, or what is usual at a bench of his warehouse or (0) in all of it. Refused for a bench
 * that is not there, and for what does not fit the schema. Safe to repeat.
 */
export async function savePreferences(
  context: Context,
  whose: "own" | { readonly bench: number },
  typed: unknown,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, whose === "own" ? "orders.work" : "printers.manage")
  const read = preferencesSchema.safeParse(typed)
  if (!read.success) return refused(reason("preference.shape"))
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const bench = whose === "own" ? 0 : whose.bench
    if (
      bench !== 0 &&
      !(await trx("bench").where({ id: bench, warehouse_id: actor.warehouseId, active: true }).first("id"))
    )
      return refused(reason("preference.no-bench"))
    await trx("preference")
      .insert({
        warehouse_id: actor.warehouseId,
        bench,
        person: whose === "own" ? (actor.userId ?? 0) : 0,
        body: JSON.stringify(read.data),
      })
      .onConflict(["warehouse_id", "bench", "person"])
      .merge(["body"])
    if (whose !== "own") await record(trx, actor, now, { action: "preference.saved", warehouseId: actor.warehouseId })
    return accepted(null)
  })
}
