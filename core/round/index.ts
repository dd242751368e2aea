import { kilometres, type Place } from "../address/index.ts"
import { type Distances, mostExact, provedOrder, searchedOrder } from "./tour.ts"

export interface Round {
  /** Indices of the stops in the order in which they are driven to; those whose place nobody knows come last. */
  readonly order: readonly number[]
  /** Kilometers by road, there and back, of the stops whose place is known. */
  readonly km: number
  /** How much longer than the shortest it is at most, in percent; 0: none is shorter. */
  readonly percent: number
}

/** How much longer a road is than the great circle, taken all in all (common practice, no source). */
export const roadFactor = 1.3

/** Stops of a round at most. */
export const mostStops = 100

/**
 * The order of the stops of a round from a place and back to it, by distance: proved to be the shortest for few stops,
 * searched for more.
 */
export function planRound(from: Place | null, stops: readonly (Place | null)[]): Round {
  const known = stops.flatMap((place, index) => (place ? [{ place, index }] : []))
  const unknown = stops.flatMap((place, index) => (place ? [] : [index]))
  if (!from || known.length === 0) return { order: stops.map((_, index) => index), km: 0, percent: 0 }
  const places = [from, ...known.map((one) => one.place), from]
  const d: Distances = places.map((a) => places.map((b) => kilometres(a, b) * roadFactor))
  const found = known.length <= mostExact ? { order: provedOrder(d), percent: 0 } : searchedOrder(d)
  const way = [0, ...found.order, places.length - 1]
  const km = way.slice(1).reduce((sum, to, at) => sum + ((d[way[at] as number] as readonly number[])[to] as number), 0)
  const order = [...found.order.map((at) => (known[at - 1] as (typeof known)[number]).index), ...unknown]
  return { order, km, percent: found.percent }
}
