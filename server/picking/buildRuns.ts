import { randomUUID } from "node:crypto"
import type { CartId, OrderId, WarehouseId } from "core/ids/index.ts"
import type { Cart } from "core/picking/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { compute } from "../compute/pool.ts"
import { runsWanted } from "../compute/tasks.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { floorOf } from "../floorPlan/index.ts"
import { type Candidate, type Grouping, inGroup, runCandidates, runOrderOf } from "./candidates.ts"
import { carts } from "./runs.ts"
import { runWalk } from "./stops.ts"

/** What runs are asked for. */
export interface RunWish {
  readonly by: Grouping
  /** The group's value, such as a collection's id or a zone. */
  readonly value: string
  /** Orders chosen by hand. */
  readonly orderIds: readonly OrderId[]
  readonly cartId: CartId | null
  /** Orders in one run at most. */
  readonly atMost: number
}

export interface Proposed {
  readonly runs: readonly {
    readonly orders: readonly { readonly id: number; readonly orderNumber: string }[]
    readonly bins: number
    readonly pieces: number
    readonly metres: number
    readonly apartMetres: number
  }[]
  readonly left: readonly { readonly orderNumber: string; readonly why: Reason }[]
  /** Whether the floor is drawn, so that meters mean something. */
  readonly measured: boolean
}

/** Orders up to which runs are built without a thread of their own. */
const inPlace = 40

/** The runs that a wish would make, with the meters that they save; nothing is written. */
export async function proposeRuns(context: Context, wish: RunWish): Promise<Proposed> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const all = inGroup(await runCandidates(db, actor.warehouseId), wish.by, wish.value, wish.orderIds)
  const cart =
    wish.cartId === null ? null : ((await carts(db, actor.warehouseId)).find((one) => one.id === wish.cartId) ?? null)
  const limit: Cart = {
    totes: cart && wish.by !== "single" && cart.totes > 0 ? cart.totes : null,
    litres: cart?.litres ?? null,
    kilograms: cart?.kilograms ?? null,
  }
  const floor = await floorOf(db, actor.warehouseId)
  const input = {
    orders: all.map((one) => runOrderOf(one, cart?.toteLitres ?? null)),
    cart: limit,
    atMost: Math.min(60, Math.max(1, wish.atMost)),
    floor: floor.desk && floor.bench ? { plan: floor.plan, desk: floor.desk, bench: floor.bench } : null,
  }
  const built = all.length <= inPlace ? runsWanted(input) : await compute("runsWanted", input)
  const byId = new Map(all.map((one) => [one.id, one]))
  const named = (id: number) => (byId.get(id) as Candidate).orderNumber
  return {
    measured: input.floor !== null,
    runs: built.runs.map((run) => {
      const stops = run.orders.flatMap((id) => [...(byId.get(id) as Candidate).stops])
      return {
        orders: run.orders.map((id) => ({ id, orderNumber: named(id) })),
        bins: new Set(stops.map((stop) => stop.bin)).size,
        pieces: stops.reduce((sum, stop) => sum + stop.quantity, 0),
        metres: run.metres,
        apartMetres: run.apartMetres,
      }
    }),
    left: built.left.map((one) => ({ orderNumber: named(one.order), why: one.why })),
  }
}

/**
 * Makes the runs that a wish asks for. An order that went into another run meanwhile, or has nothing to be picked any
 * more, is left out. Safe to repeat with the same key: it answers the runs that were made.
 */
export async function makeRuns(
  context: Context,
  wish: RunWish,
  key: string = randomUUID(),
): Promise<Outcome<number[]>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const label = await labelOf(db, wish)
  const proposed = await proposeRuns(context, wish)
  const floor = await floorOf(db, actor.warehouseId)
  return inTransaction(db, async (trx): Promise<Outcome<number[]>> => {
    // one at a time in a warehouse: two people who ask for the same orders get them once
    await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().first("id")
    const there = await trx("pick_run")
      .where({ made_key: key, warehouse_id: actor.warehouseId })
      .orderBy("number")
      .pluck("number")
    if (there.length > 0) return accepted(there)
    const numbers: number[] = []
    const last = await trx("pick_run").where({ warehouse_id: actor.warehouseId }).max({ n: "number" }).first()
    let number = Number(last?.n ?? 100)
    for (const run of proposed.runs) {
      const ids = run.orders.map((order) => order.id)
      await trx("sales_order").whereIn("id", ids).orderBy("id").forUpdate().select("id")
      number += 1
      const runId = newId(
        await trx("pick_run").insert({
          warehouse_id: actor.warehouseId,
          number,
          kind: wish.by === "single" ? "single" : "orders",
          label,
          zone: wish.by === "zone" ? wish.value : null,
          cart_id: wish.cartId,
          metres: run.metres.toFixed(1),
          apart_metres: run.apartMetres.toFixed(1),
          made_at: now,
          made_by: actor.name,
          made_key: key,
        }),
      )
      let position = 0
      for (const orderId of ids) {
        const allocations = await trx("allocation as a")
          .join("order_line as l", "l.id", "a.order_line_id")
          .join("stock as s", "s.id", "a.stock_id")
          .join("bin as b", "b.id", "s.bin_id")
          .where("l.order_id", orderId)
          .where("s.warehouse_id", actor.warehouseId)
          .whereNull("a.run_id")
          .whereRaw("a.picked < a.quantity")
          .where((query) => wish.by === "zone" && query.where("b.zone", wish.value))
          .pluck("a.id")
        if (allocations.length === 0) continue
        position += 1
        await trx("allocation").whereIn("id", allocations).update({ run_id: runId })
        await trx("pick_run_order").insert({ run_id: runId, order_id: orderId, position })
        await record(trx, actor, now, { action: "run.joined", orderId, detail: { run: number } })
      }
      if (position === 0) {
        await trx("pick_run").where({ id: runId }).delete()
        number -= 1
        continue
      }
      if (floor.desk && position < ids.length) await measureRun(trx, actor.warehouseId, runId)
      numbers.push(number)
    }
    if (numbers.length === 0) return refused(reason("run.nothing-to-pick"))
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(numbers)
  })
}

async function labelOf(db: Knex, wish: RunWish): Promise<string> {
  if (wish.by !== "collection") return `${wish.by}:${wish.value}`.slice(0, 80)
  const row = await db("collection as c")
    .join("carrier as k", "k.id", "c.carrier_id")
    .where("c.id", Number(wish.value) || 0)
    .first("c.door", "k.name")
  return `collection:${row ? `${row.door} ${row.name}` : ""}`.slice(0, 80)
}

/** Writes the meters of a run's walk down again, after what is in it changed. */
async function measureRun(trx: Knex, warehouseId: WarehouseId, runId: number): Promise<void> {
  const { metres } = await runWalk(trx, warehouseId, runId)
  await trx("pick_run").where({ id: runId }).update({ metres })
}
