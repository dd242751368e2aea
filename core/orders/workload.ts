/** Coefficients of the minutes of work; data of the warehouse, set up and later fitted to what was measured. */
export interface WorkCoefficients {
  readonly perOrder: number
  readonly perBin: number
  readonly perLine: number
  readonly perPackage: number
}

export interface WorkFacts {
  readonly bins: number
  readonly lines: number
  readonly packages: number
}

export interface Minutes {
  readonly pick: number
  readonly pack: number
}

/**
 * Minutes of work of an order: a + b·bins + c·lines + d·packages. Walking and taking (b, half of a) is picking, the
 * rest packing and papers.
 *
 * @example minutesOfWork({ perOrder: 2, perBin: 1, perLine: 0.5, perPackage: 3 }, { bins: 3, lines: 4, packages: 2 })
 * // { pick: 4, pack: 9 }
 */
export const minutesOfWork = (k: WorkCoefficients, facts: WorkFacts): Minutes => ({
  pick: k.perOrder / 2 + k.perBin * facts.bins,
  pack: k.perOrder / 2 + k.perLine * facts.lines + k.perPackage * facts.packages,
})

/**
 * What is left of an order's minutes: picking shrinks by the share picked, packing by the share packed. An order on
 * which all is packed but no label bought still holds the share that closing and labelling take.
 */
export function minutesLeft(whole: Minutes, share: { picked: number; packed: number; labelled: boolean }): Minutes {
  if (share.labelled) return { pick: 0, pack: 0 }
  const closing = 0.2
  return {
    pick: whole.pick * (1 - Math.min(1, share.picked)),
    pack: whole.pack * (closing + (1 - closing) * (1 - Math.min(1, share.packed))),
  }
}
