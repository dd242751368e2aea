import {
  emptyPlan,
  type FloorDistances,
  type FloorPlan,
  floorDistances,
  planFlaws,
  planSchema,
  zoneAt,
} from "core/floorPlan/index.ts"
import type { WarehouseId } from "core/ids/index.ts"
import { plainOrder } from "core/picking/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"

export interface Floor {
  readonly plan: FloorPlan
  readonly version: number
  readonly distances: FloorDistances
  /** Codes of where walks begin and end; null where the plan names none. */
  readonly desk: string | null
  readonly bench: string | null
}

const known = new WeakMap<object, Map<number, Floor>>()

/** A warehouse's floor with its bins; what lies between them is worked out once for a version of the plan. */
export async function floorOf(db: Knex, warehouseId: WarehouseId): Promise<Floor> {
  const now = there(await db("warehouse").where({ id: warehouseId }).first("plan_version"))
  const here = known.get(db.client) ?? new Map<number, Floor>()
  known.set(db.client, here)
  const before = here.get(warehouseId)
  if (before && before.version === now.plan_version) return before
  const row = there(await db("warehouse").where({ id: warehouseId }).first("floor_plan", "plan_version"))
  const body = row.floor_plan === null ? emptyPlan : { ...emptyPlan, ...parsed<Partial<FloorPlan>>(row.floor_plan) }
  const bins = await db("bin")
    .where({ warehouse_id: warehouseId })
    .whereNotNull("aisle")
    .orderBy("code")
    .select("code", "aisle", "x_m", "y_m", "level")
  const plan: FloorPlan = {
    ...body,
    bins: bins.map((bin) => ({
      code: bin.code,
      aisle: bin.aisle as string,
      x: Number(bin.x_m),
      y: Number(bin.y_m),
      level: bin.level,
    })),
  }
  const floor: Floor = {
    plan,
    version: row.plan_version,
    distances: floorDistances(plan),
    desk: plan.places.find((place) => place.kind === "desk")?.code ?? null,
    bench: plan.places.find((place) => place.kind === "bench")?.code ?? null,
  }
  here.set(warehouseId, floor)
  return floor
}

/** A plan as it came in a file, read; refused with every place in it that can't be read, or that can't be. */
export function readPlan(body: unknown): Outcome<FloorPlan> {
  const read = planSchema.safeParse(body)
  if (!read.success)
    return {
      ok: false,
      reasons: read.error.issues
        .slice(0, 40)
        .map((issue) =>
          reason("floor-plan.shape", { where: issue.path.map(String).join(".") || "–", why: issue.message }),
        ),
    }
  const flaws = planFlaws(read.data)
  return flaws.length > 0 ? { ok: false, reasons: flaws.slice(0, 40) } : accepted(read.data)
}

/** Bins that lie in a warehouse now and are missing from a plan although goods lie in them. */
async function lost(trx: Knex, warehouseId: WarehouseId, plan: FloorPlan): Promise<Reason[]> {
  const named = new Set(plan.bins.map((bin) => bin.code.toUpperCase()))
  const filled = await trx("bin as b")
    .join("stock as s", "s.bin_id", "b.id")
    .where("b.warehouse_id", warehouseId)
    .groupBy("b.id", "b.code")
    .havingRaw("SUM(s.on_hand) > 0")
    .select("b.code", trx.raw("SUM(s.on_hand) AS pieces"))
  return filled
    .filter((bin) => !named.has(bin.code.toUpperCase()))
    .map((bin) => reason("floor-plan.bin-not-empty", { bin: bin.code, pieces: Number(bin.pieces) }))
}

/**
 * Puts a plan in the place of the one before, bins with it. Refused when it has flaws, when somebody else changed the
 * plan meanwhile, or when a bin with goods in it is not on it. Bins that are not on it and are empty stay known for
 * what was in them, but off the plan.
 */
export async function putPlan(context: Context, version: number, body: unknown): Promise<Outcome<{ bins: number }>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const read = readPlan(body)
  if (!read.ok) return read
  const plan = read.value
  return inTransaction(db, async (trx): Promise<Outcome<{ bins: number }>> => {
    const row = there(await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().first("plan_version"))
    if (row.plan_version !== version) return refused(reason("floor-plan.changed-meanwhile"))
    const missing = await lost(trx, actor.warehouseId, plan)
    if (missing.length > 0) return { ok: false, reasons: missing }
    await storePlan(trx, actor.warehouseId, plan)
    await record(trx, actor, now, {
      action: "floor.plan-changed",
      warehouseId: actor.warehouseId,
      detail: { bins: plan.bins.length, aisles: plan.aisles.length, zones: plan.zones.length },
    })
    return accepted({ bins: plan.bins.length })
  })
}

/** Writes a plan that was checked. */
export async function storePlan(trx: Knex, warehouseId: WarehouseId, plan: FloorPlan): Promise<void> {
  const { bins, ...body } = plan
  const distances = floorDistances(plan)
  const desk = plan.places.find((place) => place.kind === "desk")?.code ?? ""
  const bench = plan.places.find((place) => place.kind === "bench")?.code ?? ""
  const order = new Map(
    plainOrder(
      bins.map((bin) => bin.code),
      distances,
      desk,
      bench,
    ).map((code, index) => [code, index + 1]),
  )
  await trx("bin").where({ warehouse_id: warehouseId }).update({ aisle: null, x_m: null, y_m: null })
  for (let at = 0; at < bins.length; at += 500)
    await trx("bin")
      .insert(
        bins.slice(at, at + 500).map((bin) => ({
          warehouse_id: warehouseId,
          code: bin.code,
          aisle: bin.aisle as string,
          x_m: bin.x.toFixed(2),
          y_m: bin.y.toFixed(2),
          level: bin.level,
          zone: zoneAt(plan.zones, bin.x, bin.y)?.code ?? "",
          walk_order: (order.get(bin.code) ?? 0) * 20 + bin.level,
        })),
      )
      .onConflict(["warehouse_id", "code"])
      .merge(["aisle", "x_m", "y_m", "level", "zone", "walk_order"])
  await trx("warehouse")
    .where({ id: warehouseId })
    .update({ floor_plan: JSON.stringify(body), plan_version: trx.raw("plan_version + 1") })
}

/** Each bin of the plan, by its code: blocked, with stock, or free. */
export async function binStates(
  db: Knex,
  warehouseId: WarehouseId,
): Promise<Map<string, "blocked" | "filled" | "free">> {
  const rows = await db("bin as b")
    .leftJoin("stock as s", "s.bin_id", "b.id")
    .where({ "b.warehouse_id": warehouseId })
    .whereNotNull("b.aisle")
    .groupBy("b.id", "b.code", "b.blocked_why")
    .select("b.code", "b.blocked_why", db.raw("COALESCE(SUM(s.on_hand), 0) AS pieces"))
  return new Map(
    rows.map((bin) => [bin.code, bin.blocked_why !== null ? "blocked" : Number(bin.pieces) > 0 ? "filled" : "free"]),
  )
}
