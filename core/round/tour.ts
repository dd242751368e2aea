/**
 * Walks over places by their distances alone, whatever the floor: the first place is where they begin, the last where
 * they end, and each other is visited once.
 */
export type Distances = readonly (readonly number[])[]

/** Stops up to which the shortest order is proved. */
export const mostExact = 12

/** The shortest order, by dynamic programming over all sets of stops: Held and Karp, Journal of SIAM 10, 1962. */
export function provedOrder(d: Distances): number[] {
  const n = d.length - 2
  const all = (1 << n) - 1
  const cost = new Float64Array((all + 1) * n).fill(Number.POSITIVE_INFINITY)
  const before = new Int8Array((all + 1) * n).fill(-1)
  for (let last = 0; last < n; last += 1) cost[(1 << last) * n + last] = at(d, 0, last + 1)
  for (let set = 1; set <= all; set += 1)
    for (let last = 0; last < n; last += 1) {
      const own = cost[set * n + last] as number
      if (!(set & (1 << last)) || own === Number.POSITIVE_INFINITY) continue
      for (let next = 0; next < n; next += 1) {
        if (set & (1 << next)) continue
        const key = (set | (1 << next)) * n + next
        const metres = own + at(d, last + 1, next + 1)
        if (metres >= (cost[key] as number)) continue
        cost[key] = metres
        before[key] = last
      }
    }
  let [last, least] = [0, Number.POSITIVE_INFINITY]
  for (let one = 0; one < n; one += 1) {
    const metres = (cost[all * n + one] as number) + at(d, one + 1, n + 1)
    if (metres < least) [last, least] = [one, metres]
  }
  const order: number[] = []
  for (let set = all; set > 0; ) {
    order.push(last + 1)
    const previous = before[set * n + last] as number
    set ^= 1 << last
    last = previous
  }
  return order.reverse()
}

/** Kicks after which no shorter walk is looked for. */
const kicks = 40

/**
 * A short order, and how far it is from the shortest at most: stretches are turned round and moved until neither makes it
 * shorter, then it is kicked and shortened again (Or-opt, 2-opt and double bridges; Johnson and McGeoch, "The traveling
 * salesman problem: a case study", 1997). The bound is that of Held and Karp's trees (Operations Research 18, 1970).
 */
export function searchedOrder(d: Distances): { readonly order: readonly number[]; readonly percent: number } {
  let tour = d.map((_, index) => index)
  shorten(tour, d)
  let metres = lengthOf(tour, d)
  const bound = leastLength(d, metres)
  let state = 20_261_124
  const below = (most: number): number => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    return Math.floor((state / 4_294_967_296) * most)
  }
  for (let kick = 0; kick < kicks && tour.length > 8 && metres > bound * (1 + 1e-9); kick += 1) {
    const cuts = [0, 1, 2].map(() => 1 + below(tour.length - 2)).sort((a, b) => a - b) as [number, number, number]
    const other = [
      ...tour.slice(0, cuts[0]),
      ...tour.slice(cuts[1], cuts[2]),
      ...tour.slice(cuts[0], cuts[1]),
      ...tour.slice(cuts[2]),
    ]
    shorten(other, d)
    const found = lengthOf(other, d)
    if (found < metres) [tour, metres] = [other, found]
  }
  return { order: tour.slice(1, -1), percent: metres <= bound * (1 + 1e-9) ? 0 : Math.ceil((metres / bound - 1) * 100) }
}

const at = (d: Distances, a: number, b: number): number => (d[a] as readonly number[])[b] as number
const lengthOf = (tour: readonly number[], d: Distances): number =>
  tour.reduce((sum, one, index) => (index === 0 ? 0 : sum + at(d, tour[index - 1] as number, one)), 0)

/**
 * No walk is shorter than this: a walk is a tree in which the ends have one neighbor and all others two, and the least
 * tree under charges on the places that pull it towards that is no longer.
 */
function leastLength(d: Distances, known: number): number {
  const n = d.length
  const charge = new Float64Array(n)
  let best = 0
  let step = 0.05 * known
  for (let round = 0; round < 60; round += 1, step *= 0.93) {
    const degree = new Int32Array(n)
    const [near, from] = [new Float64Array(n).fill(Number.POSITIVE_INFINITY), new Int32Array(n)]
    const inside = new Uint8Array(n)
    near[0] = 0
    let total = 0
    for (let count = 0; count < n; count += 1) {
      let next = -1
      for (let one = 0; one < n; one += 1)
        if (!inside[one] && (next < 0 || (near[one] as number) < (near[next] as number))) next = one
      inside[next] = 1
      if (count > 0) {
        total += near[next] as number
        degree[next] = (degree[next] as number) + 1
        degree[from[next] as number] = (degree[from[next] as number] as number) + 1
      }
      for (let one = 0; one < n; one += 1) {
        const metres = at(d, next, one) + (charge[next] as number) + (charge[one] as number)
        if (!inside[one] && metres < (near[one] as number)) {
          near[one] = metres
          from[one] = next
        }
      }
    }
    const wanted = (one: number) => (one === 0 || one === n - 1 ? 1 : 2)
    let [bound, off] = [total, 0]
    for (let one = 0; one < n; one += 1) {
      bound -= (charge[one] as number) * wanted(one)
      off += ((degree[one] as number) - wanted(one)) ** 2
    }
    best = Math.max(best, bound)
    if (off === 0) break
    for (let one = 0; one < n; one += 1)
      charge[one] = (charge[one] as number) + (step * ((degree[one] as number) - wanted(one))) / off
  }
  return best
}

/** Gains below this are rounding, in meters. */
const least = 1e-9

/** Shortens a tour in place; its first and last places stay where they are. */
function shorten(tour: number[], distances: Distances): void {
  const at = (index: number) => tour[index] as number
  const d = (a: number, b: number) => (distances[a] as readonly number[])[b] as number
  for (let better = true, rounds = 0; better && rounds < 200; rounds += 1) {
    better = false
    for (let i = 1; i < tour.length - 2; i += 1)
      for (let j = i + 1; j < tour.length - 1; j += 1) {
        const gain = d(at(i - 1), at(i)) + d(at(j), at(j + 1)) - d(at(i - 1), at(j)) - d(at(i), at(j + 1))
        if (gain <= least) continue
        tour.splice(i, j - i + 1, ...tour.slice(i, j + 1).reverse())
        better = true
      }
    for (let length = 1; length <= 3; length += 1)
      for (let i = 1; i + length < tour.length; i += 1) {
        const [head, tail] = [at(i), at(i + length - 1)]
        const removed = d(at(i - 1), head) + d(tail, at(i + length)) - d(at(i - 1), at(i + length))
        for (let j = 1; j < tour.length; j += 1) {
          if (j >= i && j <= i + length) continue
          // between j − 1 and j, as it is or turned round
          const [before, after] = [at(j - 1), at(j)]
          const straight = d(before, head) + d(tail, after) - d(before, after)
          const turned = d(before, tail) + d(head, after) - d(before, after)
          if (removed - Math.min(straight, turned) <= least) continue
          const stretch = tour.slice(i, i + length)
          if (turned < straight) stretch.reverse()
          tour.splice(i, length)
          tour.splice(j > i ? j - length : j, 0, ...stretch)
          better = true
          break
        }
      }
  }
}
