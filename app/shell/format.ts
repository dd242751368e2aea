import { localDate, localTime } from "core/calendar/index.ts"

const weekdays = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"]
const longWeekdays = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"]
const months = [
  "January",
  "February",
  "March",
  "April",
  "May",
  "June",
  "July",
  "August",
  "September",
  "October",
  "November",
  "December",
]

/** `Fri 27 Nov` from `2026-11-27`; independent of the browser's zone and language, so that server and browser agree. */
export function shortDay(date: string): string {
  const at = new Date(`${date}T00:00:00Z`)
  return `${weekdays[at.getUTCDay()]} ${at.getUTCDate()} ${months[at.getUTCMonth()]?.slice(0, 3)}`
}

export function longDay(date: string): string {
  const at = new Date(`${date}T00:00:00Z`)
  return `${longWeekdays[at.getUTCDay()]} ${at.getUTCDate()} ${months[at.getUTCMonth()]}`
}

/** Wall time of the warehouse, without a leading zero before ten. */
export const clock = (at: Date, zone: string): string => localTime(at, zone).replace(/^0/, "")

/** Day and wall time of the warehouse, such as `Tue 24 Nov 8:20`. */
export const dayAndClock = (at: Date, zone: string): string => `${shortDay(localDate(at, zone))} ${clock(at, zone)}`

/** Whole minutes with a true minus sign and, where asked for, a plus. */
export const signed = (minutes: number): string => {
  const whole = minutes < 0 ? Math.ceil(minutes) : Math.floor(minutes)
  return whole < 0 ? `−${-whole}` : `+${whole}`
}
