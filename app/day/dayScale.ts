import { scaleLinear } from "d3-scale"

export interface Stretch {
  /** Instant in milliseconds → x in the drawing. */
  readonly x: (at: number) => number
  /** Left edge and width of the column of each collection that is still to come. */
  readonly columns: readonly { readonly left: number; readonly width: number }[]
  /** Whether the scale differs from stretch to stretch, so that ticks can say so. */
  readonly stretched: boolean
}

/**
 * The day's scale: night takes a fixed width at the left and ends exactly at now; the columns of the collections to
 * come share the rest by their time, none narrower than `least`. Between two posts the scale is even.
 *
 * @param posts cut-offs to come, in order, in milliseconds
 */
export function dayScale(now: number, posts: readonly number[], night: number, width: number, least: number): Stretch {
  const nightMs = 75 * 60_000
  if (posts.length === 0) return { x: scaleLinear([now - nightMs, now], [0, night]), columns: [], stretched: false }
  const spans = posts.map((post, index) => Math.max(1, post - (posts[index - 1] ?? now)))
  const room = width - night
  const floor = Math.min(least, room / posts.length)
  const widths = shareOut(spans, room, floor)
  const edges = [night]
  for (const one of widths) edges.push((edges.at(-1) as number) + one)
  const total = spans.reduce((sum, one) => sum + one, 0)
  const even = widths.every((one, index) => Math.abs(one - (room * (spans[index] as number)) / total) < 1)
  const before = scaleLinear([now - nightMs, now], [0, night])
  const after = scaleLinear([now, ...posts], edges)
  return {
    x: (at) => (at <= now ? before(at) : after(at)),
    columns: widths.map((one, index) => ({ left: edges[index] as number, width: one })),
    stretched: !even,
  }
}

/** Shares a length in proportion, but gives none less than the floor. */
function shareOut(parts: readonly number[], length: number, floor: number): number[] {
  const fixed = new Set<number>()
  for (;;) {
    const free = parts.reduce((sum, part, index) => (fixed.has(index) ? sum : sum + part), 0)
    const left = length - fixed.size * floor
    const small = parts.findIndex((part, index) => !fixed.has(index) && (left * part) / free < floor - 1e-9)
    if (small < 0) return parts.map((part, index) => (fixed.has(index) ? floor : (left * part) / free))
    fixed.add(small)
    if (fixed.size === parts.length) return parts.map(() => length / parts.length)
  }
}
