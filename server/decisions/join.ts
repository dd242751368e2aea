import { placeOf } from "core/address/index.ts"
import type { OrderId, WarehouseId } from "core/ids/index.ts"
import type { Money, MoneyText } from "core/money/index.ts"
import { moneyText, sumMoney } from "core/money/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { leadOf, membersOf, part } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { type PackedPrice, packedPrice } from "../packing/packedPrice.ts"
import { type Ground, groundOf, replan } from "../plan/plan.ts"
import { merged, type PlannedRows, plannedRowsOf } from "../plan/plannedRows.ts"
import { routingOf } from "../rules/book.ts"
import { settledOf } from "../rules/settleOrder.ts"
import type { Collection } from "../setup/collections.ts"
import { recheck } from "./recheck.ts"

/** Orders of one ship-to that would cost less as one shipment. */
export interface JoinOffer {
  readonly orders: readonly { readonly id: number; readonly orderNumber: string; readonly customer: string }[]
  readonly place: string
  /** Their freight by themselves, and as one shipment, as estimated. */
  readonly apart: MoneyText
  readonly together: MoneyText
  readonly saving: Money
  /** The collection that the earliest of them leaves with by itself, and the one that all would leave with. */
  readonly from: Departing | null
  readonly to: Departing | null
  /** Whether that is later than the earliest would leave by itself. */
  readonly later: boolean
}

type Departing = Pick<Collection, "id" | "door" | "onDate" | "cutOff" | "carrier">

/** Ship-tos with several open orders that are not one shipment yet; a narrow look by index. */
export async function shipTosOfSeveral(db: Knex, warehouseId: WarehouseId): Promise<string[]> {
  const rows = await db("sales_order as o")
    .where({ warehouse_id: warehouseId })
    .whereNull("left_line_at")
    .whereNotNull("ship_to_key")
    .groupBy("ship_to_key")
    .havingRaw("COUNT(DISTINCT COALESCE(joined_to_id, id)) > 1")
    .select("ship_to_key")
  return rows.map((row) => row.ship_to_key)
}

/**
 * The orders that are worth combining: of one ship-to, none stopped or asked for labels, allowed by their customers, in
 * time together, and cheaper together than apart. With `orderId` only the offer that this order is in.
 */
export async function joinOffers(context: Context, warehouseId: WarehouseId, orderId?: OrderId): Promise<JoinOffer[]> {
  const { db, now } = context
  const own = orderId
    ? await db("sales_order").where({ id: orderId, warehouse_id: warehouseId }).first("ship_to_key")
    : null
  const keys = await shipTosOfSeveral(db, warehouseId)
  const wanted = orderId ? keys.filter((key) => key === own?.ship_to_key) : keys
  if (wanted.length === 0) return []
  const ground = await groundOf(db, warehouseId, now)
  const rows = await db("sales_order as o")
    .where({ warehouse_id: warehouseId })
    .whereNull("left_line_at")
    .whereIn("ship_to_key", wanted)
    .whereNotExists(db("order_stop as s").whereRaw("s.order_id = o.id").select(db.raw("1")))
    .whereNotExists(
      db("shipment as h")
        .whereRaw("h.order_id = COALESCE(o.joined_to_id, o.id)")
        .whereNot("h.state", "open")
        .select(db.raw("1")),
    )
    .orderBy("o.id")
    .select("o.id", "o.ship_to_key", "o.order_number", "o.customer_name", "o.city", "o.state", "o.country")
  const planned = await plannedRowsOf(
    db,
    rows.map((row) => row.id),
  )
  const offers: JoinOffer[] = []
  for (const key of wanted) {
    const orders = rows.filter((row) => row.ship_to_key === key)
    const offer = await offerOf(
      ground,
      orders.flatMap((row) => planned.get(row.id) ?? []),
    )
    const [first] = orders
    if (!offer || !first || (orderId && !orders.some((row) => row.id === orderId))) continue
    const chosen = orders.filter((row) => offer.ids.includes(row.id))
    offers.push({
      ...offer,
      orders: chosen.map((row) => ({ id: row.id, orderNumber: row.order_number, customer: row.customer_name })),
      place: placeOf(first),
    })
  }
  return offers.sort((a, b) => b.saving.amount.cmp(a.saving.amount))
}

/** Orders that are offered as one shipment, at most; more can be joined by hand. */
const mostJoined = 10

/** What orders cost by themselves and as one shipment, each packed as the bench will suggest; null where one can't be. */
async function pricesOf(ground: Ground, some: readonly PlannedRows[]) {
  const alone: PackedPrice[] = []
  for (const one of some) {
    const price = await packedPrice(ground, one)
    if (!price) return null
    alone.push(price)
  }
  const together = await packedPrice(ground, {
    order: merged(some.map((one) => one.order)),
    lines: some.flatMap((one) => one.lines),
  })
  if (!together) return null
  const apart = sumMoney(
    alone.map((price) => price.cost),
    together.cost.currency,
  )
  return { alone, together, apart }
}

async function offerOf(
  ground: Ground,
  rows: readonly PlannedRows[],
): Promise<(Omit<JoinOffer, "orders" | "place"> & { ids: number[] }) | null> {
  const here = new Set(rows.map((one) => one.order.id))
  // a joined group is planned as one already: its leading order stands for it
  const all = rows.filter(({ order }) => order.joined_to_id === null || !here.has(order.joined_to_id))
  const first = all.find((one) => apartFrom(ground, one.order, one.order).length === 0)
  if (!first) return null
  const some = all.filter((one) => apartFrom(ground, first.order, one.order).length === 0).slice(0, mostJoined)
  if (some.length < 2) return null
  const prices = await pricesOf(ground, some)
  if (!prices) return null
  const { alone, together, apart } = prices
  const promised = some.map((one) => one.order.promised_on).filter((day) => day !== null)
  const arrives = together.offer.price?.arrival.date ?? ""
  if (promised.some((day) => arrives > day)) return null
  const saving = { amount: apart.amount.sub(together.cost.amount), currency: apart.currency }
  if (saving.amount.lte(0)) return null
  const at = (id: number | null) => ground.collections.find((one) => one.id === id) ?? null
  const departures = alone.map((price) => at(price.plan.collectionId)).filter((one) => one !== null)
  const from = departures.sort((a, b) => a.cutOff.getTime() - b.cutOff.getTime())[0] ?? null
  const to = at(together.plan.collectionId)
  const leads = new Set<number>(some.map((one) => one.order.id))
  const members = rows
    .map((one) => one.order)
    .filter((order) => order.joined_to_id !== null && leads.has(order.joined_to_id))
  return {
    ids: [...leads, ...members.map((order) => order.id as number)],
    apart: moneyText(apart),
    together: moneyText(together.cost),
    saving,
    from,
    to,
    later: from !== null && to !== null && to.cutOff > from.cutOff,
  }
}

/** Whether both orders may be one shipment, by their customers' instructions and by their terms. */
export const mayJoin = (ground: Ground, a: SalesOrderRow, b: SalesOrderRow): boolean =>
  apartFrom(ground, a, a).length === 0 && apartFrom(ground, a, b).length === 0

/** Why an order can't be one shipment with another, that of its own customer's instruction too; empty where it can. */
function apartFrom({ book }: Ground, lead: SalesOrderRow, order: SalesOrderRow): Reason[] {
  const reasons: Reason[] = []
  const name = { order: order.order_number }
  if (!routingOf(book, order.customer_id).join) reasons.push(reason("combine.not-allowed", name))
  if (lead.id === order.id) return reasons
  if (lead.ship_to_key === null || lead.ship_to_key !== order.ship_to_key) reasons.push(reason("combine.ship-to", name))
  if ((["currency", "incoterm", "incoterm_place"] as const).some((field) => lead[field] !== order[field]))
    reasons.push(reason("combine.terms", name))
  const payer = (row: { settings?: unknown }) => JSON.stringify(settingOf(settledOf(row), "payer") ?? null)
  if (payer(lead) !== payer(order)) reasons.push(reason("combine.payer", name))
  return reasons
}

/**
 * Makes one shipment of several orders. Each keeps its lines, and will have its share of the freight and its tracking.
 * The first of them leads: packages are called by its number. Refused where they do not go to one place on the same
 * terms, a customer's routing instruction does not allow it, labels are asked for, or more than one is being packed
 * already. Safe to repeat.
 */
export async function joinOrders(context: Context, orderIds: readonly OrderId[]): Promise<Outcome<{ lead: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  if (new Set(orderIds).size < 2) return refused(reason("combine.two"))
  // looked up before the transaction: what it reads must be what stands there once the locks are its own
  const ids = await withMembers(db, orderIds)
  const joinedFor = await joinedForNow(context, ids)
  return inTransaction(db, async (trx): Promise<Outcome<{ lead: string }>> => {
    const orders = await trx("sales_order")
      .whereIn("id", [...ids])
      .where({ warehouse_id: actor.warehouseId })
      .orderBy("id")
      .forUpdate()
    if (orders.length < ids.size) return refused(reason("order.unknown"))
    // who buys or packs has these locks; what is read after them is what they left
    await lockShipments(trx, [...ids])
    if ((await withMembers(trx, orderIds)).size !== ids.size) return refused(reason("order.changed-meanwhile"))
    const packing = await trx("shipment as h")
      .join("package as p", "p.shipment_id", "h.id")
      .whereIn("h.order_id", [...ids])
      .whereNot("p.state", "void")
      .distinct("h.order_id")
    if (packing.length > 1) return refused(reason("combine.both-packed"))
    const lead = there(orders.find((order) => order.id === packing[0]?.order_id) ?? orders[0])
    const reasons: Reason[] = []
    const ground = await groundOf(trx, actor.warehouseId, now)
    for (const order of orders) {
      const name = { order: order.order_number }
      if (order.cancelled_at) reasons.push(reason("combine.cancelled", name))
      if (await labelsAskedFor(trx, order.id)) reasons.push(reason("combine.labelled", name))
      reasons.push(...apartFrom(ground, lead, order))
    }
    if (reasons.length > 0) return { ok: false, reasons }
    const others = orders.filter((order) => order.id !== lead.id)
    if (others.every((order) => order.joined_to_id === lead.id)) return accepted({ lead: lead.order_number })
    // a shipment that somebody opened and put nothing in is no shipment
    const empty = await trx("shipment")
      .whereIn(
        "order_id",
        others.map((order) => order.id),
      )
      .pluck("id")
    const asked = await trx("buy_intent").whereIn("shipment_id", empty).first("id")
    if (asked) return refused(reason("combine.both-packed"))
    await trx("package").whereIn("shipment_id", empty).delete()
    await trx("shipment").whereIn("id", empty).delete()
    await trx("sales_order")
      .whereIn(
        "id",
        others.map((order) => order.id),
      )
      .update({ joined_to_id: lead.id, version: trx.raw("version + 1") })
    await trx("sales_order")
      .where({ id: lead.id })
      .update({ joined_to_id: null, joined_for: joinedFor && JSON.stringify(joinedFor) })
    await trx("shipment").where({ order_id: lead.id, state: "open" }).increment("version", 1)
    for (const order of orders)
      await record(trx, actor, now, {
        action: "order.joined",
        orderId: order.id,
        detail: {
          orders: orders
            .filter((other) => other.id !== order.id)
            .map((other) => other.order_number)
            .join(", "),
        },
      })
    await replan(trx, ground, lead.id)
    return accepted({ lead: lead.order_number })
  })
}

/** What orders cost when they were joined: by themselves, and together. */
export interface JoinedFor {
  readonly apart: MoneyText
  readonly together: MoneyText
}

/** The same, worked out as for an offer; null where it can't be, or a shipment joined before is among them. */
async function joinedForNow({ db, actor, now }: Context, ids: ReadonlySet<number>): Promise<JoinedFor | null> {
  const rows = await plannedRowsOf(db, [...ids])
  const some = [...rows.values()].filter(({ order }) => order?.warehouse_id === actor.warehouseId)
  if (some.length < ids.size || some.some(({ order }) => order.joined_to_id !== null)) return null
  const ground = await groundOf(db, actor.warehouseId, now)
  const prices = await pricesOf(ground, some)
  return prices && { apart: moneyText(prices.apart), together: moneyText(prices.together.cost) }
}

const lockShipments = (trx: Knex, orderIds: readonly OrderId[]) =>
  trx("shipment")
    .whereIn("order_id", [...orderIds])
    .orderBy("id")
    .forUpdate()
    .select("id")

async function withMembers(db: Knex, orderIds: readonly OrderId[]): Promise<Set<number>> {
  const ids = new Set<number>()
  for (const id of orderIds) for (const member of await membersOf(db, id)) ids.add(member)
  return ids
}

/** Parts an order from those it is one shipment with. Refused once labels are asked for. Safe to repeat. */
export async function partOrder(context: Context, orderId: OrderId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const members = await membersOf(db, orderId)
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const locked = await trx("sales_order")
      .whereIn("id", members)
      .where({ warehouse_id: actor.warehouseId })
      .orderBy("id")
      .forUpdate()
      .select("id")
    if (locked.length < members.length) return refused(reason("order.unknown"))
    await lockShipments(trx, members)
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
    if ((await part(trx, orderId, actor, now)).length === 0) return accepted(null)
    const ground = await groundOf(trx, actor.warehouseId, now)
    for (const id of members) await recheck(trx, id, actor, now, { ground })
    return accepted(null)
  })
}

/** The other orders of an order's shipment. */
export async function joinedWith(
  db: Knex,
  orderId: OrderId,
): Promise<{ id: number; orderNumber: string; leads: boolean }[]> {
  const lead = await leadOf(db, orderId)
  const members = (await membersOf(db, orderId)).filter((id) => id !== orderId)
  const rows = await db("sales_order").whereIn("id", members).orderBy("id").select("id", "order_number")
  return rows.map((row) => ({ id: row.id, orderNumber: row.order_number, leads: row.id === lead }))
}

/** The shipments of several open orders of a warehouse. */
export async function joinedNow(
  db: Knex,
  warehouseId: WarehouseId,
): Promise<
  {
    lead: number
    orders: { id: number; orderNumber: string }[]
    customer: string
    place: string
    joinedFor: JoinedFor | null
  }[]
> {
  const rows = await db("sales_order as o")
    .where({ warehouse_id: warehouseId })
    .whereNull("left_line_at")
    .where((some) =>
      some
        .whereNotNull("joined_to_id")
        .orWhereExists(db("sales_order as j").whereRaw("j.joined_to_id = o.id").select(db.raw("1"))),
    )
    .orderByRaw("joined_to_id IS NOT NULL, id")
    .select("id", "joined_to_id", "joined_for", "order_number", "customer_name", "city", "state", "country")
  return rows
    .filter((row) => row.joined_to_id === null)
    .map((lead) => ({
      lead: lead.id,
      customer: lead.customer_name,
      place: placeOf(lead),
      joinedFor: lead.joined_for === null ? null : parsed<JoinedFor>(lead.joined_for),
      orders: [lead, ...rows.filter((row) => row.joined_to_id === lead.id)].map((row) => ({
        id: row.id,
        orderNumber: row.order_number,
      })),
    }))
}
