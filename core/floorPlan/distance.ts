import { crosses, type FloorPlan } from "./plan.ts"

/** Meters on foot between places of a floor, by their codes (bins, desk, bench, doors). */
export interface FloorDistances {
  /** Whether the floor knows the place. */
  readonly knows: (code: string) => boolean
  /** The shortest way on aisles and cross aisles; `Infinity` where there is none, or a place is unknown. */
  readonly metres: (from: string, to: string) => number
  /** The corners of that way, both ends with it, for a drawing; empty where there is none. */
  readonly way: (from: string, to: string) => readonly Point[]
  /** The plan that they are of, and where a place meets its ways; null where it is unknown. */
  readonly plan: FloorPlan
  readonly accessOf: (code: string) => Access | null
  /** Aisle and place along it, by which bins are put into the plain order; null for what stands in no aisle. */
  readonly inAisle: (code: string) => { readonly aisle: number; readonly x: number; readonly y: number } | null
}

export interface Point {
  readonly x: number
  readonly y: number
}

/** Where a place meets the ways: on aisle `way` (0 …) or cross aisle, so far along it, after `aside` meters beside it. */
export interface Access {
  readonly way: number
  readonly along: number
  readonly aside: number
}

/**
 * Distances on a floor. People walk along aisles and cross aisles only, so the shortest way between two places goes
 * straight along the way that they share, or over the crossings next to each of them; distances between crossings are
 * computed once, by Floyd and Warshall's method. Exact for the plan as drawn.
 */
export function floorDistances(plan: FloorPlan): FloorDistances {
  const aisles = plan.aisles.length
  // crossings of each way, in the order along it
  const crossings: { x: number; y: number }[] = []
  const onWay: { crossing: number; along: number }[][] = Array.from(
    { length: aisles + plan.crossAisles.length },
    () => [],
  )
  plan.aisles.forEach((aisle, a) => {
    plan.crossAisles.forEach((cross, c) => {
      if (!crosses(aisle, cross)) return
      const crossing = crossings.length
      crossings.push({ x: aisle.x, y: cross.y })
      onWay[a]?.push({ crossing, along: cross.y })
      onWay[aisles + c]?.push({ crossing, along: aisle.x })
    })
  })
  const n = crossings.length
  const between = new Float64Array(n * n).fill(Number.POSITIVE_INFINITY)
  // the crossing that comes next on the way from one to another
  const next = new Int32Array(n * n).fill(-1)
  for (let i = 0; i < n; i += 1) between[i * n + i] = 0
  for (const way of onWay) {
    way.sort((a, b) => a.along - b.along)
    for (let i = 1; i < way.length; i += 1) {
      const [a, b] = [way[i - 1], way[i]] as [{ crossing: number; along: number }, { crossing: number; along: number }]
      between[a.crossing * n + b.crossing] = between[b.crossing * n + a.crossing] = b.along - a.along
      next[a.crossing * n + b.crossing] = b.crossing
      next[b.crossing * n + a.crossing] = a.crossing
    }
  }
  for (let k = 0; k < n; k += 1)
    for (let i = 0; i < n; i += 1) {
      const ik = between[i * n + k] as number
      if (ik === Number.POSITIVE_INFINITY) continue
      for (let j = 0; j < n; j += 1) {
        const through = ik + (between[k * n + j] as number)
        if (through >= (between[i * n + j] as number)) continue
        between[i * n + j] = through
        next[i * n + j] = next[i * n + k] as number
      }
    }

  const access = new Map<string, Access>()
  const aisleOf = new Map(plan.aisles.map((aisle, index) => [aisle.code.toUpperCase(), index]))
  for (const bin of plan.bins) {
    const way = aisleOf.get(bin.aisle.toUpperCase())
    if (way !== undefined) access.set(key(bin.code), { way, along: bin.y, aside: 0 })
  }
  for (const place of plan.places) {
    const ways = [
      ...plan.aisles.map((aisle, way): Access => {
        const along = Math.min(Math.max(place.y, aisle.from), aisle.to)
        return { way, along, aside: Math.abs(place.x - aisle.x) + Math.abs(place.y - along) }
      }),
      ...plan.crossAisles.map((cross, index): Access => {
        const along = Math.min(Math.max(place.x, cross.from), cross.to)
        return { way: aisles + index, along, aside: Math.abs(place.y - cross.y) + Math.abs(place.x - along) }
      }),
    ]
    const nearest = ways.sort((a, b) => a.aside - b.aside)[0]
    if (nearest) access.set(key(place.code), nearest)
  }

  /** The crossings on both sides of a place, with the meters to each. */
  const exits = (at: Access): { crossing: number; metres: number }[] => {
    const way = onWay[at.way] ?? []
    const after = way.findIndex((one) => one.along >= at.along)
    const sides = after < 0 ? [way.at(-1)] : [way[after], way[after - 1]]
    return sides.flatMap((one) => (one ? [{ crossing: one.crossing, metres: Math.abs(one.along - at.along) }] : []))
  }
  interface Found {
    readonly metres: number
    /** The crossings next to both ends; null for the straight way along one aisle. */
    readonly over: readonly [out: number, into: number] | null
  }
  const shortest = (a: Access, b: Access): Found => {
    let best: Found = { metres: a.way === b.way ? Math.abs(a.along - b.along) : Number.POSITIVE_INFINITY, over: null }
    for (const out of exits(a))
      for (const into of exits(b)) {
        const metres = out.metres + (between[out.crossing * n + into.crossing] as number) + into.metres
        if (metres < best.metres) best = { metres, over: [out.crossing, into.crossing] }
      }
    return best
  }
  const metres = (from: string, to: string): number => {
    const a = access.get(key(from))
    const b = access.get(key(to))
    if (!a || !b) return Number.POSITIVE_INFINITY
    return key(from) === key(to) ? 0 : shortest(a, b).metres + a.aside + b.aside
  }
  const pointOf = (at: Access): Point => {
    const aisle = plan.aisles[at.way]
    return aisle
      ? { x: aisle.x, y: at.along }
      : { x: at.along, y: (plan.crossAisles[at.way - aisles] as { y: number }).y }
  }
  const way = (from: string, to: string): Point[] => {
    const a = access.get(key(from))
    const b = access.get(key(to))
    if (!a || !b) return []
    const found = shortest(a, b)
    if (!Number.isFinite(found.metres)) return []
    const points = [pointOf(a)]
    if (found.over) {
      let [at, into] = found.over
      points.push(crossings[at] as Point)
      while (at !== into) {
        at = next[at * n + into] as number
        points.push(crossings[at] as Point)
      }
    }
    points.push(pointOf(b))
    return points
  }
  return {
    plan,
    accessOf: (code) => access.get(key(code)) ?? null,
    knows: (code) => access.has(key(code)),
    metres,
    way,
    inAisle: (code) => {
      const at = access.get(key(code))
      const aisle = at && at.way < aisles ? plan.aisles[at.way] : undefined
      return at && aisle ? { aisle: at.way, x: aisle.x, y: at.along } : null
    },
  }
}

const key = (code: string): string => code.toUpperCase()
