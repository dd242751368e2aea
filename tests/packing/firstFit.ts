import { mayShare, type PackBox, type PackLoad, type PackPiece, type PlacedPiece } from "core/packing/index.ts"

/**
 * For figures: the plain method that suggested cartons before, first fit at extreme points, beside which the search is
 * measured.
 */

export interface PlainBox extends PackBox {
  readonly outerVolume: number
  readonly stock: number | null
}
interface PlainSuggested {
  readonly code: string | null
  readonly placed: readonly PlacedPiece[]
}

/** How much of a piece's base must stand on something (common practice, no published source). */
const leastSupport = 0.8

/** Differences below this are rounding, in millimetres. */
const hair = 1e-6

interface Standing extends PlacedPiece {
  readonly piece: PackPiece
}

type Point = readonly [x: number, y: number, z: number]

/**
 * One box being filled: pieces are put at extreme points (Crainic, Perboli, Tadei, "Extreme Point-Based Heuristics for
 * Three-Dimensional Bin Packing", INFORMS Journal on Computing 20, 2008): the corners that placed pieces and the walls
 * make, the lowest and innermost first.
 */
class Filling {
  readonly placed: Standing[] = []
  private points: Point[] = [[0, 0, 0]]
  private weight = 0
  private limited = false
  private volume = 0

  constructor(readonly box: PackBox) {}

  /** Puts a piece in where it first fits; false where it does not. */
  put(piece: PackPiece): boolean {
    if (this.weight + piece.weight > this.box.maxLoad + 1e-9) return false
    const room = this.box.length * this.box.width * this.box.height - this.volume
    if (piece.length * piece.width * piece.height > room + hair) return false
    if (this.placed.some((one) => !mayShare(one.piece, piece))) return false
    const ways = turnings(piece)
    for (const [x, y, z] of this.points)
      for (const [length, width, height] of ways) {
        const place = { key: piece.key, piece, x, y, z, length, width, height }
        if (!this.free(place) || !this.supported(place) || !this.bears(place)) continue
        this.add(place)
        return true
      }
    return false
  }

  private free(at: Standing): boolean {
    if (
      at.x + at.length > this.box.length + hair ||
      at.y + at.width > this.box.width + hair ||
      at.z + at.height > this.box.height + hair
    )
      return false
    return !this.placed.some(
      (one) =>
        at.x < one.x + one.length - hair &&
        one.x < at.x + at.length - hair &&
        at.y < one.y + one.width - hair &&
        one.y < at.y + at.width - hair &&
        at.z < one.z + one.height - hair &&
        one.z < at.z + at.height - hair,
    )
  }

  private supported(at: Standing): boolean {
    if (at.z < hair) return true
    let area = 0
    for (const one of this.placed) if (Math.abs(one.z + one.height - at.z) < hair) area += contact(one, at)
    return area >= leastSupport * at.length * at.width - hair
  }

  /** Whether no piece carries more than it may with this one added; nothing to check where nobody has a limit. */
  private bears(at: Standing): boolean {
    if (!this.limited && at.piece.loadLimit === null) return true
    const all = [...this.placed, at].sort((a, b) => b.z - a.z)
    const carried = new Map<Standing, number>()
    for (const one of all) {
      const own = carried.get(one) ?? 0
      if (one.piece.loadLimit !== null && own > one.piece.loadLimit + 1e-9) return false
      const under = all.filter((other) => Math.abs(other.z + other.height - one.z) < hair && contact(other, one) > hair)
      const whole = under.reduce((sum, other) => sum + contact(other, one), 0)
      for (const other of under)
        carried.set(other, (carried.get(other) ?? 0) + ((own + one.piece.weight) * contact(other, one)) / whole)
    }
    return true
  }

  private add(at: Standing): void {
    this.placed.push(at)
    this.weight += at.piece.weight
    this.volume += at.length * at.width * at.height
    if (at.piece.loadLimit !== null) this.limited = true
    // the corner points of the new piece, slid to what stands before them
    const fresh: Point[] = [
      [at.x + at.length, this.slide(at.x + at.length, at.y, at.z, "y"), at.z],
      [at.x + at.length, at.y, this.slide(at.x + at.length, at.y, at.z, "z")],
      [this.slide(at.x, at.y + at.width, at.z, "x"), at.y + at.width, at.z],
      [at.x, at.y + at.width, this.slide(at.x, at.y + at.width, at.z, "z")],
      [this.slide(at.x, at.y, at.z + at.height, "x"), at.y, at.z + at.height],
      [at.x, this.slide(at.x, at.y, at.z + at.height, "y"), at.z + at.height],
      [at.x, at.y, at.z + at.height],
    ]
    const inside = (p: Point) =>
      p[0] >= at.x - hair &&
      p[0] < at.x + at.length - hair &&
      p[1] >= at.y - hair &&
      p[1] < at.y + at.width - hair &&
      p[2] >= at.z - hair &&
      p[2] < at.z + at.height - hair
    const within = (p: Point) =>
      p[0] < this.box.length - hair && p[1] < this.box.width - hair && p[2] < this.box.height - hair
    const all = [...this.points, ...fresh].filter((p) => !inside(p) && within(p))
    const seen = new Set<string>()
    this.points = all
      .filter((p) => {
        const key = p.map((part) => Math.round(part * 1000)).join(" ")
        return seen.has(key) ? false : !!seen.add(key)
      })
      .sort((a, b) => a[2] - b[2] || a[1] - b[1] || a[0] - b[0])
  }

  /** How far a point slides along an axis towards the wall until a placed piece stops it. */
  private slide(x: number, y: number, z: number, along: "x" | "y" | "z"): number {
    let stop = 0
    for (const one of this.placed) {
      const coversX = x >= one.x - hair && x < one.x + one.length - hair
      const coversY = y >= one.y - hair && y < one.y + one.width - hair
      const coversZ = z >= one.z - hair && z < one.z + one.height - hair
      if (along === "x" && coversY && coversZ && one.x + one.length <= x + hair)
        stop = Math.max(stop, one.x + one.length)
      if (along === "y" && coversX && coversZ && one.y + one.width <= y + hair) stop = Math.max(stop, one.y + one.width)
      if (along === "z" && coversX && coversY && one.z + one.height <= z + hair)
        stop = Math.max(stop, one.z + one.height)
    }
    return stop
  }
}

/** The ways in which a piece may be turned, flat before tall, each once. */
function turnings(piece: PackPiece): [number, number, number][] {
  const { length: l, width: w, height: h } = piece
  const all: [number, number, number][] = piece.upright
    ? [
        [l, w, h],
        [w, l, h],
      ]
    : [
        [l, w, h],
        [w, l, h],
        [l, h, w],
        [h, l, w],
        [w, h, l],
        [h, w, l],
      ]
  const once = all.filter(
    (one, index) => all.findIndex((other) => other.every((edge, at) => edge === one[at])) === index,
  )
  return once.sort((a, b) => a[2] - b[2])
}

const contact = (a: PlacedPiece, b: PlacedPiece): number =>
  Math.max(0, Math.min(a.x + a.length, b.x + b.length) - Math.max(a.x, b.x)) *
  Math.max(0, Math.min(a.y + a.width, b.y + b.width) - Math.max(a.y, b.y))

/**
 * Cartons for goods, as few as a plain method finds: first fit at extreme points, the largest pieces first, tried with
 * every size of carton that takes the largest piece; then each carton is changed for the smallest that holds what is in
 * it. Within load limits, this side up, what may stand on what, four fifths of every base supported, and what may not
 * lie together kept apart. Good, not proved to be the best. Refuses bad sizes and more pieces than it handles.
 */
export function firstFit(loads: readonly PackLoad[], boxes: readonly PlainBox[]): readonly PlainSuggested[] | null {
  const packed = loads.filter((one) => one.quantity > 0)
  const order = packed
    .flatMap((one) => Array.from({ length: one.quantity }, () => one))
    .sort((a, b) => volume(b) - volume(a) || b.weight - a.weight || a.key.localeCompare(b.key))
  let best: PlainSuggested[] | null = null
  let bestVolume = Number.POSITIVE_INFINITY
  const bySize = [...boxes].sort((a, b) => b.outerVolume - a.outerVolume || a.code.localeCompare(b.code))
  for (const first of order.length > 0 ? bySize.filter((box) => order.some((one) => takes(box, one))) : []) {
    const found = fill(order, first, bySize)
    if (!found) continue
    const cost = found.reduce((sum, one) => sum + (bySize.find((box) => box.code === one.code)?.outerVolume ?? 0), 0)
    if (!best || found.length < best.length || (found.length === best.length && cost < bestVolume)) {
      best = found
      bestVolume = cost
    }
  }
  return best ?? (order.length > 0 ? null : [])
}

/** Fills cartons of one size, others where that takes not all; then makes each as small as it can be. */
function fill(order: readonly PackLoad[], first: PlainBox, bySize: readonly PlainBox[]): PlainSuggested[] | null {
  const used = new Map<string, number>()
  const has = (box: PlainBox) => box.stock === null || (used.get(box.code) ?? 0) < box.stock
  const open: { filling: Filling; pieces: PackLoad[] }[] = []
  for (const one of order) {
    const known = open.find((each) => each.filling.put(one))
    if (known) {
      known.pieces.push(one)
      continue
    }
    const box = [first, ...bySize].find((each) => has(each) && takes(each, one))
    const filling = box ? new Filling(box) : null
    if (!box || !filling?.put(one)) return null
    used.set(box.code, (used.get(box.code) ?? 0) + 1)
    open.push({ filling, pieces: [one] })
  }
  return open.map(({ filling, pieces }) => {
    const weight = pieces.reduce((sum, one) => sum + one.weight, 0)
    const room = pieces.reduce((sum, one) => sum + volume(one), 0)
    for (const box of bySize.toReversed()) {
      if (box.code === filling.box.code) break
      const fits = has(box) && box.maxLoad >= weight && box.length * box.width * box.height >= room
      if (!fits || !pieces.every((one) => takes(box, one))) continue
      const smaller = new Filling(box)
      if (!pieces.every((one) => smaller.put(one))) continue
      used.set(box.code, (used.get(box.code) ?? 0) + 1)
      used.set(filling.box.code, (used.get(filling.box.code) ?? 1) - 1)
      return { code: box.code, placed: plain(smaller) }
    }
    return { code: filling.box.code, placed: plain(filling) }
  })
}

const plain = (filling: Filling): PlacedPiece[] => filling.placed.map(({ piece: _, ...place }) => place)

const volume = (one: PackPiece): number => one.length * one.width * one.height

/** Whether an empty box takes a piece. */
const takes = (box: PackBox, one: PackPiece): boolean =>
  one.weight <= box.maxLoad + 1e-9 &&
  turnings(one).some(([l, w, h]) => l <= box.length + 1e-6 && w <= box.width + 1e-6 && h <= box.height + 1e-6)
