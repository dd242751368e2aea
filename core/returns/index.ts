import type { LocalDate } from "../calendar/index.ts"

/** How goods that came back are: as they went out, broken, or none that ever went to this receiver. */
export const conditions = ["sound", "damaged", "other"] as const
export type Condition = (typeof conditions)[number]

/** Where pieces go from the inspection bin. */
export const onwards = ["back", "repair", "away"] as const
export type Onward = (typeof onwards)[number]

/** Lists that returns stand in, by what is to do first. */
export const returnLists = ["arrived", "awaited", "overdue", "in-stock", "settled"] as const
export type ReturnList = (typeof returnLists)[number]

/** Pieces of one item that come back. */
export interface ReturnedItem {
  /** What the return was to bring. */
  readonly announced: number
  /** What went out to the receiver. */
  readonly sent: number
  /** What came back by other returns of the same order. */
  readonly before: number
  readonly sound: number
  readonly damaged: number
}

export interface Difference {
  /** Announced, and not in the packages. */
  readonly missing: number
  /** More than ever went out, all returns of the order together. */
  readonly surplus: number
}

/**
 * What a count differs by from what was announced and what can come back at all. More than announced is no difference: the
 * receiver may send back all that he got.
 *
 * @example difference({ announced: 4, sent: 10, before: 0, sound: 2, damaged: 1 }) // { missing: 1, surplus: 0 }
 */
export function difference({ announced, sent, before, sound, damaged }: ReturnedItem): Difference {
  const found = sound + damaged
  return { missing: Math.max(0, announced - found), surplus: Math.min(found, Math.max(0, before + found - sent)) }
}

/** Whether goods came after the last day on which their label could be used; days are of the warehouse. */
export const isLate = (arrivedOn: LocalDate, validUntil: LocalDate | null): boolean =>
  validUntil !== null && arrivedOn > validUntil

/** Where pieces of a finding are. */
export interface Whereabouts {
  readonly inInspection: number
  readonly inRepair: number
  readonly putBack: number
  readonly thrownAway: number
}

/** From where pieces can go on: those in repair come back from there or are thrown away, and go to no repair again. */
export const placesFor = {
  back: ["inspection", "repair"],
  repair: ["inspection"],
  away: ["inspection", "repair"],
} as const

/** Where pieces are once some went on; null where so many are not there, or can't go there from here. */
export function movedOn(
  at: Whereabouts,
  from: "inspection" | "repair",
  to: Onward,
  pieces: number,
): Whereabouts | null {
  if (!(placesFor[to] as readonly string[]).includes(from)) return null
  const there = from === "inspection" ? at.inInspection : at.inRepair
  if (!Number.isSafeInteger(pieces) || pieces < 1 || pieces > there) return null
  return {
    inInspection: at.inInspection - (from === "inspection" ? pieces : 0),
    inRepair: at.inRepair - (from === "repair" ? pieces : 0) + (to === "repair" ? pieces : 0),
    putBack: at.putBack + (to === "back" ? pieces : 0),
    thrownAway: at.thrownAway + (to === "away" ? pieces : 0),
  }
}

/** Whether something of a finding still waits for where it goes. */
export const waits = ({ inInspection, inRepair }: Whereabouts): boolean => inInspection + inRepair > 0
