import { isLithium, type LithiumFacts, needsLithiumMark } from "../dangerous/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { dangerousDataGaps, dangerousIn, regimeOf } from "./dangerousGoods.ts"
import type { PaperDefinition } from "./definition.ts"
import type { PaperFacts, PaperPackage } from "./facts.ts"
import { handledOf } from "./invoice.ts"

/** A mark that is stuck on a package. */
export type Mark =
  | { readonly kind: "limited-quantity"; readonly regime: "road" | "air" }
  /** With the UN numbers, and the telephone that older editions of the mark ask for. */
  | { readonly kind: "lithium"; readonly unNumbers: readonly string[]; readonly phone: string }
  | { readonly kind: "dry-ice"; readonly netKg: string; readonly shipper: string; readonly consignee: string }

export interface GoodsMarkModel {
  readonly packages: readonly { readonly name: string; readonly marks: readonly Mark[] }[]
}

/** What stands on a package for itself, and on a pallet for what stands on it. */
function marksOf(facts: PaperFacts, one: PaperPackage): Mark[] {
  const inside = [one, ...facts.packages.filter((other) => other.on === one.number)].flatMap((each) =>
    dangerousIn(facts, each),
  )
  const small = inside.flatMap((each) =>
    each.manner === "small-lithium" && isLithium(each.facts.unNumber)
      ? [{ unNumber: each.facts.unNumber, facts: each.facts.lithium as LithiumFacts, pieces: each.quantity }]
      : [],
  )
  const dryIce = facts.options.has("dry-ice") && one.on === null
  return [
    ...(inside.some((each) => each.manner === "limited")
      ? [{ kind: "limited-quantity" as const, regime: regimeOf(facts) }]
      : []),
    ...(needsLithiumMark(small, handledOf(facts).length)
      ? [
          {
            kind: "lithium" as const,
            unNumbers: [...new Set(small.map((each) => each.unNumber))].sort(),
            phone: facts.shipper.party.phone,
          },
        ]
      : []),
    ...(dryIce
      ? [
          {
            kind: "dry-ice" as const,
            netKg: facts.dryIceKg ?? "",
            shipper: facts.shipper.party.company,
            consignee: facts.shipTo.company || facts.shipTo.attention,
          },
        ]
      : []),
  ]
}

const marked = (facts: PaperFacts) =>
  facts.packages.map((one) => ({ name: one.name, marks: marksOf(facts, one) })).filter((one) => one.marks.length > 0)

function gaps(facts: PaperFacts): Reason[] {
  const ice = facts.options.has("dry-ice") && !(Number(facts.dryIceKg) > 0)
  return [...dangerousDataGaps(facts), ...(ice ? [reason("dangerous.no-ice-mass", { field: "dryIceKg" })] : [])]
}

/** Marks for limited quantities, small lithium cells and dry ice, each package's by itself. */
export const goodsMark: PaperDefinition<GoodsMarkModel> = {
  kind: "goods-mark",
  language: "carrier",
  need: (facts) => {
    const packages = marked(facts)
    if (packages.length === 0) return null
    const kinds = [...new Set(packages.flatMap((one) => one.marks.map((mark) => mark.kind)))].sort()
    return { copies: 1, why: reason("paper.why.mark", { marks: kinds.join(", ") }), electronic: false }
  },
  gaps,
  model: (facts) => ({ packages: marked(facts) }),
}
