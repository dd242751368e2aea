/**
 * Where a package is on its way, in the words of the trade. GS1's Core Business Vocabulary (EPCIS 2.0) names the same by
 * business step and disposition, written beside each (from memory).
 */
export const trackingStates = [
  // the carrier has been told of it and has not seen it (commissioning)
  "announced",
  // the carrier has it (accepting, in_transit)
  "accepted",
  // between two of his places, or at one (departing and arriving, in_transit)
  "in-transit",
  // with customs (inspecting)
  "in-customs",
  // with the driver who brings it (transporting, in_transit)
  "out-for-delivery",
  // a driver was there and it could not be handed over
  "attempted",
  // waits at a counter for whoever fetches it (holding)
  "ready",
  // it stands still until somebody says what to do (holding)
  "held",
  // on its way back to us (returning, in_transit)
  "returning",
  // back with us (receiving, returned)
  "returned",
  // nobody knows where it is (stock_taking, unknown)
  "lost",
  // with the receiver (receiving)
  "delivered",
] as const
export type TrackingState = (typeof trackingStates)[number]

/** What somebody has to see to. */
export const eventTroubles = ["address", "attempted", "customs", "damaged", "refused", "returning", "lost"] as const
export type EventTrouble = (typeof eventTroubles)[number]

/** What an event says, whatever code its carrier has for it. */
export interface EventMeaning {
  /** Where the package is from then on; null: it says nothing of that. */
  readonly state: TrackingState | null
  /** Whether somebody saw the package move or stand: it is not lost from sight. */
  readonly moves: boolean
  /** What it begins. */
  readonly trouble: EventTrouble | null
  /** What it ends. */
  readonly ends: readonly EventTrouble[]
}

const on = ["address", "attempted", "customs", "lost"] as const

/**
 * The one table of what events mean. A carrier's own codes are set to these names in Setup; its order is that in which
 * events of the same instant happened.
 */
export const eventKinds = {
  announced: { state: "announced", moves: false, trouble: null, ends: [] },
  accepted: { state: "accepted", moves: true, trouble: null, ends: ["lost"] },
  departed: { state: "in-transit", moves: true, trouble: null, ends: ["lost", "address"] },
  arrived: { state: "in-transit", moves: true, trouble: null, ends: ["lost"] },
  "in-customs": { state: "in-customs", moves: true, trouble: null, ends: ["lost"] },
  "customs-hold": { state: "in-customs", moves: true, trouble: "customs", ends: ["lost"] },
  "customs-cleared": { state: "in-transit", moves: true, trouble: null, ends: ["customs", "lost"] },
  // the carrier says when it comes instead, or that something happened on the way
  delayed: { state: null, moves: true, trouble: null, ends: [] },
  note: { state: null, moves: false, trouble: null, ends: [] },
  "address-problem": { state: "held", moves: true, trouble: "address", ends: [] },
  "out-for-delivery": { state: "out-for-delivery", moves: true, trouble: null, ends: on },
  attempted: { state: "attempted", moves: true, trouble: "attempted", ends: ["lost"] },
  ready: { state: "ready", moves: true, trouble: null, ends: on },
  damaged: { state: null, moves: true, trouble: "damaged", ends: [] },
  refused: { state: "held", moves: true, trouble: "refused", ends: ["attempted", "lost"] },
  returning: { state: "returning", moves: true, trouble: "returning", ends: [...on, "refused"] },
  // from then on it is a return like others, which the list of those shows
  returned: { state: "returned", moves: true, trouble: null, ends: [...on, "refused", "returning"] },
  lost: { state: "lost", moves: false, trouble: "lost", ends: [] },
  delivered: { state: "delivered", moves: true, trouble: null, ends: [...on, "refused", "returning"] },
} as const satisfies Readonly<Record<string, EventMeaning>>
export type EventKind = keyof typeof eventKinds

export const eventKindNames = Object.keys(eventKinds) as readonly EventKind[]

export const meaningOf = (kind: EventKind): EventMeaning => eventKinds[kind]

/** Days for which events are kept: a claim for freight can be filed for nine months, and is answered within 120 days. */
export const eventsKeptDays = 400

/** Whether nothing more is expected of a package. */
export const isEnded = (state: TrackingState): boolean => state === "delivered" || state === "returned"
