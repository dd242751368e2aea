export interface Spot {
  readonly x: number
  readonly y: number
}

/**
 * Moves circles that would cover one another aside, by as little as keeps them apart, to the side that has room; the
 * first of a group stays. Those that come first matter most.
 *
 * @param apart least distance between two centers
 * @param bounds smallest and largest x that a center may take
 */
export function dodged(spots: readonly Spot[], apart: number, bounds: readonly [number, number]): Spot[] {
  const placed: Spot[] = []
  for (const spot of spots) {
    const free = (x: number) =>
      x >= bounds[0] && x <= bounds[1] && placed.every((other) => Math.hypot(other.x - x, other.y - spot.y) >= apart)
    const steps = Array.from({ length: 24 }, (_, step) => Math.ceil(step / 2) * (step % 2 === 0 ? -1 : 1) * (apart / 4))
    const aside = steps.find((step) => free(spot.x + step)) ?? 0
    placed.push({ x: spot.x + aside, y: spot.y })
  }
  return placed
}
