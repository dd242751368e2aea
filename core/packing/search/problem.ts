import type { FreightClass } from "../../rating/index.ts"
import { leastSupport, type PackLoad, type UsableBox } from "../place.ts"
import { type Kind, partsInMillimetre, type Sorted, sortGoods } from "./goods.ts"
import type { Inside, Turn } from "./room.ts"

export interface BoxKind {
  readonly box: UsableBox
  readonly inside: Inside
  readonly volume: number
  readonly outerVolume: number
  /** Kinds of which it takes one by itself. */
  readonly takes: readonly boolean[]
}

/** A package as it is priced: its packaging, outside, and what it weighs with it. */
export interface PricedBox {
  /** Null: the piece's own carton. */
  readonly code: string | null
  /** In millimeters; the same object wherever the same box is meant. */
  readonly outer: UsableBox["outer"]
  readonly kilograms: number
  /** With whom alone it goes; null: with anybody. */
  readonly carrier: string | null
  /** Value that the carrier is told, in the currency of the ways; nothing: none. */
  readonly declared?: number
  /** Kilograms of dry ice in it; nothing: none. */
  readonly dryIce?: number
  /** Class of all that is in it as freight; null or nothing: density decides. */
  readonly freightClass?: FreightClass | null
  /** It is a pallet, and whether another may stand on it; nothing: a carton. */
  readonly pallet?: { readonly stackable: boolean }
}

export interface Problem extends Sorted {
  readonly boxes: readonly BoxKind[]
  /** How much of a piece's base must stand on something. */
  readonly support: number
}

/**
 * Goods and boxes made ready for the search. Boxes come in the order of their outer volume, so that the first that holds
 * something is the smallest.
 *
 * @param fill the share of a box's inside that is left for filling material
 */
export function problemOf(
  goods: readonly PackLoad[],
  boxes: readonly UsableBox[],
  fill = 0,
  support = leastSupport,
): Problem {
  const sorted = sortGoods(goods)
  const down = (millimetres: number) => Math.floor(millimetres * partsInMillimetre + 0.5)
  const kindOf = (box: UsableBox, inside: Inside, share: number, only: Kind | null): BoxKind => ({
    box,
    inside,
    volume: inside.length * inside.width * inside.height * share,
    outerVolume: box.outer.length * box.outer.width * box.outer.height,
    takes: sorted.kinds.map((kind) => (only ? kind === only : takesOne(inside, box.maxLoad, kind))),
  })
  const kinds = [
    ...boxes.map((box) => {
      const inside = { length: down(box.length), width: down(box.width), height: down(box.height) }
      return kindOf(box, inside, 1 - fill, null)
    }),
    ...sorted.kinds.flatMap((kind, at) => (kind.asIs ? [kindOf(itself(kind, at), roomOf(kind.edges), 1, kind)] : [])),
  ].sort((a, b) => a.outerVolume - b.outerVolume || (a.box.code < b.box.code ? -1 : 1))
  return { ...sorted, boxes: kinds, support }
}

const roomOf = ([length, width, height]: Turn): Inside => ({ length, width, height })

/** What is sent as it is, as the box of itself. */
function itself(kind: Kind, at: number): UsableBox {
  const [length, width, height] = kind.edges.map((edge) => edge / partsInMillimetre) as [number, number, number]
  return {
    code: `=${at}`,
    ...{ length, width, height },
    outer: { length, width, height },
    maxLoad: kind.weight,
    tare: 0,
    stock: null,
    cost: 0,
    carrier: null,
    asIs: true,
  }
}

const takesOne = (inside: Inside, maxLoad: number, kind: Kind): boolean =>
  kind.weight <= maxLoad + 1e-9 &&
  kind.turns.some(([l, w, h]) => l <= inside.length && w <= inside.width && h <= inside.height)
