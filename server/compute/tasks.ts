import { type FloorPlan, floorDistances } from "core/floorPlan/index.ts"
import { type SuggestionInput, suggestPacking } from "core/packing/index.ts"
import {
  type BuiltRuns,
  buildRuns,
  type Cart,
  exactMetres,
  quickMeasure,
  type RunMeasure,
  type RunOrder,
  walk,
} from "core/picking/index.ts"

/** Suggested cartons for goods; the same that the browser's worker works out for the shipment on the screen. */
export const suggest = (input: SuggestionInput) => suggestPacking(input)

export interface RunsWanted {
  readonly orders: readonly RunOrder[]
  readonly cart: Cart
  readonly atMost: number
  /** The floor with the codes of where walks begin and end; null where it is not drawn: then runs are as they come. */
  readonly floor: { readonly plan: FloorPlan; readonly desk: string; readonly bench: string } | null
}

/** Runs by the shortest walks, each with the meters of its real walk. */
export function runsWanted({ orders, cart, atMost, floor }: RunsWanted): BuiltRuns {
  if (!floor) return buildRuns(orders, cart, asTheyCome, atMost)
  const distances = floorDistances(floor.plan)
  const real = (some: readonly string[]) => {
    const bins = some.filter((bin) => distances.knows(bin))
    if (bins.length === 0) return 0
    return (
      exactMetres(bins, distances, floor.desk, floor.bench) ??
      walk(bins, distances, floor.desk, floor.bench).metres ??
      0
    )
  }
  return buildRuns(orders, cart, { quick: quickMeasure(distances, floor.desk, floor.bench), real }, atMost)
}

/** Where the floor is not drawn a run costs as much as an order: they are put together as they come. */
const asTheyCome: RunMeasure = {
  quick: { footprint: () => new Float64Array(0), union: (a) => a, metres: () => 1 },
  real: (bins) => (bins.length > 0 ? 1 : 0),
}
