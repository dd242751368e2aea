import { type Reason, reason } from "../refusal/index.ts"
import type { PackBox, PackPiece, PlacedPiece } from "./place.ts"

/**
 * Looks at a box that is packed, however it came about, and names everything that is wrong with it: a piece that is not
 * one of these or turned as it may not be, beyond the walls, inside another, without support, with too much on it, too
 * heavy in all, or beside what it may not lie with. Shares no code with what packs.
 */
export function checkPacked(
  box: PackBox,
  pieces: ReadonlyMap<string, PackPiece>,
  placed: readonly PlacedPiece[],
): Reason[] {
  const wrong: Reason[] = []
  const tiny = 0.001
  const right = (one: PlacedPiece) => [one.x + one.length, one.y + one.width, one.z + one.height] as const
  placed.forEach((one, index) => {
    const piece = pieces.get(one.key)
    const at = { piece: `${one.key}/${index}` }
    if (!piece) {
      wrong.push(reason("check.unknown", at))
      return
    }
    const edges = (a: number, b: number, c: number) => [a, b, c].sort((p, q) => p - q)
    const same = (p: number[], q: number[]) => p.every((edge, i) => Math.abs(edge - (q[i] as number)) < tiny)
    if (!same(edges(one.length, one.width, one.height), edges(piece.length, piece.width, piece.height)))
      wrong.push(reason("check.other-size", at))
    if (piece.upright && Math.abs(one.height - piece.height) > tiny) wrong.push(reason("check.not-upright", at))
    const [x, y, z] = right(one)
    if (
      one.x < -tiny ||
      one.y < -tiny ||
      one.z < -tiny ||
      x > box.length + tiny ||
      y > box.width + tiny ||
      z > box.height + tiny
    )
      wrong.push(reason("check.outside", at))
  })
  // one by one against each other
  const overlap = (from: number, to: number, from2: number, to2: number) => Math.min(to, to2) - Math.max(from, from2)
  for (let i = 0; i < placed.length; i += 1)
    for (let j = 0; j < i; j += 1) {
      const [a, b] = [placed[i], placed[j]] as [PlacedPiece, PlacedPiece]
      const [ax, ay, az] = right(a)
      const [bx, by, bz] = right(b)
      if (overlap(a.x, ax, b.x, bx) > tiny && overlap(a.y, ay, b.y, by) > tiny && overlap(a.z, az, b.z, bz) > tiny)
        wrong.push(reason("check.overlap", { piece: `${a.key}/${i}`, other: `${b.key}/${j}` }))
      const [p, q] = [pieces.get(a.key), pieces.get(b.key)]
      if (p && q && apart(p, q)) wrong.push(reason("check.apart", { piece: a.key, other: b.key }))
    }
  // what stands on what, from the top down
  const load = placed.map(() => 0)
  const topDown = placed.map((_, index) => index).sort((i, j) => (placed[j]?.z ?? 0) - (placed[i]?.z ?? 0))
  for (const i of topDown) {
    const one = placed[i] as PlacedPiece
    const piece = pieces.get(one.key)
    if (!piece) continue
    if (piece.loadLimit !== null && (load[i] as number) > piece.loadLimit + 1e-6)
      wrong.push(reason("check.crushed", { piece: `${one.key}/${i}` }))
    if (one.z <= tiny) continue
    const [x, y] = right(one)
    const shares = placed.map((other, j) => {
      if (j === i || Math.abs(other.z + other.height - one.z) > tiny) return 0
      const [ox, oy] = right(other)
      return Math.max(0, overlap(one.x, x, other.x, ox)) * Math.max(0, overlap(one.y, y, other.y, oy))
    })
    const area = shares.reduce((sum, share) => sum + share, 0)
    if (area < 0.8 * one.length * one.width - 1) wrong.push(reason("check.unsupported", { piece: `${one.key}/${i}` }))
    if (area > 0)
      shares.forEach((share, j) => {
        load[j] = (load[j] as number) + ((piece.weight + (load[i] as number)) * share) / area
      })
  }
  const weight = placed.reduce((sum, one) => sum + (pieces.get(one.key)?.weight ?? 0), 0)
  if (weight > box.maxLoad + 1e-6) wrong.push(reason("check.too-heavy", { weight: weight.toFixed(2) }))
  return wrong
}

/** Food beside any chemical, food beside dangerous goods, or dangerous goods of two classes. */
function apart(p: PackPiece, q: PackPiece): boolean {
  const classes = new Set([p.hazard, q.hazard])
  classes.delete(null)
  if (classes.size === 2) return true
  const kinds = new Set([p.kind, q.kind])
  if (kinds.has("food") && kinds.has("chemical")) return true
  return [
    [p, q],
    [q, p],
  ].some(
    ([food, other]) => food?.kind === "food" && food.hazard === null && other !== undefined && other.hazard !== null,
  )
}

/** What the checker asks of cartons on a pallet. Edges in millimetres, weights in kilograms. */
export interface Loaded {
  readonly number: number
  readonly length: number
  readonly width: number
  readonly height: number
  readonly weight: number
  /** Kilograms that may stand on it; null: no limit. */
  readonly bears: number | null
}

/**
 * Looks at a pallet that is built, however it came about: all that is asked of a box, upright and without walls, and its
 * center of gravity over the middle half of the deck.
 */
export function checkPallet(
  deck: PackBox,
  cartons: readonly Loaded[],
  placed: readonly (Omit<PlacedPiece, "key"> & { readonly number: number })[],
): Reason[] {
  const pieces = new Map(
    cartons.map((one): [string, PackPiece] => [
      String(one.number),
      { ...one, key: String(one.number), sku: "", kind: "general", hazard: null, upright: true, loadLimit: one.bears },
    ]),
  )
  const wrong = checkPacked(
    deck,
    pieces,
    placed.map((one) => ({ ...one, key: String(one.number) })),
  )
  const weightOf = (number: number) => cartons.find((one) => one.number === number)?.weight ?? 0
  const total = placed.reduce((sum, one) => sum + weightOf(one.number), 0)
  const center = (from: (one: (typeof placed)[number]) => number) =>
    placed.reduce((sum, one) => sum + weightOf(one.number) * from(one), 0) / total
  if (total > 0) {
    const [x, y] = [center((one) => one.x + one.length / 2), center((one) => one.y + one.width / 2)]
    const off = (at: number, edge: number) => at < edge / 4 - 0.01 || at > (edge * 3) / 4 + 0.01
    if (off(x, deck.length) || off(y, deck.width)) wrong.push(reason("check.off-center"))
  }
  return wrong
}
