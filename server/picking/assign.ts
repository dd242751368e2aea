import type { AllocationId, UserId } from "core/ids/index.ts"
import { nextStop } from "core/picking/index.ts"
import type { Knex } from "knex"
import { claimMs, type OrderStop, type Walked } from "./stops.ts"

/** So often another may be quicker before a person is sent where he stands. */
const mostTries = 8

/**
 * Gives a person who walks a run a stop of his own, with what else lies in its bin: the one that he has, or the next one
 * that nobody has. Written down at once, so that two who walk one run are never sent to the same place; where others
 * have all that is left, nothing is given. Safe to repeat.
 */
export async function assigned(db: Knex, walked: Walked, userId: UserId): Promise<Walked> {
  let { stops } = walked
  for (let tries = 0; tries < mostTries; tries += 1) {
    const next = nextStop(stops, userId)
    if (!next || (next.claimedBy !== null && next.claimedBy !== userId)) break
    const free = (stop: OrderStop) => stop.picked < stop.quantity && stop.claimedBy === null
    const wanted =
      next.claimedBy === userId
        ? []
        : [next, ...stops.filter((stop) => stop !== next && free(stop) && stop.bin === next.bin)]
    if (wanted.length === 0) break
    const won = new Set<number>()
    for (const stop of wanted) if (await take(db, stop.allocationId, userId)) won.add(stop.allocationId)
    const lost = wanted.filter((stop) => !won.has(stop.allocationId))
    const whose = await holders(db, lost)
    stops = stops.map((stop) =>
      won.has(stop.allocationId)
        ? { ...stop, claimedBy: userId }
        : { ...stop, claimedBy: whose.get(stop.allocationId) ?? stop.claimedBy },
    )
    if (won.has(next.allocationId)) break
  }
  return { ...walked, stops }
}

/** One statement decides between two who want the same. */
const take = async (db: Knex, allocationId: AllocationId, userId: UserId): Promise<boolean> =>
  (await db("allocation")
    .where({ id: allocationId })
    .whereRaw("picked < quantity")
    .where((free) =>
      free
        .whereNull("claimed_by")
        .orWhere({ claimed_by: userId })
        .orWhere("claimed_at", "<", new Date(Date.now() - claimMs)),
    )
    .update({ claimed_by: userId, claimed_at: new Date() })) > 0

async function holders(db: Knex, stops: readonly OrderStop[]): Promise<Map<number, number>> {
  if (stops.length === 0) return new Map()
  const rows = await db("allocation")
    .whereIn(
      "id",
      stops.map((stop) => stop.allocationId),
    )
    .whereNotNull("claimed_by")
    .select("id", "claimed_by")
  return new Map(rows.flatMap((row) => (row.claimed_by === null ? [] : [[row.id, row.claimed_by]])))
}
