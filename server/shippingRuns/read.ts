import type { LocalDate } from "core/calendar/index.ts"
import type { DocumentId, OrderId, ShippingRunId, WarehouseId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import { money } from "core/money/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { type HowFar, howFarAll, type PrintOrder, type RunFacts, runTotals } from "core/shippingRuns/index.ts"
import { massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { parsed } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import type { ShippingRunRow } from "../db/tables.ts"
import { stopsOf } from "../orders/stops.ts"
import { chargedOf } from "../packages/charged.ts"
import { handled, type Shipment, shipmentsOrDrafts } from "../packages/shipment.ts"
import type { OfferSummary } from "../rating/batch.ts"
import { chargingRules } from "../rating/charging.ts"
import { prepaidBalances } from "../setup/balance.ts"
import { openCollections } from "../setup/collections.ts"
import { servicesByName } from "../setup/services.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import type { RunPrints, RunRule } from "./make.ts"

/** A package of a run as its list shows it; pounds. */
export interface RunPackage {
  readonly number: number
  readonly packaging: string | null
  readonly lb: string
  /** What the scale said; null: it is calculated. */
  readonly measuredLb: string | null
}

export interface RunRow extends HowFar {
  readonly orderId: OrderId
  readonly orderNumber: string
  readonly position: number
  readonly customer: string
  readonly place: string
  readonly promisedOn: LocalDate | null
  readonly packages: readonly RunPackage[]
  /** Packages, also where only their number is known. */
  readonly pieces: number
  /** Packages as they stand, or what the goods would fill. */
  readonly packed: boolean
  readonly service: { readonly code: string; readonly name: string; readonly carrier: string } | null
  readonly byHand: boolean
  readonly cost: string | null
  readonly charged: string | null
  readonly arrives: string | null
  readonly leaves: LocalDate | null
  readonly door: string | null
  readonly late: boolean
  readonly tracking: string | null
  readonly printed: "no" | "waiting" | "printed"
  /** Its labels that nobody has asked to be printed. */
  readonly unprinted: number
  /** Its first label, from which on a run can be printed again. */
  readonly labelId: DocumentId | null
}

export interface ShippingRun {
  readonly id: ShippingRunId
  readonly name: string
  readonly origin: string
  readonly rule: RunRule
  readonly state: ShippingRunRow["state"]
  readonly prints: RunPrints
  readonly printOrder: PrintOrder
  readonly madeBy: string
  readonly madeAt: Date
  readonly boughtBy: string | null
  readonly endedAt: Date | null
  /** Somebody has looked at it since. */
  readonly seen: boolean
  readonly putAway: boolean
  readonly rows: readonly RunRow[]
  /** Labels that wait for a printer or lie at one, and what keeps them. */
  readonly printing: { readonly waiting: number; readonly trouble: string | null }
  /** What is ready to be bought, and what is bought or asked for. */
  readonly ready: ReturnType<typeof runTotals>
  readonly bought: ReturnType<typeof runTotals>
}

/** A run with how far each of its orders is, and what they come to. Null for none of this warehouse. */
export async function runById(db: Knex, warehouseId: WarehouseId, id: ShippingRunId): Promise<ShippingRun | null> {
  const run = await db("shipping_run").where({ id, warehouse_id: warehouseId }).first()
  if (!run) return null
  const warehouse = await warehouseById(db, warehouseId)
  const rows = await rowsOf(db, warehouse, id)
  const cost = (row: RunRow) => ({
    carrier: row.service?.carrier ?? "",
    packages: row.pieces,
    cost: row.cost,
    charged: row.charged,
    late: row.late,
  })
  return {
    id: run.id,
    name: run.name,
    origin: run.origin,
    rule: run.rule as RunRule,
    state: run.state,
    prints: run.prints,
    printOrder: run.print_order,
    madeBy: run.made_by,
    madeAt: run.made_at,
    boughtBy: run.bought_by,
    endedAt: run.ended_at,
    seen: run.seen_at !== null,
    putAway: run.put_away_at !== null,
    rows,
    printing: await printingOf(db, id),
    ready: runTotals(rows.filter((row) => row.step === "ready").map(cost)),
    bought: runTotals(rows.filter((row) => row.step === "bought").map(cost)),
  }
}

async function rowsOf(db: Knex, warehouse: Warehouse, runId: ShippingRunId): Promise<RunRow[]> {
  const stored = await db("shipping_run_order as r")
    .join("sales_order as o", "o.id", "r.order_id")
    .leftJoin("sales_order as lead", "lead.id", "o.joined_to_id")
    .leftJoin("outside_order as x", (on) => on.on("x.order_id", "o.id").andOnVal("x.state", "<>", "refused"))
    .where({ run_id: runId })
    .orderBy("r.position")
    .select(
      "r.*",
      "o.order_number",
      "o.customer_name",
      "o.city",
      "o.state as region",
      "o.country",
      "o.promised_on",
      "o.cancelled_at",
      "o.warehouse_id",
      "o.chosen_service_id",
      "lead.order_number as lead_number",
      "x.state as outside",
    )
  const ids: number[] = stored.map((row) => row.order_id)
  const shipments = await shipmentsOrDrafts(db, ids)
  const stops = await stopsOf(db, ids)
  const charging = await chargingRules(db)
  const services = new Map((await servicesByName(db)).map((one) => [one.code, one]))
  const bought = await boughtOf(db, runId)
  const open = new Set((await openCollections(db, warehouse.id, await businessNow(db))).map((one) => one.id))
  const balances = await prepaidBalances(db)
  const facts = stored.map((row): RunFacts & { readonly chosen: OfferSummary | null } => {
    const shipment = shipments.get(row.order_id)
    const chosen = parsed<OfferSummary[]>(row.offers).find((one) => one.code === row.chosen) ?? null
    const sum = (of: (line: Shipment["lines"][number]) => number) =>
      shipment?.lines.reduce((all, line) => all + of(line), 0) ?? 0
    return {
      state: row.state,
      said: parsed<Reason[]>(row.reasons),
      out: outOf(row, warehouse, shipment),
      lead: row.lead_number,
      stops: stops.get(row.order_id) ?? [],
      ordered: sum((line) => line.ordered),
      picked: sum((line) => line.picked),
      packed: sum((line) => line.packed),
      packages: shipment?.packages ?? [],
      version: shipment && shipment.id > 0 ? shipment.version : null,
      ratedVersion: row.rated_version,
      chosen,
      offer: chosen && {
        carrier: chosen.carrier,
        cost: costOf(chosen),
        late: chosen.late,
        balance: balances.get(chosen.code) ?? null,
        left: chosen.collectionId !== null && !open.has(chosen.collectionId),
        needs: chosen.needs,
      },
    }
  })
  const steps = howFarAll(facts)
  return stored.map((row, at): RunRow => {
    const { chosen } = facts[at] as (typeof facts)[number]
    const shipment = shipments.get(row.order_id)
    const packages = handled(shipment?.packages ?? [])
    const done = bought.get(row.order_id)
    const service = services.get(done?.service ?? chosen?.code ?? "")
    return {
      ...(steps[at] as HowFar),
      orderId: row.order_id,
      orderNumber: row.order_number,
      position: row.position,
      customer: row.customer_name,
      place: [row.city, row.region, row.country === warehouse.country ? "" : row.country].filter(Boolean).join(", "),
      promisedOn: row.promised_on,
      packages: packages.map((one) => ({
        number: one.number,
        packaging: one.packaging,
        lb: massIn(one.actual, "lb").toFixed(2),
        measuredLb: one.measured ? massIn(one.measured, "lb").toDecimalPlaces(2).toString() : null,
      })),
      pieces: packages.length,
      packed: packages.length > 0,
      service: service ? { code: service.code, name: service.name, carrier: chosen?.carrier ?? service.carrier } : null,
      byHand: row.chosen_service_id !== null && service?.id === row.chosen_service_id,
      cost: done ? done.cost : chosen && costOf(chosen),
      charged: done ? done.charged : shipment && chosen && packages.length > 0 ? chargedFor(chosen, shipment) : null,
      arrives: done?.arrives ?? chosen?.arrives ?? null,
      leaves: done?.leaves ?? chosen?.leaves ?? null,
      door: done?.door ?? chosen?.door ?? null,
      late: chosen?.late ?? false,
      tracking: done?.tracking ?? null,
      printed: done?.printed ?? "no",
      unprinted: done?.unprinted ?? 0,
      labelId: done?.labelId ?? null,
    }
  })

  function chargedFor(offer: OfferSummary, shipment: Shipment): string {
    return chargedOf(charging, warehouse, shipment, offer, {
      payer: offer.payer,
      contract: money(offer.contract, warehouse.currency),
      list: money(offer.list, warehouse.currency),
    }).amount.amount.toFixed(2)
  }
}

/** What of a run's papers is not printed yet, and what is the matter with their printers. */
async function printingOf(db: Knex, runId: ShippingRunId): Promise<ShippingRun["printing"]> {
  const row = await db("shipping_run_order as r")
    .join("document as d", "d.intent_id", "r.intent_id")
    .join("print_job as p", "p.document_id", "d.id")
    .where({ "r.run_id": runId, "r.state": "bought" })
    .whereIn("p.state", ["waiting", "sent"])
    .first<{ n: number; trouble: string | null }>(db.raw("COUNT(*) AS n"), db.raw("MAX(p.trouble) AS trouble"))
  return { waiting: Number(row?.n ?? 0), trouble: row?.trouble ?? null }
}

const costOf = (offer: OfferSummary): string | null => (offer.payer === "shipper" ? offer.contract : null)

/** Why an order is none of a run's any more. */
function outOf(
  row: { readonly cancelled_at: Date | null; readonly warehouse_id: number; readonly outside: string | null },
  warehouse: Warehouse,
  shipment: Shipment | undefined,
): Reason | null {
  if (row.cancelled_at) return reason("order.is-cancelled")
  if (row.warehouse_id !== warehouse.id) return reason("shipping-run.elsewhere")
  if (row.outside) return reason("shipping-run.outside")
  if (shipment && shipment.state !== "open") return reason("shipping-run.has-labels")
  return null
}

/** What was bought of a run's orders, by their ids. */
async function boughtOf(db: Knex, runId: ShippingRunId) {
  const rows = await db("shipping_run_order as r")
    .join("buy_intent as i", "i.id", "r.intent_id")
    .join("shipment as h", "h.id", "i.shipment_id")
    .join("service as s", "s.id", "i.service_id")
    .leftJoin("collection as c", "c.id", "h.collection_id")
    .where({ "r.run_id": runId, "r.state": "bought" })
    .select(
      "r.order_id",
      "i.id as intent",
      "s.code",
      "h.contract_amount",
      "h.charged_amount",
      "h.arrives_on",
      "h.ship_date",
      "h.master_tracking",
      "c.door",
    )
  const jobs = await db("document as d")
    .leftJoin("print_job as p", "p.document_id", "d.id")
    .whereIn(
      "d.intent_id",
      rows.map((row) => row.intent),
    )
    .where("d.kind", "label")
    .select<{ intent_id: number; id: DocumentId; state: string | null }[]>("d.intent_id", "d.id", "p.state")
  const byIntent = grouped(jobs, (job) => job.intent_id)
  return new Map(
    rows.map((row) => {
      const own = byIntent.get(row.intent) ?? []
      const printed = new Set(own.filter((one) => one.state === "printed").map((one) => one.id))
      const all = new Set(own.map((one) => one.id))
      const asked = new Set(own.filter((one) => one.state !== null && one.state !== "cancelled").map((one) => one.id))
      return [
        row.order_id as number,
        {
          service: row.code as string,
          cost: row.contract_amount === null ? null : Number(row.contract_amount).toFixed(2),
          charged: row.charged_amount === null ? null : Number(row.charged_amount).toFixed(2),
          arrives: row.arrives_on as string | null,
          leaves: row.ship_date as LocalDate | null,
          tracking: row.master_tracking as string | null,
          door: row.door as string | null,
          unprinted: all.size - asked.size,
          labelId: own.length > 0 ? (Math.min(...own.map((one) => one.id)) as DocumentId) : null,
          printed:
            all.size > 0 && printed.size === all.size
              ? ("printed" as const)
              : own.some((one) => one.state === "waiting" || one.state === "sent")
                ? ("waiting" as const)
                : ("no" as const),
        },
      ]
    }),
  )
}

export interface RunSummary {
  readonly id: ShippingRunId
  readonly name: string
  readonly origin: string
  readonly state: ShippingRunRow["state"]
  readonly madeBy: string
  readonly madeAt: Date
  readonly endedAt: Date | null
  readonly putAway: boolean
  readonly orders: number
  readonly waiting: number
  readonly asked: number
  readonly bought: number
  readonly failed: number
  readonly cost: string
}

/** Runs that a list shows at once. */
export const mostShown = 50

/** Runs of a warehouse, the latest first: those at work, or those that are put away. */
export async function runs(
  { db, actor }: Context,
  which: { readonly putAway: boolean; readonly before?: number } | { readonly ids: readonly number[] },
): Promise<RunSummary[]> {
  const rows = await db("shipping_run")
    .where({ warehouse_id: actor.warehouseId })
    .where((own) => {
      if ("ids" in which) return void own.whereIn("id", [...which.ids])
      if (which.before) own.where("id", "<", which.before)
      return void (which.putAway ? own.whereNotNull("put_away_at") : own.whereNull("put_away_at"))
    })
    .orderBy("id", "desc")
    .limit(mostShown)
  const counts = await countsOfRuns(
    db,
    rows.map((row) => row.id),
  )
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    origin: row.origin,
    state: row.state,
    madeBy: row.made_by,
    madeAt: row.made_at,
    endedAt: row.ended_at,
    putAway: row.put_away_at !== null,
    ...(counts.get(row.id) ?? noCounts),
  }))
}

const noCounts = { orders: 0, waiting: 0, asked: 0, bought: 0, failed: 0, cost: "0.00" }

async function countsOfRuns(db: Knex, ids: readonly number[]) {
  const rows = await db("shipping_run_order as r")
    .leftJoin("buy_intent as i", "i.id", "r.intent_id")
    .leftJoin("shipment as h", (on) => on.on("h.id", "i.shipment_id").andOnVal("r.state", "bought"))
    .whereIn("r.run_id", [...ids])
    .groupBy("r.run_id")
    .select<
      {
        run_id: number
        n: number
        waiting: string
        asked: string
        bought: string
        failed: string
        cost: string | null
      }[]
    >(
      "r.run_id",
      db.raw("COUNT(*) AS n"),
      db.raw("SUM(r.state = 'waiting') AS waiting"),
      db.raw("SUM(r.state IN ('asked', 'buying')) AS asked"),
      db.raw("SUM(r.state = 'bought') AS bought"),
      db.raw("SUM(r.state = 'failed') AS failed"),
      db.raw("SUM(h.contract_amount) AS cost"),
    )
  return new Map(
    rows.map((row) => [
      row.run_id,
      {
        orders: Number(row.n),
        waiting: Number(row.waiting),
        asked: Number(row.asked),
        bought: Number(row.bought),
        failed: Number(row.failed),
        cost: Number(row.cost ?? 0).toFixed(2),
      },
    ]),
  )
}

/** Runs that are being bought, and those whose end nobody has seen yet: what every screen tells. */
export async function runsAtWork(context: Context): Promise<RunSummary[]> {
  const { db, actor } = context
  const ids: number[] = await db("shipping_run")
    .where({ warehouse_id: actor.warehouseId })
    .where((own) =>
      own.whereNot("state", "open").orWhere((ended) => ended.whereNotNull("ended_at").whereNull("seen_at")),
    )
    .orderBy("id", "desc")
    .limit(4)
    .pluck("id")
  return ids.length === 0 ? [] : runs(context, { ids })
}
