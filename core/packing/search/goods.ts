import type { PackLoad } from "../place.ts"
import type { Company } from "../together.ts"
import { mayShare } from "../together.ts"
import type { Shape, Turn } from "./room.ts"

/** Edges are counted in thousandths of a millimeter: finer than anything is measured, and the same from inches. */
export const partsInMillimetre = 1_000

/** Pieces that are alike in all that packing looks at, whatever lines they are of. */
export interface Kind extends Shape {
  /** Edges in parts, as it stands. */
  readonly edges: Turn
  readonly leastEdge: number
  readonly longest: number
  readonly base: number
  readonly together: string | null
  readonly declared: number
  /** May be sent as it is. */
  readonly asIs: boolean
  readonly quantity: number
  /** Whose they are: keys of loads in their order, with how many each has. */
  readonly of: readonly { readonly key: string; readonly quantity: number }[]
  readonly sku: string
}

/** Goods sorted into kinds, the same whatever the order of lines and of edges, and whatever unit they came in. */
export interface Sorted {
  readonly kinds: readonly Kind[]
  /** Whether kinds of one company may not lie beside those of another. */
  readonly apart: readonly (readonly boolean[])[]
  readonly limited: boolean
  readonly pieces: number
}

const parts = (millimetres: number): number => Math.round(millimetres * partsInMillimetre)

export function sortGoods(loads: readonly PackLoad[]): Sorted {
  const companies: { readonly mark: string; readonly one: Company }[] = []
  for (const one of [...loads].sort((a, b) => compare(companyMark(a), companyMark(b))))
    if (companies.at(-1)?.mark !== companyMark(one)) companies.push({ mark: companyMark(one), one })
  const byMark = new Map<string, { edges: Turn; first: PackLoad; of: { key: string; quantity: number }[] }>()
  for (const one of loads) {
    if (one.quantity <= 0) continue
    const edges = edgesOf(one)
    const mark = [
      ...edges,
      Math.round(one.weight * 1e9),
      one.loadLimit === null ? "" : Math.round(one.loadLimit * 1e9),
      one.upright ? "up" : "",
      companyMark(one),
      one.together ?? "",
      one.declared ?? "",
      one.asIs ? "as is" : "",
    ].join(" ")
    const known = byMark.get(mark)
    if (known) known.of.push({ key: one.key, quantity: one.quantity })
    else byMark.set(mark, { edges, first: one, of: [{ key: one.key, quantity: one.quantity }] })
  }
  const kinds = [...byMark]
    .map(([mark, { edges, first, of }]): Kind & { readonly mark: string } => {
      const turns = turnsOf(edges, first.upright)
      const [l, w, h] = edges
      return {
        mark,
        turns,
        edges,
        volume: l * w * h,
        weight: first.weight,
        limit: first.loadLimit ?? Number.POSITIVE_INFINITY,
        company: companies.findIndex((each) => each.mark === companyMark(first)),
        leastEdge: Math.min(l, w, h),
        longest: Math.max(l, w, h),
        base: l * w,
        together: first.together ?? null,
        declared: first.declared ?? 0,
        asIs: first.asIs ?? false,
        quantity: of.reduce((sum, each) => sum + each.quantity, 0),
        of: [...of].sort((a, b) => compare(a.key, b.key)),
        sku: first.sku,
      }
    })
    .sort((a, b) => b.volume - a.volume || b.longest - a.longest || b.weight - a.weight || compare(a.mark, b.mark))
  return {
    kinds,
    apart: companies.map((a) => companies.map((b) => !mayShare(a.one, b.one))),
    limited: kinds.some((one) => one.limit !== Number.POSITIVE_INFINITY),
    pieces: kinds.reduce((sum, one) => sum + one.quantity, 0),
  }
}

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)
const companyMark = (one: Company): string => `${one.kind} ${one.hazard ?? ""}`

/** Edges as it stands; longest first where it may be turned, longer side of the base first where not. */
function edgesOf(one: PackLoad): Turn {
  const [l, w, h] = [parts(one.length), parts(one.width), parts(one.height)]
  if (one.upright) return l >= w ? [l, w, h] : [w, l, h]
  const [a = 0, b = 0, c = 0] = [l, w, h].sort((x, y) => y - x)
  return [a, b, c]
}

/** The ways in which a piece may be turned, each once. */
function turnsOf([l, w, h]: Turn, upright: boolean): Turn[] {
  const all: Turn[] = upright
    ? [
        [l, w, h],
        [w, l, h],
      ]
    : [
        [l, w, h],
        [w, l, h],
        [l, h, w],
        [h, l, w],
        [w, h, l],
        [h, w, l],
      ]
  return all.filter((one, index) => all.findIndex((other) => other.every((edge, at) => edge === one[at])) === index)
}
