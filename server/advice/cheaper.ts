import { setImmediate, setTimeout } from "node:timers/promises"
import type { Advice } from "core/advice/index.ts"
import type { OrderId, ShippingRunId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { compute } from "../compute/pool.ts"
import { there } from "../db/there.ts"
import { joinOffers } from "../decisions/join.ts"
import { pickingBegun } from "../orders/begun.ts"
import { nowhere } from "../orders/parts.ts"
import { type Shipment, shipmentsOrDrafts } from "../packages/shipment.ts"
import { palletIn } from "../packaging/catalog.ts"
import { asTheyStand, isPacked } from "../packing/asTheyStand.ts"
import { mostRated } from "../plan/estimate.ts"
import { askedOf, type Ground, groundOf } from "../plan/plan.ts"
import { type PlannedRows, plannedRowsOf } from "../plan/plannedRows.ts"
import { plainGround, plainRateable } from "../rating/batch.ts"
import { compare, costOf, type Rateable } from "../rating/offers.ts"
import { otherwise } from "../shipping/otherwise.ts"
import { told } from "./advice.ts"
import type { Advised, ToAdvise } from "./many.ts"
import { type Taken, takenOf } from "./take.ts"

/** Orders that are looked at, at most: those that leave first. */
export const mostLooked = 300

/** An order that would cost less, and by what. */
export interface Cheaper {
  readonly orderId: OrderId
  readonly orderNumber: string
  readonly customer: string
  readonly advice: Advice
  /** By which service it goes as it is, and what that costs. */
  readonly service: string
  readonly cost: string
  /** It is in packages: these can be set on a pallet, or off it. */
  readonly packed: boolean
}

export interface CheaperOrders {
  readonly found: readonly Cheaper[]
  /** What was taken and can be taken back, the last first. */
  readonly taken: readonly { readonly orderId: OrderId; readonly orderNumber: string; readonly taken: Taken }[]
  /** Orders that were looked at, and that are there. */
  readonly looked: number
  readonly all: number
}

interface Waiting {
  readonly id: OrderId
  readonly order_number: string
  readonly customer_name: string
  readonly chosen: string | null
  readonly advice_taken: unknown
}

/** How long a page waits for the list before it is shown without, and how long a list stands once it is worked out. */
const patienceMs = 800
const standsMs = 10_000

interface Work {
  readonly value: Promise<CheaperOrders>
  /** When it was done, in real time; null: it is under way. */
  doneAt: number | null
  /** Something was taken since it began. */
  outdated: boolean
}
const works = new WeakMap<Knex, Map<string, Work>>()
/** Lists of warehouses and runs that are kept at most. */
const mostWorks = 50

/**
 * What `cheaperOrders` finds, worked out one at a time and anew after ten seconds, or once something was taken, however
 * many ask; null where that takes longer than a page waits: asked again a little later it is there.
 */
export async function cheaperSoon(context: Context, runId: ShippingRunId | null): Promise<CheaperOrders | null> {
  const all = works.get(context.db) ?? new Map<string, Work>()
  works.set(context.db, all)
  const key = `${context.actor.warehouseId} ${runId}`
  const known = all.get(key)
  const stands = known && !known.outdated && (known.doneAt === null || Date.now() - known.doneAt < standsMs)
  const work = stands ? known : begun(all, key, known, () => cheaperOrders(context, runId))
  const late = new AbortController()
  const found = await Promise.race([work.value, setTimeout(patienceMs, null, { signal: late.signal })])
  late.abort()
  return found
}

/** What was worked out for a warehouse is worked out anew: something of it was taken, or taken back. */
export function forgetCheaper({ db, actor }: Pick<Context, "db" | "actor">): void {
  for (const [key, work] of works.get(db) ?? []) if (key.startsWith(`${actor.warehouseId} `)) work.outdated = true
}

/** Begins the work; after what is still under way. */
function begun(
  all: Map<string, Work>,
  key: string,
  before: Work | undefined,
  find: () => Promise<CheaperOrders>,
): Work {
  const nothing = () => undefined
  const value = Promise.resolve(before?.value).then(nothing, nothing).then(find)
  const work: Work = { value, doneAt: null, outdated: false }
  all.delete(key)
  all.set(key, work)
  for (const old of all.keys()) if (all.size > mostWorks) all.delete(old)
  value.then(
    () => {
      work.doneAt = Date.now()
    },
    () => {
      // what broke off is tried again
      if (all.get(key) === work) all.delete(key)
    },
  )
  return work
}

/**
 * By what the orders of a warehouse that still are to go would cost less, what saves most first: those of a shipping run
 * where one is given. Each is rated anew, as it is packed or as it will be suggested; other warehouses and joining too.
 */
export async function cheaperOrders(context: Context, runId: ShippingRunId | null): Promise<CheaperOrders> {
  const { db, actor, now } = context
  const { orders, all } = await waitingOrders(db, actor.warehouseId, runId)
  const ids = orders.map((one) => one.id)
  const ground = await groundOf(db, actor.warehouseId, now)
  const rows = await plannedRowsOf(db, ids)
  const shipments = await shipmentsOrDrafts(db, ids)
  const toAdvise: ToAdvise[] = []
  const handPacked: { readonly shipment: Shipment; readonly goods: Rateable }[] = []
  const open = orders.filter((one) => shipments.get(one.id)?.state === "open" && weighed(rows.get(one.id)))
  for (const one of open) {
    // each may take some milliseconds: what others ask for comes between
    await setImmediate()
    const shipment = there(shipments.get(one.id))
    const goods = asTheyStand(ground, there(rows.get(one.id)), shipment, palletIn(ground.packaging))
    if ("packages" in goods && Number(goods.packages) > mostRated) continue
    // what was packed as suggested is not packed better by the same
    if (shipment.packages.some((pack) => pack.contents.length > 0 && Object.keys(pack.planned).length === 0))
      handPacked.push({ shipment, goods })
    const { wishes } = shipment
    toAdvise.push({
      id: one.id,
      rateable: plainRateable(goods),
      chosen: one.chosen,
      droppable: wishes.optionsBy ? wishes.options : [],
    })
  }
  const advised = await compute("adviseMany", { ground: plainGround(ground), shipments: toAdvise })
  const byId = new Map(advised.map((one) => [one.id, one]))
  const more: Found[] = [
    ...(await repacks(db, ground, handPacked, byId)),
    // one that is joined would be parted to be sent from elsewhere: that is another sum
    ...(await elsewhere(
      context,
      ground,
      open.filter((one) => shipments.get(one.id)?.members.length === 1),
      rows,
      byId,
    )),
    ...(runId ? [] : await joins(context, byId)),
  ]
  const found: Found[] = [...advised.flatMap((one) => one.advice.map((advice) => ({ id: one.id, advice }))), ...more]
  const openById = new Map(open.map((one) => [one.id as number, one]))
  const taken = []
  for (const one of [...(runId ? [] : await sentAway(db, actor.warehouseId)), ...orders].filter(isTaken)) {
    const kept = await takenOf(db, one.id)
    if (kept) taken.push({ orderId: one.id, orderNumber: one.order_number, taken: kept })
  }
  return {
    found: found
      .flatMap(({ id, advice, cost }): Cheaper[] => {
        const [order, now] = [openById.get(id), byId.get(id)]
        const packed = isPacked(there(shipments.get(id)))
        // nobody builds lower, or packs lighter, what nobody has packed
        return order && now && (packed || advice.kind !== "step")
          ? [
              {
                orderId: order.id,
                orderNumber: order.order_number,
                customer: order.customer_name,
                advice,
                service: now.service,
                cost: cost ?? now.cost.toFixed(2),
                packed,
              },
            ]
          : []
      })
      .sort((a, b) => Number(b.advice.saves) - Number(a.advice.saves)),
    taken,
    looked: open.length,
    all,
  }
}

const isTaken = ({ advice_taken: taken }: Pick<Waiting, "advice_taken">): boolean => taken !== null

/** Orders that were sent to another warehouse for less, and are to be had back. */
const sentAway = (
  db: Knex,
  warehouseId: WarehouseId,
): Promise<Pick<Waiting, "id" | "order_number" | "advice_taken">[]> =>
  db("sales_order")
    .where({ came_to_id: warehouseId })
    .whereNot({ warehouse_id: warehouseId })
    .whereNotNull("advice_taken")
    .whereNull("left_line_at")
    .orderBy("id", "desc")
    .limit(50)
    .select("id", "order_number", "advice_taken")

/** Shipments for which another packing is looked for, at most: each takes part of a second when it is new. */
const mostRepacked = 40

interface Found {
  readonly id: number
  readonly advice: Advice
  /** What it costs as it is where that is more than the order's own: of orders that could be joined all. */
  readonly cost?: string
}

/** Every line of it has a weight. */
const weighed = (own: PlannedRows | undefined): boolean =>
  own !== undefined && own.lines.length > 0 && own.lines.every((line) => line.weight_kg !== null)

/** Orders that are not stopped and not asked for labels, those that leave first first. */
async function waitingOrders(db: Knex, warehouseId: WarehouseId, runId: ShippingRunId | null) {
  const query = db("sales_order as o")
    .leftJoin("collection as c", "c.id", "o.collection_id")
    .where("o.warehouse_id", warehouseId)
    .whereNull("o.left_line_at")
    .whereNull("o.cancelled_at")
    .whereNull("o.joined_to_id")
    .whereNotExists(db("order_stop as s").whereRaw("s.order_id = o.id").select(db.raw("1")))
  if (runId !== null)
    query
      .join("shipping_run_order as r", "r.order_id", "o.id")
      .join("shipping_run as n", "n.id", "r.run_id")
      .where({ "r.run_id": runId, "n.warehouse_id": warehouseId })
      .whereIn("r.state", ["rated", "refused", "waiting"])
  const [count] = await query.clone().count({ n: "*" })
  const orders: Waiting[] = await query
    .orderByRaw("c.cut_off IS NULL, c.cut_off, o.id")
    .limit(mostLooked)
    .select(
      "o.id",
      "o.order_number",
      "o.customer_name",
      "o.advice_taken",
      runId === null ? db.raw("NULL AS chosen") : "r.chosen",
    )
  return { orders, all: Number(count?.n ?? 0) }
}

/** Shipments that were packed by hand and would cost less as the bench would suggest them. */
async function repacks(
  db: Knex,
  ground: Ground,
  packed: readonly { readonly shipment: Shipment; readonly goods: Rateable }[],
  now: ReadonlyMap<number, Advised>,
): Promise<Found[]> {
  const found: Found[] = []
  for (const { shipment, goods } of packed.slice(0, mostRepacked)) {
    const { cost } = now.get(shipment.orderId) ?? {}
    if (cost === undefined) continue
    const rated = { ...compare(ground, goods), ground, pallet: palletIn(ground.packaging) }
    const { offer, boxes } = (await otherwise(db, rated, shipment)) ?? {}
    if (!offer?.price || !boxes) continue
    found.push(
      ...told(cost - costOf(offer.price).toNumber(), {
        kind: "repack",
        service: offer.service.name,
        boxes: boxes.map(({ code }) => ({ code })),
      }).map((advice) => ({ id: shipment.orderId, advice })),
    )
  }
  return found
}

/** Orders that nobody has begun and that another warehouse could ship whole for less, still in time. */
async function elsewhere(
  { db, now }: Context,
  ground: Ground,
  orders: readonly Waiting[],
  rows: ReadonlyMap<number, PlannedRows>,
  here: ReadonlyMap<number, Advised>,
): Promise<Found[]> {
  // prices are compared as they stand: of warehouses that reckon in another currency nothing is said
  const others = await db("warehouse")
    .where({ at_work: true, currency: ground.warehouse.currency })
    .whereNot({ id: ground.warehouse.id })
    .select("id", "name")
  const begun = await pickingBegun(
    db,
    orders.map((one) => one.id),
  )
  const movable = orders.filter((one) => !begun.has(one.id))
  const items = new Set(movable.flatMap((one) => rows.get(one.id)?.lines.map((line) => line.item_id) ?? []))
  const found: Found[] = []
  for (const other of others) {
    const stock = await db("stock")
      .where({ warehouse_id: other.id })
      .whereIn("item_id", [...items])
      .groupBy("item_id")
      .select<{ item_id: number; free: string }[]>("item_id", db.raw("SUM(on_hand - allocated) AS free"))
    const free = new Map(stock.map((row) => [row.item_id, Number(row.free)]))
    const whole = movable.filter((one) => hasAll(free, there(rows.get(one.id))))
    if (whole.length === 0) continue
    const away = await groundOf(db, other.id, now)
    const shipments: ToAdvise[] = []
    for (const one of whole) {
      await setImmediate()
      const { order, lines } = there(rows.get(one.id))
      const goods = askedOf(away, { ...order, ...nowhere, warehouse_id: other.id, chosen_ship_on: null }, lines)
      if (goods.packages <= mostRated)
        shipments.push({ id: one.id, rateable: plainRateable(goods), chosen: null, droppable: [] })
    }
    for (const one of await compute("adviseMany", { ground: plainGround(away), shipments })) {
      const own = here.get(one.id)
      if (own && (!one.late || own.late))
        found.push(
          ...told(own.cost - one.cost, {
            kind: "warehouse",
            service: one.service,
            warehouse: other.id,
            name: other.name,
          }).map((advice) => ({ id: one.id, advice })),
        )
    }
  }
  return found
}

/** Whether a warehouse has enough of everything. */
function hasAll(free: ReadonlyMap<number, number>, { lines }: PlannedRows): boolean {
  const wanted = new Map<number, number>()
  for (const line of lines) wanted.set(line.item_id, (wanted.get(line.item_id) ?? 0) + line.ordered)
  return [...wanted].every(([item, pieces]) => (free.get(item) ?? 0) >= pieces)
}

/** Orders of one place that would cost less as one shipment; told of the first of each. */
async function joins(context: Context, here: ReadonlyMap<number, Advised>): Promise<Found[]> {
  const offers = await joinOffers(context, context.actor.warehouseId)
  return offers.flatMap((offer) => {
    const [first, ...others] = offer.orders
    return first && others.length > 0
      ? told(offer.saving.amount.toNumber(), {
          kind: "join",
          service: here.get(first.id)?.service ?? "",
          orders: others.map(({ id, orderNumber }) => ({ id, orderNumber })),
        }).map((advice) => ({ id: first.id, advice, cost: offer.apart.amount }))
      : []
  })
}
