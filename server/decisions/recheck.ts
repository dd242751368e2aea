import type { OrderId } from "core/ids/index.ts"
import { type CheckedLine, stopReasons, stopsByHand, type Wanted } from "core/orders/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { SettleResult } from "core/rules/index.ts"
import { mass } from "core/units/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { statesOfPostalCode } from "../addresses/places.ts"
import { addressOf } from "../addresses/row.ts"
import { parsed } from "../audit/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { customsOf } from "../goods/customs.ts"
import { dangerousOf } from "../goods/dangerous.ts"
import type { ItemLineRow } from "../orders/itemLine.ts"
import { membersOf, shipToKeyOf } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { putTag } from "../orders/marks.ts"
import { leaveRuns, rejoinRuns } from "../orders/membership.ts"
import { notWaived } from "../orders/passed.ts"
import { writeStops } from "../orders/stops.ts"
import { knownQuantities } from "../orders/unusual.ts"
import { putWords } from "../orders/words.ts"
import { levelsOf } from "../packaging/catalog.ts"
import { type Ground, groundOf, keepPlan, partOff, planOrder } from "../plan/plan.ts"
import { plannedRows } from "../plan/plannedRows.ts"
import { routingOf } from "../rules/book.ts"
import { customerCode, keptOf, settleOrder } from "../rules/settleOrder.ts"
import { screeningHits } from "../screening/index.ts"
import { creditStop } from "../setup/credit.ts"
import { allot, freeStock, type Held, heldBy, hold, lockedStock, perCase } from "../stock/allocation.ts"
import { askForDeal } from "../stock/waiting.ts"

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
  { ground, settleAnew = false, dealing = false }: Rechecking = {},
): Promise<readonly Reason[]> {
  const order = await lockedOrder(trx, orderId)
  if (order.cancelled_at) return []
  const known = await knownOf(trx, order)
  if (await labelsAskedFor(trx, orderId)) {
    const reasons = stopsByHand(known.wanted)
    await writeStops(trx, orderId, reasons, actor, now)
    await putWords(trx, orderId)
    return reasons
  }
  const on = await groundFor(trx, order, now, ground)
  const begun = [...known.held.values()].some((one) => one.picked > 0)
  // what nobody has begun gives back what it holds, and takes what is best for it now
  const freed = begun ? [] : await freeStock(trx, orderId)
  const goods = await goodsOf(trx, order, on, begun ? known.held : new Map())
  // what is sent with what is settled until work begins; who packs it finds it as it was
  const settlement = begun && !settleAnew ? null : await settle(trx, order, on, goods, known.tags)
  await partWhereApart(trx, order, shipToKeyOf(order), actor, now, on)
  const check: Check = { trx, order, on, goods, known, settlement, begun, actor, now }
  const plan = await planned(check, await membersOf(trx, orderId))
  const reasons = await stopsOf(check, plan)
  await writeStops(trx, orderId, reasons, actor, now)
  await holdOrLeave(check, reasons)
  if (!dealing) await askOthers(check, reasons, freed)
  await keep(check, plan)
  await putWords(trx, orderId)
  return reasons
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
  const order = await lockedOrder(trx, orderId)
  const known = newOrder(order)
  const on = await groundFor(trx, order, now, ground)
  const goods = await goodsOf(trx, order, on, known.held)
  const settlement = await settle(trx, order, on, goods, known.tags)
  const check: Check = { trx, order, on, goods, known, settlement, begun: false, actor, now }
  const plan = await planned(check, [orderId])
  const reasons = await stopsOf(check, plan)
  if (reasons.length > 0) await writeStops(trx, orderId, reasons, actor, now)
  await holdOrLeave(check, reasons)
  await askOthers(check, reasons, [])
  await keep(check, plan)
  await putWords(trx, orderId, true)
  return reasons
}

type OrderRow = SalesOrderRow

/** What is known of an order besides its row. */
interface Known {
  /** What a person or its source wants of it. */
  readonly wanted: Wanted
  readonly held: ReadonlyMap<number, Held>
  readonly tags: readonly string[]
  /** Its settings and tags as they were before this check. */
  readonly before: ReturnType<typeof keptOf>
}

/** What the steps of a check go by. */
interface Check {
  readonly trx: Knex
  readonly order: OrderRow
  readonly on: Ground
  readonly goods: Goods
  readonly known: Known
  /** What it is sent with, settled again; null where it stays as it was. */
  readonly settlement: SettleResult | null
  readonly begun: boolean
  readonly actor: By
  readonly now: Date
}

/** The order's lines with their items, and what stock each would take. */
interface Goods {
  readonly lines: readonly ItemLineRow[]
  readonly levels: ReadonlyMap<number, readonly ItemLevel[]>
  readonly allotted: ReturnType<typeof allot>
  readonly lackingOf: (line: { readonly id: number; readonly ordered: number }) => number
}

interface Planned {
  readonly members: readonly number[]
  readonly plan: ReturnType<typeof planOrder>
}

/** The order with its open shipment, both locked before the stock of its items is. */
async function lockedOrder(trx: Knex, orderId: OrderId): Promise<OrderRow> {
  const order = there(await trx("sales_order").where({ id: orderId }).forUpdate().first())
  const lead = order.joined_to_id ?? order.id
  await trx("shipment").where({ order_id: lead, state: "open" }).forUpdate().select("id")
  return order
}

const groundFor = async (trx: Knex, order: OrderRow, now: Date, ground?: Ground): Promise<Ground> =>
  ground && ground.warehouse.id === order.warehouse_id ? ground : groundOf(trx, order.warehouse_id, now)

const knownOf = async (trx: Knex, order: OrderRow): Promise<Known> => ({
  wanted: await wantedOf(trx, order),
  held: await heldBy(trx, order.id),
  tags: await trx("order_tag").where({ order_id: order.id }).pluck("tag"),
  before: keptOf({ settings: order.settings }),
})

const newOrder = (order: OrderRow): Known => ({
  wanted: {
    heldByHand: !!order.held_by_hand,
    sourceState: order.source_waits ? order.source_state : null,
    change: null,
    outsideRefused: null,
  },
  held: new Map(),
  tags: [],
  before: keptOf({ settings: order.settings }),
})

/** Locks the stock of its items, and finds what its lines would take of it beyond what they hold. */
async function goodsOf(trx: Knex, order: OrderRow, on: Ground, held: ReadonlyMap<number, Held>): Promise<Goods> {
  const lines = await trx("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: order.id })
    .orderBy("line_number")
    .select("item.*", "order_line.*")
  const itemIds = lines.map((line) => line.item_id)
  const levels = await levelsOf(trx, itemIds)
  const stock = await lockedStock(trx, order.warehouse_id, itemIds)
  const lackingOf = (line: { readonly id: number; readonly ordered: number }) =>
    line.ordered - (held.get(line.id)?.quantity ?? 0)
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
  return { lines, levels, allotted, lackingOf }
}

/** What it is sent with by the rules of today; the order's row carries it from here on. */
async function settle(
  trx: Knex,
  order: OrderRow,
  { book, warehouse, today }: Ground,
  { lines, levels }: Goods,
  tags: readonly string[],
): Promise<SettleResult> {
  // only rules ask who the customer is
  const customer = book.rules.length > 0 ? await customerCode(trx, order.customer_id) : ""
  const settlement = settleOrder(book, { order, lines, levels, tags, customer }, warehouse.code, today)
  order.settings = JSON.stringify({ settled: settlement.settled, tags: settlement.tags })
  return settlement
}

/** The truck that it leaves with: of its whole shipment, where it is one with others. */
async function planned({ trx, order, on, goods }: Check, members: readonly number[]): Promise<Planned> {
  const whole = members.length > 1 ? await plannedRows(trx, members[0] as number) : { order, lines: goods.lines }
  if (whole.order.id === order.id) whole.order.settings = order.settings
  return { members, plan: planOrder(on, whole.order, whole.lines) }
}

/** Why it can't go on, less what a person allowed. */
async function stopsOf(
  { trx, order, on, known, goods, settlement, begun }: Check,
  { plan }: Planned,
): Promise<Reason[]> {
  const shipTo = addressOf(order)
  const { country } = on.warehouse
  const found = stopReasons({
    ...known.wanted,
    shipTo,
    postalStates: statesOfPostalCode(shipTo.country, shipTo.postalCode),
    from: country,
    terms: { incoterm: order.incoterm, place: order.incoterm_place },
    lines: await checkedLines(trx, order, goods, begun),
    refusedRows: parsed<Reason[]>(order.refused_rows),
    samePurchaseOrder: await samePurchaseOrder(trx, order),
    creditStop: await creditStop(trx, order.customer_id),
    screening: shipTo.country === country ? [] : await screeningHits(trx, order.customer_name, shipTo),
    ruleHolds: begun ? [] : (settlement?.holds ?? []),
    promise:
      !begun && plan.earliest && order.promised_on !== null && plan.earliest.date > order.promised_on
        ? { promised: order.promised_on, earliest: plan.earliest.date, service: plan.earliest.service }
        : null,
  })
  return notWaived(trx, order.id, found)
}

async function checkedLines(
  trx: Knex,
  order: OrderRow,
  { lines, levels, allotted, lackingOf }: Goods,
  begun: boolean,
): Promise<CheckedLine[]> {
  // whoever picks it has seen how much it is
  const quantities = begun ? null : await knownQuantities(trx, order.id, lines)
  return lines.map((line) => {
    const known = quantities?.get(line.item_id)
    const lacking = lackingOf(line)
    const found = allotted.get(line.id)
    return {
      lineNumber: line.line_number,
      sku: line.sku,
      quantity: lacking,
      available: Math.max(0, lacking - (found?.lacking ?? 0)),
      withheld: found?.passedOver ?? [],
      ...(known ? { ordered: { pieces: line.ordered, known } } : {}),
      item: {
        unitWeight: line.weight_kg === null ? null : mass(line.weight_kg, "kg"),
        sized: [line.length_mm, line.width_mm, line.height_mm].every((edge) => Number(edge) > 0),
        dangerous: dangerousOf(line),
        customs: customsOf(line, order.currency, levels.get(line.item_id) ?? []),
      },
    }
  })
}

/** Holds the stock of an order that goes on; one that is stopped is in no run. */
async function holdOrLeave({ trx, order, goods }: Check, reasons: readonly Reason[]): Promise<void> {
  if (reasons.length > 0) return leaveRuns(trx, order.id)
  await hold(trx, new Map([...goods.allotted].map(([lineId, found]) => [lineId, found.takes])))
  await rejoinRuns(trx, order.id)
}

/** Has stock dealt out again that a stopped order gave back, or of which it has too little. */
async function askOthers({ trx, order, goods }: Check, reasons: readonly Reason[], freed: readonly number[]) {
  if (reasons.length === 0) return
  const short = reasons.some((one) => one.code === "stop.stock-short")
  const lacking = short ? goods.lines.filter((line) => (goods.allotted.get(line.id)?.lacking ?? 0) > 0) : []
  await askForDeal(trx, order.warehouse_id, [...freed, ...lacking.map((line) => line.item_id)])
}

/** Keeps the plan, and what was settled with the tags that rules gave. */
async function keep({ trx, order, settlement, known, actor, now }: Check, { members, plan }: Planned): Promise<void> {
  const own = {
    ship_to_key: shipToKeyOf(order),
    ...(settlement ? { settings: order.settings as string } : {}),
  }
  await keepPlan(trx, [...members], plan, own)
  if (members.length > 1) await trx("sales_order").where({ id: order.id }).update(own)
  // a tag that a person took off is not put on again by the rule that gave it
  for (const tag of settlement?.tags ?? [])
    if (!known.before.tags.includes(tag)) await putTag(trx, { actor, now }, order.id, tag, true)
}

/** Orders that do not go to one place any more are no one shipment: the one that differs is parted. */
async function partWhereApart(
  trx: Knex,
  order: { id: number; joined_to_id: number | null },
  key: string,
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
  ground: Ground,
): Promise<void> {
  const combinedWith = await trx("sales_order")
    .where(order.joined_to_id === null ? { joined_to_id: order.id } : { id: order.joined_to_id })
    .select("id", "ship_to_key")
  if (combinedWith.some((one) => one.ship_to_key !== key)) await partOff(trx, order.id, actor, now, ground)
}

/** What a person or the order's source wants of it, whatever the order's data say. */
async function wantedOf(
  trx: Knex,
  order: Pick<OrderRow, "id" | "held_by_hand" | "source_waits" | "source_state">,
): Promise<Wanted> {
  const outside = await trx("outside_order as o")
    .join("outside_warehouse as w", "w.id", "o.outside_id")
    .where({ order_id: order.id })
    .first("o.state", "o.trouble", "w.name")
  const change = await trx("order_change").where({ order_id: order.id, state: "open" }).first("kind", "came_with")
  return {
    heldByHand: !!order.held_by_hand,
    sourceState: order.source_waits ? order.source_state : null,
    change: change ? { kind: change.kind, cameWith: change.came_with } : null,
    outsideRefused: outside?.state === "refused" ? { warehouse: outside.name, why: outside.trouble ?? "" } : null,
  }
}

/** The number of an earlier order of the same customer with the same purchase-order number, if there is one. */
async function samePurchaseOrder(
  trx: Knex,
  order: { id: number; po_number: string; customer_name: string; source_id: number; source_number: string },
): Promise<string | null> {
  if (!order.po_number) return null
  const twin = await trx("sales_order")
    .where({ customer_name: order.customer_name, po_number: order.po_number })
    .whereNull("cancelled_at")
    // a part of the same order is no other order
    .whereRaw("NOT (source_id = ? AND source_number = ?)", [order.source_id, order.source_number])
    .where("id", "<", order.id)
    .first("order_number")
  return twin?.order_number ?? null
}
