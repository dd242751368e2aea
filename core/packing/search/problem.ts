import { leastSupport, type PackLoad, type UsableBox } from "../place.ts"
import { type Kind, partsInMillimetre, type Sorted, sortGoods } from "./goods.ts"
import type { Inside } from "./room.ts"

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
  const kinds = boxes
    .map((box): BoxKind => {
      const inside = { length: down(box.length), width: down(box.width), height: down(box.height) }
      return {
        box,
        inside,
        volume: inside.length * inside.width * inside.height * (1 - fill),
        outerVolume: box.outer.length * box.outer.width * box.outer.height,
        takes: sorted.kinds.map((kind) => takesOne(inside, box.maxLoad, kind)),
      }
    })
    .sort((a, b) => a.outerVolume - b.outerVolume || (a.box.code < b.box.code ? -1 : 1))
  return { ...sorted, boxes: kinds, support }
}

const takesOne = (inside: Inside, maxLoad: number, kind: Kind): boolean =>
  kind.weight <= maxLoad + 1e-9 &&
  kind.turns.some(([l, w, h]) => l <= inside.length && w <= inside.width && h <= inside.height)
