import { type Inside, type Lying, Room, type Rule, type Shape } from "./room.ts"

export interface Fewest {
  readonly boxes: readonly (readonly Lying[])[]
  readonly steps: number
}
interface Bin {
  items: number[]
  lying: Lying[]
  volume: number
}

const rules: readonly Rule[] = ["corner", "low", "tight"]

export function fewestBoxes(
  box: Inside,
  shapes: readonly Shape[],
  items: readonly number[],
  options: { support: number; steps: number; seed: number; bound?: number; until?: number },
): Fewest {
  const room = new Room(shapes, { support: options.support, limited: false })
  const whole = box.length * box.width * box.height
  const vol = (i: number) => (shapes[i] as Shape).volume
  let state = options.seed * 2654435761 + 1
  const random = () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) / 4294967296
  }
  const leastOf = (s: Shape) => Math.min(...s.turns.map((t) => Math.min(...t)))
  const edges = shapes.map(leastOf)
  let puts = 0
  /** fills k bins */
  const fill = (order: readonly number[], k: number, rule: Rule): { bins: Bin[]; left: number[] } => {
    let left = order
    const bins: Bin[] = []
    let le = Infinity,
      lv = Infinity
    for (const i of order) {
      if (edges[i]! < le) le = edges[i]!
      if (vol(i) < lv) lv = vol(i)
    }
    while (left.length > 0 && bins.length < k) {
      room.open(box)
      const rest: number[] = []
      const mine: number[] = []
      for (const i of left) {
        if (room.volume + vol(i) <= whole) {
          puts++
          if (room.put(i, rule, le, lv)) {
            mine.push(i)
            continue
          }
        }
        rest.push(i)
      }
      bins.push({ items: mine, lying: room.lying(), volume: room.volume })
      left = rest
    }
    return { bins, left: [...left] }
  }
  const orders = [
    [...items].sort((a, b) => vol(b) - vol(a)),
    [...items].sort((a, b) => Math.max(...shapes[b]!.turns[0]!) - Math.max(...shapes[a]!.turns[0]!) || vol(b) - vol(a)),
    [...items].sort((a, b) => {
      const A = shapes[a]!.turns[0]!,
        B = shapes[b]!.turns[0]!
      return B[0] * B[1] - A[0] * A[1] || B[2] - A[2]
    }),
    [...items].sort((a, b) => {
      const A = shapes[a]!.turns[0]!,
        B = shapes[b]!.turns[0]!
      return B[2] - A[2] || B[0] * B[1] - A[0] * A[1]
    }),
  ]
  let best: Bin[] = []
  for (const order of orders)
    for (const rule of ["corner", "low"] as const) {
      const { bins } = fill(order, Infinity, rule)
      if (best.length === 0 || bins.length < best.length) best = bins
    }
  const bound = options.bound ?? Math.ceil(items.reduce((s, i) => s + vol(i), 0) / whole)
  const over = () => (options.until !== undefined ? performance.now() > options.until : puts > options.steps)
  // eliminate
  let tries = 0
  while (best.length > bound && !over()) {
    const bins = best.map((b) => ({ ...b }))
    bins.sort((a, b) => a.volume - b.volume)
    let pool = bins.shift()!.items.slice()
    let poolVol = pool.reduce((s, i) => s + vol(i), 0)
    let bestPool = poolVol
    let since = 0
    while (pool.length > 0 && !over()) {
      tries++
      // choose k bins
      const k = 1 + Math.floor(random() * 3)
      const chosen = new Set<number>()
      while (chosen.size < Math.min(k, bins.length)) chosen.add(Math.floor(random() * bins.length))
      const set = [...pool]
      for (const c of chosen) set.push(...bins[c]!.items)
      const noise = random() < 0.3 ? 0.5 : 0.15
      const kind = Math.floor(random() * 3)
      const key = new Map<number, number>()
      for (const i of set) {
        const s = shapes[i]!.turns[0]!
        const b =
          kind === 0
            ? vol(i) / whole
            : kind === 1
              ? Math.max(s[0] / box.length, s[1] / box.width, s[2] / box.height)
              : (s[0] * s[1]) / box.length / box.width
        key.set(i, b * (1 + noise * (random() - 0.5) * 2))
      }
      set.sort((a, b) => key.get(b)! - key.get(a)!)
      const rule = rules[Math.floor(random() * 2)]!
      const got = fill(set, chosen.size, rule)
      const leftVol = got.left.reduce((s, i) => s + vol(i), 0)
      since++
      if (leftVol <= poolVol || random() < Math.exp(-(leftVol - poolVol) / whole / 0.01)) {
        let at = 0
        for (const c of chosen) {
          bins[c] = got.bins[at] ?? { items: [], lying: [], volume: 0 }
          at++
        }
        pool = got.left
        poolVol = leftVol
        if (poolVol < bestPool) {
          bestPool = poolVol
          since = 0
        }
      }
    }
    if (pool.length === 0) {
      best = bins.filter((b) => b.items.length > 0)
    } else break
  }
  return { boxes: best.map((b) => b.lying), steps: puts }
}
