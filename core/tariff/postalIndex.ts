import { comparable, type Place } from "./atoms.ts"

/** A place as ranges are asked for it: its country, and its postal code as ranges compare it. */
export interface ComparablePlace {
  readonly country: string
  readonly code: string
}

export const comparablePlace = ({ country, postalCode }: Place): ComparablePlace => ({
  country,
  code: comparable(postalCode),
})

type Range = readonly [country: string, from: string, to: string, ...rest: unknown[]]

/** Ranges of one country whose bounds have one number of characters. */
interface Group {
  readonly characters: number
  readonly ranges: readonly { readonly from: string; readonly to: string; readonly at: number }[]
  /** None of them overlaps another: the one is found by halving, else by looking at each in its order. */
  readonly apart: boolean
}

/** Postal ranges made ready to be asked: answers with the place in the list of the first that holds, or -1. */
export type PostalIndex = (place: ComparablePlace) => number

/** The same answer as looking at each range in turn (`rangeTest`), by halving. */
export function postalIndex(ranges: readonly Range[]): PostalIndex {
  const countries = new Map<string, Group[]>()
  for (const [country, all] of grouped(
    ranges.map((range, at) => ({ range, at })),
    ({ range }) => range[0],
  ))
    countries.set(
      country,
      [...grouped(all, ({ range }) => range[1].length)].map(([characters, some]) => groupOf(characters, some)),
    )
  return ({ country, code }) => {
    let first = -1
    for (const group of countries.get(country) ?? []) {
      if (code.length < group.characters) continue
      const at = within(group, code.slice(0, group.characters))
      if (at >= 0 && (first < 0 || at < first)) first = at
    }
    return first
  }
}

function groupOf(characters: number, some: readonly { readonly range: Range; readonly at: number }[]): Group {
  const ranges = some.map(({ range, at }) => ({ from: range[1], to: range[2], at }))
  const byStart = [...ranges].sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : a.at - b.at))
  const apart = byStart.every((one, index) => index === 0 || (byStart[index - 1]?.to ?? "") < one.from)
  return { characters, ranges: apart ? byStart : ranges, apart }
}

function within({ ranges, apart }: Group, beginning: string): number {
  if (!apart) return ranges.find((one) => one.from <= beginning && beginning <= one.to)?.at ?? -1
  let [low, high] = [0, ranges.length - 1]
  while (low <= high) {
    const middle = (low + high) >> 1
    const one = ranges[middle] as Group["ranges"][number]
    if (beginning < one.from) high = middle - 1
    else if (beginning > one.to) low = middle + 1
    else return one.at
  }
  return -1
}

function grouped<T, K>(all: readonly T[], keyOf: (one: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>()
  for (const one of all) {
    const key = keyOf(one)
    const group = groups.get(key)
    if (group) group.push(one)
    else groups.set(key, [one])
  }
  return groups
}
