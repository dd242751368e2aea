import { type FloorPlan, floorDistances } from "core/floorPlan/index.ts"
import { type SuggestionInput, suggestPacking } from "core/packing/index.ts"
import { type BuiltRuns, buildRuns, type Cart, plainMeasure, type RunOrder, walk } from "core/picking/index.ts"

/** Suggested cartons for goods; the same that the browser's worker works out for the shipment on the screen. */
export const suggest = (input: SuggestionInput) => suggestPacking(input)

export interface RunsWanted {
  readonly orders: readonly RunOrder[]
  readonly cart: Cart
  readonly atMost: number
  /** The floor with the codes of where walks begin and end; null where it is not drawn: then runs are as they come. */
  readonly floor: { readonly plan: FloorPlan; readonly desk: string; readonly bench: string } | null
}

/**
 * Runs by the shortest walks, each with the meters of its real walk. While groups are compared walks are measured in
 * plain aisle order, which is quick; the runs that come out of it are walked as they will be.
 */
export function runsWanted({ orders, cart, atMost, floor }: RunsWanted): BuiltRuns {
  if (!floor) return buildRuns(orders, cart, (bins) => (bins.length > 0 ? 1 : 0), atMost)
  const distances = floorDistances(floor.plan)
  const plain = plainMeasure(
    orders.flatMap((order) => [...order.bins]),
    distances,
    floor.desk,
    floor.bench,
  )
  const built = buildRuns(orders, cart, plain, atMost)
  const binsOf = new Map(orders.map((order) => [order.id, order.bins]))
  const real = (ids: readonly number[]) =>
    walk(
      ids.flatMap((id) => [...(binsOf.get(id) ?? [])]).filter((bin) => distances.knows(bin)),
      distances,
      floor.desk,
      floor.bench,
    ).metres ?? 0
  return {
    ...built,
    runs: built.runs.map((run) => ({
      ...run,
      metres: real(run.orders),
      apartMetres: run.orders.reduce((sum, id) => sum + real([id]), 0),
    })),
  }
}
