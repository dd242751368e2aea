import { type Reason, reason } from "../refusal/index.ts"

export const goodsKinds = ["general", "food", "chemical"] as const
export type GoodsKind = (typeof goodsKinds)[number]

/** What decides whether goods may lie in one package. */
export interface Company {
  readonly sku: string
  readonly kind: GoodsKind
  /** Hazard class of dangerous goods, such as `8` or `5.1`; null: not dangerous. */
  readonly hazard: string | null
}

/**
 * Whether two goods may share a package: no food beside chemicals, whatever their classes, and none beside dangerous
 * goods; dangerous goods only beside those of their own class (common practice of the trade; carriers' own tables may
 * ask for more).
 */
export function mayShare(a: Company, b: Company): boolean {
  if (a.hazard !== null && b.hazard !== null && a.hazard !== b.hazard) return false
  const tainted = (food: Company, other: Company) =>
    food.kind === "food" && (other.kind === "chemical" || (other.hazard !== null && food.hazard === null))
  return !tainted(a, b) && !tainted(b, a)
}

/** The pairs of goods in a package that may not share it, each once. */
export function notTogether(goods: readonly Company[]): Reason[] {
  const found: Reason[] = []
  const once = goods.filter((one, index) => goods.findIndex((other) => other.sku === one.sku) === index)
  once.forEach((a, index) => {
    for (const b of once.slice(index + 1))
      if (!mayShare(a, b)) {
        const both = a.hazard !== null && b.hazard !== null && a.hazard !== b.hazard
        found.push(
          reason(both ? "flaw.classes" : "flaw.not-together", {
            sku: a.sku,
            other: b.sku,
            class: a.hazard ?? "",
            otherClass: b.hazard ?? "",
          }),
        )
      }
  })
  return found
}

/** What is to stay in one package where it can: nothing, the pieces of a line, or those of a line's lot. */
export const keptTogether = ["no", "lines", "lots"] as const
export type KeepTogether = (typeof keptTogether)[number]
