import type { OrderId, ShippingRunId } from "core/ids/index.ts"
import { cheapestOf, fastestOf } from "core/rating/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { announce } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { compute } from "../compute/pool.ts"
import { inTransaction } from "../db/connection.ts"
import type { ShippingRunRow } from "../db/tables.ts"
import { labelsAskedForOf } from "../orders/labels.ts"
import { stopsOf } from "../orders/stops.ts"
import { shipmentsOrDrafts } from "../packages/shipment.ts"
import { palletIn } from "../packaging/catalog.ts"
import { asTheyStand } from "../packing/asTheyStand.ts"
import { packAsSuggested } from "../packing/packRun.ts"
import { mostRated } from "../plan/estimate.ts"
import { type Ground, groundOf } from "../plan/plan.ts"
import { plannedRowsOf } from "../plan/plannedRows.ts"
import { type BatchAnswer, type OfferSummary, plainGround, plainRateable } from "../rating/batch.ts"
import { prepareSoon, type RunRule } from "./make.ts"
import { paperGapsOf } from "./paperGaps.ts"

/** Orders that are rated together in a thread, and how long a job goes on before another takes over. */
const partSize = 100
const partMs = 20_000

/**
 * Packs and rates what waits in a run, and what was changed since it was rated, part by part, each part written down as
 * it is done. What cannot be rated says why.
 */
export async function prepareRun(db: Knex, { runId }: { readonly runId: ShippingRunId }): Promise<void> {
  const run = await db("shipping_run").where({ id: runId }).whereNull("put_away_at").first()
  if (!run) return
  const now = await businessNow(db)
  const ground = await groundOf(db, run.warehouse_id, now)
  const plain = plainGround(ground)
  await staleRows(db, now, runId).update({ "r.state": "waiting" })
  for (const end = Date.now() + partMs; Date.now() < end; ) {
    const rows = await db("shipping_run_order")
      .where({ run_id: run.id, state: "waiting" })
      .orderBy("position")
      .limit(partSize)
      .select("order_id", "pack")
    if (rows.length === 0) return
    const actor = { userId: null, name: run.made_by, role: "clerk", warehouseId: run.warehouse_id } as const
    const packed = await packThose(
      { db, now, actor },
      run,
      rows.filter((row) => row.pack).map((row) => row.order_id),
    )
    const { asked, cannot, versions, unpicked, shipments } = await askedOfOrders(
      db,
      ground,
      rows.map((row) => row.order_id),
    )
    const answers = new Map(
      (await compute("compareMany", { ground: plain, shipments: asked })).map((one) => [one.id, one]),
    )
    const byHand = await chosenServices(db, [...answers.keys()])
    const proposed = new Map(
      [...answers].map(([id, answer]) => [id, proposedFor(run.rule as RunRule, answer, byHand.get(id) ?? null)]),
    )
    const lacking = new Map<number, readonly Reason[]>()
    for (const [id, offer] of proposed) {
      const shipment = shipments.get(id)
      if (offer && shipment) lacking.set(id, await paperGapsOf(db, ground, shipment, offer, run.made_by))
    }
    await inTransaction(db, async (trx) => {
      await updateRows(
        trx,
        run.id,
        rows.map(({ order_id: id }) => {
          const answer = answers.get(id)
          return {
            order_id: id,
            // what is not picked yet is packed once it is
            pack: unpicked.has(id) && rows.some((row) => row.order_id === id && row.pack),
            rated_version: versions.get(id) ?? null,
            rated_at: now,
            ...answered(proposed.get(id) ?? null),
            reasons: JSON.stringify(
              [
                ...(packed.get(id) ?? []),
                ...(cannot.get(id) ?? []),
                ...(answer?.refusals ?? []),
                ...(lacking.get(id) ?? []),
              ].slice(0, 12),
            ),
          }
        }),
      )
      await announce(trx, { warehouseId: run.warehouse_id })
    })
  }
  await prepareSoon(db, runId)
}

/** Rows of a run that are still waiting become what they were found to be; one that was bought meanwhile stays. */
async function updateRows(
  trx: Knex,
  runId: ShippingRunId,
  rows: readonly (Readonly<Record<string, unknown>> & { readonly order_id: OrderId })[],
): Promise<void> {
  const waiting = new Set(
    await trx("shipping_run_order")
      .where({ run_id: runId, state: "waiting" })
      .whereIn(
        "order_id",
        rows.map((row) => row.order_id),
      )
      .forUpdate()
      .pluck("order_id"),
  )
  for (const { order_id, ...row } of rows)
    if (waiting.has(order_id)) await trx("shipping_run_order").where({ run_id: runId, order_id }).update(row)
}

/** Packs as suggested what nobody has packed of the orders; why some were left, by their ids. */
async function packThose(
  context: Context,
  run: Pick<ShippingRunRow, "id">,
  orderIds: readonly OrderId[],
): Promise<Map<number, readonly Reason[]>> {
  const left = new Map<number, readonly Reason[]>()
  const drafts = await shipmentsOrDrafts(context.db, orderIds)
  const stopped = await stopsOf(context.db, orderIds)
  for (const id of orderIds) {
    const draft = drafts.get(id)
    if (!draft || draft.packages.length > 0 || draft.state !== "open" || stopped.has(id)) continue
    // what is not picked can't be in a carton
    if (draft.lines.some((line) => line.picked < line.ordered)) continue
    const outcome = await packAsSuggested(context, id, true, `run ${run.id} ${id} ${draft.version}`)
    if (!outcome.ok) left.set(id, outcome.reasons)
    else if (outcome.value.lines.some((line) => line.packed < line.ordered)) left.set(id, [reason("packing.by-hand")])
  }
  return left
}

/** Orders as they are packed, or as they would be; those that can't be rated, with why; the versions that are rated. */
async function askedOfOrders(db: Knex, ground: Ground, ids: readonly number[]) {
  const rows = await plannedRowsOf(db, ids)
  const pallet = palletIn(ground.packaging)
  const shipments = await shipmentsOrDrafts(db, ids)
  const bought = await labelsAskedForOf(db, ids)
  const asked = []
  const cannot = new Map<number, readonly Reason[]>()
  const versions = new Map<number, number>()
  const unpicked = new Set<number>()
  for (const id of ids) {
    const own = rows.get(id)
    const shipment = shipments.get(id)
    if (shipment && shipment.id > 0) versions.set(id, shipment.version)
    if (shipment?.lines.some((line) => line.orderId === id && line.picked < line.ordered)) unpicked.add(id)
    if (!own?.order || !shipment) cannot.set(id, [reason("order.unknown")])
    else if (bought.has(id)) cannot.set(id, [reason("order.labels-asked-for")])
    else if (own.lines.length === 0 || own.lines.some((line) => line.weight_kg === null))
      cannot.set(id, [reason("run.no-weight")])
    else {
      const one = asTheyStand(ground, own, shipment, pallet)
      if ("packages" in one && (one.packages as number) > mostRated)
        cannot.set(id, [reason("quote.too-many", { packages: one.packages as number, most: mostRated })])
      else asked.push({ id, rateable: plainRateable(one) })
    }
  }
  return { asked, cannot, versions, unpicked, shipments }
}

/** Codes of the services that persons chose for orders, by the orders' ids. */
async function chosenServices(db: Knex, ids: readonly OrderId[]): Promise<Map<number, string>> {
  const rows = await db("sales_order as o")
    .join("service as s", "s.id", "o.chosen_service_id")
    .whereIn("o.id", [...ids])
    .select("o.id", "s.code")
  return new Map(rows.map((row) => [row.id, row.code]))
}

/** The offer that an order goes by: a service that somebody chose for it comes before what the run's rule says. */
function proposedFor(rule: RunRule, answer: BatchAnswer, byHand: string | null): OfferSummary | null {
  const { offers } = answer
  const wanted = offers.some((one) => one.code === byHand) ? byHand : proposedBy(rule, answer)
  return offers.find((one) => one.code === wanted) ?? null
}

/** What the row of an order becomes by the offer that it goes by; null: no service takes it. */
const answered = (offer: OfferSummary | null) => ({
  state: offer ? ("rated" as const) : ("refused" as const),
  chosen: offer?.code ?? null,
  offers: JSON.stringify(offer ? [offer] : []),
  collection_id: offer?.collectionId ?? null,
})

/** The service that a rule proposes; null where none takes it. */
export function proposedBy(
  rule: RunRule,
  { offers, preselected }: Pick<BatchAnswer, "offers" | "preselected">,
): string | null {
  if (rule === "settled") return preselected
  const rated = offers.map((one) => ({
    one,
    cost: new Decimal(one.payer === "shipper" ? one.contract : one.list),
    arrives: one.arrives,
  }))
  const found = rule === "fastest" ? fastestOf(rated) : cheapestOf(rated, ({ one }) => !one.late)
  return found?.one.code ?? null
}

/**
 * Orders of open runs whose shipment was changed since they were rated, those whose truck has left or was closed, and
 * those that are to be packed as suggested and are picked now; of one run where it is given.
 */
const staleRows = (db: Knex, now: Date, runId?: ShippingRunId) =>
  db("shipping_run_order as r")
    .leftJoin("shipment as h", (on) => on.on("h.order_id", "r.order_id").andOnVal("h.state", "<>", "void"))
    .whereIn("r.state", ["rated", "refused"])
    .where((stale) =>
      stale
        .where((changed) => changed.where("h.state", "open").whereRaw("NOT (h.version <=> r.rated_version)"))
        .orWhere((gone) =>
          gone.whereIn(
            "r.collection_id",
            db("collection").where("cut_off", "<=", now).orWhereNotNull("closed_at").select("id"),
          ),
        )
        .orWhere((packable) => packable.where({ "r.pack": true }).whereNull("h.id").whereRaw(allPicked)),
    )
    .where((own) => void (runId !== undefined && own.where("r.run_id", runId)))

/** Everything of an order is picked. */
const allPicked = `NOT EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = r.order_id
  AND l.ordered > (SELECT COALESCE(SUM(a.picked), 0) FROM allocation a WHERE a.order_line_id = l.id))`

/** Runs are looked after for so long by themselves (business time). */
const lookedAfterMs = 3 * 86_400_000

/** Runs in which something was changed since it was rated: they are prepared again by themselves. */
export async function staleRuns(db: Knex): Promise<number[]> {
  const now = await businessNow(db)
  const since = new Date(now.getTime() - lookedAfterMs)
  return staleRows(db, now)
    .join("shipping_run as n", "n.id", "r.run_id")
    .whereNull("n.put_away_at")
    .where("n.made_at", ">", since)
    .distinct("n.id")
    .pluck("n.id")
}
