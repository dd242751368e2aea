import type { StockId } from "../ids/index.ts"
import { type Reason, reason } from "../refusal/index.ts"

export const lotStates = ["released", "unreleased", "blocked"] as const
export type LotState = (typeof lotStates)[number]

/** What lies free of one item (and lot) in one bin, in base units. */
export interface StockPlace {
  readonly id: number
  readonly bin: string
  /** The bin's place in the plain order of the aisles. */
  readonly binOrder: number
  /** A bin from which nothing may be taken now, such as a damaged one, or one that is to be counted. */
  readonly blocked: boolean
  readonly lot: {
    readonly code: string
    readonly state: LotState
    readonly receivedOn: string
    readonly expiresOn: string | null
  } | null
  readonly free: number
}

/** What a line needs of an item. */
export interface StockNeed {
  readonly sku: string
  readonly quantity: number
  /** Pieces in a whole case; 1 where the item has no cases. */
  readonly perCase: number
  /** The day on which the goods must still be good, as an ISO date. */
  readonly usableOn: string
  /** Days of life that the customer wants beyond that day. */
  readonly minimumLife: number
}

export interface Take {
  readonly stockId: StockId
  readonly quantity: number
}

export interface Allocated {
  readonly takes: readonly Take[]
  /** Pieces for which there is no usable stock. */
  readonly lacking: number
  /** Stock that lies there and was passed over, with why; empty when nothing lacks. */
  readonly passedOver: readonly Reason[]
}

/** Bins of one date beyond this many are taken largest first instead of by trying all sets of them. */
const tried = 12

/**
 * Which stock a line takes. Lots that are not released, expired, or that will not live as long as the customer wants,
 * and blocked bins, never. Of the rest the first expiring, then the oldest; within one date so that no case is opened
 * where whole cases and loose pieces do, then from the fewest bins, then the first in the aisles (common practice of
 * the trade, no published source).
 *
 * @example // a case holds 12: 14 pieces are a case of one bin and two loose ones of another, not a second case opened
 */
export function allocateStock(need: StockNeed, places: readonly StockPlace[]): Allocated {
  const lastDay = addDays(need.usableOn, need.minimumLife)
  const usable: StockPlace[] = []
  const passed: Reason[] = []
  for (const place of places) {
    if (place.free <= 0) continue
    const why = unusable(need.sku, place, need.usableOn, lastDay)
    if (why) passed.push(why)
    else usable.push(place)
  }
  const byDate = new Map<string, StockPlace[]>()
  for (const place of usable) {
    const date = `${place.lot?.expiresOn ?? "9999-12-31"} ${place.lot?.receivedOn ?? ""}`
    byDate.set(date, [...(byDate.get(date) ?? []), place])
  }
  const takes: Take[] = []
  let left = need.quantity
  for (const [, group] of [...byDate].sort(([a], [b]) => a.localeCompare(b))) {
    if (left <= 0) break
    const there = sum(group)
    if (there <= left) takes.push(...inOrder(group).map((place) => ({ stockId: place.id, quantity: place.free })))
    else takes.push(...fromGroup(group, left, Math.max(1, need.perCase)))
    left -= Math.min(left, there)
  }
  return { takes, lacking: left, passedOver: left > 0 ? passed : [] }
}

function unusable(sku: string, place: StockPlace, usableOn: string, lastDay: string): Reason | null {
  const values = { sku, bin: place.bin, lot: place.lot?.code ?? "", quantity: place.free }
  if (place.blocked) return reason("stop.bin-blocked", values)
  if (!place.lot) return null
  if (place.lot.state !== "released") return reason(`stop.lot-${place.lot.state}`, values)
  const expires = place.lot.expiresOn
  if (!expires) return null
  if (expires < usableOn) return reason("stop.lot-expired", { ...values, expires })
  return expires < lastDay ? reason("stop.lot-too-old", { ...values, expires, until: lastDay }) : null
}

/** Takes of a group that has more than is needed: fewest opened cases, then fewest bins, then first in the aisles. */
function fromGroup(group: readonly StockPlace[], quantity: number, perCase: number): Take[] {
  const places = inOrder([...group].sort((a, b) => b.free - a.free).slice(0, tried))
  let best: { set: StockPlace[]; opened: number; order: number } | null = null
  for (let mask = 1; mask < 1 << places.length; mask += 1) {
    const set = places.filter((_, index) => mask & (1 << index))
    if (sum(set) < quantity) continue
    const opened = split(set, quantity, perCase) ? 0 : 1
    const order = set.reduce((total, place) => total + place.binOrder, 0)
    if (
      !best ||
      opened < best.opened ||
      (opened === best.opened &&
        (set.length < best.set.length || (set.length === best.set.length && order < best.order)))
    )
      best = { set, opened, order }
  }
  // so many small bins that the twelve largest do not do: all of them, the largest first
  if (!best)
    return greedy(
      [...group].sort((a, b) => b.free - a.free),
      quantity,
    )
  const parts = split(best.set, quantity, perCase)
  return parts ?? greedy(best.set, quantity)
}

/** A quantity as whole cases and loose pieces of these bins without opening a case, or null where that can't be. */
function split(set: readonly StockPlace[], quantity: number, perCase: number): Take[] | null {
  const whole = set.map((place) => Math.floor(place.free / perCase))
  const loose = set.map((place, index) => place.free - (whole[index] as number) * perCase)
  const allLoose = loose.reduce((total, one) => total + one, 0)
  const cases = Math.min(
    whole.reduce((total, one) => total + one, 0),
    Math.floor(quantity / perCase),
  )
  if (quantity - cases * perCase > allLoose) return null
  const takes = new Map<number, number>()
  const give = (have: readonly number[], wanted: number, unit: number) => {
    let left = wanted
    have.forEach((count, index) => {
      const n = Math.min(left, count)
      left -= n
      const { id } = set[index] as StockPlace
      if (n > 0) takes.set(id, (takes.get(id) ?? 0) + n * unit)
    })
  }
  give(whole, cases, perCase)
  give(loose, quantity - cases * perCase, 1)
  return [...takes].map(([stockId, taken]) => ({ stockId, quantity: taken }))
}

function greedy(places: readonly StockPlace[], quantity: number): Take[] {
  const takes: Take[] = []
  let left = quantity
  for (const place of places) {
    const taken = Math.min(left, place.free)
    if (taken > 0) takes.push({ stockId: place.id, quantity: taken })
    left -= taken
  }
  return takes
}

const inOrder = (places: readonly StockPlace[]): StockPlace[] =>
  [...places].sort((a, b) => a.binOrder - b.binOrder || a.id - b.id)

const sum = (places: readonly StockPlace[]): number => places.reduce((total, place) => total + place.free, 0)

function addDays(date: string, days: number): string {
  return new Date(Date.parse(`${date}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10)
}

/** Who has the better right to scarce stock, as a sort: the earlier collection, the higher priority, who came first. */
export interface Claimant {
  readonly id: number
  /** Cut-off of the collection that it must make or leaves with; null: none yet. */
  readonly leavesAt: Date | null
  readonly priority: number
  readonly receivedAt: Date
}

export const byRight = (a: Claimant, b: Claimant): number =>
  (a.leavesAt?.getTime() ?? Number.MAX_SAFE_INTEGER) - (b.leavesAt?.getTime() ?? Number.MAX_SAFE_INTEGER) ||
  b.priority - a.priority ||
  a.receivedAt.getTime() - b.receivedAt.getTime() ||
  a.id - b.id
