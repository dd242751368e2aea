import type { Reason } from "../refusal/index.ts"
import type { PaperKind, PaperNeed } from "./definition.ts"
import type { PaperFacts } from "./facts.ts"
import { definitions } from "./list.ts"

/** A paper that a shipment needs, with what it still lacks. */
export interface NeededPaper extends PaperNeed {
  readonly kind: PaperKind
  readonly gaps: readonly Reason[]
}

/**
 * Which papers a shipment needs: how many copies, why, which of them go as data, and what each lacks; by destination,
 * value, goods, service, terms and customer.
 */
export const papersNeeded = (facts: PaperFacts): NeededPaper[] =>
  definitions.flatMap((one) => {
    const need = one.need(facts)
    return need ? [{ kind: one.kind, ...need, gaps: one.gaps(facts) }] : []
  })

/** What keeps a shipment from being bought, each thing once, however many papers want it. */
export function paperGaps(papers: readonly NeededPaper[]): Reason[] {
  const seen = new Set<string>()
  return papers
    .flatMap((one) => one.gaps)
    .filter((gap) => {
      const key = `${gap.code} ${JSON.stringify(gap.values)}`
      return seen.has(key) ? false : seen.add(key)
    })
}
