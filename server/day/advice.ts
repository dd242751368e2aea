import { createHash } from "node:crypto"
import { type DayColumn, handsNeeded, planDay } from "core/day/index.ts"
import type { CollectionId, OrderId, ServiceId } from "core/ids/index.ts"
import { allMinutes } from "core/orders/index.ts"
import { cover } from "core/plan/index.ts"
import { Decimal } from "decimal.js"
import type { Context } from "../actors/index.ts"
import { onceForEachChange } from "../live/kept.ts"
import type { OrderSummary } from "../orders/facts.ts"
import { bestWay, type Ground, groundOf, type Way, waysOf } from "../plan/plan.ts"
import { plannedRows } from "../plan/plannedRows.ts"
import type { Collection } from "../setup/collections.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import type { DayView } from "./index.ts"

/** An order that can leave with another collection than the one that it would hold up. */
export interface Move {
  readonly orderId: OrderId
  readonly orderNumber: string
  readonly collectionId: CollectionId
  readonly serviceId: ServiceId
  readonly door: string
  readonly cutOff: Date
  readonly service: string
  /** Dearer than as planned; below zero: cheaper. */
  readonly dearer: Decimal
  /** It still arrives by its promise, or nothing is promised. */
  readonly inTime: boolean
}

/** The cheapest way to bring all of a collection's orders in time. */
export interface Advice {
  readonly collectionId: CollectionId
  readonly door: string
  /** Orders that will miss it as things stand, and would not be in time with a later one. */
  readonly lost: number
  readonly missing: number
  readonly moves: readonly Move[]
  readonly dearer: Decimal
  /** People more from now on that would do, and what they cost until the cut-off where that is known. */
  readonly hands: { readonly more: number; readonly cost: Decimal | null } | null
  readonly currency: string
  /** What is cheapest. */
  readonly take: "move" | "hands" | null
  /** The same advice again is the same text. */
  readonly fingerprint: string
}

/** Orders that advice looks at for one collection. */
const mostLookedAt = 60

/**
 * The way out for the first collection that is short: the orders that free enough of the crew's time when they leave
 * with a later collection, at the least cost; or so many hands more, where that is cheaper. Null on a day that fits.
 */
export async function adviceFor(context: Context, warehouse: Warehouse, day: DayView): Promise<Advice | null> {
  const late = day.collections.find((one) => (one.column?.willMiss.length ?? 0) > 0)
  if (!late?.column) return null
  const { column } = late
  // it rates orders by every service: once for each change and each minute of the clock
  const minute = Math.floor(context.now.getTime() / 60_000)
  return onceForEachChange(context, warehouse.id, `advice ${late.id} ${minute}`, () =>
    workOut(context, warehouse, day, { ...late, column }),
  )
}

type Late = DayView["collections"][number] & { readonly column: DayColumn }

async function workOut(context: Context, warehouse: Warehouse, day: DayView, late: Late): Promise<Advice> {
  const { column } = late
  const ground = await groundOf(context.db, warehouse.id, context.now)
  const cutOffOf = new Map(ground.collections.map((one) => [one.id, one.cutOff]))
  // orders of one shipment leave together, and what is begun stays
  const withIt = (lead: number) => late.orders.filter((order) => order.id === lead || order.lead?.id === lead)
  const open = late.orders
    .filter((order) => order.lead === null && withIt(order.id).every((one) => one.facts.picked === 0))
    .slice(-mostLookedAt)
  const moves: (Move & { minutes: number })[] = []
  const fits = new Set(day.collections.filter((one) => (one.column?.margin ?? 0) >= 0).map((one) => one.id))
  const today = new Set(day.collections.map((one) => one.id))
  // the work that must go elsewhere: what the crew can't do until the cut-off
  const short = shortage(day, late.id, context.now)
  // the last of the stack first: they are the ones that miss
  let free = 0
  for (const order of [...open].reverse()) {
    const move = await wayOut(context, ground, order, late, (one) => !today.has(one.id) || fits.has(one.id))
    if (!move) continue
    const minutes = withIt(order.id).reduce((sum, one) => sum + allMinutes(one.left), 0)
    moves.push({ ...move, minutes })
    // enough that costs nothing and is in time: nothing can be better
    if (move.inTime && move.dearer.lte(0)) free += minutes
    if (free >= short) break
  }
  const chosen = cheapest(moves, short)
  const dearer = chosen.reduce((sum, move) => sum.add(move.dearer), new Decimal(0))
  const hands = handsFor(day, late, context.now, warehouse)
  const allInTime = chosen.length > 0 && chosen.every((move) => move.inTime)
  const take =
    chosen.length > 0 && (!hands || (allInTime && (hands.cost === null || dearer.lte(hands.cost))))
      ? "move"
      : hands
        ? "hands"
        : null
  const lost = late.orders.filter((order) => {
    const must = order.mustCollectionId === null ? null : cutOffOf.get(order.mustCollectionId)
    return column.willMiss.includes(order.id) && must !== null && must !== undefined && must <= late.cutOff
  }).length
  const shown = chosen.map(({ minutes, ...move }) => move)
  return {
    collectionId: late.id,
    door: late.door,
    lost,
    missing: column.willMiss.length,
    moves: shown,
    dearer,
    hands,
    currency: warehouse.currency,
    take,
    fingerprint: createHash("sha256")
      .update(
        JSON.stringify([late.id, shown.map((move) => [move.orderId, move.collectionId, move.serviceId]), hands?.more]),
      )
      .digest("hex")
      .slice(0, 32),
  }
}

/** The cheapest later collection for an order that keeps its promise, the earliest to arrive where none does. */
async function wayOut(
  { db }: Context,
  ground: Ground,
  order: OrderSummary,
  late: Collection,
  roomIn: (one: Collection) => boolean,
): Promise<Move | null> {
  const rows = await plannedRows(db, order.id)
  const { ways } = waysOf(ground, rows.order, rows.lines)
  const now = ways.find((way) => way.service.id === rows.order.planned_service_id) ?? bestWay(ways, order.promisedOn)
  if (!now) return null
  const later = ways.flatMap((way) => {
    const departure = way.departures.find((one) => one.cutOff > late.cutOff && roomIn(one))
    if (!departure) return []
    const arrives = way.arrives(departure.onDate)
    return [
      {
        way,
        departure,
        arrives: `${arrives} ${way.time}`,
        inTime: order.promisedOn === null || arrives <= order.promisedOn,
      },
    ]
  })
  const order1 = (a: (typeof later)[number], b: (typeof later)[number]) =>
    Number(b.inTime) - Number(a.inTime) ||
    (a.inTime ? a.way.cost.amount.cmp(b.way.cost.amount) : a.arrives.localeCompare(b.arrives)) ||
    a.departure.cutOff.getTime() - b.departure.cutOff.getTime()
  const best = later.sort(order1)[0]
  if (!best) return null
  return moveBy(order, best.way, best.departure, best.way.cost.amount.sub(now.cost.amount), best.inTime)
}

const moveBy = (order: OrderSummary, way: Way, departure: Collection, dearer: Decimal, inTime: boolean): Move => ({
  orderId: order.id,
  orderNumber: order.orderNumber,
  collectionId: departure.id,
  serviceId: way.service.id,
  door: departure.door,
  cutOff: departure.cutOff,
  service: way.service.name,
  dearer,
  inTime,
})

/** One person's minutes of work that don't fit before a collection's cut-off. */
function shortage(day: DayView, collectionId: CollectionId, now: Date): number {
  let work = 0
  for (const one of day.collections) {
    if (one.column) work += one.orders.reduce((sum, order) => sum + allMinutes(order.left), 0)
    if (one.id !== collectionId) continue
    const can = day.crew.reduce((sum, span) => {
      const from = Math.max(span.from.getTime(), now.getTime())
      const to = Math.min(span.to.getTime(), one.cutOff.getTime())
      return sum + Math.max(0, to - from) * span.hands
    }, 0)
    return work - can / 60_000
  }
  return 0
}

/**
 * The moves that free so many minutes: as few as can be that are late anyway, then the least cost, then the fewest
 * orders. What becomes cheaper counts as free, so that nothing is moved without need. All, when even they are not enough.
 */
export function cheapest<T extends { dearer: Decimal; inTime: boolean; minutes: number }>(
  moves: readonly T[],
  minutes: number,
): T[] {
  const costs = moves.map((move) => ({
    minutes: move.minutes,
    cost: (move.inTime ? 0 : 1e10) + Math.max(0, move.dearer.mul(100).round().toNumber()) * 100 + 1,
  }))
  return cover(costs, minutes)?.map((index) => moves[index] as T) ?? [...moves]
}

function handsFor(day: DayView, late: Collection, now: Date, warehouse: Warehouse): Advice["hands"] {
  const coming = day.collections.filter((one) => one.column !== null)
  const orders = coming.flatMap((one) =>
    one.orders.map((order) => ({ id: order.id, collectionId: one.id, minutes: allMinutes(order.left) })),
  )
  const more = handsNeeded(late.id, (crew) => planDay(coming, orders, now, crew), day.crew)
  if (more === null) return null
  const quarters = Math.ceil((late.cutOff.getTime() - now.getTime()) / 900_000)
  const rate = new Decimal(warehouse.handHour)
  return {
    more,
    cost: rate.isZero() ? null : rate.mul(more).mul(quarters).div(4).toDecimalPlaces(2, Decimal.ROUND_HALF_UP),
  }
}
