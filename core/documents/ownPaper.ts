/** What a customer's, an item's or an order's own paper may be like: every shipment of it prints it. */
export const ownPaperLimits = {
  /** Bytes of the file. */
  bytes: 5 * 1024 * 1024,
  pages: 20,
  /** Longer side of a page in points: legal paper, the longest that office printers feed from a tray (common practice). */
  longSide: 14 * 72,
  /** Papers of one order, customer or item. */
  papers: 5,
} as const

/** What an own paper belongs to. */
export const paperOwners = ["order", "customer", "item"] as const
export type PaperOwner = (typeof paperOwners)[number]
