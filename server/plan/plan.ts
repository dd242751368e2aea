import { addDays, type LocalDate, localDate } from "core/calendar/index.ts"
import type { CollectionId, OrderId, ServiceId, WarehouseId } from "core/ids/index.ts"
import type { Money } from "core/money/index.ts"
import type { Content, PackagingType } from "core/packing/index.ts"
import { leaveWith } from "core/plan/index.ts"
import { arrivalOf, payerOf, preselect, settledWishes } from "core/rating/index.ts"
import { settingOf } from "core/rules/index.ts"
import { categoriesOf } from "core/tariff/index.ts"
import type { Knex } from "knex"
import type { Actor } from "../actors/index.ts"
import { addressOf } from "../addresses/row.ts"
import { wayBetween } from "../addresses/way.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { columnOf, there } from "../db/there.ts"
import { updateEach } from "../db/updateEach.ts"
import { categoryOf, dangerousGood } from "../goods/dangerous.ts"
import type { ItemLineRow } from "../orders/itemLine.ts"
import { membersOf, part, shipToKeyOf } from "../orders/joined.ts"
import { usableCartons } from "../packaging/boxes.ts"
import { contentOf, packagingTypes } from "../packaging/catalog.ts"
import { answersOf, leavingBy, type Rateable, ratingGround, requestFor } from "../rating/offers.ts"
import type { Sending } from "../rating/parcelWays.ts"
import { inForce, type RatedService } from "../rating/tariffs.ts"
import { type RuleBook, routingOf, ruleBook } from "../rules/book.ts"
import { keptText, settledOf } from "../rules/settleOrder.ts"
import type { Collection } from "../setup/collections.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { estimated } from "./estimate.ts"
import { plannedRows, plannedRowsOf } from "./plannedRows.ts"
import { leavingOf } from "./shipDate.ts"
import { type PackingGround, suggestedParcels } from "./suggested.ts"

/** What plans of orders stand on; read once for many orders that are planned together. */
export interface Ground extends PackingGround {
  readonly packaging: readonly PackagingType[]
  readonly book: RuleBook
  readonly today: LocalDate
}

export async function groundOf(db: Knex, warehouseId: WarehouseId, now: Date): Promise<Ground> {
  const warehouse = await warehouseById(db, warehouseId)
  const today = localDate(now, warehouse.zone)
  return {
    ...(await ratingGround(db, warehouse, now)),
    today,
    book: await ruleBook(db),
    packaging: await packagingTypes(db),
    cartons: await usableCartons(db, warehouseId),
  }
}

export interface OrderPlan {
  /** The collection to leave with. */
  readonly collectionId: CollectionId | null
  /** The latest one from which it is in time; null where there is time, or nothing is promised. */
  readonly mustCollectionId: CollectionId | null
  readonly serviceId: ServiceId | null
  /** Packages that the goods would probably make. */
  readonly packages: number
  /** What it costs by that service, as estimated. */
  readonly cost: Money | null
  /** When the best service that takes the order arrives; null where none takes it. */
  readonly earliest: { readonly date: string; readonly service: string } | null
  /** What a person chose stands no more: the collection is closed or past. */
  readonly choiceGone: boolean
}

/** A service that takes an order: what it costs, its collections to come, and when goods arrive by it. */
export interface Way {
  readonly service: RatedService
  readonly cost: Money
  /** Worked out when they are asked for: most ways are only compared by what they cost. */
  readonly departures: readonly Collection[]
  /** The day of arrival of goods that leave with its first collection. */
  readonly soonest: LocalDate
  /** Of a day on which one of its collections leaves. */
  readonly arrives: (shipDate: LocalDate) => LocalDate
  readonly time: string
}

/**
 * Every service that takes an order, rated for the cartons and pallets that its goods would fill, with the collections
 * that it leaves with from the day on which the order may leave.
 */
export function waysOf(
  ground: Ground,
  order: SalesOrderRow,
  lines: readonly ItemLineRow[],
): { readonly ways: readonly Way[]; readonly packages: number } {
  const asked = askedOf(ground, order, lines)
  const open = ground.collections.filter((one) => asked.shipOn === null || one.onDate >= asked.shipOn)
  const listed = asked.standing === "pallet" ? asked.pallets.length : asked.parcels.length
  // so much is arranged with a carrier by hand, and no tariff prices it
  if (asked.packages > listed) return { ways: [], packages: Math.min(asked.packages, mostCounted) }
  const ways = answersOf(ground, asked).flatMap(({ service, price, collection }): Way[] => {
    if (!price || !collection) return []
    const arrivals = new Map<LocalDate, LocalDate | null>([[collection.onDate, price.arrival.date]])
    const arrives = (shipDate: LocalDate): LocalDate | null => {
      if (!arrivals.has(shipDate)) {
        const held = inForce(service, shipDate)
        const request = held && requestFor(ground, asked, held.terms, shipDate)
        const arrival = held && request && arrivalOf(held.version.tariff, held.terms, price.zone, request)
        arrivals.set(shipDate, arrival?.ok ? arrival.value.date : null)
      }
      return arrivals.get(shipDate) ?? null
    }
    let departures: readonly Collection[] | null = null
    return [
      {
        service,
        cost: price.contract,
        get departures() {
          departures ??= leavingBy(open, service.code).filter((one) => arrives(one.onDate) !== null)
          return departures
        },
        soonest: price.arrival.date,
        arrives: (shipDate) => arrives(shipDate) as LocalDate,
        time: price.arrival.time,
      },
    ]
  })
  return { ways, packages: Math.max(1, listed) }
}

/** Most packages that an order's plan keeps the number of. */
const mostCounted = 60_000

/** An order that nobody has packed as the engine takes it: in the cartons and on the pallets that it would fill. */
export function askedOf(
  ground: Ground,
  order: SalesOrderRow,
  lines: readonly ItemLineRow[],
): Rateable & { readonly packages: number } {
  const { warehouse, packaging, book, collections } = ground
  const weighed = lines.filter((line) => line.weight_kg !== null)
  const contents = weighed.map((line, index) => contentOf(line, index, line.ordered))
  const settled = settledOf(order)
  const shipTo = addressOf(order)
  const wishes = settledWishes(settled)
  const from = { country: warehouse.country, postalCode: warehouse.postalCode }
  const sending: Sending = {
    shipTo,
    promisedOn: order.promised_on,
    ...leavingOf(order, collections),
    dangerous: lines.flatMap((line) => dangerousGood(line) ?? []),
    // a plan takes it that the receiver's license will be there; buying does not
    categories: categoriesOf(lines.map(categoryOf), ["receiver-licence"]),
    options: wishes.options,
    value: null,
    distance: wayBetween(from, shipTo),
    payer: payerOf(settingOf(settled, "payer")?.terms ?? "prepaid"),
    account: settingOf(settled, "payer")?.account ?? "",
    dutiesPayer: null,
    chosenServiceId: order.chosen_service_id ?? null,
    settledService: settingOf(settled, "service"),
    allowed: routingOf(book, order.customer_id).services,
  }
  const wanted = settingOf(settled, "packaging")
  const packed = suggestedParcels(
    ground,
    sending,
    weighed.map((line, index) => ({ id: line.id, piece: contents[index] as Content })),
    wanted,
  )
  return { ...sending, ...estimated(packaging, contents, wanted, packed) }
}

/**
 * The collection that an order leaves with, and the one it must make: of the cheapest service that keeps the promise,
 * or of the earliest where none does. What a person chose stands as long as that collection is open. A stopped order is
 * planned too, so that its triangle shows by when it must be solved; one that no service can take is planned for the
 * next truck of all.
 */
export function planOrder(ground: Ground, order: SalesOrderRow, lines: readonly ItemLineRow[]): OrderPlan {
  const { ways, packages } = waysOf(ground, order, lines)
  const service = settingOf(settledOf(order), "service")
  // what a person or a shipping run chose comes before what is settled, as at the bench
  const own = ways.find((way) => way.service.id === order.chosen_service_id) ?? null
  const best = own ?? bestWay(ways, order.promised_on, service)
  const chosen = order.chosen_collection_id
    ? (ground.collections.find((one) => one.id === order.chosen_collection_id) ?? null)
    : null
  const by =
    (chosen &&
      ((own?.departures.includes(chosen) ? own : null) ??
        bestWay(
          ways.filter((way) => way.departures.includes(chosen)),
          order.promised_on,
          service,
        ))) ??
    best
  const leaving = by
    ? leaveWith(by.departures, by.arrives, order.promised_on, ground.warehouse.leavePolicy)
    : { planned: null, must: null }
  const { shipOn } = leavingOf(order, ground.collections)
  const fallback = ground.collections.find((one) => shipOn === null || one.onDate >= shipOn)
  return {
    collectionId: (chosen ?? leaving.planned ?? (ways.length === 0 ? fallback : null))?.id ?? null,
    mustCollectionId: leaving.must?.id ?? null,
    serviceId: by?.service.id ?? null,
    packages,
    cost: by?.cost ?? null,
    earliest: best ? { date: best.soonest, service: best.service.name } : null,
    choiceGone: order.chosen_collection_id !== null && chosen === null,
  }
}

/**
 * The way that was settled, where it keeps the promise when it leaves next; else the cheapest that keeps it; the
 * earliest where none does.
 */
export function bestWay(ways: readonly Way[], promised: LocalDate | null, service?: string): Way | null {
  const wanted = ways.find((way) => way.service.code === service)
  if (wanted && (promised === null || wanted.soonest <= promised)) return wanted
  const offers = ways.map((way) => ({
    way,
    cost: way.cost.amount,
    arrives: `${way.soonest} ${way.time}`,
  }))
  return preselect(offers, promised)?.way ?? null
}

/**
 * Keeps a plan on its order, or on all orders of one shipment, the leading one first; with what else is to be kept of
 * the order that is alone.
 */
export async function keepPlan(
  trx: Knex,
  members: readonly number[],
  plan: OrderPlan,
  alone: Readonly<Record<string, unknown>> = {},
): Promise<void> {
  const [lead, ...others] = members
  const fields = {
    collection_id: plan.collectionId,
    must_collection_id: plan.mustCollectionId,
    planned_service_id: plan.serviceId,
    ...(plan.choiceGone ? { chosen_collection_id: null, chosen_service_id: null } : {}),
  }
  // each of the others is thought to fill one package of them
  await trx("sales_order")
    .where({ id: lead })
    .update({
      ...fields,
      planned_packages: Math.max(1, plan.packages - others.length),
      ...(others.length === 0 ? alone : {}),
    })
  if (others.length > 0)
    await trx("sales_order")
      .whereIn("id", others)
      .update({ ...fields, planned_packages: 1 })
}

/** Keeps the plans of orders that stand alone, of those to which something changes, with what else is to be kept of them. */
export async function keepPlans(
  trx: Knex,
  planned: readonly {
    readonly order: SalesOrderRow
    readonly plan: OrderPlan
    /** The same columns for all. */
    readonly own: { readonly ship_to_key: string; readonly settings?: string | null }
  }[],
): Promise<void> {
  const rows = planned.flatMap(({ order, plan, own }) => {
    const fields = {
      ...own,
      collection_id: plan.collectionId,
      must_collection_id: plan.mustCollectionId,
      planned_service_id: plan.serviceId,
      planned_packages: Math.max(1, plan.packages),
    }
    const before = { ...order, settings: keptText(order) }
    return Object.entries(fields).some(([name, value]) => columnOf(before, name) !== value)
      ? [{ id: order.id, ...fields }]
      : []
  })
  await updateEach(trx, "sales_order", rows)
  const gone = planned.filter(({ plan }) => plan.choiceGone).map(({ order }) => order.id)
  if (gone.length > 0)
    await trx("sales_order").whereIn("id", gone).update({ chosen_collection_id: null, chosen_service_id: null })
}

/** Plans an order again, with those that are one shipment with it, and keeps the plan. */
export async function replan(trx: Knex, ground: Ground, orderId: OrderId): Promise<OrderPlan> {
  const members = await membersOf(trx, orderId)
  const { order, lines } = await plannedRows(trx, members[0] as number)
  const plan = planOrder(ground, order, lines)
  // orders of an earlier release have no key yet
  await keepPlan(trx, members, plan, { ship_to_key: shipToKeyOf(order) })
  return plan
}

/** Parts an order from those it is one shipment with, and plans the others again. The caller looks at the order itself. */
export async function partOff(
  trx: Knex,
  orderId: OrderId,
  actor: Pick<Actor, "userId" | "name">,
  now: Date,
  known?: Ground,
): Promise<void> {
  const others = await part(trx, orderId, actor, now)
  if (others.length === 0) return
  const { warehouse_id: warehouseId } = there(await trx("sales_order").where({ id: others[0] }).first("warehouse_id"))
  const ground = known?.warehouse.id === warehouseId ? known : undefined
  const on = ground ?? (await groundOf(trx, warehouseId, now))
  for (const id of others) await replan(trx, on, id)
}

/** Moves orders that can't make a truck any more to the next one that takes their service. Returns how many. */
export async function replanMissed(trx: Knex, warehouse: Warehouse, now: Date): Promise<number> {
  // an order that was asked to leave later than collections are known for waits without one
  const horizon = addDays(localDate(now, warehouse.zone), 14)
  const missed = await trx("sales_order as o")
    .leftJoin("collection as c", "c.id", "o.collection_id")
    .where("o.warehouse_id", warehouse.id)
    .where((query) => query.whereNull("c.id").orWhereNotNull("c.closed_at").orWhere("c.cut_off", "<=", now))
    .whereNull("o.left_line_at")
    .whereRaw("COALESCE(o.chosen_ship_on, o.ship_on, ?) <= ?", [horizon, horizon])
    .pluck("o.id")
  return replanAll(trx, warehouse.id, missed, now)
}

/** Plans orders again, such as after their calendar changed. Returns how many. */
export async function replanAll(
  trx: Knex,
  warehouseId: WarehouseId,
  ids: readonly number[],
  now: Date,
): Promise<number> {
  if (ids.length === 0) return 0
  const ground = await groundOf(trx, warehouseId, now)
  const members = await trx("sales_order")
    .whereIn("id", [...ids])
    .orderBy("id")
    .select("id", "joined_to_id")
  const leads = [...new Set(members.map((order) => order.joined_to_id ?? order.id))]
  for (let at = 0; at < leads.length; at += together) {
    const some = leads.slice(at, at + together)
    const whole = await plannedRowsOf(trx, some)
    const followers = await trx("sales_order").whereIn("joined_to_id", some).select("joined_to_id")
    const others = new Set(followers.map((order) => order.joined_to_id))
    const plans = some.map((id) => {
      const { order, lines } = there(whole.get(id))
      return { order, plan: planOrder(ground, order, lines), own: { ship_to_key: shipToKeyOf(order) } }
    })
    await keepPlans(
      trx,
      plans.filter(({ order }) => !others.has(order.id)),
    )
    for (const { order, plan } of plans.filter((one) => others.has(one.order.id)))
      await keepPlan(trx, await membersOf(trx, order.id), plan)
  }
  return ids.length
}

/** Orders that are read and planned at a time. */
const together = 100

/** The open orders of a warehouse, all of them. */
export const onTheLine = (db: Knex, warehouseId: WarehouseId): Promise<number[]> =>
  db("sales_order").where({ warehouse_id: warehouseId }).whereNull("left_line_at").pluck("id") as unknown as Promise<
    number[]
  >
