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
