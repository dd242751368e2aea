import { cheapest, type PricedLane } from "./search/price.ts"
import type { BoxKind, PricedBox } from "./search/problem.ts"
import { type Filling, type PackingSearch, pricedBox } from "./search/search.ts"

/** Why a carton and no other: what the next smaller one lacks, and what the next larger one would cost. */
export interface BoxWhy {
  /** Null where none is smaller. */
  readonly smaller: { readonly code: string; readonly lacks: "weight" | "edge" | "room" | "price" } | null
  /** Null where none that is larger holds it, or nothing prices it. */
  readonly larger: { readonly code: string; readonly more: number } | null
}

/** Why the box at a place of a packing was taken. Costs are those of all packages together. */
export function whyBox(
  search: PackingSearch,
  fillings: readonly Filling[],
  at: number,
  {
    lanes,
    fixed,
    dryIce,
  }: { readonly lanes: readonly PricedLane[]; readonly fixed: readonly PricedBox[]; readonly dryIce: number },
): BoxWhy {
  const { boxes, kinds } = search.problem
  const one = fillings[at] as Filling
  const costWith = (box: number): number | null => {
    const packages = fillings.map((filling, index) =>
      pricedBox((boxes[index === at ? box : filling.box] as BoxKind).box, filling, dryIce),
    )
    const sent = lanes.length === 0 ? null : cheapest(lanes, [...fixed, ...packages])
    return sent && sent.cost + (boxes[box] as BoxKind).box.cost
  }
  const now = costWith(one.box)
  // a carrier's own box is compared with ours and with those of the same carrier
  const { carrier: whose } = (boxes[one.box] as BoxKind).box
  const comparable = ({ box }: BoxKind) => !box.asIs && (box.carrier === null || box.carrier === whose)
  const smaller = boxes.findLast((box, index) => index < one.box && comparable(box))
  const larger = boxes.findIndex(
    (box, index) => index > one.box && comparable(box) && search.fitting.fit(box, one.counts) !== null,
  )
  const dearer = larger < 0 ? null : costWith(larger)
  return {
    smaller: smaller ? { code: smaller.box.code, lacks: lacksOf(smaller) } : null,
    larger:
      larger >= 0 && now !== null && dearer !== null
        ? { code: (boxes[larger] as BoxKind).box.code, more: dearer - now }
        : null,
  }

  function lacksOf(box: BoxKind): NonNullable<BoxWhy["smaller"]>["lacks"] {
    if (one.kilograms > box.box.maxLoad + 1e-9) return "weight"
    if (one.counts.some((count, kind) => count > 0 && !box.takes[kind])) return "edge"
    const volume = one.counts.reduce((sum, count, kind) => sum + count * (kinds[kind]?.volume ?? 0), 0)
    if (volume > box.volume || search.fitting.fit(box, one.counts) === null) return "room"
    // it would hold, and costs no less
    return "price"
  }
}
