/**
 * Kinds of goods that tariffs treat apart whatever their weight: some are taken by few services and only with a licence or
 * a signature, for others there is a cheaper rate that takes nothing else (common practice of the trade).
 */
export const goodsCategories = ["alcohol", "printed-matter"] as const
export type GoodsCategory = (typeof goodsCategories)[number]

/** Taken only by services whose tariff names them. */
export const restrictedCategories: ReadonlySet<GoodsCategory> = new Set(["alcohol"])

/** What a tariff may ask for before goods of a category are taken. */
export const permits = ["receiver-licence", "adult-signature", "shipper-declaration"] as const
export type Permit = (typeof permits)[number]

/** Papers whose data a carrier may take instead of a print. */
export const electronicPapers = ["invoice", "postal-declaration", "dangerous-goods"] as const

/** Which categories that tariffs treat apart the goods are of, and what the shipment has for them. */
export interface CategoryFacts {
  /** Categories that some of the goods are of. */
  readonly some: readonly GoodsCategory[]
  /** The category that all of them are of; null: none. */
  readonly all: GoodsCategory | null
  readonly has: readonly Permit[]
}

/** The categories of the goods of a shipment, line by line; undefined where none of them is of any. */
export function categoriesOf(
  lines: readonly (GoodsCategory | null)[],
  has: readonly Permit[],
): CategoryFacts | undefined {
  const some = [...new Set(lines.flatMap((one) => one ?? []))]
  if (some.length === 0) return undefined
  const [only] = some
  return { some, all: some.length === 1 && only && lines.every((one) => one === only) ? only : null, has }
}
