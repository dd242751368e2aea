import { type Crew, crewBackFrom, crewMinutes } from "../calendar/crew.ts"
import { workMinutes } from "../calendar/index.ts"
import type { CollectionId, OrderId } from "../ids/index.ts"

/** A collection as the day sees it. */
export interface PlannedCollection {
  readonly id: number
  readonly cutOff: Date
}

/** An order that is still open, with the minutes of one person's work left on it. */
export interface PlannedOrder {
  readonly id: number
  readonly collectionId: CollectionId
  readonly minutes: number
}

export interface Bar {
  readonly orderId: OrderId
  readonly from: Date
  readonly to: Date
}

export interface DayColumn {
  readonly collectionId: CollectionId
  /** Working minutes that the crew needs for this and all earlier open collections. */
  readonly needs: number
  /** Minutes of working time from now to the cut-off. */
  readonly has: number
  /** has − needs; negative: short. */
  readonly margin: number
  /** When the work for this and all earlier collections must start at the latest. */
  readonly startBy: Date
  /** The orders as bars planned backwards from the post, in the order in which they are worked. */
  readonly bars: readonly Bar[]
  /** Orders that miss the cut-off when everything is worked in order from now by this crew. */
  readonly willMiss: readonly number[]
}

/**
 * The day planned backwards: the orders of each collection end at its cut-off, or where the next collection's work must
 * start if that is earlier; a bar is as wide as its minutes divided by the hands then at work. Breaks and time outside
 * shifts carry no work. Orders keep the order they are given in (the first is worked first).
 *
 * @param crew who works when; see `crewOn`
 */
export function planDay(
  collections: readonly PlannedCollection[],
  orders: readonly PlannedOrder[],
  now: Date,
  crew: readonly Crew[],
): DayColumn[] {
  const sorted = [...collections].sort((a, b) => a.cutOff.getTime() - b.cutOff.getTime())
  const byCollection = new Map<number, PlannedOrder[]>(sorted.map((one) => [one.id, []]))
  for (const order of orders) byCollection.get(order.collectionId)?.push(order)

  const bars = new Map<number, Bar[]>()
  let latestEnd = Number.POSITIVE_INFINITY
  for (const collection of [...sorted].reverse()) {
    let end = new Date(Math.min(collection.cutOff.getTime(), latestEnd))
    const laid: Bar[] = []
    for (const order of [...(byCollection.get(collection.id) ?? [])].reverse()) {
      const from = crewBackFrom(crew, end, order.minutes)
      laid.push({ orderId: order.id, from, to: end })
      end = from
    }
    if (laid.length > 0) latestEnd = end.getTime()
    bars.set(collection.id, laid.reverse())
  }

  let work = 0
  return sorted.map((collection) => {
    const has = workMinutes(crew, now, collection.cutOff)
    const willMiss: number[] = []
    for (const order of byCollection.get(collection.id) ?? []) {
      work += order.minutes
      if (crewMinutes(crew, now, work) > has + 1e-9) willMiss.push(order.id)
    }
    const needs = crewMinutes(crew, now, work)
    return {
      collectionId: collection.id,
      needs,
      has,
      margin: has - needs,
      startBy: crewBackFrom(crew, collection.cutOff, work),
      bars: bars.get(collection.id) ?? [],
      willMiss,
    }
  })
}

/** How many hands more, from now on, bring every order of a collection onto it; null when `most` are not enough. */
export function handsNeeded(
  collectionId: CollectionId,
  plan: (crew: readonly Crew[]) => readonly DayColumn[],
  crew: readonly Crew[],
  most = 5,
): number | null {
  for (let more = 1; more <= most; more += 1) {
    const columns = plan(crew.map((span) => ({ ...span, hands: span.hands + more })))
    if (columns.find((one) => one.collectionId === collectionId)?.willMiss.length === 0) return more
  }
  return null
}
