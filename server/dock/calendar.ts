import ical, { ICalCalendarMethod, ICalEventStatus } from "ical-generator"

/** A collection as a calendar shows it. */
export interface CalendarEntry {
  /** The same for a collection however often it is changed. */
  readonly uid: string
  /** Counts its changes. */
  readonly sequence: number
  readonly starts: Date
  readonly ends: Date
  readonly title: string
  readonly text: string
  readonly place: string
  readonly cancelled: boolean
  readonly madeAt: Date
}

/**
 * A collection as iCalendar (RFC 5545), which calendars take from a message: a later sequence of the same UID replaces
 * it, the method CANCEL takes it out (RFC 5546). Times are UTC.
 */
export function calendarFile(entry: CalendarEntry): string {
  const calendar = ical({
    prodId: { company: "Varnok", product: "Collections", language: "EN" },
    method: entry.cancelled ? ICalCalendarMethod.CANCEL : ICalCalendarMethod.PUBLISH,
  })
  calendar.createEvent({
    id: entry.uid,
    sequence: entry.sequence,
    start: entry.starts,
    end: entry.ends,
    stamp: entry.madeAt,
    summary: entry.title,
    description: entry.text,
    location: entry.place,
    status: entry.cancelled ? ICalEventStatus.CANCELLED : ICalEventStatus.CONFIRMED,
  })
  return calendar.toString()
}
