import { addDays, instantAt, type LocalDate, type LocalTime, type Span } from "./index.ts"

/** A stretch of working time and how many people work in it. */
export interface Crew extends Span {
  readonly hands: number
}

/** A shift or a break by the clock on the wall; one that ends at or before its start goes on over midnight. */
export interface WorkPeriod {
  readonly kind: "shift" | "break"
  readonly starts: LocalTime
  readonly ends: LocalTime
  /** People of this shift; null: as many as the warehouse has. */
  readonly hands?: number | null
}

/**
 * Who works when on a day, as instants in order and without overlap: shifts that overlap add up, breaks are for all.
 * A night shift that began the day before is part of the morning.
 *
 * @param hands people of a shift that has no number of its own
 * @param together when given, so many work at any time of a shift, whatever the shifts say (such as today only)
 */
export function crewOn(
  date: LocalDate,
  zone: string,
  periods: readonly WorkPeriod[],
  hands: number,
  together: number | null = null,
): Crew[] {
  const spans = periods.flatMap((period) => {
    const overNight = period.ends <= period.starts
    const days = overNight ? [addDays(date, -1), date] : [date]
    return days.map((day) => ({
      kind: period.kind,
      hands: period.hands ?? hands,
      from: instantAt(day, period.starts, zone).getTime(),
      to: instantAt(overNight ? addDays(day, 1) : day, period.ends, zone).getTime(),
    }))
  })
  const edges = [...new Set(spans.flatMap((span) => [span.from, span.to]))].sort((a, b) => a - b)
  const crew: Crew[] = []
  for (const [index, from] of edges.slice(0, -1).entries()) {
    const to = edges[index + 1] as number
    const here = spans.filter((span) => span.from <= from && span.to >= to)
    const shifts = here.filter((span) => span.kind === "shift")
    if (shifts.length === 0 || here.some((span) => span.kind === "break")) continue
    const people = together ?? shifts.reduce((sum, shift) => sum + shift.hands, 0)
    if (people < 1) continue
    const last = crew.at(-1)
    if (last && last.to.getTime() === from && last.hands === people)
      crew[crew.length - 1] = { ...last, to: new Date(to) }
    else crew.push({ from: new Date(from), to: new Date(to), hands: people })
  }
  return crew
}

/**
 * The instant at which a crew must start so that a number of hand-minutes (one person's minutes of work) end by `end`.
 * Where the day does not reach, the rest is taken before its first stretch by the people of that stretch, so that a
 * bar can show it.
 */
export function crewBackFrom(crew: readonly Crew[], end: Date, handMinutes: number): Date {
  let left = handMinutes * 60_000
  let at = end.getTime()
  for (const span of [...crew].reverse()) {
    const to = Math.min(span.to.getTime(), at)
    const worked = (to - span.from.getTime()) * span.hands
    if (worked <= 0) continue
    if (worked >= left) return new Date(to - left / span.hands)
    left -= worked
    at = span.from.getTime()
  }
  return new Date(at - left / (crew[0]?.hands ?? 1))
}

/**
 * Minutes of working time that a crew needs from an instant on for a number of hand-minutes. What is left when the day
 * is over is counted on with the people of its last stretch.
 */
export function crewMinutes(crew: readonly Crew[], from: Date, handMinutes: number): number {
  let left = handMinutes
  let minutes = 0
  for (const span of crew) {
    const worked = (span.to.getTime() - Math.max(span.from.getTime(), from.getTime())) / 60_000
    if (worked <= 0) continue
    if (worked * span.hands >= left) return minutes + left / span.hands
    left -= worked * span.hands
    minutes += worked
  }
  return minutes + left / (crew.at(-1)?.hands ?? 1)
}
