/** Where an order stands, computed from its lines and packages and never stored by hand. */
export const stages = [
  "received",
  "released",
  "picking",
  "picked",
  "packing",
  "packed",
  "labelled",
  "outside",
  "gone",
  "delivered",
  "cancelled",
] as const
export type Stage = (typeof stages)[number]

export interface StageFacts {
  /** Sum over the lines, in base units. */
  readonly ordered: number
  readonly allocated: number
  readonly picked: number
  readonly packed: number
  readonly packages: readonly PackageState[]
  readonly cancelled?: boolean
  /** An outside warehouse was asked to ship it, or has shipped it. */
  readonly outside?: "asked" | "shipped" | "delivered" | null
}

export const packageStates = [
  "open",
  "closed",
  "labelled",
  "on-truck",
  "left-behind",
  "gone",
  "delivered",
  "void",
] as const
export type PackageState = (typeof packageStates)[number]

/**
 * The stage of an order. Packages that are void do not count. With an outside warehouse it is off our line.
 *
 * @example stageOf({ ordered: 6, allocated: 6, picked: 2, packed: 0, packages: [] }) // "picking"
 */
export function stageOf(facts: StageFacts): Stage {
  if (facts.cancelled) return "cancelled"
  if (facts.outside === "delivered") return "delivered"
  if (facts.outside) return facts.outside === "shipped" ? "gone" : "outside"
  const packages = facts.packages.filter((state) => state !== "void")
  const allPacked = facts.ordered > 0 && facts.packed >= facts.ordered
  if (allPacked && packages.length > 0) {
    if (packages.every((state) => state === "delivered")) return "delivered"
    if (packages.every((state) => state === "gone" || state === "delivered")) return "gone"
    if (packages.every((state) => ["labelled", "on-truck", "left-behind", "gone", "delivered"].includes(state)))
      return "labelled"
    if (packages.every((state) => state !== "open")) return "packed"
  }
  if (facts.packed > 0 || packages.length > 0) return "packing"
  if (facts.ordered > 0 && facts.picked >= facts.ordered) return "picked"
  if (facts.picked > 0) return "picking"
  return facts.ordered > 0 && facts.allocated >= facts.ordered ? "released" : "received"
}

/** Whether an order still has a bar on the day's line: until all its packages are labeled. */
export const isOnTheLine = (stage: Stage): boolean => stages.indexOf(stage) < stages.indexOf("labelled")

/** Whether an order is still packed and sent from here: not gone, not canceled, and not another warehouse's to ship. */
export const isWorkedHere = (stage: Stage): boolean => !["outside", "gone", "delivered", "cancelled"].includes(stage)

/** Whether all of an order has left us: on its way, or with the receiver. */
export const hasLeft = (stage: Stage): boolean => stage === "gone" || stage === "delivered"

/** How many of an order's packages are with the receiver, of those that have left. */
export const deliveredOf = (
  packages: readonly PackageState[],
): { readonly delivered: number; readonly of: number } => ({
  delivered: packages.filter((state) => state === "delivered").length,
  of: packages.filter((state) => state === "gone" || state === "delivered").length,
})
