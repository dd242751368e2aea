/** How late packages of a service came in, in whole days after the promised one (0: in time), with how many did. */
export type Lateness = readonly { readonly days: number; readonly packages: number }[]

export interface OnTime {
  readonly of: number
  readonly inTime: number
  /** Days after the promised one by which 19 of 20 were in (nearest rank). */
  readonly nineteenOfTwenty: number
}

/** Fewer packages than this tell nothing. */
export const leastMeasured = 20

/** What was measured of a service; null where too few packages were. Early counts as in time. */
export function onTimeOf(lateness: Lateness): OnTime | null {
  const sorted = [...lateness].filter((one) => one.packages > 0).sort((a, b) => a.days - b.days)
  const of = sorted.reduce((sum, one) => sum + one.packages, 0)
  if (of < leastMeasured) return null
  const rank = Math.ceil((of * 19) / 20)
  let seen = 0
  const at = sorted.find((one) => {
    seen += one.packages
    return seen >= rank
  })
  return {
    of,
    inTime: sorted.filter((one) => one.days <= 0).reduce((sum, one) => sum + one.packages, 0),
    nineteenOfTwenty: Math.max(0, at?.days ?? 0),
  }
}
