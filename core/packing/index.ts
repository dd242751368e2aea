import type { FreightClass } from "../rating/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import {
  type Length,
  type Mass,
  type Size,
  showMass,
  sortedEdges,
  sumMass,
  timesMass,
  volumeIn,
} from "../units/index.ts"
import { explainWeight } from "./explain.ts"
import { type Company, notTogether } from "./together.ts"

/** An item as the packer sees it: one base unit. */
export interface PackedItem extends Company {
  /** Stands on its base only. */
  readonly upright: boolean
  /** What may stand on one piece; null: no limit; nothing: nothing may. */
  readonly loadLimit: Mass | null
  /** Ships in the carton that it comes in. */
  readonly ownCarton: boolean
  readonly freightOnly: boolean
  readonly unitWeight: Mass
  readonly unitSize: Size
  /** Class as freight; null or nothing: density decides. */
  readonly freightClass?: FreightClass | null
  /** The case that it was ordered in, which is kept whole; null or nothing: it was ordered by the piece. */
  readonly whole?: WholeCase | null
}

/** A case as it comes: how many pieces are in it, what it weighs without them, and its outside. */
export interface WholeCase {
  readonly pieces: number
  readonly tare: Mass
  readonly size: Size
}

/** What a whole case weighs with what is in it. */
export const caseWeight = (item: Pick<PackedItem, "unitWeight">, { pieces, tare }: WholeCase): Mass =>
  sumMass([timesMass(item.unitWeight, pieces), tare])

/** A quantity of an order line inside a package. */
export interface Content {
  readonly line: string
  readonly quantity: number
  readonly item: PackedItem
}

/**
 * A kind of packaging from the catalog. A pallet's `inner` is the room for its load, its `outer` the bare pallet; a
 * carrier's own box is for that carrier's services only.
 */
export interface PackagingType {
  readonly code: string
  readonly name: string
  readonly kind: "carton" | "pallet" | "carrier-box"
  readonly inner: Size
  readonly outer: Size
  readonly tare: Mass
  readonly maxLoad: Mass
}

export interface Packed {
  readonly outer: Size
  readonly inner: Size | null
  readonly tare: Mass
  readonly maxLoad: Mass | null
  readonly contents: readonly Content[]
  /** Weight of the packages that stand on this one; none for a carton. */
  readonly carried: Mass
  readonly measured: Mass | null
  /** How far the scale may be off, as a share; the usual where it is not said. */
  readonly tolerance?: number
  /** It is to be put on a scale before it is closed. */
  readonly mustWeigh?: boolean
  /** All lines of the shipment, one piece each: what could be in the package too many. */
  readonly lines?: readonly Content[]
}

export * from "./check.ts"
export * from "./explain.ts"
export * from "./lots.ts"
export * from "./pallet.ts"
export * from "./place.ts"
export * from "./standing.ts"
export * from "./suggest.ts"
export * from "./together.ts"
export type { BoxWhy } from "./why.ts"

export const contentsWeight = (contents: readonly Content[]): Mass =>
  sumMass(contents.map((one) => timesMass(one.item.unitWeight, one.quantity)))

/** Contents, what stands on it, and tare. */
export const calculatedWeight = (pack: Packed): Mass =>
  sumMass([contentsWeight(pack.contents), pack.carried, pack.tare])

/** The weight that counts: the measured one where there is one, else the calculated one. */
export const actualWeight = (pack: Packed): Mass => pack.measured ?? calculatedWeight(pack)

/** How far a scale may be off the calculated weight before the contents are doubted, a share of it, where it is not set. */
export const weightTolerance = 0.1

/**
 * What is wrong or doubtful with a package: `flaw.*` codes keep it from closing and from being bought, `doubt.*` codes
 * only warn. A weight over the tolerance is a flaw until the contents were counted again, or the lead lets it pass.
 */
export function packageFlaws(pack: Packed): Reason[] {
  const reasons: Reason[] = []
  const load = sumMass([contentsWeight(pack.contents), pack.carried])
  const empty = pack.contents.length === 0 && pack.carried.isZero()
  if (empty) reasons.push(reason("flaw.empty"))
  if (pack.maxLoad && load.gt(pack.maxLoad)) {
    reasons.push(reason("flaw.overloaded", { load: showMass(load, "lb"), limit: showMass(pack.maxLoad, "lb") }))
  }
  for (const one of pack.contents) {
    if (pack.inner && !fitsInside(one.item.unitSize, pack.inner))
      reasons.push(reason("flaw.too-large", { sku: one.item.sku }))
  }
  if (pack.mustWeigh && !pack.measured && !empty) reasons.push(reason("flaw.not-weighed"))
  if (pack.measured && !empty) {
    const calculated = calculatedWeight(pack)
    if (
      pack.measured
        .sub(calculated)
        .abs()
        .gt(calculated.mul(pack.tolerance ?? weightTolerance))
    ) {
      const weights = { measured: showMass(pack.measured, "lb"), calculated: showMass(calculated, "lb") }
      const found = explainWeight({ measured: pack.measured, calculated }, pack.contents, pack.lines ?? pack.contents)
      reasons.push(
        found
          ? reason(`flaw.weight-${found.way}`, { ...weights, line: found.line, sku: found.sku, n: found.pieces })
          : reason("flaw.weight", weights),
      )
    }
  }
  reasons.push(...notTogether(pack.contents.map((one) => one.item)))
  if (pack.inner && volumeOf(pack.contents) > Number(volumeIn(pack.inner, "in"))) reasons.push(reason("doubt.volume"))
  return reasons
}

/** Whether one piece goes into a box in some orthogonal orientation. */
export function fitsInside(piece: Size, box: Size): boolean {
  const inside = sortedEdges(box)
  return sortedEdges(piece).every((edge, index) => edge.lte(inside[index] as Length))
}

/**
 * The smallest carton of the catalog that takes the contents by volume, load and edges, or the largest when none
 * does (then more cartons are needed). Volume counts at four fifths, since goods leave gaps (common practice, no
 * source); where things go inside is computed by another function later.
 */
export function suggestPackaging(types: readonly PackagingType[], contents: readonly Content[]): PackagingType | null {
  const bySize = types
    .filter((type) => type.kind === "carton")
    .sort((a, b) => volumeIn(a.inner, "in").cmp(volumeIn(b.inner, "in")))
  const load = contentsWeight(contents)
  const volume = volumeOf(contents)
  const takes = (type: PackagingType) =>
    Number(volumeIn(type.inner, "in")) * 0.8 >= volume &&
    load.lte(type.maxLoad) &&
    contents.every((one) => fitsInside(one.item.unitSize, type.inner))
  return bySize.find(takes) ?? bySize.at(-1) ?? null
}

const volumeOf = (contents: readonly Content[]) =>
  contents.reduce((sum, one) => sum + Number(volumeIn(one.item.unitSize, "in")) * one.quantity, 0)

/** A rectangle on the drawn front of a package, in inches from its lower left corner. */
export interface FacePiece {
  readonly line: string
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  /** How many pieces stand behind one another here. */
  readonly deep: number
}

/**
 * The contents as seen through the front of a package: columns from the left, heavy lines first, each piece to
 * scale; pieces that find no room in front are counted behind. A drawing to check contents by, not a packing plan.
 */
export function faceDrawing(
  inner: { length: number; width: number; height: number },
  contents: readonly FaceContent[],
): FacePiece[] {
  const pieces: FacePiece[] = []
  const order = [...contents].sort((a, b) => b.weight - a.weight || a.line.localeCompare(b.line))
  let x = 0
  let y = 0
  let rowHeight = 0
  for (const one of order) {
    const [w, h, d] = [Math.min(one.length, inner.length), Math.min(one.height, inner.height), one.width]
    const deepest = Math.max(1, Math.floor(inner.width / d + 1e-9))
    for (let left = one.quantity; left > 0; ) {
      if (x + w > inner.length + 1e-9) {
        x = 0
        y += rowHeight
        rowHeight = 0
      }
      if (y + h > inner.height + 1e-9) {
        // no room in front: what is left stands behind the last piece drawn of this line, or is named on the first
        const last = pieces.findLastIndex((piece) => piece.line === one.line)
        if (last >= 0) pieces[last] = { ...(pieces[last] as FacePiece), deep: (pieces[last] as FacePiece).deep + left }
        break
      }
      const deep = Math.min(deepest, left)
      pieces.push({ line: one.line, x, y, width: w, height: h, deep })
      rowHeight = Math.max(rowHeight, h)
      x += w
      left -= deep
    }
  }
  return pieces
}

export interface FaceContent {
  readonly line: string
  readonly quantity: number
  /** Edges of one piece in inches, weight of one piece in any unit. */
  readonly length: number
  readonly width: number
  readonly height: number
  readonly weight: number
}
