import { tzOffset } from "@date-fns/tz"

/** A day of the civil calendar without time or zone, `YYYY-MM-DD`. Other text is asked by `isLocalDate`. */
export type LocalDate = `${number}-${number}-${number}`
/** A time of the wall clock, `HH:MM`, 24 hours. */
export type LocalTime = `${number}:${number}`

const dayMs = 86_400_000

const utcDay = (ms: number): LocalDate => new Date(ms).toISOString().slice(0, 10) as LocalDate

/** Whether text is a day that the calendar has: 2026-02-30 is none. */
export const isLocalDate = (text: string): text is LocalDate =>
  /^\d{4}-\d\d-\d\d$/.test(text) &&
  !Number.isNaN(Date.parse(`${text}T00:00:00Z`)) &&
  utcDay(Date.parse(`${text}T00:00:00Z`)) === text

/**
 * The instant at which a wall clock in a zone shows a date and time. A time that a change to daylight saving skips
 * is taken as the same distance after the gap's start; of a time that occurs twice the first is taken.
 *
 * @example instantAt("2026-11-24", "14:15", "America/Chicago") // 2026-11-24T20:15:00Z
 */
export function instantAt(date: LocalDate, time: LocalTime, zone: string): Date {
  const wall = Date.parse(`${date}T${time}:00Z`)
  if (Number.isNaN(wall)) throw new RangeError(`not a date and time: ${date} ${time}`)
  const before = offsetMs(new Date(wall - dayMs), zone)
  const after = offsetMs(new Date(wall + dayMs), zone)
  const first = wall - Math.max(before, after)
  const second = wall - Math.min(before, after)
  if (first + offsetMs(new Date(first), zone) === wall) return new Date(first)
  if (second + offsetMs(new Date(second), zone) === wall) return new Date(second)
  return new Date(wall - before)
}

/** The date that a calendar on the wall shows at an instant. */
export const localDate = (instant: Date, zone: string): LocalDate => wallClock(instant, zone).slice(0, 10) as LocalDate
/** The time that a clock on the wall shows at an instant, to the minute. */
export const localTime = (instant: Date, zone: string): LocalTime => wallClock(instant, zone).slice(11, 16) as LocalTime

/** 0 Sunday to 6 Saturday. */
export const weekday = (date: LocalDate): number => dayOf(date).weekday

export const addDays = (date: LocalDate, days: number): LocalDate =>
  (days === 1 && dayOf(date).next) || utcDay(Date.parse(`${date}T00:00:00Z`) + days * dayMs)

/**
 * Days that were asked for already, since rating walks over the same few a thousand times a second; at most as many as
 * are in ten years.
 */
const days = new Map<LocalDate, { readonly weekday: number; readonly next: LocalDate | null }>()
const mostDays = 3660

function dayOf(date: LocalDate): { readonly weekday: number; readonly next: LocalDate | null } {
  const known = days.get(date)
  if (known) return known
  const at = new Date(`${date}T00:00:00Z`)
  const weekday = at.getUTCDay()
  const next = Number.isNaN(weekday) ? null : utcDay(at.getTime() + dayMs)
  if (days.size >= mostDays) days.clear()
  days.set(date, { weekday, next })
  return { weekday, next }
}

/** Which days count: the holidays are data (`date-holidays` or a carrier's own list), Saturday may be worked. */
export interface WorkingDays {
  readonly holidays: ReadonlySet<LocalDate>
  readonly saturday: boolean
}

export function isBusinessDay(date: LocalDate, days: WorkingDays): boolean {
  const day = weekday(date)
  return day !== 0 && (day !== 6 || days.saturday) && !days.holidays.has(date)
}

/** The date a number of business days later; with 0, the date itself or the next business day. */
export function addBusinessDays(date: LocalDate, count: number, days: WorkingDays): LocalDate {
  let at = date
  while (!isBusinessDay(at, days)) at = addDays(at, 1)
  for (let left = count; left > 0; ) {
    at = addDays(at, 1)
    if (isBusinessDay(at, days)) left -= 1
  }
  return at
}

/**
 * How many business days lie after a day up to another, the last one included; 0 where it is not later. Counts no further
 * than 400 days.
 *
 * @example businessDaysBetween("2026-11-27", "2026-11-30", days) // 1: Friday to Monday
 */
export function businessDaysBetween(from: LocalDate, to: LocalDate, days: WorkingDays): number {
  let count = 0
  let at = from
  for (let left = 400; left > 0 && at < to; left -= 1) {
    at = addDays(at, 1)
    if (isBusinessDay(at, days)) count += 1
  }
  return count
}

/** A stretch of working time between two instants; `from` is included, `to` is not. */
export interface Span {
  readonly from: Date
  readonly to: Date
}

/** The working time of a day: shifts less breaks, as instants in order. */
export function workSpans(
  date: LocalDate,
  zone: string,
  periods: readonly { kind: "shift" | "break"; starts: LocalTime; ends: LocalTime }[],
): Span[] {
  const at = (time: LocalTime) => instantAt(date, time, zone).getTime()
  let spans = periods
    .filter((period) => period.kind === "shift")
    .map((period) => [at(period.starts), at(period.ends)] as const)
  for (const rest of periods.filter((period) => period.kind === "break")) {
    const [from, to] = [at(rest.starts), at(rest.ends)]
    spans = spans.flatMap(([a, b]) => {
      const left = [a, Math.min(b, from)] as const
      const right = [Math.max(a, to), b] as const
      return [left, right].filter(([c, d]) => c < d)
    })
  }
  return spans.sort((a, b) => a[0] - b[0]).map(([from, to]) => ({ from: new Date(from), to: new Date(to) }))
}

/** Minutes of working time between two instants (0 when the second is not later). */
export function workMinutes(spans: readonly Span[], from: Date, to: Date): number {
  let total = 0
  for (const span of spans) {
    const a = Math.max(span.from.getTime(), from.getTime())
    const b = Math.min(span.to.getTime(), to.getTime())
    if (b > a) total += b - a
  }
  return total / 60_000
}

/**
 * The instant at which work must start so that a number of minutes of working time end by `end`. Where the day's
 * working time does not reach, the rest is taken without breaks before the first span, so that a bar can show it.
 */
export function workBackFrom(spans: readonly Span[], end: Date, minutes: number): Date {
  let left = minutes * 60_000
  let at = end.getTime()
  for (const span of [...spans].reverse()) {
    const to = Math.min(span.to.getTime(), at)
    const worked = to - span.from.getTime()
    if (worked <= 0) continue
    if (worked >= left) return new Date(to - left)
    left -= worked
    at = span.from.getTime()
  }
  return new Date(at - left)
}

function offsetMs(instant: Date, zone: string): number {
  const minutes = tzOffset(zone, instant)
  if (Number.isNaN(minutes)) throw new RangeError(`no such time zone: ${zone}`)
  return minutes * 60_000
}

function wallClock(instant: Date, zone: string): string {
  return new Date(instant.getTime() + offsetMs(instant, zone)).toISOString()
}
