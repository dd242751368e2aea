import type { JobId, OrderId, ShippingRunId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, parsed } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { lockShipmentOf } from "../orders/joined.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { closeIn, drawSsccs } from "../packing/index.ts"
import type { OfferSummary } from "../rating/batch.ts"
import { askNext, countsOf, goOn, inFlight } from "../shippingRuns/answered.ts"
import { lockOpenRun, lockRun } from "../shippingRuns/make.ts"
import { runById } from "../shippingRuns/read.ts"
import { type BuyGround, buyGround, buyIn, giveUp } from "./buy.ts"

/** What somebody saw of a run before buying it: the shipments that are ready, and what they cost us. */
export interface SeenRun {
  readonly shipments: number
  readonly cost: string
}

/**
 * Buys what is ready of a run, in the background. Refused when that is not what was seen. Of two who press at once the
 * second finds it bought already: that is one purchase.
 */
export async function buyRun(
  context: Context,
  runId: ShippingRunId,
  seen: SeenRun,
): Promise<Outcome<{ readonly shipments: number }>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    const locked = await lockOpenRun(trx, context, runId)
    if (!locked.ok) return locked
    if (locked.value.state !== "open") return accepted({ shipments: (await countsOf(trx, runId)).asked })
    const run = there(await runById(trx, actor.warehouseId, runId))
    const ready = run.rows.filter((row) => row.step === "ready").map((row) => row.orderId)
    if (ready.length === 0) return refused(reason("shipping-run.nothing-ready"))
    const { cost } = run.ready.all
    if (ready.length !== seen.shipments || cost !== seen.cost)
      return refused(
        reason("shipping-run.changed", { seen: seen.shipments, seenCost: seen.cost, now: ready.length, cost }),
      )
    await trx("shipping_run_order")
      .where({ run_id: runId, state: "rated" })
      .whereIn("order_id", ready)
      .update({ state: "asked", reasons: "[]" })
    await trx("shipping_run")
      .where({ id: runId })
      .update({
        state: "buying",
        bought_by_id: actor.userId,
        bought_by: actor.name,
        bought_at: now,
        ended_at: null,
        bench_id: context.benchId ?? null,
      })
    await askNext(trx, runId)
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ shipments: ready.length })
  })
}

/** Asks for no more labels of a run until it goes on; what is with a carrier already is still bought. Safe to repeat. */
export const pauseRun = (context: Context, runId: ShippingRunId): Promise<Outcome<null>> =>
  steer(context, runId, async (trx, state) => {
    if (state === "buying") await trx("shipping_run").where({ id: runId }).update({ state: "paused" })
  })

/** Goes on with a run that was paused. Safe to repeat. */
export const resumeRun = (context: Context, runId: ShippingRunId): Promise<Outcome<null>> =>
  steer(context, runId, async (trx, state) => {
    if (state !== "paused") return
    await trx("shipping_run").where({ id: runId }).update({ state: "buying" })
    await askNext(trx, runId)
  })

/** Stops buying a run: what nobody was asked for yet is open again, what is bought stays bought. Safe to repeat. */
export const stopRun = (context: Context, runId: ShippingRunId): Promise<Outcome<null>> =>
  steer(context, runId, async (trx, state) => {
    if (state === "open") return
    await trx("shipping_run_order").where({ run_id: runId, state: "asked" }).update({ state: "rated" })
    await goOn(trx, runId, context.now)
  })

function steer(
  context: Context,
  runId: ShippingRunId,
  does: (trx: Knex, state: "open" | "buying" | "paused") => Promise<void>,
): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    const run = await lockRun(trx, context, runId)
    if (!run.ok) return run
    await does(trx, run.value.state)
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** Gives up what carriers have not answered of a run: each is canceled there by its key, and open again. */
export async function giveUpRun(context: Context, runId: ShippingRunId): Promise<Outcome<{ readonly n: number }>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  const rows: number[] = await db("shipping_run_order as r")
    .join("shipping_run as n", "n.id", "r.run_id")
    .where({ "r.run_id": runId, "r.state": "buying", "n.warehouse_id": actor.warehouseId })
    .pluck("r.order_id")
  for (const id of rows) await giveUp(context, id)
  return accepted({ n: rows.length })
}

/**
 * Asks for the labels of the next orders of a run that is bought: each is closed, checked and written down as an intent
 * in a transaction of its own, as at the bench. What can't be bought falls back into the open part with its reason. Run
 * again after any failure it goes on where it broke off.
 */
export async function buyNext(db: Knex, { runId }: { readonly runId: ShippingRunId }, byJob?: JobId): Promise<void> {
  const run = await db("shipping_run").where({ id: runId, state: "buying" }).first()
  if (!run) return
  const now = await businessNow(db)
  const actor = {
    userId: run.bought_by_id,
    name: run.bought_by ?? run.made_by,
    role: "clerk",
    warehouseId: run.warehouse_id,
  } as const
  const room = inFlight - (await countsOf(db, runId)).buying
  if (room <= 0) return
  const next: number[] = await db("shipping_run_order")
    .where({ run_id: runId, state: "asked" })
    .orderBy("position")
    .limit(room)
    .pluck("order_id")
  const ground = await buyGround(db, run.warehouse_id, now)
  const context = { db, now, actor, benchId: run.bench_id }
  const numbers = await numbersFor(context, next)
  // a few side by side: each waits for the database most of its time
  const left = [...next]
  await Promise.all(
    Array.from({ length: sideBySide }, async () => {
      for (let id = left.shift(); id !== undefined; id = left.shift())
        await askForOne(context, run, id, ground, numbers)
    }),
  )
  await inTransaction(db, (trx) => goOn(trx, runId, now, byJob))
}

/** Orders that are closed and written down at the same time. */
const sideBySide = 3

/** SSCCs for the packages that these orders will close, drawn at once, so that nobody waits for another's. */
async function numbersFor({ db, actor }: Context, orderIds: readonly number[]): Promise<string[]> {
  const [open] = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .whereIn("h.order_id", [...orderIds])
    .where({ "h.warehouse_id": actor.warehouseId, "h.state": "open", "p.state": "open" })
    .whereNull("p.sscc")
    .count({ n: "p.id" })
  const n = Number(open?.n ?? 0)
  if (n === 0) return []
  const drawn = await inTransaction(db, (trx) => drawSsccs(trx, actor.warehouseId, n))
  // where none are left, closing says so of each order
  return drawn.ok ? drawn.value : []
}

async function askForOne(
  context: Context,
  run: { readonly id: number; readonly prints: string },
  orderId: OrderId,
  ground: BuyGround,
  numbers: string[],
): Promise<void> {
  const { db, actor } = context
  const where = { run_id: run.id, order_id: orderId }
  const row = await db("shipping_run_order as r")
    .join("shipping_run as n", "n.id", "r.run_id")
    .where({ "r.run_id": run.id, "r.order_id": orderId, "r.state": "asked", "n.state": "buying" })
    .first("r.chosen", "r.offers", "r.rated_version")
  if (!row) return
  const offer = parsed<OfferSummary[]>(row.offers).find((one) => one.code === row.chosen)
  await inTransaction(db, async (trx) => {
    await lockShipmentOf(trx, orderId, actor.warehouseId)
    const still = await trx("shipping_run_order")
      .where({ ...where, state: "asked" })
      .forUpdate()
      .first("order_id")
    if (!still) return
    const closed = offer
      ? await closedAsRated(trx, context, orderId, row.rated_version, { id: run.id, numbers })
      : refused(reason("buy.service-cannot"))
    const bought =
      closed.ok && offer
        ? await buyIn(
            trx,
            context,
            orderId,
            {
              version: closed.value.version,
              serviceCode: offer.code,
              expected: {
                amount: offer.contract ?? "",
                currency: ground.ground.warehouse.currency,
                ...(offer.leaves ? { leaves: offer.leaves } : {}),
              },
              prints: run.prints === "each",
            },
            { ...ground, shipment: closed.value },
          )
        : (closed as { ok: false; reasons: readonly Reason[] })
    await trx("shipping_run_order")
      .where(where)
      .update(
        bought.ok
          ? { state: "buying", intent_id: bought.value.intentId }
          : { state: "failed", reasons: JSON.stringify(bought.reasons.slice(0, 12)) },
      )
  })
}

/** The shipment with its packages closed, where it is the very one that was rated; under its lock. */
async function closedAsRated(
  trx: Knex,
  context: Context,
  orderId: OrderId,
  rated: number | null,
  run: { readonly id: ShippingRunId; readonly numbers: string[] },
): Promise<Outcome<Shipment>> {
  const shipment = await shipmentOf(trx, orderId)
  if (shipment?.state !== "open") return refused(reason("shipping-run.has-labels"))
  const open = shipment.packages.some((one) => one.state === "open")
  if (shipment.version !== rated) {
    // a worker that was lost after it closed them has left them so
    const closedOnly = shipment.version === (rated ?? 0) + 1 && shipment.packages.length > 0 && !open
    return closedOnly ? accepted(shipment) : refused(reason("order.changed-meanwhile"))
  }
  if (!open) return accepted(shipment)
  if (await trx("sales_order").where({ id: orderId }).whereNotNull("cancelled_at").first("id"))
    return refused(reason("order.is-cancelled"))
  const closed = await closeIn(trx, context, shipment, run)
  if (!closed.ok) return closed
  const version = shipment.version + 1
  await trx("shipment").where({ id: shipment.id }).update({ version, trouble: null })
  return accepted({ ...closed.value, version, trouble: null })
}
