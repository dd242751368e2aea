import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"
import { Filling, type PackBox, type PackPiece, type PlacedPiece, turnings } from "./place.ts"

/** A number of equal pieces. */
export interface PackLoad extends PackPiece {
  readonly quantity: number
  /** Ships in its own carton: each piece is a package. */
  readonly ownCarton: boolean
}

/** A box that may be used, with its outer volume, by which small boxes are told from large ones. */
export interface UsableBox extends PackBox {
  readonly outerVolume: number
  /** How many there are; null: enough. */
  readonly stock: number | null
}

export interface SuggestedBox {
  /** Code of the packaging; null: the piece's own carton. */
  readonly code: string | null
  readonly placed: readonly PlacedPiece[]
}

export interface Suggestion {
  readonly boxes: readonly SuggestedBox[]
  /** Pieces that go into no carton, such as one that is larger than all of them. */
  readonly left: readonly { readonly key: string; readonly quantity: number; readonly why: Reason }[]
}

/** Pieces above which no suggestion is made, so that nobody waits for one. */
export const mostPieces = 1_200

/**
 * Cartons for goods, as few as a plain method finds: first fit at extreme points, the largest pieces first, tried with
 * every size of carton that takes the largest piece; then each carton is changed for the smallest that holds what is in
 * it. Within load limits, this side up, what may stand on what, four fifths of every base supported, and what may not
 * lie together kept apart. Good, not proved to be the best. Refuses bad sizes and more pieces than it handles.
 */
export function suggestPacking(loads: readonly PackLoad[], boxes: readonly UsableBox[]): Outcome<Suggestion> {
  const bad = loads.find(
    (one) =>
      ![one.length, one.width, one.height].every((edge) => Number.isFinite(edge) && edge > 0 && edge <= 20_000) ||
      !Number.isFinite(one.weight) ||
      one.weight < 0 ||
      !Number.isInteger(one.quantity) ||
      one.quantity < 0,
  )
  if (bad) return refused(reason("packing.bad-piece", { sku: bad.sku }))
  const pieces = loads.reduce((sum, one) => sum + one.quantity, 0)
  if (pieces > mostPieces) return refused(reason("packing.too-many", { pieces, limit: mostPieces }))
  const own = loads
    .filter((one) => one.ownCarton)
    .flatMap((one) => Array.from({ length: one.quantity }, () => ({ code: null, placed: [alone(one)] })))
  const left: { key: string; quantity: number; why: Reason }[] = []
  const packed: PackLoad[] = []
  for (const one of loads.filter((load) => !load.ownCarton && load.quantity > 0)) {
    const why = goesNowhere(one, boxes)
    if (why) left.push({ key: one.key, quantity: one.quantity, why })
    else packed.push(one)
  }
  const order = packed
    .flatMap((one) => Array.from({ length: one.quantity }, () => one))
    .sort((a, b) => volume(b) - volume(a) || b.weight - a.weight || a.key.localeCompare(b.key))
  let best: SuggestedBox[] | null = null
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
  if (order.length > 0 && !best) {
    for (const one of packed)
      left.push({ key: one.key, quantity: one.quantity, why: reason("packing.no-cartons", { sku: one.sku }) })
  }
  return accepted({ boxes: [...own, ...(best ?? [])], left })
}

/** One carton's contents placed in it, or null where this method finds no way. */
export function packInto(box: PackBox, loads: readonly PackLoad[]): PlacedPiece[] | null {
  const order = loads
    .flatMap((one) => Array.from({ length: Math.min(one.quantity, mostPieces) }, () => one))
    .sort((a, b) => volume(b) - volume(a) || b.weight - a.weight || a.key.localeCompare(b.key))
  if (order.length > mostPieces) return null
  const filling = new Filling(box)
  return order.every((one) => filling.put(one)) ? plain(filling) : null
}

/** Fills cartons of one size, others where that takes not all; then makes each as small as it can be. */
function fill(order: readonly PackLoad[], first: UsableBox, bySize: readonly UsableBox[]): SuggestedBox[] | null {
  const used = new Map<string, number>()
  const has = (box: UsableBox) => box.stock === null || (used.get(box.code) ?? 0) < box.stock
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

const alone = (one: PackPiece): PlacedPiece => ({
  key: one.key,
  x: 0,
  y: 0,
  z: 0,
  length: one.length,
  width: one.width,
  height: one.height,
})

const volume = (one: PackPiece): number => one.length * one.width * one.height

/** Whether an empty box takes a piece. */
const takes = (box: PackBox, one: PackPiece): boolean =>
  one.weight <= box.maxLoad + 1e-9 &&
  turnings(one).some(([l, w, h]) => l <= box.length + 1e-6 && w <= box.width + 1e-6 && h <= box.height + 1e-6)

function goesNowhere(one: PackPiece, boxes: readonly UsableBox[]): Reason | null {
  if (boxes.some((box) => takes(box, one))) return null
  const light = boxes.some((box) => one.weight <= box.maxLoad)
  return reason(light || boxes.length === 0 ? "packing.too-large" : "packing.too-heavy", { sku: one.sku })
}
