import { type LocalDate, type LocalTime, weekday } from "../calendar/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import type { BookedTerms } from "../tariff/index.ts"

/** A collection as it is asked for: the goods are ready from a time on, and the truck must have come by a later one. */
export interface CollectionAsk {
  readonly day: LocalDate
  readonly ready: LocalTime
  readonly latest: LocalTime
  readonly pieces: number
}

const minutes = (time: LocalTime): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5))

/** So many days ahead a collection is booked at most (common practice: two weeks). */
export const mostDaysAhead = 14

/**
 * What keeps a collection from being booked, by the carrier's terms; empty where nothing does.
 *
 * @param today the day and `now` the time at the place where it is collected
 */
export function bookingFlaws(
  terms: BookedTerms | null,
  ask: CollectionAsk,
  today: LocalDate,
  now: LocalTime,
  lastDay: LocalDate,
): Reason[] {
  if (!terms) return [reason("collect.none")]
  const flaws: Reason[] = []
  if (ask.day < today) flaws.push(reason("collect.day-over", { field: "day" }))
  else if (ask.day > lastDay) flaws.push(reason("collect.day-far", { days: mostDaysAhead, field: "day" }))
  else if (!terms.weekdays.includes(weekday(ask.day))) flaws.push(reason("collect.weekday", { field: "day" }))
  else if (ask.day === today) {
    if (terms.until === null) flaws.push(reason("collect.not-today", { field: "day" }))
    else if (now > terms.until) flaws.push(reason("collect.too-late", { until: terms.until, field: "day" }))
    else if (ask.latest <= now) flaws.push(reason("collect.time-over", { field: "latest" }))
  }
  if (ask.ready < terms.from || ask.latest > terms.to)
    flaws.push(
      reason("collect.outside", {
        from: terms.from,
        to: terms.to,
        field: ask.ready < terms.from ? "ready" : "latest",
      }),
    )
  if (minutes(ask.latest) - minutes(ask.ready) < Math.max(1, terms.window))
    flaws.push(reason("collect.window", { minutes: Math.max(1, terms.window), field: "latest" }))
  if (ask.pieces < 1) flaws.push(reason("collect.pieces", { field: "pieces" }))
  return flaws
}

/** How many arrivals are looked back at, and how many are needed before one is called usual. */
export const arrivalsKept = 20
const leastArrivals = 3

/**
 * When a truck usually comes: the median of when it came lately, in whole minutes. Null where it has come too seldom to
 * say.
 */
export function usualTime(arrivals: readonly LocalTime[]): LocalTime | null {
  const lately = arrivals
    .slice(0, arrivalsKept)
    .map(minutes)
    .sort((a, b) => a - b)
  if (lately.length < leastArrivals) return null
  const half = (lately.length - 1) / 2
  const median = Math.round(((lately[Math.floor(half)] as number) + (lately[Math.ceil(half)] as number)) / 2)
  return `${String(Math.floor(median / 60)).padStart(2, "0")}:${String(median % 60).padStart(2, "0")}` as LocalTime
}

/** Where packages wait: in a lane of the floor, or at a door. */
export interface Place {
  readonly kind: "lane" | "door"
  readonly name: string
}

/**
 * A lane or a door that a text names, null where it names none.
 *
 * @example placeNamed("lane b2") // lane B2
 */
export function placeNamed(text: string): Place | null {
  const [, kind, name] = /^(lane|door)\s*([A-Za-z]?\d{1,2})$/i.exec(text.trim()) ?? []
  return kind && name ? { kind: kind.toLowerCase() as Place["kind"], name: name.toUpperCase() } : null
}
