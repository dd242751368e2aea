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
 * Whether two goods may share a package: food not with chemicals or dangerous goods, dangerous goods only with those of
 * their own class (common practice of the trade; carriers' own tables may ask for more).
 */
export function mayShare(a: Company, b: Company): boolean {
  if (a.hazard !== null && b.hazard !== null) return a.hazard === b.hazard
  const harsh = (one: Company) => one.kind === "chemical" || one.hazard !== null
  return !((a.kind === "food" && harsh(b)) || (b.kind === "food" && harsh(a)))
}

/** The pairs of goods in a package that may not share it, each once. */
export function notTogether(goods: readonly Company[]): Reason[] {
  const found: Reason[] = []
  const once = goods.filter((one, index) => goods.findIndex((other) => other.sku === one.sku) === index)
  once.forEach((a, index) => {
    for (const b of once.slice(index + 1))
      if (!mayShare(a, b)) {
        const both = a.hazard !== null && b.hazard !== null
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
