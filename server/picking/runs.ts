import { randomUUID } from "node:crypto"
import { type Cart, totesFor } from "core/picking/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Context, require } from "../accounts/index.ts"
import { announce, record } from "../audit/index.ts"
import { compute } from "../compute/pool.ts"
import { runsWanted } from "../compute/tasks.ts"
import { inTransaction } from "../db/connection.ts"
import { floorOf } from "../floor/index.ts"
import { type Candidate, type Grouping, inGroup, runCandidates, runOrderOf } from "./candidates.ts"
import { openRuns } from "./membership.ts"
import { runWalk } from "./stops.ts"

/** What runs are asked for. */
export interface RunWish {
  readonly by: Grouping
  /** The group's value, such as a collection's id or a zone. */
  readonly value: string
  /** Orders chosen by hand. */
  readonly orderIds: readonly number[]
  readonly cartId: number | null
  /** Orders in one run at most. */
  readonly atMost: number
}

export interface CartRow {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly totes: number
  readonly toteLitres: number | null
  readonly litres: number | null
  readonly kilograms: number | null
  /** The number of the run that has it now. */
  readonly busyWith: number | null
}

export async function carts(db: Knex, warehouseId: number): Promise<CartRow[]> {
  const rows = await db("cart as c")
    .where({ "c.warehouse_id": warehouseId, "c.active": true })
    .orderBy("c.code")
    .select(
      "c.*",
      db.raw("(SELECT COUNT(*) FROM tote t WHERE t.cart_id = c.id) AS totes"),
      db.raw("(SELECT MIN(t.litres) FROM tote t WHERE t.cart_id = c.id) AS tote_litres"),
      db.raw("(SELECT MIN(r.number) FROM pick_run r WHERE r.cart_id = c.id AND r.state IN ('picking','left')) AS busy"),
    )
  return rows.map((row) => ({
    id: row.id,
    code: row.code,
    name: row.name,
    totes: Number(row.totes),
    toteLitres: row.tote_litres === null ? null : Number(row.tote_litres),
    litres: row.litres === null ? null : Number(row.litres),
    kilograms: row.kilograms === null ? null : Number(row.kilograms),
    busyWith: row.busy,
  }))
}

export interface Proposed {
  readonly runs: readonly {
    readonly orders: readonly { readonly id: number; readonly bench: string }[]
    readonly bins: number
    readonly pieces: number
    readonly metres: number
    readonly apartMetres: number
  }[]
  readonly left: readonly { readonly bench: string; readonly why: Reason }[]
  /** Whether the floor is drawn, so that metres mean something. */
  readonly measured: boolean
}

/** Orders up to which runs are built without a thread of their own. */
const inPlace = 40

/** The runs that a wish would make, with the metres that they save; nothing is written. */
export async function proposeRuns(context: Context, wish: RunWish): Promise<Proposed> {
  const { db, actor } = context
  require(actor, "orders.work")
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
  const named = (id: number) => (byId.get(id) as Candidate).bench
  return {
    measured: input.floor !== null,
    runs: built.runs.map((run) => {
      const stops = run.orders.flatMap((id) => [...(byId.get(id) as Candidate).stops])
      return {
        orders: run.orders.map((id) => ({ id, bench: named(id) })),
        bins: new Set(stops.map((stop) => stop.bin)).size,
        pieces: stops.reduce((sum, stop) => sum + stop.quantity, 0),
        metres: run.metres,
        apartMetres: run.apartMetres,
      }
    }),
    left: built.left.map((one) => ({ bench: named(one.order), why: one.why })),
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
  require(actor, "orders.work")
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
      const [runId] = await trx("pick_run").insert({
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
      })
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
      if (floor.desk && position < ids.length) await measureRun(trx, actor.warehouseId, runId as number)
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

/** Writes the metres of a run's walk down again, after what is in it changed. */
async function measureRun(trx: Knex, warehouseId: number, runId: number): Promise<void> {
  const { metres, plainMetres } = await runWalk(trx, warehouseId, runId)
  await trx("pick_run").where({ id: runId }).update({ metres, plain_metres: plainMetres })
}

export interface RunRow {
  readonly id: number
  readonly number: number
  readonly kind: "orders" | "single"
  readonly label: string
  readonly zone: string | null
  readonly state: "ready" | "picking" | "left" | "done" | "dropped"
  readonly cart: string | null
  readonly cartId: number | null
  readonly holder: string | null
  readonly holderId: number | null
  readonly people: readonly string[]
  readonly orders: number
  readonly pieces: number
  readonly picked: number
  readonly stops: number
  readonly stopsDone: number
  readonly metres: number | null
  readonly apartMetres: number | null
  readonly begunAt: Date | null
  readonly leavesAt: Date | null
}

/** Runs of a warehouse, the one that leaves first on top: those still to be walked, or all of a number. */
export async function runs(db: Knex, warehouseId: number, only: { number: number } | null = null): Promise<RunRow[]> {
  const rows = await db("pick_run as r")
    .leftJoin("cart as c", "c.id", "r.cart_id")
    .leftJoin("user as u", "u.id", "r.holder_id")
    .where("r.warehouse_id", warehouseId)
    .where((query) => void (only ? query.where("r.number", only.number) : query.whereIn("r.state", [...openRuns])))
    .orderBy("r.number")
    .limit(200)
    .select(
      "r.*",
      "c.code as cart",
      "u.name as holder",
      db.raw("(SELECT COUNT(*) FROM pick_run_order m WHERE m.run_id = r.id) AS orders"),
      db.raw(
        "(SELECT MIN(k.cut_off) FROM pick_run_order m JOIN sales_order o ON o.id = m.order_id JOIN collection k ON k.id = o.collection_id WHERE m.run_id = r.id) AS leaves_at",
      ),
    )
  if (rows.length === 0) return []
  const ids = rows.map((row) => row.id)
  const sums = await db("allocation as a")
    .whereIn("a.run_id", ids)
    .groupBy("a.run_id")
    .select(
      "a.run_id",
      db.raw("SUM(a.quantity) AS pieces"),
      db.raw("SUM(a.picked) AS picked"),
      db.raw("COUNT(*) AS stops"),
      db.raw("SUM(a.picked >= a.quantity) AS stops_done"),
    )
  const people = await db("pick_run_person as p")
    .join("user as u", "u.id", "p.user_id")
    .whereIn("p.run_id", ids)
    .whereNull("p.left_at")
    .orderBy("p.since")
    .select("p.run_id", "u.name")
  return rows
    .map((row): RunRow => {
      const sum = sums.find((one) => one.run_id === row.id)
      return {
        id: row.id,
        number: row.number,
        kind: row.kind,
        label: row.label,
        zone: row.zone,
        state: row.state,
        cart: row.cart,
        cartId: row.cart_id,
        holder: row.holder,
        holderId: row.holder_id,
        people: people.flatMap((one) => (one.run_id === row.id ? [one.name as string] : [])),
        orders: Number(row.orders),
        pieces: Number(sum?.pieces ?? 0),
        picked: Number(sum?.picked ?? 0),
        stops: Number(sum?.stops ?? 0),
        stopsDone: Number(sum?.stops_done ?? 0),
        metres: row.metres === null ? null : Number(row.metres),
        apartMetres: row.apart_metres === null ? null : Number(row.apart_metres),
        begunAt: row.begun_at,
        leavesAt: row.leaves_at,
      }
    })
    .sort(
      (a, b) =>
        (a.leavesAt?.getTime() ?? Number.MAX_SAFE_INTEGER) - (b.leavesAt?.getTime() ?? Number.MAX_SAFE_INTEGER) ||
        a.number - b.number,
    )
}

/** A run of the actor's warehouse, locked; refused when there is none, or it is over. */
async function lockedRun(trx: Knex, { actor }: Pick<Context, "actor">, number: number) {
  const run = await trx("pick_run").where({ number, warehouse_id: actor.warehouseId }).forUpdate().first()
  if (!run) return refused(reason("run.unknown", { run: number }))
  if (run.state === "done" || run.state === "dropped") return refused(reason("run.over", { run: number }))
  return accepted(run)
}

/**
 * Begins a run, takes up one that was left, or joins one that another walks. With a cart the orders are given its totes,
 * one after another. Refused where the cart is out with another run, or has too few totes. Safe to repeat.
 */
export async function enterRun(context: Context, number: number, cartId: number | null): Promise<Outcome<null>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
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
          const given = await giveTotes(trx, run.id, cart)
          if (!given.ok) return given
        }
      }
      await trx("pick_run")
        .where({ id: run.id })
        .update({ state: "picking", cart_id: cartId, begun_at: now, holder_id: actor.userId })
      await recordForAll(trx, context, run.id, "run.begun", { run: number })
    } else if (run.state === "left") {
      await trx("pick_run").where({ id: run.id }).update({ state: "picking", holder_id: actor.userId })
      await recordForAll(trx, context, run.id, "run.taken-up", { run: number })
    }
    await trx("pick_run_person")
      .insert({ run_id: run.id, user_id: actor.userId, since: now, left_at: null })
      .onConflict(["run_id", "user_id"])
      .merge(["left_at"])
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
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
    const given = totes.slice(at, at + wanted)
    if (given.length < wanted) {
      const needed = orders.reduce((sum, one) => sum + totesFor(Number(one.litres), cart.toteLitres ?? 40), 0)
      return refused(reason("run.too-few-totes", { cart: cart.code, free: totes.length, needed }))
    }
    at += wanted
    await trx("tote")
      .whereIn(
        "id",
        given.map((tote) => tote.id),
      )
      .update({ order_id: order.order_id, run_id: runId })
  }
  return accepted(null)
}

async function recordForAll(
  trx: Knex,
  { actor, now }: Pick<Context, "actor" | "now">,
  runId: number,
  action: string,
  detail: Record<string, unknown>,
): Promise<void> {
  for (const orderId of await trx("pick_run_order").where({ run_id: runId }).orderBy("position").pluck("order_id"))
    await record(trx, actor, now, { action, orderId, detail })
}

/** Leaves a run where it stands; the last one who leaves it leaves it to be taken up again. Safe to repeat. */
export async function leaveRun(context: Context, number: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const found = await lockedRun(trx, context, number)
    if (!found.ok) return found
    const mine = { run_id: found.value.id }
    await trx("pick_run_person")
      .where({ ...mine, user_id: actor.userId })
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
    if (!others) await recordForAll(trx, context, found.value.id, "run.left", { run: number })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** Hands a run to another person, who then holds it; the one who had it is out of it. */
export async function handRun(context: Context, number: number, userId: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const found = await lockedRun(trx, context, number)
    if (!found.ok) return found
    const run = found.value
    const to = await trx("user as u")
      .join("user_warehouse as w", "w.user_id", "u.id")
      .where({ "u.id": userId, "u.active": true, "w.warehouse_id": actor.warehouseId })
      .whereIn("u.role", ["clerk", "lead", "administrator"])
      .first("u.id", "u.name")
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
    await recordForAll(trx, context, run.id, "run.handed", { run: number, to: to.name })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** Breaks a run up: what is not picked can go into another one, what is picked stays where it is. Safe to repeat. */
export async function breakUpRun(context: Context, number: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  require(actor, "orders.work")
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

/** Ends a run in which all is picked, opens one again in which something is to be picked again; in a pick's transaction. */
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
