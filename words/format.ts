import { localDate, localTime } from "core/calendar/index.ts"
import { localeOf, reader } from "./language.ts"

const formats = new Map<string, Intl.DateTimeFormat>()

/** A day as its locale writes it. Server and browser write alike: their spaces before AM and PM differ, so all are plain. */
function dayIn(locale: string, date: string, options: Intl.DateTimeFormatOptions): string {
  const known = `${locale} ${JSON.stringify(options)}`
  let format = formats.get(known)
  if (!format) {
    format = new Intl.DateTimeFormat(locale, { ...options, timeZone: "UTC" })
    formats.set(known, format)
  }
  return format.format(new Date(`${date}T00:00:00Z`)).replace(/[\u202f\u00a0]/g, " ")
}

/** `Fri, Nov 27` from `2026-11-27`, in the reader's language. */
export const shortDay = (date: string, locale = localeOf[reader().language]): string =>
  dayIn(locale, date, { weekday: "short", month: "short", day: "numeric" })

/** `Friday, November 27`. */
export const longDay = (date: string, locale = localeOf[reader().language]): string =>
  dayIn(locale, date, { weekday: "long", month: "long", day: "numeric" })

/** `Fri 27`, for an axis. */
export const axisDay = (date: string, locale = localeOf[reader().language]): string =>
  `${dayIn(locale, date, { weekday: "short" })} ${Number(date.slice(8))}`

/** Wall time of the warehouse, as the reader reads times: `8:20` and `14:15`, or `8:20 AM` and `2:15 PM`. */
export const clock = (at: Date, zone: string): string => clockTime(localTime(at, zone))

/** The same of a time such as `08:20`. */
export function clockTime(time: string): string {
  const plain = time.replace(/^0/, "")
  if (reader().clock === "24") return plain
  const hour = Number(time.slice(0, 2))
  return `${hour % 12 || 12}${time.slice(2)} ${hour < 12 ? "AM" : "PM"}`
}

/** Day and wall time of the warehouse, such as `Tue, Nov 24, 8:20`. */
export const dayAndClock = (at: Date, zone: string): string => `${shortDay(localDate(at, zone))}, ${clock(at, zone)}`

/** Whole minutes with a true minus sign and, where asked for, a plus. */
export const signed = (minutes: number): string => {
  const whole = minutes < 0 ? Math.ceil(minutes) : Math.floor(minutes)
  return whole < 0 ? `−${-whole}` : `+${whole}`
}

const counting = new Map<string, Intl.NumberFormat>()

/** A count with its language's separators: `1,200`. */
export function count(n: number): string {
  const locale = localeOf[reader().language]
  let format = counting.get(locale)
  if (!format) {
    format = new Intl.NumberFormat(locale)
    counting.set(locale, format)
  }
  return format.format(n)
}

/** A customer's purchase order: "PO 7719", and "PO 6810" where its number says so itself. */
export const purchaseOrder = (number: string): string => (/^P\.?O(?![A-Z])/i.test(number) ? number : `PO ${number}`)
