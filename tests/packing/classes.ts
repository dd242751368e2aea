/**
 * Instances of three-dimensional bin packing by the generator of Martello, Pisinger and Vigo, "The Three-Dimensional
 * Bin Packing Problem", Operations Research 48 (2000), as in their test3dbpp.c (from memory): classes 1–5 in boxes of
 * 100, of which six in ten pieces are of the class's kind and one in ten of each other; 6, 7 and 8 after Berkey and
 * Wang, in boxes of 10, 40 and 100. Random figures are those of POSIX lrand48.
 */
export interface Instance {
  readonly edge: number
  readonly pieces: readonly (readonly [number, number, number])[]
}

/** lrand48 by POSIX: X = 0x5DEECE66D × X + 0xB modulo 2^48, the upper 31 bits. */
function lrand48(seed: number): () => number {
  let state = (BigInt(seed) << 16n) + 0x330en
  return () => {
    state = (0x5deece66dn * state + 0xbn) & 0xffffffffffffn
    return Number(state >> 17n)
  }
}

export function instance(kind: number, count: number, test: number): Instance {
  const edge = kind === 6 ? 10 : kind === 7 ? 40 : 100
  const next = lrand48(count + test)
  const between = (low: number, high: number) => (next() % (high - low + 1)) + low
  const half = Math.floor(edge / 2)
  const most = Math.floor((2 * edge) / 3)
  const pieceOf = (type: number): [number, number, number] => {
    const small = () => between(1, half)
    const large = () => between(most, edge)
    switch (type) {
      case 1:
        return [small(), large(), large()]
      case 2:
        return [large(), small(), large()]
      case 3:
        return [large(), large(), small()]
      case 4:
        return [between(half, edge), between(half, edge), between(half, edge)]
      case 5:
        return [small(), small(), small()]
      case 6:
        return [between(1, 10), between(1, 10), between(1, 10)]
      case 7:
        return [between(1, 35), between(1, 35), between(1, 35)]
      default:
        return [between(1, 100), between(1, 100), between(1, 100)]
    }
  }
  const pieces = Array.from({ length: count }, () => {
    const other = kind <= 5 ? between(1, 10) : 10
    return pieceOf(kind <= 5 && other <= 5 ? other : kind)
  })
  return { edge, pieces }
}

/** The bounds L0, L1 and L2 of the same paper: fewer boxes can't be, when no piece is turned. */
export function lowerBound({ edge, pieces }: Instance): number {
  const volume = edge ** 3
  const whole = pieces.reduce((sum, [a, b, c]) => sum + a * b * c, 0)
  let best = Math.ceil(whole / volume - 1e-9)
  for (const [i, j, k] of [
    [0, 1, 2],
    [0, 2, 1],
    [1, 2, 0],
  ] as const)
    best = Math.max(
      best,
      boundAlong(
        pieces.map((one) => [one[i], one[j], one[k]] as const),
        edge,
      ),
    )
  return best
}

/** L2 for faces of the first two edges, and with it L1. */
function boundAlong(pieces: readonly (readonly [number, number, number])[], edge: number): number {
  const half = edge / 2
  const wide = pieces.filter(([w, h]) => w > half && h > half)
  const deep = wide.filter(([, , d]) => d > half).length
  let more = 0
  for (let p = 1; p <= half; p += 1) {
    const large = wide.filter(([, , d]) => edge - p >= d && d > half)
    const small = wide.filter(([, , d]) => half >= d && d >= p)
    const sum = (some: typeof wide) => some.reduce((total, [, , d]) => total + d, 0)
    const byLength = Math.ceil((sum(small) - (large.length * edge - sum(large))) / edge - 1e-9)
    const gaps = large.reduce((total, [, , d]) => total + Math.floor((edge - d) / p), 0)
    const byCount = Math.ceil((small.length - gaps) / Math.floor(edge / p) - 1e-9)
    more = Math.max(more, byLength, byCount)
  }
  const first = deep + more
  let best = first
  for (let p = 1; p <= half; p += 1)
    for (let q = 1; q <= half; q += 1) {
      let [volume, depth] = [0, 0]
      for (const [w, h, d] of pieces) {
        if (w > edge - p && h > edge - q) depth += d
        else if ((w > half && h > half) || (w >= p && h >= q)) volume += w * h * d
      }
      const left = (edge * first - depth) * edge * edge
      best = Math.max(best, first + Math.max(0, Math.ceil((volume - left) / edge ** 3 - 1e-9)))
    }
  return best
}
