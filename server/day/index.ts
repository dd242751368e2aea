import { type Crew, crewBackFrom } from "core/calendar/crew.ts"
import { type LocalDate, localDate } from "core/calendar/index.ts"
import { type DayColumn, planDay } from "core/day/index.ts"
import type { CollectionId } from "core/ids/index.ts"
import { allMinutes, hasLeft, isOnTheLine, stages } from "core/orders/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { onceForEachChange } from "../live/kept.ts"
import { type OrderSummary, summaries } from "../orders/facts.ts"
import { type Collection, collectionsOn } from "../setup/collections.ts"
import { crewOf, handsAt, handsSetFor, type Warehouse } from "../setup/warehouse.ts"

export interface DayView {
  readonly collections: readonly (Collection & {
    readonly column: DayColumn | null
    readonly orders: readonly OrderSummary[]
    readonly labelledPackages: number
    readonly labelledOrders: number
    readonly packages: number
  })[]
  readonly stopped: readonly (OrderSummary & { readonly solveBy: Date | null })[]
  /** Open orders for a truck of another day. */
  readonly later: number
  readonly counts: {
    readonly today: number
    readonly gone: number
    readonly labelled: number
    readonly toGo: number
    readonly stopped: number
  }
  /** What should be worked on next: the first order of the first truck that is not done. */
  readonly next: { readonly order: OrderSummary; readonly task: "pick" | "pack" } | null
  /** Who works when today. */
  readonly crew: readonly Crew[]
  readonly hands: number
  /** So many people were set for today, whatever the shifts say. */
  readonly handsByHand: boolean
  readonly shift: { readonly from: Date; readonly to: Date }
  /** Times of today in which nobody works, between the shifts' ends. */
  readonly breaks: readonly { readonly from: Date; readonly to: Date }[]
}

/** What is stored about the day of a warehouse, before the clock says what is late. */
interface DayFacts {
  readonly collections: readonly Collection[]
  readonly crew: readonly Crew[]
  readonly open: readonly OrderSummary[]
  readonly packages: readonly { readonly collection_id: number; readonly state: string; readonly n: number }[]
  readonly handsSet: number | null
}

async function dayFacts(db: Knex, warehouse: Warehouse, today: LocalDate): Promise<DayFacts> {
  const here = () => db("sales_order").where({ warehouse_id: warehouse.id })
  const [collections, crew, handsSet, online] = await Promise.all([
    collectionsOn(db, warehouse.id, today),
    crewOf(db, warehouse, today),
    handsSetFor(db, warehouse, today),
    // two narrow looks by index: an OR over both, or a subquery, would read every order there ever was
    here().whereNull("left_line_at").pluck("id"),
  ])
  const leaving = collections.map((one) => one.id)
  const [going, packages] = await Promise.all([
    here().whereIn("collection_id", leaving).pluck("id"),
    db("package")
      .whereIn("collection_id", leaving)
      .whereIn("state", ["labelled", "on-truck", "left-behind", "gone"])
      .groupBy("collection_id", "state")
      .select<{ collection_id: number; state: string; n: number }[]>("collection_id", "state", db.raw("COUNT(*) AS n")),
  ])
  const ids = [...new Set<number>([...online, ...going])]
  const open = await summaries(db, warehouse, (query) => query.whereIn("o.id", ids).orderBy("o.id"))
  return { collections, crew, open, packages, handsSet }
}

/** The day of a warehouse: its collections with the orders laid back from them, what is stopped, and what comes next. */
export async function dayView(
  context: Pick<Context, "db" | "now" | "changes">,
  warehouse: Warehouse,
): Promise<DayView> {
  const { db, now } = context
  const today = localDate(now, warehouse.zone)
  const name = `day ${today} ${warehouse.version}`
  return layOut(await onceForEachChange(context, warehouse.id, name, () => dayFacts(db, warehouse, today)), now)
}

/** The day as it stands at an instant. */
function layOut({ collections, crew, open, packages, handsSet }: DayFacts, now: Date): DayView {
  const from = collections[0]?.cutOff ?? now
  const onLine = open.filter((order) => isOnTheLine(order.stage))
  // what is labeled and must not leave is to be solved as well
  const held = open.filter((order) => order.stage === "labelled" && order.stops.length > 0)
  const stopped = [...onLine.filter((order) => order.stops.length > 0), ...held]
  const working = onLine.filter((order) => order.stops.length === 0)
  const coming = collections.filter((one) => one.closedAt === null && one.cutOff > now)
  const byCollection = new Map<number | null, OrderSummary[]>()
  for (const order of working.toSorted(byProgress)) {
    const those = byCollection.get(order.collectionId)
    if (those) those.push(order)
    else byCollection.set(order.collectionId, [order])
  }
  const ordersOf = (id: CollectionId) => byCollection.get(id) ?? []
  const columns = planDay(
    coming.map((one) => ({ id: one.id, cutOff: one.cutOff })),
    coming.flatMap((one) =>
      ordersOf(one.id).map((order) => ({
        id: order.id,
        collectionId: one.id,
        minutes: allMinutes(order.left),
      })),
    ),
    now,
    crew,
  )
  const count = (id: number, states: readonly string[]) =>
    packages
      .filter((row) => row.collection_id === id && states.includes(row.state))
      .reduce((sum, row) => sum + Number(row.n), 0)
  const columnOf = new Map(columns.map((column) => [column.collectionId, column]))
  const view = collections.map((one) => ({
    ...one,
    column: columnOf.get(one.id) ?? null,
    orders: ordersOf(one.id),
    labelledPackages: count(one.id, ["labelled", "on-truck", "left-behind"]),
    labelledOrders: open.filter((order) => order.collectionId === one.id && order.stage === "labelled").length,
    packages: count(one.id, ["labelled", "on-truck", "left-behind", "gone"]),
  }))
  const next = coming.flatMap((one) => ordersOf(one.id))[0] ?? null
  const gone = open.filter((order) => hasLeft(order.stage)).length
  const labelled = open.filter((order) => order.stage === "labelled").length - held.length
  const goingToday = working.filter((order) => collections.some((one) => one.id === order.collectionId)).length
  return {
    collections: view,
    stopped: stopped.map((order) => ({
      ...order,
      solveBy: solveBy(
        columnOf.get(order.collectionId ?? 0),
        collections.find((one) => one.id === order.collectionId),
        order,
        crew,
      ),
    })),
    later: working.length - goingToday,
    counts: {
      today: goingToday + stopped.length + gone + labelled,
      gone,
      labelled,
      toGo: goingToday,
      stopped: stopped.length,
    },
    next: next ? { order: next, task: stages.indexOf(next.stage) < stages.indexOf("picked") ? "pick" : "pack" } : null,
    crew,
    hands: handsAt(crew, now),
    handsByHand: handsSet !== null,
    shift: { from: crew[0]?.from ?? from, to: crew.at(-1)?.to ?? from },
    breaks: crew
      .slice(1)
      .map((span, index) => ({ from: crew[index]?.to ?? span.from, to: span.from }))
      .filter((rest) => rest.to > rest.from),
  }
}

/** Begun work first (the most advanced), then by the order of arrival. */
const byProgress = (a: OrderSummary, b: OrderSummary): number =>
  stages.indexOf(b.stage) - stages.indexOf(a.stage) || a.id - b.id

/** The minute by which a stopped order must be solved: its own work before the work that is laid back already. */
function solveBy(
  column: DayColumn | undefined,
  collection: Collection | undefined,
  order: OrderSummary,
  crew: readonly Crew[],
): Date | null {
  if (!collection || collection.closedAt) return null
  const free = column ? Math.max(0, column.margin) : 0
  const end = column && free === 0 ? column.startBy : collection.cutOff
  return crewBackFrom(crew, end, allMinutes(isOnTheLine(order.stage) ? order.workload : order.left))
}
