/** Coefficients of the minutes of work; data of the warehouse, set up and compared with what was measured. */
export interface WorkCoefficients {
  readonly perOrder: number
  readonly perBin: number
  readonly perLine: number
  readonly perPackage: number
  readonly perPaper: number
}

export interface WorkFacts {
  readonly bins: number
  readonly lines: number
  readonly packages: number
  /** Papers beside the labels: a commercial invoice, a bill of lading. */
  readonly papers: number
}

/** One person's minutes. */
export interface Minutes {
  readonly pick: number
  readonly pack: number
  readonly papers: number
}

export const allMinutes = (one: Minutes): number => one.pick + one.pack + one.papers

/**
 * Minutes of work of an order: a + b·bins + c·lines + d·packages + e·papers. Walking and taking (b, half of a) is
 * picking; the other half of a, lines and packages are packing.
 *
 * @example minutesOfWork({ perOrder: 2, perBin: 1, perLine: 0.5, perPackage: 3, perPaper: 2 },
 *   { bins: 3, lines: 4, packages: 2, papers: 1 }) // { pick: 4, pack: 9, papers: 2 }
 */
export const minutesOfWork = (k: WorkCoefficients, facts: WorkFacts): Minutes => ({
  pick: k.perOrder / 2 + k.perBin * facts.bins,
  pack: k.perOrder / 2 + k.perLine * facts.lines + k.perPackage * facts.packages,
  papers: k.perPaper * facts.papers,
})

/**
 * What is left of an order's minutes: picking shrinks by the share picked, packing by the share packed. An order on
 * which all is packed but no label bought still holds the share that closing and labelling take, and its papers.
 */
export function minutesLeft(
  whole: Minutes,
  share: { readonly picked: number; readonly packed: number; readonly labelled: boolean },
): Minutes {
  if (share.labelled) return { pick: 0, pack: 0, papers: 0 }
  const closing = 0.2
  return {
    pick: whole.pick * (1 - Math.min(1, share.picked)),
    pack: whole.pack * (closing + (1 - closing) * (1 - Math.min(1, share.packed))),
    papers: whole.papers,
  }
}
