import type { LocalDate } from "../calendar/index.ts"
import { type EventKind, type EventTrouble, eventKindNames, isEnded, meaningOf, type TrackingState } from "./states.ts"

/** One thing that was told of a package. */
export interface TrackingEvent {
  /** By which whoever told it knows it: the same key is the same event, however often it comes. */
  readonly key: string
  /** Null: a code that nobody has set to a meaning yet. It is shown, and changes nothing. */
  readonly kind: EventKind | null
  readonly at: Date
  /** Where it happened, as it was told; empty: nobody said. */
  readonly place: string
  /** The day on which the carrier now expects to deliver, where he says so. */
  readonly estimatedOn: LocalDate | null
  /** Who took it. */
  readonly name: string
  /** Who says so: whoever carries it, a person here who heard it, or our own scanner and our own driver. */
  readonly from: "carrier" | "typed" | "own"
}

/** Where a package stands by all that was told of it. */
export interface Followed {
  readonly state: TrackingState
  /** When it came to stand so; null: nothing was told. */
  readonly since: Date | null
  /** When it was last seen. */
  readonly seenAt: Date | null
  /** Where it was last seen. */
  readonly place: string
  readonly estimatedOn: LocalDate | null
  readonly delivered: { readonly at: Date; readonly name: string; readonly key: string } | null
  /** What somebody has to see to, each with the event that began it. */
  readonly troubles: readonly { readonly kind: EventTrouble; readonly since: Date; readonly key: string }[]
}

const rank = new Map(eventKindNames.map((kind, index) => [kind, index]))

/** By when it happened, whatever the order in which it was told; of one instant in the order of the table, then by key. */
function inOrder(events: readonly TrackingEvent[]): TrackingEvent[] {
  const byKey = new Map(events.map((event) => [event.key, event]))
  const place = (event: TrackingEvent) => (event.kind === null ? -1 : (rank.get(event.kind) ?? -1))
  return [...byKey.values()].sort(
    (a, b) => a.at.getTime() - b.at.getTime() || place(a) - place(b) || (a.key < b.key ? -1 : a.key > b.key ? 1 : 0),
  )
}

/** What may still happen to a package that is with its receiver, or back with us. */
const afterTheEnd = new Set<EventKind>(["damaged", "returning", "returned", "delivered"])

/**
 * Whether what is told of a package after its way has ended still says something. Scanners are emptied late: what is
 * stamped after a delivery and is no return changes nothing. What we ourselves saw come back or handed over is with us,
 * or with its receiver, whatever a carrier books later; a person here and our own scanner can still say otherwise.
 */
function saysAfterTheEnd(event: TrackingEvent, kind: EventKind, seenByUs: boolean): boolean {
  if (event.from === "own") return true
  return seenByUs && event.from === "carrier" ? kind === "damaged" : afterTheEnd.has(kind)
}

/** Puts together what was told of a package. The same events in any order, some of them twice, say the same. */
export function follow(events: readonly TrackingEvent[]): Followed {
  let state: TrackingState = "announced"
  let seenByUs = false
  let since: Date | null = null
  let seenAt: Date | null = null
  let place = ""
  let estimatedOn: LocalDate | null = null
  let delivered: Followed["delivered"] = null
  let troubles: Followed["troubles"] = []
  for (const event of inOrder(events)) {
    if (event.kind === null) continue
    const meaning = meaningOf(event.kind)
    if (isEnded(state) && !saysAfterTheEnd(event, event.kind, seenByUs)) continue
    // once it was seen, being told of it again says nothing
    if (event.kind === "announced" && since !== null) continue
    if (event.estimatedOn) estimatedOn = event.estimatedOn
    if (meaning.moves) {
      seenAt = event.at
      if (event.place) place = event.place
    }
    if (meaning.state && meaning.state !== state) since = event.at
    if (meaning.state) {
      state = meaning.state
      seenByUs = event.from === "own"
      since ??= event.at
    }
    if (event.kind === "delivered") delivered ??= { at: event.at, name: event.name, key: event.key }
    // it did not stay where it was delivered
    if (event.kind === "returning") delivered = null
    if (meaning.ends.length > 0) troubles = troubles.filter((one) => !meaning.ends.includes(one.kind))
    const begins = meaning.trouble
    if (begins && !troubles.some((one) => one.kind === begins))
      troubles = [...troubles, { kind: begins, since: event.at, key: event.key }]
  }
  return { state, since, seenAt, place, estimatedOn, delivered, troubles }
}
