/** So many pieces of a lot. */
export interface OfLot<Lot> {
  readonly lot: Lot
  readonly quantity: number
}

/**
 * Which pieces of a line's lots lie in each of its packages. As they come: package after package, lot after lot. Kept
 * whole: a lot goes into the package that it fills, else into the tightest one that takes all of it; only where none does
 * it is taken apart, into the roomiest first.
 *
 * @param packages how many pieces of the line are in each package
 * @param lots what was picked of each lot, those that come first first
 * @returns for each package what lies in it; what was never picked of a lot is in none
 */
export function shareLots<Lot>(
  packages: readonly number[],
  lots: readonly OfLot<Lot>[],
  whole: boolean,
): OfLot<Lot>[][] {
  const shares = packages.map((): OfLot<Lot>[] => [])
  const room = [...packages]
  const put = (at: number, lot: Lot, quantity: number) => {
    if (quantity <= 0) return
    room[at] = (room[at] as number) - quantity
    shares[at]?.push({ lot, quantity })
  }
  if (!whole) {
    let at = 0
    for (const { lot, quantity } of lots)
      for (let left = quantity; left > 0 && at < room.length; ) {
        const some = Math.min(left, room[at] as number)
        put(at, lot, some)
        left -= some
        if (room[at] === 0) at += 1
      }
    return shares
  }
  const order = [...lots].sort((a, b) => b.quantity - a.quantity)
  for (const { lot, quantity } of order) {
    let left = quantity
    const tightest = tightestOf(room, left)
    if (tightest !== null) {
      put(tightest, lot, left)
      left = 0
    }
    while (left > 0) {
      const most = Math.max(0, ...room)
      if (most === 0) break
      const some = Math.min(left, most)
      put(room.indexOf(most), lot, some)
      left -= some
    }
  }
  return shares
}

/** The package with the least room that takes so many; null where none does. */
function tightestOf(room: readonly number[], quantity: number): number | null {
  let best: number | null = null
  room.forEach((one, at) => {
    if (one >= quantity && (best === null || one < (room[best] as number))) best = at
  })
  return best
}
