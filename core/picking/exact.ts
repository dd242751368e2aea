import type { Access, FloorDistances, FloorPlan } from "../floorPlan/index.ts"
import { crosses } from "../floorPlan/plan.ts"

/**
 * The shortest walk over a floor of aisles and cross aisles, exact: dynamic programming from the left to the right in the
 * manner of Ratliff and Rosenthal ("Order-picking in a rectangular warehouse", Operations Research 31, 1983) and of
 * Roodbergen and de Koster, who extended it to a middle cross aisle ("Routing order pickers in a warehouse with a middle
 * aisle", European Journal of Operational Research 133, 2001). What is kept is, for the crossings at the right edge of
 * what was looked at, whether an odd or an even number of ways meets each, and which of them hang together. Beginning and
 * end may be different places anywhere on the ways: an odd number of ways meets them, an even number all others.
 */

/** A stretch of a way between two crossings or special places, with the stops along it. */
interface Stretch {
  readonly from: number
  /** -1: it ends blind. */
  readonly to: number
  readonly length: number
  /** Meters from its beginning to each stop, ascending. */
  readonly stops: readonly number[]
  /** Bins at each. */
  readonly bins: readonly (readonly string[])[]
}

/** How a stretch is walked. */
interface Option {
  readonly metres: number
  /** How many ways meet at its two ends, odd or even and whether any. */
  readonly fromWays: 0 | 1 | 2
  readonly toWays: 0 | 1 | 2
  /** Whether it is walked through. */
  readonly through: boolean
  /** Stops that are reached from its beginning; the others from its end. */
  readonly near: number
}

/** Cross aisles above which the states become too many. */
export const mostCrossAisles = 5

interface Graph {
  readonly stretches: readonly Stretch[]
  readonly nodes: number
  readonly begin: number
  readonly end: number
  /** Meters beside the ways to where the walk begins and ends. */
  readonly aside: number
}

export interface ExactWalk {
  readonly metres: number
  /** Bins in the order in which they are first reached. */
  readonly bins: readonly string[]
}

/** The shortest walk over bins, or null where this floor has too many cross aisles, or no way joins the places. */
export function exactWalk(bins: readonly string[], floor: FloorDistances, from: string, to: string): ExactWalk | null {
  const graph = graphOf(bins, floor, from, to)
  const found = graph && shortest(graph, true)
  return graph && found ? { metres: found.metres + graph.aside, bins: tourOf(graph, found.chosen) } : null
}

/** Its meters alone: quicker, for comparing many. */
export function exactMetres(bins: readonly string[], floor: FloorDistances, from: string, to: string): number | null {
  const graph = graphOf(bins, floor, from, to)
  const found = graph && shortest(graph, false)
  return graph && found ? found.metres + graph.aside : null
}

/** A place on a way where something is: a crossing, the beginning, the end. */
interface Mark {
  readonly along: number
  readonly spot: number
}

function graphOf(bins: readonly string[], floor: FloorDistances, from: string, to: string): Graph | null {
  const { plan } = floor
  if (plan.crossAisles.length > mostCrossAisles) return null
  const [start, finish] = [floor.accessOf(from), floor.accessOf(to)]
  if (!start || !finish) return null
  const aisleCount = plan.aisles.length
  const marks: Mark[][] = Array.from({ length: aisleCount + plan.crossAisles.length }, () => [])
  let nodes = 0
  const columns = columnsOf(bins, floor, start, finish)
  for (const { aisle, index } of columns)
    for (const [c, cross] of plan.crossAisles.entries())
      if (crosses(aisle, cross)) {
        marks[index]?.push({ along: cross.y, spot: nodes })
        marks[aisleCount + c]?.push({ along: aisle.x, spot: nodes })
        nodes += 1
      }
  const special = ({ way, along }: Access): number => {
    const own = marks[way] as Mark[]
    const known = own.find((one) => one.along === along)
    if (known) return known.spot
    own.push({ along, spot: nodes })
    nodes += 1
    return nodes - 1
  }
  const [begin, end] = [special(start), special(finish)]
  const stopsOn = new Map<number, Map<number, string[]>>()
  for (const bin of new Set(bins)) {
    const at = floor.accessOf(bin)
    if (!at) return null
    const own = stopsOn.get(at.way) ?? new Map<number, string[]>()
    stopsOn.set(at.way, own)
    own.set(at.along, [...(own.get(at.along) ?? []), bin])
  }
  return {
    stretches: inOrder(marks, stopsOn, columns, aisleCount),
    nodes,
    begin,
    end,
    aside: start.aside + finish.aside,
  }
}

/** Whether every cross aisle meets every aisle: then nobody walks further to a side than to where something is. */
const regular = new WeakMap<FloorPlan, boolean>()
function isRegular(plan: FloorPlan): boolean {
  const known =
    regular.get(plan) ?? plan.aisles.every((aisle) => plan.crossAisles.every((cross) => crosses(aisle, cross)))
  regular.set(plan, known)
  return known
}

/** The aisles that a walk may use, from the left to the right. */
function columnsOf(bins: readonly string[], floor: FloorDistances, start: Access, finish: Access) {
  const { plan } = floor
  const all = plan.aisles.map((aisle, index) => ({ aisle, index })).sort((a, b) => a.aisle.x - b.aisle.x)
  if (!isRegular(plan)) return all
  const xs = [start, finish, ...bins.flatMap((bin) => floor.accessOf(bin) ?? [])].map(
    ({ way, along }) => plan.aisles[way]?.x ?? along,
  )
  const [least, most] = [Math.min(...xs), Math.max(...xs)]
  const within = all.filter(({ aisle }) => aisle.x >= least && aisle.x <= most)
  // one aisle at least, so that there is something to walk on
  return within.length > 0 ? within : all
}

/** The stretches from the left to the right: those of cross aisles up to a column, then the column's aisle. */
function inOrder(
  marks: readonly Mark[][],
  stopsOn: ReadonlyMap<number, ReadonlyMap<number, readonly string[]>>,
  columns: readonly {
    readonly aisle: { readonly x: number; readonly from: number; readonly to: number }
    readonly index: number
  }[],
  aisleCount: number,
): Stretch[] {
  for (const own of marks) own.sort((a, b) => a.along - b.along)
  const all: (Stretch & { readonly x: number; readonly last: number })[] = []
  const along = (
    way: number,
    first: Mark,
    second: Mark | null,
    low: number,
    high: number,
    x: number,
    turned: boolean,
  ) => {
    const found = [...(stopsOn.get(way) ?? [])].filter(([at]) => at >= low - 1e-9 && at <= high + 1e-9)
    const sorted = found.sort((a, b) => (turned ? b[0] - a[0] : a[0] - b[0]))
    const base = turned ? high : low
    all.push({
      from: first.spot,
      to: second?.spot ?? -1,
      length: high - low,
      stops: sorted.map(([at]) => Math.abs(at - base)),
      bins: sorted.map(([, some]) => some),
      x,
      last: turned || second === null ? 1 : way < aisleCount ? 1 : 0,
    })
  }
  for (let way = 0; way < marks.length; way += 1) {
    const own = marks[way] as Mark[]
    const aisle = columns.find((one) => one.index === way)?.aisle
    own.forEach((mark, index) => {
      const next = own[index + 1]
      // a stop that lies on a crossing belongs to the stretch after it, or to the last one
      if (next) along(way, mark, next, mark.along, next.along, aisle ? aisle.x : next.along, false)
    })
    const [first, last] = [own[0], own.at(-1)]
    if (!aisle || !first || !last) continue
    const blind = [...(stopsOn.get(way)?.keys() ?? [])]
    if (blind.some((at) => at < first.along)) along(way, first, null, Math.min(...blind), first.along, aisle.x, true)
    if (blind.some((at) => at > last.along)) along(way, last, null, last.along, Math.max(...blind), aisle.x, false)
    if (own.length === 1 && blind.includes(first.along))
      along(way, first, null, first.along, first.along, aisle.x, false)
  }
  // a stop on a crossing is in two stretches: it is taken out of the second
  const seen = new Set<string>()
  return all
    .sort((a, b) => a.x - b.x || a.last - b.last)
    .map(({ x: _, last: __, ...one }) => {
      const fresh = one.bins.map((some) => some.filter((bin) => !seen.has(bin)))
      for (const some of fresh) for (const bin of some) seen.add(bin)
      const kept = fresh.flatMap((some, at) => (some.length > 0 ? [at] : []))
      return { ...one, stops: kept.map((at) => one.stops[at] as number), bins: kept.map((at) => fresh[at] as string[]) }
    })
}

/** The ways in which a stretch may be walked so that all of its stops are reached. */
function optionsOf({ to, length, stops }: Stretch): Option[] {
  const count = stops.length
  const option = (metres: number, fromWays: 0 | 1 | 2, toWays: 0 | 1 | 2, through: boolean, near: number): Option => ({
    metres,
    fromWays,
    toWays,
    through,
    near,
  })
  const farthest = stops.at(-1) ?? 0
  if (to < 0) return count === 0 ? [option(0, 0, 0, false, 0)] : [option(2 * farthest, 2, 0, false, count)]
  const found = [option(length, 1, 1, true, count), option(2 * length, 2, 2, true, count)]
  if (count === 0) return [option(0, 0, 0, false, 0), ...found]
  // there and back from the beginning, from the end, or from both but for the widest gap between two stops
  found.push(option(2 * farthest, 2, 0, false, count), option(2 * (length - (stops[0] as number)), 0, 2, false, 0))
  let [widest, after] = [0, 0]
  for (let at = 1; at < count; at += 1) {
    const gap = (stops[at] as number) - (stops[at - 1] as number)
    if (gap > widest) [widest, after] = [gap, at]
  }
  if (after > 0) found.push(option(2 * (length - widest), 2, 2, false, after))
  return found
}

/** What a state becomes by each option, for stretches that are alike in all that decides it; found once. */
const transitions = new Map<string, Map<number, number>>()
const mostTransitions = 2_000

/** The highest bit of a state: all that was walked hangs together and is left behind. */
const doneBit = 1 << 28
const impossible = -1

interface Found {
  readonly metres: number
  readonly chosen: readonly Option[]
}

/**
 * The shortest choice of options for all stretches; null where there is none. A state is a number: four bits for each
 * open node, 0 where no way meets it, else twice its group and one more where the number of ways is odd.
 */
function shortest({ stretches, nodes, begin, end }: Graph, traced: boolean): Found | null {
  const lastUse = new Int32Array(nodes).fill(-1)
  stretches.forEach(({ from, to }, index) => {
    lastUse[from] = index
    if (to >= 0) lastUse[to] = index
  })
  if (lastUse[begin] === -1 || lastUse[end] === -1) return null
  const ends = { begin, end, odd: begin !== end }
  const active: number[] = []
  let states = new Map<number, number>([[0, 0]])
  const steps: { readonly options: Option[]; readonly came: Map<number, number> }[] = []
  for (let index = 0; index < stretches.length; index += 1) {
    const stretch = stretches[index] as Stretch
    const options = optionsOf(stretch)
    for (const node of [stretch.from, stretch.to]) if (node >= 0 && !active.includes(node)) active.push(node)
    const [a, b] = [active.indexOf(stretch.from), stretch.to < 0 ? -1 : active.indexOf(stretch.to)]
    const leaving = active.flatMap((node, at) => (lastUse[node] === index ? [at] : []))
    const special = active.map((node) => (node === begin || node === end ? 1 : 0)).join("")
    const known = transitionsOf(`${a} ${b} ${leaving.join("")} ${special} ${ends.odd}`)
    const next = new Map<number, number>()
    const came = new Map<number, number>()
    for (const [state, metres] of states)
      for (let at = 0; at < options.length; at += 1) {
        const option = options[at] as Option
        const asked = state * 32 + option.fromWays * 9 + option.toWays * 3 + (option.through ? 1 : 0)
        let into = known.get(asked)
        if (into === undefined) {
          into = transition(state, option, a, b, leaving, active, ends)
          known.set(asked, into)
        }
        if (into === impossible) continue
        const sum = metres + option.metres
        if (sum >= (next.get(into) ?? Number.POSITIVE_INFINITY)) continue
        next.set(into, sum)
        if (traced) came.set(into, state * 8 + at)
      }
    states = next
    if (traced) steps.push({ options, came })
    for (let at = leaving.length - 1; at >= 0; at -= 1) active.splice(leaving[at] as number, 1)
  }
  const metres = states.get(doneBit)
  if (metres === undefined) return null
  const chosen: Option[] = []
  for (let index = steps.length - 1, state = doneBit; index >= 0; index -= 1) {
    const { options, came } = steps[index] as (typeof steps)[number]
    const from = came.get(state) as number
    chosen.push(options[from % 8] as Option)
    state = Math.floor(from / 8)
  }
  return { metres, chosen: chosen.reverse() }
}

function transitionsOf(alike: string): Map<number, number> {
  const known = transitions.get(alike)
  if (known) return known
  if (transitions.size >= mostTransitions) transitions.clear()
  const made = new Map<number, number>()
  transitions.set(alike, made)
  return made
}

/** What a state becomes by an option, once the nodes that no other stretch meets are left behind. */
function transition(
  state: number,
  option: Option,
  a: number,
  b: number,
  leaving: readonly number[],
  active: readonly number[],
  ends: { readonly begin: number; readonly end: number; readonly odd: boolean },
): number {
  const done = state >= doneBit
  if (done && option.fromWays + option.toWays > 0) return impossible
  const before = active.map((_, at) => (state >> (4 * at)) & 15)
  const left = leave(walked(before, option, a, b), leaving, done, active, ends)
  return left ? numberOf(left.open, left.done) : impossible
}

/** The open nodes once a stretch is walked. */
function walked(before: readonly number[], { fromWays, toWays, through }: Option, a: number, b: number): number[] {
  const open = [...before]
  const meet = (at: number, ways: 0 | 1 | 2) => {
    if (ways === 0 || at < 0) return
    const old = open[at] as number
    const group = old === 0 ? fresh(open) : old >> 1
    open[at] = (group << 1) | ((old & 1) ^ (ways & 1))
  }
  meet(a, fromWays)
  meet(b, toWays)
  if (through && b >= 0) {
    const [keep, gone] = [(open[a] as number) >> 1, (open[b] as number) >> 1]
    if (keep !== gone)
      for (let at = 0; at < open.length; at += 1)
        if ((open[at] as number) >> 1 === gone && open[at] !== 0) open[at] = (keep << 1) | ((open[at] as number) & 1)
  }
  return open
}

/** A group's number that none has yet. */
function fresh(open: readonly number[]): number {
  for (let group = 1; ; group += 1) if (!open.some((one) => one >> 1 === group)) return group
}

/** The state once nodes are left behind that no other stretch meets; null where it can't be. */
function leave(
  open: readonly number[],
  leaving: readonly number[],
  done: boolean,
  active: readonly number[],
  { begin, end, odd }: { readonly begin: number; readonly end: number; readonly odd: boolean },
): { readonly open: readonly number[]; readonly done: boolean } | null {
  if (leaving.length === 0) return { open, done }
  const left = [...open]
  let finished = done
  for (const at of leaving) {
    const node = active[at] as number
    const one = left[at] as number
    const needed = node === begin || node === end
    if (one === 0) {
      if (needed) return null
      left[at] = -1
      continue
    }
    if ((one & 1) !== Number(odd && needed)) return null
    left[at] = -1
    const group = one >> 1
    if (left.some((other) => other > 0 && other >> 1 === group)) continue
    // a group that nothing can meet any more is the whole walk, or no part of it
    if (left.some((other) => other > 0)) return null
    finished = true
  }
  if (finished && !done) {
    // what must still be reached is not part of it
    for (let at = 0; at < left.length; at += 1)
      if (left[at] === 0 && (active[at] === begin || active[at] === end)) return null
  }
  return { open: left.filter((one) => one >= 0), done: finished }
}

/** Open nodes as a number: groups are numbered as they come. */
function numberOf(open: readonly number[], done: boolean): number {
  const groups: number[] = []
  let state = done ? doneBit : 0
  open.forEach((one, at) => {
    if (one === 0) return
    let group = groups.indexOf(one >> 1)
    if (group < 0) group = groups.push(one >> 1) - 1
    state |= (((group + 1) << 1) | (one & 1)) << (4 * at)
  })
  return state
}

/** The bins in the order of a walk along all chosen ways, each way once: Hierholzer's method. */
function tourOf({ stretches, nodes, begin, end }: Graph, chosen: readonly Option[]): string[] {
  const binsAt: (readonly string[])[] = []
  const ways: { readonly to: number; readonly id: number }[][] = Array.from({ length: nodes }, () => [])
  let id = 0
  const join = (a: number, b: number) => {
    ways[a]?.push({ to: b, id })
    ways[b]?.push({ to: a, id })
    id += 1
  }
  stretches.forEach(({ from, to, bins }, index) => {
    const { fromWays, toWays, through, near } = chosen[index] as Option
    const stops = bins.map((some) => {
      binsAt[ways.length] = some
      ways.push([])
      return ways.length - 1
    })
    const times = through ? Math.max(fromWays, toWays) : 2
    const first = through ? [from, ...stops, to] : [from, ...stops.slice(0, near)]
    const second = through ? [] : [...stops.slice(near), to]
    for (const line of [first, second])
      if (line.length > 1)
        for (let at = 1; at < line.length; at += 1)
          for (let time = 0; time < times; time += 1) join(line[at - 1] as number, line[at] as number)
  })
  const used = new Uint8Array(id)
  const stack = [begin]
  const tour: number[] = []
  while (stack.length > 0) {
    const at = stack.at(-1) as number
    const own = ways[at] as { to: number; id: number }[]
    while (own.length > 0 && used[own.at(-1)?.id as number]) own.pop()
    const way = own.pop()
    if (!way) {
      tour.push(at)
      stack.pop()
      continue
    }
    used[way.id] = 1
    stack.push(way.to)
  }
  // found from the end to the beginning, which is the other way round where they differ
  tour.reverse()
  const order = tour[0] === begin || begin === end ? tour : tour.reverse()
  const seen = new Set<string>()
  return order.flatMap((node) =>
    (binsAt[node] ?? []).filter((bin) => {
      if (seen.has(bin)) return false
      seen.add(bin)
      return true
    }),
  )
}
