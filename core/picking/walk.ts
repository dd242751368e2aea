import type { FloorDistances } from "../floorPlan/index.ts"
import { mostExact, provedOrder, searchedOrder } from "../round/tour.ts"
import { exactWalk } from "./exact.ts"

/** How short a walk is known to be: the shortest, or within so many percent of it. */
export type WalkProof = { readonly is: "shortest" } | { readonly is: "within"; readonly percent: number }

export interface Walk {
  /** Bins in the order in which they are visited, each once. */
  readonly bins: readonly string[]
  /** Meters from the desk over all bins to the bench; null where the floor does not know one of them. */
  readonly metres: number | null
  /** The same in plain aisle order. */
  readonly plainMetres: number | null
  /** Null where the meters are not known. */
  readonly proof: WalkProof | null
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
 * The shortest walk over bins. Exact on floors of up to four blocks of aisles (`exactWalk`), and for up to twelve stops
 * on any floor; beyond, a search that says how far its walk is from the shortest at most.
 *
 * @param from code of the desk
 * @param to code of the bench
 */
export function walk(bins: readonly string[], floor: FloorDistances, from: string, to: string): Walk {
  const plain = plainOrder(bins, floor, from, to)
  const plainMetres = lengthOf(plain, floor, from, to)
  if (!Number.isFinite(plainMetres)) return { bins: plain, metres: null, plainMetres: null, proof: null }
  const found = shortestOrder(plain, floor, from, to)
  const metres = lengthOf(found.bins, floor, from, to)
  // of two walks as short the plain one is easier to follow
  return metres < plainMetres - least
    ? { bins: found.bins, metres, plainMetres, proof: found.proof }
    : { bins: plain, metres: plainMetres, plainMetres, proof: found.proof }
}

/** Gains below this are rounding, in meters. */
const least = 1e-6

function shortestOrder(
  plain: readonly string[],
  floor: FloorDistances,
  from: string,
  to: string,
): { readonly bins: readonly string[]; readonly proof: WalkProof } {
  if (plain.length <= 1) return { bins: plain, proof: { is: "shortest" } }
  const exact = exactWalk(plain, floor, from, to)
  if (exact) return { bins: exact.bins, proof: { is: "shortest" } }
  const places = [from, ...plain, to]
  const table = places.map((a) => places.map((b) => floor.metres(a, b)))
  if (plain.length <= mostExact)
    return { bins: provedOrder(table).map((at) => places[at] as string), proof: { is: "shortest" } }
  const { order, percent } = searchedOrder(table)
  return {
    bins: order.map((at) => places[at] as string),
    proof: percent === 0 ? { is: "shortest" } : { is: "within", percent },
  }
}

/** Bins above which no wish for what comes first or last is worked out to the meter. */
const mostTurns = 24

/**
 * The shortest walk that takes some bins before all others, such as what is heavy, or after them, such as what is cold.
 * Each part is as short as it can be between the same two places; where one part ends and the next begins is tried for
 * each of its bins. The same as `walk` where nothing is asked for.
 */
export function walkInParts(
  parts: readonly (readonly string[])[],
  floor: FloorDistances,
  from: string,
  to: string,
): Walk {
  const some = parts.filter((part) => part.length > 0)
  const all = some.flat()
  if (some.length < 2) return walk(all, floor, from, to)
  const plain = plainOrder(all, floor, from, to)
  const plainMetres = lengthOf(plain, floor, from, to)
  if (!Number.isFinite(plainMetres)) return { bins: some.flat(), metres: null, plainMetres: null, proof: null }
  const [first, ...others] = some as [readonly string[], ...(readonly string[])[]]
  const ends = [...new Set(first)].slice(0, mostTurns)
  let best: Walk | null = null
  for (const end of ends) {
    const before = walk(
      first.filter((bin) => bin !== end),
      floor,
      from,
      end,
    )
    const after = walkInParts(others, floor, end, to)
    if (before.metres === null || after.metres === null) continue
    const metres = (first.length === 1 ? floor.metres(from, end) : before.metres) + after.metres
    if (!best || metres < (best.metres as number) - least)
      best = {
        bins: [...before.bins, end, ...after.bins],
        metres,
        plainMetres,
        proof: before.proof?.is === "shortest" ? after.proof : before.proof,
      }
  }
  return best ?? { bins: some.flat(), metres: null, plainMetres: null, proof: null }
}
