/** Something that frees minutes at a price. */
export interface Freeing {
  readonly minutes: number
  /** What it costs, never below zero; of two choices the one with the smaller sum is better. */
  readonly cost: number
}

/** Tenths of a minute: finer than any estimate of work is. */
const steps = 10

/**
 * Which of some freeings come to at least so many minutes at the least cost: exact, by dynamic programming over tenths
 * of a minute (the covering form of the knapsack problem). Null when all together are not enough. Places in `items`, in
 * order.
 *
 * @example cover([{ minutes: 10, cost: 5 }, { minutes: 2, cost: 2 }, { minutes: 20, cost: 18 }], 12) // [0, 1]
 */
export function cover(items: readonly Freeing[], minutes: number): number[] | null {
  const need = Math.max(0, Math.ceil(minutes * steps - 1e-6))
  if (need === 0) return []
  const best = new Float64Array(need + 1).fill(Number.POSITIVE_INFINITY)
  best[0] = 0
  // what was reached with which item, item after item, to find the way back
  const taken: Uint8Array[] = []
  for (const item of items) {
    const frees = Math.floor(item.minutes * steps + 1e-6)
    const used = new Uint8Array(need + 1)
    for (let at = need; at > 0; at -= 1) {
      const cost = (best[Math.max(0, at - frees)] as number) + item.cost
      if (frees > 0 && cost < (best[at] as number)) {
        best[at] = cost
        used[at] = 1
      }
    }
    taken.push(used)
  }
  if (best[need] === Number.POSITIVE_INFINITY) return null
  const chosen: number[] = []
  for (let index = items.length - 1, at = need; index >= 0 && at > 0; index -= 1) {
    if (taken[index]?.[at] !== 1) continue
    chosen.push(index)
    at = Math.max(0, at - Math.floor((items[index] as Freeing).minutes * steps + 1e-6))
  }
  return chosen.reverse()
}
