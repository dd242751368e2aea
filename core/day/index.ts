import { type Span, workBackFrom, workMinutes } from "../calendar/index.ts"

/** A collection as the day sees it. */
export interface PlannedCollection {
  readonly id: number
  readonly cutOff: Date
}

/** An order that is still on the line, with the minutes of work left on it. */
export interface PlannedOrder {
  readonly id: number
  readonly collectionId: number
  readonly pickMinutes: number
  readonly packMinutes: number
}

export interface Bar {
  readonly orderId: number
  readonly from: Date
  readonly to: Date
}

export interface DayColumn {
  readonly collectionId: number
  /** Minutes of work for this and all earlier open collections, divided by the hands at work. */
  readonly needs: number
  /** Minutes of working time from now to the cut-off. */
  readonly has: number
  /** has − needs; negative: short. */
  readonly margin: number
  /** When the work for this and all earlier collections must start at the latest. */
  readonly startBy: Date
  /** The orders as bars laid backwards from the post, in the order in which they are worked. */
  readonly bars: readonly Bar[]
  /** Orders that miss the cut-off when everything is worked in order from now with these hands. */
  readonly willMiss: readonly number[]
}

/**
 * The day laid backwards: the orders of each collection end at its cut-off, or where the next collection's work must
 * start if that is earlier; a bar is as wide as its minutes divided by the hands. Breaks and time outside shifts
 * carry no work. Orders keep the order they are given in (the first is worked first).
 *
 * @param hands people at work, at least 1
 */
export function planDay(
  collections: readonly PlannedCollection[],
  orders: readonly PlannedOrder[],
  now: Date,
  hands: number,
  spans: readonly Span[],
): DayColumn[] {
  const people = Math.max(1, hands)
  const sorted = [...collections].sort((a, b) => a.cutOff.getTime() - b.cutOff.getTime())
  const byCollection = new Map<number, PlannedOrder[]>(sorted.map((one) => [one.id, []]))
  for (const order of orders) byCollection.get(order.collectionId)?.push(order)
  const minutes = (order: PlannedOrder) => (order.pickMinutes + order.packMinutes) / people

  const bars = new Map<number, Bar[]>()
  let latestEnd = Number.POSITIVE_INFINITY
  for (const collection of [...sorted].reverse()) {
    let end = new Date(Math.min(collection.cutOff.getTime(), latestEnd))
    const laid: Bar[] = []
    for (const order of [...(byCollection.get(collection.id) ?? [])].reverse()) {
      const from = workBackFrom(spans, end, minutes(order))
      laid.unshift({ orderId: order.id, from, to: end })
      end = from
    }
    if (laid.length > 0) latestEnd = end.getTime()
    bars.set(collection.id, laid)
  }

  let needs = 0
  return sorted.map((collection) => {
    const has = workMinutes(spans, now, collection.cutOff)
    const willMiss: number[] = []
    for (const order of byCollection.get(collection.id) ?? []) {
      needs += minutes(order)
      if (needs > has + 1e-9) willMiss.push(order.id)
    }
    return {
      collectionId: collection.id,
      needs,
      has,
      margin: has - needs,
      startBy: workBackFrom(spans, collection.cutOff, needs),
      bars: bars.get(collection.id) ?? [],
      willMiss,
    }
  })
}
