import type { LocalDate } from "core/calendar/index.ts"
import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { cheapestOf, fastestOf } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { compute } from "../compute/pool.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { rateable } from "../packages/goods.ts"
import { shipmentOf } from "../packages/shipment.ts"
import { packagingTypes } from "../packaging/catalog.ts"
import { mostRated } from "../plan/estimate.ts"
import { askedOf, type Ground, groundOf } from "../plan/plan.ts"
import { plannedRowsOf } from "../plan/plannedRows.ts"
import { chooseService } from "../plan/sentWith.ts"
import { leavingBy } from "../plan/shipDate.ts"
import { type BatchAnswer, type OfferSummary, plainGround, plainRateable } from "../rating/batch.ts"
import { ratingRun } from "./jobs.ts"

/** How the service of each order is proposed: as rules and instructions say, the cheapest in time, or the fastest. */
export const runRules = ["settled", "cheapest", "fastest"] as const
export type RunRule = (typeof runRules)[number]

/** Orders that are rated together in a thread, and how long a job goes on before another takes over. */
const partSize = 100
const partMs = 20_000
/** Most orders of a run. */
export const mostOfRun = 2_000

/** Asks that orders be rated in the background. The same key is the same run; an order of another place is left out. */
export async function makeRun(
  context: Context,
  orderIds: readonly OrderId[],
  rule: RunRule,
  key: string,
): Promise<Outcome<{ readonly id: number }>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  const onceKey = `${actor.userId ?? actor.name} ${key}`.slice(0, 100)
  if (orderIds.length > mostOfRun) return refused(reason("run.too-many", { most: mostOfRun }))
  return inTransaction(db, async (trx) => {
    const known = await trx("rating_run").where({ once_key: onceKey }).first("id")
    if (known) return accepted({ id: known.id })
    const orders = await trx("sales_order")
      .whereIn("id", [...orderIds])
      .where({ warehouse_id: actor.warehouseId })
      .whereNull("cancelled_at")
      .whereNull("joined_to_id")
      .pluck("id")
    if (orders.length === 0) return refused(reason("run.none"))
    const id = newId(
      await trx("rating_run").insert({
        warehouse_id: actor.warehouseId,
        once_key: onceKey,
        rule,
        made_by: actor.name,
        made_at: now,
      }),
    )
    await trx.batchInsert(
      "rating_run_order",
      orders.map((order_id) => ({ run_id: id, order_id, offers: "[]", reasons: "[]" })),
      500,
    )
    await ratingRun.queue(trx, `rating:${id}:0`, { runId: id, part: 0 })
    return accepted({ id })
  })
}

/** Rates what waits in a run, part by part, each part written down as it is done. What cannot be rated says why. */
export async function rateRun(db: Knex, job: { readonly runId: number; readonly part: number }): Promise<void> {
  const run = await db("rating_run").where({ id: job.runId, state: "rating" }).first()
  if (!run) return
  const now = await businessNow(db)
  const ground = await groundOf(db, run.warehouse_id, now)
  const plain = plainGround(ground)
  for (const end = Date.now() + partMs; Date.now() < end; ) {
    const ids: number[] = await db("rating_run_order")
      .where({ run_id: run.id, state: "waiting" })
      .orderBy("order_id")
      .limit(partSize)
      .pluck("order_id")
    if (ids.length === 0) {
      await db("rating_run").where({ id: run.id, state: "rating" }).update({ state: "done", done_at: now })
      await announce(db, { warehouseId: run.warehouse_id })
      return
    }
    const { asked, cannot } = await askedOfOrders(db, ground, ids)
    const answers = await compute("compareMany", { ground: plain, shipments: asked })
    await inTransaction(db, async (trx) => {
      for (const answer of answers) await keepAnswer(trx, run.id, run.rule as RunRule, answer)
      for (const [order_id, why] of cannot)
        await trx("rating_run_order")
          .where({ run_id: run.id, order_id, state: "waiting" })
          .update({ state: "refused", reasons: JSON.stringify([why]) })
      await announce(trx, { warehouseId: run.warehouse_id })
    })
  }
  await ratingRun.queue(db, `rating:${run.id}:${job.part + 1}`, { runId: run.id, part: job.part + 1 })
}

/** Orders as they are packed, or as they would be; and those that can't be rated, with why. */
async function askedOfOrders(db: Knex, ground: Ground, ids: readonly number[]) {
  const rows = await plannedRowsOf(db, ids)
  const pallet = (await packagingTypes(db)).find((type) => type.kind === "pallet") ?? null
  const asked = []
  const cannot = new Map<number, Reason>()
  for (const id of ids) {
    const own = rows.get(id)
    if (!own?.order) cannot.set(id, reason("order.unknown"))
    else if (await labelsAskedFor(db, id)) cannot.set(id, reason("order.labels-asked-for"))
    else if (own.lines.length === 0 || own.lines.some((line) => line.weight_kg === null))
      cannot.set(id, reason("run.no-weight"))
    else {
      const shipment = await shipmentOf(db, id)
      const packed = shipment?.packages.some((one) => one.contents.length > 0 || !one.carried.isZero())
      const one =
        shipment && packed
          ? rateable(ground.warehouse, shipment, pallet)
          : { ...askedOf(ground, own.order, own.lines), ...(await leavingBy(db, own.order)) }
      if ("packages" in one && (one.packages as number) > mostRated) {
        cannot.set(id, reason("quote.too-many", { packages: one.packages as number, most: mostRated }))
        continue
      }
      asked.push({ id, rateable: plainRateable(one) })
    }
  }
  return { asked, cannot }
}

async function keepAnswer(trx: Knex, runId: number, rule: RunRule, answer: BatchAnswer): Promise<void> {
  const rated = answer.offers.filter((one) => one.contract !== null)
  const proposed = proposedBy(rule, answer)
  await trx("rating_run_order")
    .where({ run_id: runId, order_id: answer.id, state: "waiting" })
    .update(
      proposed
        ? { state: "rated", proposed, chosen: proposed, offers: JSON.stringify(rated) }
        : {
            state: "refused",
            offers: "[]",
            reasons: JSON.stringify(answer.offers.flatMap((one) => one.refusals).slice(0, 12)),
          },
    )
}

/** The service that a rule proposes; null where none takes it. */
export function proposedBy(
  rule: RunRule,
  { offers, preselected }: Pick<BatchAnswer, "offers" | "preselected">,
): string | null {
  if (rule === "settled") return preselected
  const rated = offers.flatMap((one) => {
    const cost = one.payer === "shipper" ? one.contract : one.list
    return cost === null || one.arrives === null ? [] : [{ one, cost: new Decimal(cost), arrives: one.arrives }]
  })
  const found = rule === "fastest" ? fastestOf(rated) : cheapestOf(rated, ({ one }) => !one.late)
  return found?.one.code ?? null
}

export interface RunRow {
  readonly orderId: OrderId
  readonly orderNumber: string
  readonly customer: string
  readonly promisedOn: LocalDate | null
  readonly state: "waiting" | "rated" | "refused"
  readonly proposed: string | null
  readonly chosen: string | null
  readonly offers: readonly OfferSummary[]
  readonly reasons: readonly Reason[]
  readonly version: number
}

export interface RatingRun {
  readonly id: number
  readonly rule: RunRule
  readonly state: "rating" | "done"
  readonly madeBy: string
  readonly madeAt: Date
  readonly rows: readonly RunRow[]
  readonly totals: {
    readonly orders: number
    readonly rated: number
    readonly refused: number
    readonly waiting: number
    readonly late: number
    /** What all rated orders cost us by the services that are chosen. */
    readonly cost: string
  }
}

/** A run with its orders and what they come to. */
export async function runById(db: Knex, warehouseId: WarehouseId, id: number): Promise<RatingRun | null> {
  const run = await db("rating_run").where({ id, warehouse_id: warehouseId }).first()
  if (!run) return null
  const rows = (
    await db("rating_run_order as r")
      .join("sales_order as o", "o.id", "r.order_id")
      .where({ run_id: id })
      .orderBy("o.order_number")
      .select("r.*", "o.order_number", "o.customer_name", "o.promised_on")
  ).map(
    (row): RunRow => ({
      orderId: row.order_id,
      orderNumber: row.order_number,
      customer: row.customer_name,
      promisedOn: row.promised_on,
      state: row.state,
      proposed: row.proposed,
      chosen: row.chosen,
      offers: parsed(row.offers),
      reasons: parsed(row.reasons),
      version: row.version,
    }),
  )
  const chosen = rows.flatMap((row) => row.offers.find((one) => one.code === row.chosen) ?? [])
  const ours = chosen.filter((one) => one.payer === "shipper")
  return {
    id: run.id,
    rule: run.rule as RunRule,
    state: run.state,
    madeBy: run.made_by,
    madeAt: run.made_at,
    rows,
    totals: {
      orders: rows.length,
      rated: rows.filter((row) => row.state === "rated").length,
      refused: rows.filter((row) => row.state === "refused").length,
      waiting: rows.filter((row) => row.state === "waiting").length,
      late: chosen.filter((one) => one.late).length,
      cost: ours.reduce((sum, one) => sum.add(one.contract as string), new Decimal(0)).toFixed(2),
    },
  }
}

/** Runs of a warehouse, the latest first. */
export async function runs(db: Knex, warehouseId: WarehouseId) {
  const rows = await db("rating_run").where({ warehouse_id: warehouseId }).orderBy("id", "desc").limit(30)
  return rows.map((row) => ({
    id: row.id,
    rule: row.rule as RunRule,
    state: row.state as RatingRun["state"],
    madeBy: row.made_by as string,
    madeAt: row.made_at as Date,
  }))
}

/** Chooses another service for one order of a run. Refused when it was changed meanwhile, or the service can't take it. */
export async function changeRow(
  context: Context,
  runId: number,
  orderId: OrderId,
  service: string,
  version: number,
): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  return inTransaction(db, async (trx) => {
    const run = await trx("rating_run").where({ id: runId, warehouse_id: actor.warehouseId }).first("id")
    const row = run && (await trx("rating_run_order").where({ run_id: runId, order_id: orderId }).forUpdate().first())
    if (!row) return refused(reason("run.gone"))
    if (row.chosen === service) return accepted(null)
    if (row.version !== version) return refused(reason("order.changed-meanwhile"))
    if (!parsed<OfferSummary[]>(row.offers).some((one) => one.code === service))
      return refused(reason("run.cannot", { service }))
    await trx("rating_run_order")
      .where({ run_id: runId, order_id: orderId })
      .update({ chosen: service, chosen_by: actor.name, version: row.version + 1 })
    return accepted(null)
  })
}

/**
 * Sets the chosen services on the orders: each is proposed at the bench from then on. Orders that got labels meanwhile
 * are left as they are. The same again changes nothing.
 */
export async function applyRun(context: Context, runId: number): Promise<Outcome<{ readonly changed: number }>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  const run = await runById(db, actor.warehouseId, runId)
  if (!run) return refused(reason("run.gone"))
  if (run.state !== "done") return refused(reason("run.not-done"))
  const services = new Map((await db("service").select("id", "code", "name")).map((row) => [row.code, row]))
  let changed = 0
  let ground: Ground | null = null
  const groundFor = async () => {
    ground ??= await groundOf(db, actor.warehouseId, now)
    return ground
  }
  for (const row of run.rows) {
    const service = services.get(row.chosen ?? "")
    if (!service) continue
    await inTransaction(db, async (trx) => {
      const order = await trx("sales_order")
        .where({ id: row.orderId, warehouse_id: actor.warehouseId })
        .forUpdate()
        .first("chosen_service_id")
      // it may have gone to another warehouse meanwhile
      if (!order || order.chosen_service_id === service.id || (await labelsAskedFor(trx, row.orderId))) return
      await chooseService(trx, await groundFor(), row.orderId, service.id)
      await record(trx, actor, now, {
        action: "run.applied",
        orderId: row.orderId,
        detail: { service: service.name, run: runId },
      })
      changed += 1
    })
  }
  return accepted({ changed })
}
