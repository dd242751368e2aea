import type { RatedOffer } from "./rateView.server.ts"

export type LedgerSort = "contract" | "arrives"

/** How the comparison is looked at: in the address, so that it can be gone back to and needs no script. */
export interface LedgerWays {
  readonly sort: LedgerSort
  /** Codes of carriers that are not shown. */
  readonly hidden: ReadonlySet<string>
  /** What defaults hide is shown all the same. */
  readonly all: boolean
  /** The address with something changed. */
  readonly to: (change: {
    all?: boolean
    service?: string
    sort?: LedgerSort
    hidden?: ReadonlySet<string>
    drawing?: Drawing
  }) => string
  /** What is drawn beside the ledger. */
  readonly drawing: Drawing
}

export type Drawing = "plot" | "map" | "variants"

export function ledgerWays(search: URLSearchParams): LedgerWays {
  const hidden = new Set((search.get("hide") ?? "").split(",").filter(Boolean))
  return {
    sort: search.get("sort") === "arrives" ? "arrives" : "contract",
    hidden,
    all: search.has("all"),
    drawing: (["map", "variants"] as const).find((one) => one === search.get("drawing")) ?? "plot",
    to: (change) => {
      const next = new URLSearchParams(search)
      if (change.service) next.set("service", change.service)
      if (change.drawing === "plot") next.delete("drawing")
      else if (change.drawing) next.set("drawing", change.drawing)
      if (change.all) next.set("all", "")
      else if (change.all === false) next.delete("all")
      if (change.sort) next.set("sort", change.sort)
      if (change.hidden) {
        if (change.hidden.size > 0) next.set("hide", [...change.hidden].sort().join(","))
        else next.delete("hide")
      }
      return `?${next}`
    },
  }
}

/** Whether an offer stands in the comparison: what is chosen always does. */
export const isShown = (
  offer: { readonly code: string; readonly carrierCode: string; readonly hiddenBy: unknown },
  ways: Pick<LedgerWays, "hidden" | "all">,
  chosen: string | null,
): boolean => offer.code === chosen || (!ways.hidden.has(offer.carrierCode) && (ways.all || offer.hiddenBy === null))

type Sortable = Pick<RatedOffer, "late" | "contract" | "list" | "payer" | "arrives">

/** Those in time before those that are late, each by cost or by arrival. */
export function sorted<T extends Sortable>(offers: readonly T[], by: LedgerSort): T[] {
  const cost = (one: Sortable) => Number((one.payer ? one.list : one.contract)?.amount ?? 0)
  const arrival = (one: Sortable) => `${one.arrives?.date} ${one.arrives?.time}`
  return [...offers].sort(
    (a, b) =>
      Number(a.late) - Number(b.late) ||
      (by === "arrives" ? arrival(a).localeCompare(arrival(b)) : 0) ||
      cost(a) - cost(b) ||
      arrival(a).localeCompare(arrival(b)),
  )
}
