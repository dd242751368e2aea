import { type CheckedLine, type KnownQuantities, stopReasons, stopsByHand, type Wanted } from "core/orders/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { SettleResult } from "core/rules/index.ts"
import { mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { type Actor, authorise, type Context } from "../actors/index.ts"
import { statesOfPostalCode } from "../addresses/places.ts"
import { addressOf } from "../addresses/row.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { customsOf } from "../goods/customs.ts"
import { dangerousOf } from "../goods/dangerous.ts"
import { leadOf, membersOf, shipToKeyOf } from "../orders/joined.ts"
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

interface Rechecking {
  /** What plans stand on, when it was read for many orders. */
  readonly ground?: Ground
  /** The order was made just now: it holds nothing and nothing is known of it. */
  readonly fresh?: boolean
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
  orderId: number,
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
  { ground, fresh = false, settleAnew = false, dealing = false }: Rechecking = {},
): Promise<readonly Reason[]> {
  const order = await trx("sales_order").where({ id: orderId }).forUpdate().first()
  const was = { settings: order.settings }
  if (order.cancelled_at) return []
  const wanted = await wantedOf(trx, order, fresh)
  if (!fresh && (await labelsAskedFor(trx, orderId))) {
    await writeStops(trx, orderId, stopsByHand(wanted), actor, now)
    await putWords(trx, orderId)
    return stopsByHand(wanted)
  }
  const lines = await trx("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: orderId })
    .orderBy("line_number")
    .select("item.*", "order_line.*")
  const itemIds = lines.map((line) => line.item_id)
  const on =
    ground && ground.warehouse.id === order.warehouse_id ? ground : await groundOf(trx, order.warehouse_id, now)
  const { warehouse } = on
  const levels = await levelsOf(trx, itemIds)
  let held = fresh ? new Map<number, Held>() : await heldBy(trx, orderId)
  const begun = [...held.values()].some((one) => one.picked > 0)
  let freed: number[] = []
  if (!fresh && !begun) {
    freed = await freeStock(trx, orderId)
    held = new Map()
  }
  const stock = await lockedStock(trx, order.warehouse_id, itemIds)
  const lackingOf = (line: { id: number; ordered: number }) => line.ordered - (held.get(line.id)?.quantity ?? 0)
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
  const known = begun ? new Map<number, KnownQuantities>() : await knownQuantities(trx, orderId, lines)
  const checked: CheckedLine[] = lines.map((line) => {
    const quantities = known.get(line.item_id)
    const lacking = lackingOf(line)
    const found = allotted.get(line.id)
    return {
      lineNumber: line.line_number,
      sku: line.sku,
      quantity: lacking,
      available: Math.max(0, lacking - (found?.lacking ?? 0)),
      withheld: found?.passedOver ?? [],
      ...(quantities ? { ordered: { pieces: line.ordered, known: quantities } } : {}),
      item: {
        unitWeight: line.weight_kg === null ? null : mass(line.weight_kg, "kg"),
        sized: [line.length_mm, line.width_mm, line.height_mm].every((edge) => Number(edge) > 0),
        dangerous: dangerousOf(line),
        customs: customsOf(line, order.currency, levels.get(line.item_id) ?? []),
      },
    }
  })
  const shipTo = addressOf(order)
  // what is sent with what is settled until work begins; who packs it finds it as it was
  const settlement = begun && !settleAnew ? null : await settleAgain(trx, on, order, lines, levels, fresh)
  if (settlement) order.settings = JSON.stringify({ settled: settlement.settled, tags: settlement.tags })
  const key = shipToKeyOf(order)
  if (!fresh) await partWhereApart(trx, order, key, actor, now, on)
  const members = fresh ? [orderId] : await membersOf(trx, orderId)
  const whole = members.length > 1 ? await plannedRows(trx, members[0] as number) : { order, lines }
  if (whole.order.id === orderId) whole.order.settings = order.settings
  const plan = planOrder(on, whole.order, whole.lines)
  const found = stopReasons({
    ...wanted,
    shipTo,
    postalStates: statesOfPostalCode(shipTo.country, shipTo.postalCode),
    from: warehouse.country,
    terms: { incoterm: order.incoterm, place: order.incoterm_place },
    lines: checked,
    refusedRows: parsed<Reason[]>(order.refused_rows),
    samePurchaseOrder: await samePurchaseOrder(trx, order),
    creditStop: await creditStop(trx, order.customer_id),
    screening: shipTo.country === warehouse.country ? [] : await screeningHits(trx, order.customer_name, shipTo),
    ruleHolds: begun ? [] : (settlement?.holds ?? []),
    promise:
      !begun && plan.earliest && order.promised_on !== null && plan.earliest.date > order.promised_on
        ? { promised: order.promised_on, earliest: plan.earliest.date, service: plan.earliest.service }
        : null,
  })
  const reasons = await notWaived(trx, orderId, found)
  if (!fresh || reasons.length > 0) await writeStops(trx, orderId, reasons, actor, now)
  if (reasons.length === 0) {
    await hold(trx, new Map([...allotted].map(([lineId, found]) => [lineId, found.takes])))
    await rejoinRuns(trx, orderId)
  } else await leaveRuns(trx, orderId)
  if (!dealing) {
    const short = reasons.some((one) => one.code === "stop.stock-short")
    const wanted = short ? lines.filter((line) => (allotted.get(line.id)?.lacking ?? 0) > 0) : []
    const ask = reasons.length > 0 ? [...freed, ...wanted.map((line) => line.item_id)] : []
    await askForDeal(trx, order.warehouse_id, ask)
  }
  const own = { ship_to_key: key, ...(settlement ? { settings: order.settings } : {}) }
  await keepPlan(trx, members, plan, own)
  if (members.length > 1) await trx("sales_order").where({ id: orderId }).update(own)
  if (settlement) {
    const before = keptOf(was)
    // a tag that a person took off is not put on again by the rule that gave it
    for (const tag of settlement.tags)
      if (!before.tags.includes(tag)) await putTag(trx, { actor, now }, orderId, tag, true)
  }
  await putWords(trx, orderId, fresh)
  return reasons
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

async function settleAgain(
  trx: Knex,
  { book, warehouse, today }: Ground,
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
  order: any,
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
  lines: readonly any[],
  levels: ReadonlyMap<number, readonly ItemLevel[]>,
  fresh: boolean,
): Promise<SettleResult> {
  const tags = fresh ? [] : await trx("order_tag").where({ order_id: order.id }).pluck("tag")
  // only rules ask who the customer is
  const customer = book.rules.length > 0 ? await customerCode(trx, order.customer_id) : ""
  return settleOrder(book, { order, lines, levels, tags, customer }, warehouse.code, today)
}

/** What a person or the order's source wants of it, whatever the order's data say. */
async function wantedOf(
  trx: Knex,
  order: { id: number; held_by_hand: number; source_waits: number; source_state: string },
  fresh: boolean,
): Promise<Wanted> {
  const outside = fresh
    ? null
    : await trx("outside_order as o")
        .join("outside_warehouse as w", "w.id", "o.outside_id")
        .where({ order_id: order.id })
        .first("o.state", "o.trouble", "w.name")
  const change = fresh
    ? null
    : await trx("order_change").where({ order_id: order.id, state: "open" }).first("kind", "came_with")
  return {
    heldByHand: !!order.held_by_hand,
    sourceState: order.source_waits ? order.source_state : null,
    change: change ? { kind: change.kind, cameWith: change.came_with } : null,
    outsideRefused: outside?.state === "refused" ? { warehouse: outside.name, why: outside.trouble ?? "" } : null,
  }
}

/** The bench number of an earlier order of the same customer with the same purchase-order number, if there is one. */
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

/** Looks at an order's stops again, such as after stock came; the reasons that are left. */
export async function checkAgain(context: Context, orderId: number): Promise<readonly Reason[]> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).first("id")
    return order ? recheck(trx, orderId, actor, now) : []
  })
}

/** Stops an order by hand, or lets it go on again (the lead). Safe to repeat. */
export async function holdOrder(context: Context, orderId: number, held: boolean): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, held ? "orders.hold" : "orders.release-hold")
  await inTransaction(db, (trx) => putHold(trx, actor, now, orderId, held))
}

/**
 * The change itself, in the caller's transaction; false when the order was held, or not, already. What is labeled can
 * be stopped until it has left: then it is not loaded.
 */
export async function putHold(trx: Knex, actor: Actor, now: Date, orderId: number, held: boolean): Promise<boolean> {
  if (held && (await hasLeft(trx, orderId))) return false
  const changed = await trx("sales_order")
    .where({ id: orderId, warehouse_id: actor.warehouseId, held_by_hand: !held })
    .update({ held_by_hand: held })
  if (changed === 0) return false
  await record(trx, actor, now, { action: held ? "order.held" : "order.hold-ended", orderId })
  await recheck(trx, orderId, actor, now)
  return true
}

/** Whether all packages of an order's shipment have left, or it is canceled. */
async function hasLeft(trx: Knex, orderId: number): Promise<boolean> {
  const order = await trx("sales_order").where({ id: orderId }).first("left_line_at", "cancelled_at")
  if (!order || order.cancelled_at !== null) return true
  if (order.left_line_at === null) return false
  const here = await trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "h.order_id": await leadOf(trx, orderId) })
    .whereNotIn("p.state", ["gone", "void"])
    .first("p.id")
  return here === undefined
}
