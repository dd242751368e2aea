import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import { type CheckedLine, stopReasons, stopsByHand } from "core/orders/index.ts"
import type { ItemLevel, Take } from "core/picking/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { SettleResult } from "core/rules/index.ts"
import { mass } from "core/units/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { statesOfPostalCode } from "../addresses/places.ts"
import { addressOf } from "../addresses/row.ts"
import { parsed } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { customsOf } from "../goods/customs.ts"
import { dangerousOf } from "../goods/dangerous.ts"
import { membersOf, shipToKeyOf } from "../orders/joined.ts"
import { putTag } from "../orders/marks.ts"
import { leaveRuns, rejoinRuns } from "../orders/membership.ts"
import { notPassed } from "../orders/passed.ts"
import { writeStops } from "../orders/stops.ts"
import { knownQuantities } from "../orders/unusual.ts"
import { putWordsOf } from "../orders/words.ts"
import { borderFactsOf } from "../papers/border.ts"
import { type Ground, groundOf, keepPlan, keepPlans, type OrderPlan, partOff, planOrder } from "../plan/plan.ts"
import { plannedRows } from "../plan/plannedRows.ts"
import { routingOf } from "../rules/book.ts"
import { kept, keptOf, keptText, settleOrder } from "../rules/settleOrder.ts"
import { screeningHits } from "../screening/index.ts"
import {
  allot,
  exchange,
  freedBy,
  type Held,
  type HeldRow,
  heldByLine,
  holdsJust,
  perCase,
} from "../stock/allocation.ts"
import { askForDeal } from "../stock/waiting.ts"
import { type CheckedRows, type CheckedTogether, checkFacts, type FreeStock } from "./checkFacts.ts"

type By = Pick<Actor, "userId" | "name">

interface Rechecking {
  /** What plans stand on, when it was read for many orders. */
  readonly ground?: Ground
  /** A person chose what it is sent with: that is settled again though work has begun. */
  readonly settleAnew?: boolean
  /** Stock is being dealt out just now: nobody needs to be asked for that again. */
  readonly dealing?: boolean
}

/**
 * Checks an order, writes down its stops, and allocates its stock and plans it when there are none. An order that
 * is being picked keeps what it holds, and is given what it still lacks. Of an order whose labels are asked for only
 * what a person or its source wants of it can stop it. Called after every change that may raise or end a stop; safe
 * to repeat.
 */
export async function recheck(
  trx: Knex,
  orderId: OrderId,
  actor: By,
  now: Date,
  { ground, ...how }: Rechecking = {},
): Promise<readonly Reason[]> {
  const { reasons } = await checkTogether(trx, [orderId], actor, now, { ...how, grounds: groundsOf(now, ground) })
  return reasons.get(orderId) ?? []
}

/**
 * The same of an order that was made just now, in the transaction that made it: it holds nothing, nobody wants anything
 * of it yet, and it stands alone.
 */
export async function release(
  trx: Knex,
  orderId: OrderId,
  actor: By,
  now: Date,
  ground?: Ground,
): Promise<readonly Reason[]> {
  const { reasons } = await checkTogether(trx, [orderId], actor, now, { fresh: true, grounds: groundsOf(now, ground) })
  return reasons.get(orderId) ?? []
}

/** Orders that are checked in one transaction: as many as are locked for a moment only. */
const together = 25

/**
 * Checks many orders as `recheck` does, some at a time in a transaction of their own; those that are one shipment with
 * others by themselves. Orders are looked at as they come: who comes first has the first of what is free.
 *
 * @param until real time after which no more are begun
 * @returns the reasons of those that were looked at
 */
export async function recheckMany(
  db: Knex,
  orderIds: readonly OrderId[],
  actor: By,
  now: Date,
  { until = Number.POSITIVE_INFINITY, dealing = false }: { readonly until?: number; readonly dealing?: boolean } = {},
): Promise<ReadonlyMap<number, readonly Reason[]>> {
  const found = new Map<number, readonly Reason[]>()
  const how = { dealing, grounds: groundsOf(now) }
  const check = async (ids: readonly OrderId[]): Promise<void> => {
    const { reasons, combined } = await inTransaction(db, (trx) => checkTogether(trx, ids, actor, now, how))
    for (const id of ids) if (!combined.includes(id)) found.set(id, reasons.get(id) ?? [])
    for (const id of combined) await check([id])
  }
  for (let at = 0; at < orderIds.length && Date.now() < until; at += together)
    await check(orderIds.slice(at, at + together))
  return found
}

/** What plans of a warehouse stand on, read when it is asked for first. */
type Grounds = (trx: Knex, warehouseId: WarehouseId) => Promise<Ground>

function groundsOf(now: Date, ground?: Ground): Grounds {
  const known = new Map<number, Ground>(ground ? [[ground.warehouse.id, ground]] : [])
  return async (trx, warehouseId) => {
    const found = known.get(warehouseId) ?? (await groundOf(trx, warehouseId, now))
    known.set(warehouseId, found)
    return found
  }
}

interface Checking {
  readonly grounds: Grounds
  readonly settleAnew?: boolean
  readonly dealing?: boolean
  readonly fresh?: boolean
}

/**
 * Reads what a check of orders goes by, checks one after another, and writes what came of all. Of several those that are
 * one shipment with others are left to be checked by themselves (`combined`).
 */
async function checkTogether(
  trx: Knex,
  orderIds: readonly OrderId[],
  actor: By,
  now: Date,
  { grounds, settleAnew = false, dealing = false, fresh = false }: Checking,
): Promise<{ readonly reasons: ReadonlyMap<number, readonly Reason[]>; readonly combined: readonly OrderId[] }> {
  const facts = await checkFacts(trx, orderIds, fresh)
  const alone = orderIds.length === 1 ? facts.orders : facts.orders.filter((one) => one.combinedWith.length === 0)
  const labelled = facts.labelled.map((one) => ({ ...one, reasons: stopsByHand(one.wanted) }))
  const found: Found[] = []
  for (const rows of alone)
    found.push(
      await checkOne({ trx, actor, now, facts, settleAnew, on: await grounds(trx, rows.order.warehouse_id) }, rows),
    )
  await writeStops(
    trx,
    [...labelled, ...found].map((one) => ({ orderId: one.order.id, before: one.stops, reasons: one.reasons })),
    actor,
    now,
  )
  await writeHeld(trx, found)
  if (!dealing) await askOthers(trx, found)
  await keep(trx, found, actor, now)
  const done = [...labelled, ...found]
  await putWordsOf(
    trx,
    done.map((one) => one.order.id),
    fresh,
  )
  return {
    reasons: new Map(done.map((one) => [one.order.id, one.reasons])),
    combined: facts.orders.filter((one) => !alone.includes(one)).map((one) => one.order.id),
  }
}

/** What the check of an order goes by besides its rows. */
interface Check {
  readonly trx: Knex
  readonly actor: By
  readonly now: Date
  readonly facts: CheckedTogether
  readonly on: Ground
  readonly settleAnew: boolean
}

/** What came of the check of an order, to be written. */
interface Found extends CheckedRows {
  readonly reasons: readonly Reason[]
  /** What it is sent with, settled again; null where it stays as it was. */
  readonly settlement: SettleResult | null
  readonly shipToKey: string
  readonly goods: Goods
  readonly plan: OrderPlan
  /** All orders of its shipment, the leading one first. */
  readonly members: readonly number[]
  /** What it gives back of the stock. */
  readonly given: readonly HeldRow[]
  /** What it takes of it, by line. */
  readonly taken: ReadonlyMap<number, readonly Take[]>
}

async function checkOne(check: Check, rows: CheckedRows): Promise<Found> {
  const { facts, on } = check
  const stock = facts.stock.get(rows.order.warehouse_id)
  const count = (stockId: number, pieces: number) => {
    // what it holds in another warehouse is not free for anybody here
    const place = stock?.byId.get(stockId)
    if (place) place.free += pieces
  }
  const held = heldByLine(rows.held)
  const begun = [...held.values()].some((one) => one.picked > 0)
  // what nobody has begun gives back what it holds, and takes what is best for it now
  const given = begun ? [] : rows.held
  for (const row of given) count(row.stock_id, row.quantity - row.picked)
  const goods = goodsOf(rows, on, facts.levels, stock, begun ? held : new Map())
  // what is sent with what is settled until work begins; who packs it finds it as it was
  const settlement = begun && !check.settleAnew ? null : settle(rows, on, facts.levels)
  const order = settlement ? { ...rows.order, settings: kept(settlement) } : rows.order
  const shipToKey = shipToKeyOf(order)
  const members = await membersLeft(check, rows, shipToKey)
  const plan = await planned(check, order, rows, members)
  const reasons = await stopsOf(check, { rows, goods, settlement, begun, plan })
  const taken =
    reasons.length > 0 ? new Map() : new Map([...goods.allotted].map(([lineId, one]) => [lineId, one.takes] as const))
  for (const takes of taken.values()) for (const take of takes) count(take.stockId, -take.quantity)
  return { ...rows, reasons, settlement, shipToKey, goods, plan, members, given, taken }
}

/** What stock the lines of an order would take. */
interface Goods {
  readonly allotted: ReturnType<typeof allot>
  readonly lackingOf: (line: { readonly id: number; readonly ordered: number }) => number
}

/** Finds what its lines would take of the stock beyond what they hold. */
function goodsOf(
  { order, lines }: CheckedRows,
  on: Ground,
  levels: ReadonlyMap<number, readonly ItemLevel[]>,
  free: FreeStock | undefined,
  held: ReadonlyMap<number, Held>,
): Goods {
  const lackingOf: Goods["lackingOf"] = (line) => line.ordered - (held.get(line.id)?.quantity ?? 0)
  const stock = [...new Set(lines.map((line) => line.item_id))].flatMap((itemId) => free?.byItem.get(itemId) ?? [])
  const allotted = allot(
    stock,
    lines.map((line) => ({
      id: line.id,
      itemId: line.item_id,
      sku: line.sku,
      lacking: lackingOf(line),
      perCase: perCase(levels.get(line.item_id) ?? []),
    })),
    {
      usableOn: order.promised_on !== null && order.promised_on > on.today ? order.promised_on : on.today,
      minimumLife: routingOf(on.book, order.customer_id).minimumLife,
    },
  )
  return { allotted, lackingOf }
}

/** What it is sent with by the rules of today. */
const settle = (
  { order, lines, tags, customer }: CheckedRows,
  { book, warehouse, today }: Ground,
  levels: ReadonlyMap<number, readonly ItemLevel[]>,
): SettleResult =>
  settleOrder(book, { order, lines, levels, tags, customer: customer?.code ?? "" }, warehouse.code, today)

/**
 * The orders of its shipment. Orders that do not go to one place any more are no one shipment: the one that differs is
 * parted.
 */
async function membersLeft({ trx, actor, now, on }: Check, { order, combinedWith }: CheckedRows, key: string) {
  if (combinedWith.length === 0) return [order.id]
  if (combinedWith.some((one) => one.ship_to_key !== key)) await partOff(trx, order.id, actor, now, on)
  return membersOf(trx, order.id)
}

/** The truck that it leaves with: of its whole shipment, where it is one with others. */
async function planned(
  { trx, on }: Check,
  order: SalesOrderRow,
  { lines }: CheckedRows,
  members: readonly number[],
): Promise<OrderPlan> {
  if (members.length === 1) return planOrder(on, order, lines)
  const whole = await plannedRows(trx, members[0] as number)
  const settled = whole.order.id === order.id ? { ...whole.order, settings: order.settings } : whole.order
  return planOrder(on, settled, whole.lines)
}

interface Looked {
  readonly rows: CheckedRows
  readonly goods: Goods
  readonly settlement: SettleResult | null
  readonly begun: boolean
  readonly plan: OrderPlan
}

/** Why it can't go on, less what a person allowed. */
async function stopsOf(check: Check, looked: Looked): Promise<Reason[]> {
  const { trx, on } = check
  const { rows, settlement, begun, plan } = looked
  const { order } = rows
  const shipTo = addressOf(order)
  const { country } = on.warehouse
  const border = shipTo.country === country ? null : await borderFactsOf(trx, order, on.today)
  const found = stopReasons({
    ...rows.wanted,
    shipTo,
    postalStates: statesOfPostalCode(shipTo.country, shipTo.postalCode),
    from: country,
    terms: { incoterm: order.incoterm, place: order.incoterm_place },
    ...border,
    lines: await checkedLines(check, looked),
    refusedRows: parsed<Reason[]>(order.refused_rows),
    samePurchaseOrder: rows.samePurchaseOrder,
    creditStop: rows.customer?.creditStop ?? null,
    screening: border
      ? await screeningHits(trx, order.customer_name, shipTo, Object.values(border.customs?.parties ?? {}))
      : [],
    ruleHolds: begun ? [] : (settlement?.holds ?? []),
    promise:
      !begun && plan.earliest && order.promised_on !== null && plan.earliest.date > order.promised_on
        ? { promised: order.promised_on, earliest: plan.earliest.date, service: plan.earliest.service }
        : null,
  })
  return notPassed(rows.passed, found)
}

async function checkedLines({ trx, facts }: Check, { rows, goods, begun }: Looked): Promise<CheckedLine[]> {
  const { order, lines } = rows
  // whoever picks it has seen how much it is
  const quantities = begun ? null : await knownQuantities(trx, order.id, lines, facts.onHand)
  return lines.map((line) => {
    const known = quantities?.get(line.item_id)
    const lacking = goods.lackingOf(line)
    const found = goods.allotted.get(line.id)
    return {
      lineNumber: line.line_number,
      sku: line.sku,
      quantity: lacking,
      pieces: line.ordered,
      available: Math.max(0, lacking - (found?.lacking ?? 0)),
      withheld: found?.passedOver ?? [],
      ...(known ? { ordered: { pieces: line.ordered, known } } : {}),
      item: {
        unitWeight: line.weight_kg === null ? null : mass(line.weight_kg, "kg"),
        sized: [line.length_mm, line.width_mm, line.height_mm].every((edge) => Number(edge) > 0),
        dangerous: dangerousOf(line),
        customs: customsOf(line, order.currency, facts.levels.get(line.item_id) ?? []),
      },
    }
  })
}

/** Holds the stock of orders that go on; those that are stopped are in no run. */
async function writeHeld(trx: Knex, found: readonly Found[]): Promise<void> {
  const changed = found.filter((one) => !holdsJust(one.given, one.taken))
  await exchange(
    trx,
    changed.flatMap((one) => one.given),
    new Map(changed.flatMap((one) => [...one.taken])),
  )
  for (const { inRun, reasons, order } of found)
    if (inRun) await (reasons.length > 0 ? leaveRuns(trx, order.id) : rejoinRuns(trx, order.id))
}

/** Has stock dealt out again that stopped orders gave back, or of which they have too little. */
async function askOthers(trx: Knex, found: readonly Found[]): Promise<void> {
  const stopped = found.filter((one) => one.reasons.length > 0)
  for (const [warehouseId, own] of grouped(stopped, (one) => one.order.warehouse_id)) {
    const items = own.flatMap(({ reasons, lines, goods, given }) => {
      const short = reasons.some((one) => one.code === "stop.stock-short")
      const lacking = short ? lines.filter((line) => (goods.allotted.get(line.id)?.lacking ?? 0) > 0) : []
      return [...freedBy(given), ...lacking.map((line) => line.item_id)]
    })
    await askForDeal(trx, warehouseId, [...new Set(items)])
  }
}

/** Keeps the plans, and what was settled with the tags that rules gave. */
async function keep(trx: Knex, found: readonly Found[], actor: By, now: Date): Promise<void> {
  const own = ({ shipToKey, settlement, order }: Found) => ({
    ship_to_key: shipToKey,
    settings: settlement ? kept(settlement) : keptText(order),
  })
  await keepPlans(
    trx,
    found.filter((one) => one.members.length === 1).map((one) => ({ order: one.order, plan: one.plan, own: own(one) })),
  )
  for (const one of found.filter(({ members }) => members.length > 1)) {
    await keepPlan(trx, one.members, one.plan)
    await trx("sales_order").where({ id: one.order.id }).update(own(one))
  }
  // a tag that a person took off is not put on again by the rule that gave it
  for (const { order, settlement } of found)
    for (const tag of settlement?.tags ?? [])
      if (!keptOf(order).tags.includes(tag)) await putTag(trx, { actor, now }, order.id, tag, true)
}
