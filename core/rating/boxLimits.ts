import type { Service } from "../tariff/index.ts"
import { type Mass, mass, type Size } from "../units/index.ts"
import { edgesIn, lengthAndGirth } from "./measures.ts"

/** A box that may be used: its outside, its own weight, and what it carries. */
export interface LimitedBox {
  readonly outer: Size
  readonly tare: Mass
  readonly maxLoad: Mass
}

/**
 * How much may be put into a box so that a service takes it: what the box carries, or less where the service's limit of
 * weight is reached before. Null where the box alone is over a limit of weight or size. What goes on pallets is not
 * limited here.
 */
export function loadWithin({ limits, goods, lengthUnit, weighing }: Service, box: LimitedBox): Mass | null {
  if (goods.handling === "pallet") return box.maxLoad
  const edges = edgesIn(box.outer, lengthUnit)
  const over = (figure: { gt(limit: string): boolean }, limit: string | null) => limit !== null && figure.gt(limit)
  if (over(edges[0], limits.length) || over(lengthAndGirth(edges), limits.lengthAndGirth)) return null
  if (limits.weight === null) return box.maxLoad
  const left = mass(limits.weight, weighing.unit).sub(box.tare)
  if (left.lte(0)) return null
  return left.lt(box.maxLoad) ? mass(left, "kg") : box.maxLoad
}
