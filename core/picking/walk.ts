import type { FloorDistances } from "../floorPlan/index.ts"

export interface Walk {
  /** Bins in the order in which they are visited, each once. */
  readonly bins: readonly string[]
  /** Meters from the desk over all bins to the bench; null where the floor does not know one of them. */
  readonly metres: number | null
  /** The same in plain aisle order. */
  readonly plainMetres: number | null
}

/**
 * Bins in plain aisle order: aisle after aisle from the left, up one and down the next, beginning upwards or downwards
 * as is shorter. Bins that the floor does not know come last, by their code.
 */
export function plainOrder(bins: readonly string[], floor: FloorDistances, from: string, to: string): string[] {
  const once = [...new Set(bins)]
  const known = once.flatMap((bin) => {
    const at = floor.inAisle(bin)
    return at ? [{ bin, ...at }] : []
  })
  const strange = once.filter((bin) => !floor.inAisle(bin)).sort((a, b) => a.localeCompare(b))
  const aisles = [...new Set(known.map((one) => one.aisle))].sort(
    (a, b) => (known.find((one) => one.aisle === a)?.x ?? 0) - (known.find((one) => one.aisle === b)?.x ?? 0),
  )
  const up = (first: boolean) =>
    aisles.flatMap((aisle, index) => {
      const way = (index % 2 === 0) === first ? 1 : -1
      return known
        .filter((one) => one.aisle === aisle)
        .sort((a, b) => way * (a.y - b.y) || a.bin.localeCompare(b.bin))
        .map((one) => one.bin)
    })
  const [one, other] = [up(true), up(false)]
  return [...(lengthOf(one, floor, from, to) <= lengthOf(other, floor, from, to) ? one : other), ...strange]
}

/** Meters of a way in this order. */
export function lengthOf(bins: readonly string[], floor: FloorDistances, from: string, to: string): number {
  let metres = 0
  let at = from
  for (const bin of bins) {
    metres += floor.metres(at, bin)
    at = bin
  }
  return metres + (bins.length === 0 ? 0 : floor.metres(at, to))
}

/**
 * A quick measure of walks in plain aisle order over any of these bins, for comparing very many of them: what lies in an
 * aisle is passed from one end to the other, so that only its ends are measured. The same figure as `lengthOf` of
 * `plainOrder`, over some bins, or over those of two lists together.
 */
export function plainMeasure(
  bins: readonly string[],
  floor: FloorDistances,
  from: string,
  to: string,
): (some: readonly string[], more?: readonly string[]) => number {
  const known = [...new Set(bins)].flatMap((bin) => {
    const at = floor.inAisle(bin)
    return at ? [{ bin, ...at }] : []
  })
  known.sort((a, b) => a.x - b.x || a.y - b.y || a.bin.localeCompare(b.bin))
  const index = new Map(known.map((one, at) => [one.bin, at]))
  const n = known.length
  const [aisle, along] = [known.map((one) => one.x), known.map((one) => one.y)]
  const place = (at: number) => (at === n ? from : at === n + 1 ? to : (known[at]?.bin as string))
  const table = new Float64Array((n + 2) * (n + 2)).fill(-1)
  const d = (a: number, b: number): number => {
    const key = a * (n + 2) + b
    if ((table[key] as number) < 0) table[key] = floor.metres(place(a), place(b))
    return table[key] as number
  }
  // lists come again and again while they are compared: each is looked up and sorted once
  const sorted = new WeakMap<readonly string[], readonly number[]>()
  const places = (some: readonly string[]): readonly number[] => {
    const before = sorted.get(some)
    if (before) return before
    const found = some.flatMap((bin) => index.get(bin) ?? []).sort((a, b) => a - b)
    sorted.set(some, found)
    return found
  }
  const none: readonly string[] = []
  return (some, more = none) => {
    const [a, b] = [places(some), places(more)]
    // the first and last bin of each aisle, of both lists merged
    const ends: [low: number, high: number][] = []
    for (let i = 0, j = 0; i < a.length || j < b.length; ) {
      const one =
        j >= b.length || (i < a.length && (a[i] as number) <= (b[j] as number))
          ? (a[i++] as number)
          : (b[j++] as number)
      const last = ends.at(-1)
      if (last && aisle[last[0]] === aisle[one]) last[1] = one
      else ends.push([one, one])
    }
    if (ends.length === 0) return 0
    const length = (upFirst: boolean): number => {
      let metres = 0
      let before = n
      ends.forEach(([low, high], turn) => {
        const up = (turn % 2 === 0) === upFirst
        const [begin, end] = up ? [low, high] : [high, low]
        metres += d(before, begin) + ((along[high] as number) - (along[low] as number))
        before = end
      })
      return metres + d(before, n + 1)
    }
    return Math.min(length(true), length(false))
  }
}

/**
 * A walk over bins: plain aisle order, improved by turning stretches round (2-opt) and moving stretches of up to three
 * bins elsewhere (Or-opt) until neither makes it shorter. Never longer than the plain order; not proved to be the
 * shortest.
 *
 * @param from code of the desk
 * @param to code of the bench
 */
export function walk(bins: readonly string[], floor: FloorDistances, from: string, to: string): Walk {
  const plain = plainOrder(bins, floor, from, to)
  const plainMetres = lengthOf(plain, floor, from, to)
  if (!Number.isFinite(plainMetres)) return { bins: plain, metres: null, plainMetres: null }
  const places = [from, ...plain, to]
  const n = places.length
  const table = new Float64Array(n * n)
  for (let i = 0; i < n; i += 1)
    for (let j = i + 1; j < n; j += 1)
      table[i * n + j] = table[j * n + i] = floor.metres(places[i] as string, places[j] as string)
  const d = (a: number, b: number) => table[a * n + b] as number
  const tour = places.map((_, index) => index)
  improve(tour, d)
  const order = tour.slice(1, -1).map((index) => places[index] as string)
  // summed as every length is, so that the same order gives the same figure
  return { bins: order, metres: lengthOf(order, floor, from, to), plainMetres }
}

/** Gains below this are rounding, in meters. */
const least = 1e-9

/** Shortens a tour in place; its first and last places stay where they are. */
function improve(tour: number[], d: (a: number, b: number) => number): void {
  const at = (index: number) => tour[index] as number
  for (let better = true, rounds = 0; better && rounds < 200; rounds += 1) {
    better = false
    for (let i = 1; i < tour.length - 2; i += 1)
      for (let j = i + 1; j < tour.length - 1; j += 1) {
        const gain = d(at(i - 1), at(i)) + d(at(j), at(j + 1)) - d(at(i - 1), at(j)) - d(at(i), at(j + 1))
        if (gain <= least) continue
        tour.splice(i, j - i + 1, ...tour.slice(i, j + 1).reverse())
        better = true
      }
    for (let length = 1; length <= 3; length += 1)
      for (let i = 1; i + length < tour.length; i += 1) {
        const [head, tail] = [at(i), at(i + length - 1)]
        const removed = d(at(i - 1), head) + d(tail, at(i + length)) - d(at(i - 1), at(i + length))
        for (let j = 1; j < tour.length; j += 1) {
          if (j >= i && j <= i + length) continue
          // between j − 1 and j, as it is or turned round
          const [before, after] = [at(j - 1), at(j)]
          const straight = d(before, head) + d(tail, after) - d(before, after)
          const turned = d(before, tail) + d(head, after) - d(before, after)
          if (removed - Math.min(straight, turned) <= least) continue
          const stretch = tour.slice(i, i + length)
          if (turned < straight) stretch.reverse()
          tour.splice(i, length)
          tour.splice(j > i ? j - length : j, 0, ...stretch)
          better = true
          break
        }
      }
  }
}
