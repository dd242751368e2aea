import type { AllocationId, CartId, OrderId, UserId } from "core/ids/index.ts"
import { totesFor } from "core/picking/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { peopleOnFloor } from "../accounts/users.ts"
import { authorise, type Context } from "../actors/index.ts"
import { type AuditAction, announce, type Change, type DeedOf, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { type CartRow, carts } from "./runs.ts"

/** A run of the actor's warehouse, locked; refused when there is none, or it is over. */
async function lockedRun(trx: Knex, { actor }: Pick<Context, "actor">, number: number) {
  const run = await trx("pick_run").where({ number, warehouse_id: actor.warehouseId }).forUpdate().first()
  if (!run) return refused(reason("run.unknown", { run: number }))
  if (run.state === "done" || run.state === "dropped") return refused(reason("run.over", { run: number }))
  return accepted(run)
}

/** Who else walks a run that somebody entered, and whether it goes on after having been left. */
interface RunEntered {
  readonly others: readonly string[]
  readonly takenUp: boolean
}

/**
 * Begins a run, takes up one that was left, or joins one that another walks. With a cart the orders are given its totes,
 * one after another. Refused where the cart is out with another run, or has too few totes. Safe to repeat.
 */
export async function enterRun(context: Context, number: number, cartId: CartId | null): Promise<Outcome<RunEntered>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<RunEntered>> => {
    await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().first("id")
    const found = await lockedRun(trx, context, number)
    if (!found.ok) return found
    const run = found.value
    if (run.state === "ready") {
      if (cartId !== null) {
        const cart = (await carts(trx, actor.warehouseId)).find((one) => one.id === cartId)
        if (!cart) return refused(reason("run.no-cart"))
        if (cart.busyWith !== null) return refused(reason("run.cart-busy", { cart: cart.code, run: cart.busyWith }))
        if (run.kind === "orders") {
          const assigned = await giveTotes(trx, run.id, cart)
          if (!assigned.ok) return assigned
        }
      }
      await trx("pick_run")
        .where({ id: run.id })
        .update({ state: "picking", cart_id: cartId, begun_at: now, holder_id: actor.userId })
      await recordForAll(trx, context, run.id, { action: "run.begun", detail: { run: number } })
    } else if (run.state === "left") {
      await trx("pick_run").where({ id: run.id }).update({ state: "picking", holder_id: actor.userId })
      await recordForAll(trx, context, run.id, { action: "run.taken-up", detail: { run: number } })
    }
    await trx("pick_run_person")
      .insert({ run_id: run.id, user_id: there(actor.userId), since: now, left_at: null })
      .onConflict(["run_id", "user_id"])
      .merge(["left_at"])
    const others = await trx("pick_run_person as p")
      .join("user as u", "u.id", "p.user_id")
      .where("p.run_id", run.id)
      .whereNull("p.left_at")
      .whereNot("p.user_id", actor.userId)
      .orderBy("p.since")
      .pluck("u.name")
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ others, takenUp: run.state === "left" })
  })
}

/** Free totes of a cart to the orders of a run, as many as each needs. */
async function giveTotes(trx: Knex, runId: number, cart: CartRow): Promise<Outcome<null>> {
  if (cart.totes === 0) return accepted(null)
  const totes = await trx("tote")
    .where({ cart_id: cart.id })
    .whereNull("order_id")
    .orderBy("position")
    .orderBy("id")
    .forUpdate()
    .select("id", "code", "litres")
  const orders = await trx("pick_run_order as m")
    .join("order_line as l", "l.order_id", "m.order_id")
    .join("allocation as a", function () {
      this.on("a.order_line_id", "l.id").andOn("a.run_id", "m.run_id")
    })
    .join("item as i", "i.id", "l.item_id")
    .where("m.run_id", runId)
    .groupBy("m.order_id", "m.position")
    .orderBy("m.position")
    .select(
      "m.order_id",
      trx.raw("SUM((a.quantity - a.picked) * i.length_mm * i.width_mm * i.height_mm) / 1000000 AS litres"),
    )
  let at = 0
  for (const order of orders) {
    const wanted = totesFor(Number(order.litres), cart.toteLitres ?? 40)
    const assigned = totes.slice(at, at + wanted)
    if (assigned.length < wanted) {
      const needed = orders.reduce((sum, one) => sum + totesFor(Number(one.litres), cart.toteLitres ?? 40), 0)
      return refused(reason("run.too-few-totes", { cart: cart.code, free: totes.length, needed }))
    }
    at += wanted
    await trx("tote")
      .whereIn(
        "id",
        assigned.map((tote) => tote.id),
      )
      .update({ order_id: order.order_id, run_id: runId })
  }
  return accepted(null)
}

async function recordForAll(
  trx: Knex,
  { actor, now }: Pick<Context, "actor" | "now">,
  runId: number,
  deed: DeedOf<Extract<AuditAction, `run.${string}`>>,
): Promise<void> {
  for (const orderId of await trx("pick_run_order").where({ run_id: runId }).orderBy("position").pluck("order_id"))
    await record(trx, actor, now, { ...deed, orderId } as Change)
}

/** Leaves a run where it stands; the last one who leaves it leaves it to be taken up again. Safe to repeat. */
export async function leaveRun(context: Context, number: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const found = await lockedRun(trx, context, number)
    if (!found.ok) return found
    const mine = { run_id: found.value.id }
    await trx("pick_run_person")
      .where(mine)
      .where("user_id", actor.userId)
      .whereNull("left_at")
      .update({ left_at: now })
    await trx("allocation")
      .where({ ...mine, claimed_by: actor.userId })
      .update({ claimed_by: null, claimed_at: null })
    const others = await trx("pick_run_person")
      .where({ run_id: found.value.id })
      .whereNull("left_at")
      .orderBy("since")
      .first("user_id")
    await trx("pick_run")
      .where({ id: found.value.id, state: "picking" })
      .update(others ? { holder_id: others.user_id } : { state: "left", holder_id: null })
    if (!others) await recordForAll(trx, context, found.value.id, { action: "run.left", detail: { run: number } })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** Hands a run to another person, who then holds it; the one who had it is out of it. */
export async function handRun(context: Context, number: number, userId: UserId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const found = await lockedRun(trx, context, number)
    if (!found.ok) return found
    const run = found.value
    const to = (await peopleOnFloor(trx, actor.warehouseId)).find((one) => one.id === userId)
    if (!to) return refused(reason("run.no-such-person"))
    if (run.holder_id === to.id) return accepted(null)
    if (run.holder_id !== null)
      await trx("pick_run_person").where({ run_id: run.id, user_id: run.holder_id }).update({ left_at: now })
    await trx("pick_run_person")
      .insert({ run_id: run.id, user_id: to.id, since: now, left_at: null })
      .onConflict(["run_id", "user_id"])
      .merge(["left_at"])
    await trx("allocation").where({ run_id: run.id }).update({ claimed_by: null, claimed_at: null })
    await trx("pick_run")
      .where({ id: run.id })
      .update({ holder_id: to.id, ...(run.state === "left" ? { state: "picking" } : {}) })
    await recordForAll(trx, context, run.id, { action: "run.handed", detail: { run: number, to: to.name } })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** Breaks a run up: what is not picked can go into another one, what is picked stays where it is. Safe to repeat. */
export async function breakUpRun(context: Context, number: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  // orders are locked before their run, as a pick does it
  const before = await db("pick_run_order as m")
    .join("pick_run as r", "r.id", "m.run_id")
    .where({ "r.number": number, "r.warehouse_id": actor.warehouseId })
    .pluck("m.order_id")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    await trx("sales_order").whereIn("id", before).orderBy("id").forUpdate().select("id")
    const run = await trx("pick_run").where({ number, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!run) return refused(reason("run.unknown", { run: number }))
    if (run.state === "done" || run.state === "dropped") return accepted(null)
    const orders: number[] = await trx("pick_run_order").where({ run_id: run.id }).pluck("order_id")
    await trx("allocation")
      .where({ run_id: run.id, picked: 0 })
      .update({ run_id: null, claimed_by: null, claimed_at: null, skipped_at: null })
    const begun = await trx("allocation").where({ run_id: run.id }).distinct("order_line_id").pluck("order_line_id")
    const kept = new Set(await trx("order_line").whereIn("id", begun).distinct("order_id").pluck("order_id"))
    for (const orderId of orders) {
      await record(trx, actor, now, { action: "run.broken-up", orderId, detail: { run: number } })
      if (kept.has(orderId)) continue
      await trx("pick_run_order").where({ run_id: run.id, order_id: orderId }).delete()
      await trx("tote").where({ run_id: run.id, order_id: orderId }).update({ run_id: null, order_id: null })
    }
    // what is picked in part is picked on by itself
    await trx("allocation").where({ run_id: run.id }).whereRaw("picked < quantity").update({ run_id: null })
    await trx("pick_run")
      .where({ id: run.id })
      .update({ state: kept.size > 0 ? "done" : "dropped", ended_at: now, holder_id: null })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/**
 * Locks the run that a stop belongs to, before its transaction reads anything: of two who take the last pieces at once
 * the later then sees what the earlier took, and the run ends. The caller has locked the order.
 */
export async function lockRunOf(trx: Knex, orderId: OrderId, allocationId: AllocationId): Promise<void> {
  // a join is read under locks as a whole; a query within would be the transaction's first look at what stands
  const stop = await trx("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .where({ "a.id": allocationId, "l.order_id": orderId })
    .forUpdate()
    .first("a.run_id")
  if (stop?.run_id) await trx("pick_run").where({ id: stop.run_id }).forUpdate().first("id")
}

/** Ends a run in which all is picked, opens one again in which something is to be picked again; in a pick's transaction, which has locked it. */
export async function settleRun(
  trx: Knex,
  { actor, now }: Pick<Context, "actor" | "now">,
  runId: number,
): Promise<void> {
  const run = await trx("pick_run").where({ id: runId }).forUpdate().first("id", "number", "state", "warehouse_id")
  if (!run || run.state === "dropped") return
  const left = await trx("allocation").where({ run_id: runId }).whereRaw("picked < quantity").first("id")
  if (!left && run.state !== "done") {
    await trx("pick_run").where({ id: runId }).update({ state: "done", ended_at: now })
    await trx("pick_run_person").where({ run_id: runId }).whereNull("left_at").update({ left_at: now })
  } else if (left && (run.state === "done" || run.state === "ready"))
    await trx("pick_run")
      .where({ id: runId })
      .update({
        state: "picking",
        ended_at: null,
        ...(run.state === "ready" ? { begun_at: now, holder_id: actor.userId } : {}),
      })
  await announce(trx, { warehouseId: run.warehouse_id })
}
