import type { LocalDate } from "../calendar/index.ts"
import type { Followed } from "./follow.ts"
import { type EventTrouble, eventTroubles, isEnded } from "./states.ts"

/** What a person has to see to: what events say, and what time says. */
export const needs = [
  ...eventTroubles,
  // the day is over, or the carrier says a later one
  "late",
  // others in its place were late, more often than not
  "likely-late",
  // nobody has seen it move for too long
  "no-movement",
  // it has left us, and the carrier never saw it
  "not-seen",
  // nobody fetches it
  "not-fetched",
] as const
export type Need = (typeof needs)[number]

/** What time says, for a package as it stands. Days are of the receiver's place. */
export interface Clock {
  readonly now: Date
  readonly today: LocalDate
  /** When it left us; null: it is still here. */
  readonly leftAt: Date | null
  /** The day by which it must be there; null: none is promised. */
  readonly dueOn: LocalDate | null
  /** The chance that it is late, 0 to 1; null: nothing was measured. */
  readonly chance: number | null
  /** Business days since a moment. */
  readonly businessDaysSince: (from: Date) => number
}

/** After so many business days without a scan somebody looks for it (common practice, no source). */
export const silentDays = 2
/** After so many business days at a counter it is sent back soon (common practice, no source). */
export const fetchDays = 5
/** More likely late than not. */
export const likely = 0.5

export interface Needed {
  readonly kind: Need
  /** By which one is the same as before: once somebody let it go, only another key brings it back. */
  readonly key: string
  readonly figures: Readonly<Record<string, string>>
}

/** All that a person has to see to of a package; empty where it is on its way, or where it belongs. */
export function needsOf(followed: Followed, at: Clock): Needed[] {
  const found: Needed[] = followed.troubles.map(({ kind, key }) => ({ kind, key, figures: {} }))
  if (at.leftAt === null || isEnded(followed.state)) return found
  const { dueOn } = at
  const estimated = followed.estimatedOn
  if (dueOn && at.today > dueOn)
    found.push({
      kind: "late",
      key: dueOn,
      figures: { due: dueOn, ...(estimated && estimated >= at.today ? { estimated } : {}) },
    })
  else if (dueOn && estimated && estimated > dueOn)
    found.push({ kind: "late", key: `${dueOn} ${estimated}`, figures: { due: dueOn, estimated } })
  else if (dueOn && at.chance !== null && at.chance >= likely)
    found.push({
      kind: "likely-late",
      key: dueOn,
      figures: { due: dueOn, percent: String(Math.round(at.chance * 100)) },
    })
  const seen = followed.seenAt
  if (followed.state === "ready") {
    const days = at.businessDaysSince(followed.since ?? at.leftAt)
    if (days > fetchDays)
      found.push({ kind: "not-fetched", key: keyOf(followed.since), figures: { days: String(days) } })
  } else if (followed.state !== "lost" && followed.state !== "held") {
    const days = at.businessDaysSince(seen ?? at.leftAt)
    if (days > silentDays)
      found.push({ kind: seen ? "no-movement" : "not-seen", key: keyOf(seen), figures: { days: String(days) } })
  }
  return found
}

const keyOf = (at: Date | null): string => at?.toISOString() ?? "never"

export const isEventTrouble = (kind: Need): kind is EventTrouble => (eventTroubles as readonly string[]).includes(kind)
