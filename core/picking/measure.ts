import type { FloorDistances } from "../floorPlan/index.ts"

/** What of each aisle some bins take: the lowest and the highest place in it, two figures an aisle. */
export type Footprint = Float64Array

/** Measures walks by footprints: very many can be compared, those of lists together without going through them again. */
export interface QuickMeasure {
  readonly footprint: (bins: readonly string[]) => Footprint
  /** The footprint of two together. */
  readonly union: (a: Footprint, b: Footprint) => Footprint
  /** Meters of the walk over one footprint, or over two together. */
  readonly metres: (a: Footprint, b?: Footprint) => number
}

const nothing = Number.POSITIVE_INFINITY

/**
 * A quick measure of walks, from the desk to the bench: each aisle is walked through, or there and back from the front or
 * the back, whichever is shorter in all (the combined routes of Roodbergen and de Koster, 2001), from the left to the
 * right or the other way. Never shorter than the shortest walk on a floor of one block, and near to it. On a floor
 * without two cross aisles it counts the aisles and how far they are gone into.
 */
export function quickMeasure(floor: FloorDistances, from: string, to: string): QuickMeasure {
  const { plan } = floor
  const [start, finish] = [pointOf(floor, from), pointOf(floor, to)]
  const columns = [...new Set(plan.aisles.map((one) => one.x))].sort((a, b) => a - b)
  const column = new Map(columns.map((x, index) => [x, index]))
  const ys = plan.crossAisles.map((one) => one.y)
  const [front, back] = ys.length > 0 ? [Math.min(...ys), Math.max(...ys)] : [0, 0]
  const through = ys.length > 1 ? back - front : nothing
  const count = columns.length
  const aside = (start?.aside ?? 0) + (finish?.aside ?? 0)
  const [startX, startY] = [start?.x ?? 0, start?.y ?? front]
  const [finishX, finishY] = [finish?.x ?? 0, finish?.y ?? front]
  const none: Footprint = empty(count)

  const oneWay = (a: Footprint, b: Footprint, rightwards: boolean): number => {
    let [byFront, byBack, here] = [0, 0, nothing]
    for (let step = 0; step < count; step += 1) {
      const at = rightwards ? step : count - 1 - step
      const low = Math.min(a[2 * at] as number, b[2 * at] as number)
      if (low === nothing) continue
      const high = Math.max(a[2 * at + 1] as number, b[2 * at + 1] as number)
      const x = columns[at] as number
      if (here === nothing) {
        byFront = Math.abs(startX - x) + Math.abs(startY - front)
        byBack = Math.abs(startX - x) + Math.abs(startY - back)
      } else {
        byFront += Math.abs(x - here)
        byBack += Math.abs(x - here)
      }
      here = x
      const again = Math.min(byFront + 2 * Math.abs(high - front), byBack + through)
      byBack = Math.min(byBack + 2 * Math.abs(back - low), byFront + through)
      byFront = again
    }
    if (here === nothing) return 0
    const home = Math.abs(finishX - here)
    return Math.min(byFront + Math.abs(finishY - front), byBack + Math.abs(finishY - back)) + home + aside
  }

  return {
    footprint: (bins) => {
      const made = empty(count)
      for (const bin of bins) {
        const at = floor.inAisle(bin)
        const index = at && column.get(at.x)
        if (!at || index === undefined || index === null) continue
        made[2 * index] = Math.min(made[2 * index] as number, at.y)
        made[2 * index + 1] = Math.max(made[2 * index + 1] as number, at.y)
      }
      return made
    },
    union: (a, b) => {
      const made = new Float64Array(2 * count)
      for (let at = 0; at < 2 * count; at += 2) {
        made[at] = Math.min(a[at] as number, b[at] as number)
        made[at + 1] = Math.max(a[at + 1] as number, b[at + 1] as number)
      }
      return made
    },
    metres: (a, b = none) => Math.min(oneWay(a, b, true), oneWay(a, b, false)),
  }
}

function empty(count: number): Footprint {
  const made = new Float64Array(2 * count)
  for (let at = 0; at < 2 * count; at += 2) {
    made[at] = nothing
    made[at + 1] = -nothing
  }
  return made
}

/** Where a place meets the ways. */
function pointOf(floor: FloorDistances, code: string): { x: number; y: number; aside: number } | null {
  const at = floor.accessOf(code)
  if (!at) return null
  const aisle = floor.plan.aisles[at.way]
  const cross = floor.plan.crossAisles[at.way - floor.plan.aisles.length]
  return aisle ? { x: aisle.x, y: at.along, aside: at.aside } : { x: at.along, y: cross?.y ?? 0, aside: at.aside }
}
