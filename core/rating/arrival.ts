import { addBusinessDays, addDays, type LocalDate, type LocalTime, weekday } from "../calendar/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"
import { inRange, type Place, type Service, type Tariff } from "../tariff/index.ts"
import type { RateRequest } from "./request.ts"

export interface Arrival {
  readonly date: LocalDate
  /** By then, `HH:MM` at the receiver's place. */
  readonly time: LocalTime
  /** Days on which goods moved or were delivered, after the day of sending. */
  readonly businessDays: number
  readonly calendarDays: number
  /** How it was reached, step by step. */
  readonly why: readonly Reason[]
}

/** Further than this no arrival is looked for: a calendar that never opens is a fault of the tariff. */
const furthest = 400

/**
 * The day that goods sent on a day arrive: from the next departure, so many days on which they move (or calendar
 * days), then the next day of delivery. Saturday counts where it was bought. Refused when the day of sending is past
 * the service's cut-off or too far ahead, or no such day comes.
 */
export function arrivalOf(
  tariff: Tariff,
  service: Service,
  zone: string,
  request: Omit<RateRequest, "packages" | "shipTo"> & { readonly shipTo: Place },
): Outcome<Arrival> {
  const { transit } = service
  const { shipDate, today } = request
  const holidays = holidaysOf(tariff)
  const still = (day: LocalDate) => holidays.has(day) || request.holidays?.has(day) === true
  const saturday = request.options?.has("saturday") ? [6] : []
  const moves = new Set([...transit.moves, ...saturday])
  const delivers = new Set([...transit.delivers, ...saturday])
  if (today && shipDate < today) return refused(reason("rate.day-past", { day: shipDate }))
  if (today && request.at && transit.cutOff !== null && shipDate === today && request.at > transit.cutOff)
    return refused(reason("rate.cut-off", { cutOff: transit.cutOff, day: shipDate }))
  if (today && lastShipDay(tariff, today, transit.ahead) < shipDate)
    return refused(reason("rate.too-far-ahead", { day: shipDate, ahead: transit.ahead }))
  const lane = transit.lanes.find(([country, from, to]) => inRange([country, from, to], request.shipTo))
  const days = lane?.[3] ?? transit.days[zone]
  if (days === undefined) return refused(reason("rate.no-transit", { zone }))
  const why: Reason[] = []
  const skipped: LocalDate[] = []
  let day = shipDate
  if (transit.departs) {
    const departs = new Set(transit.departs)
    const departure = until(day, (one) => departs.has(isoWeekday(one)) && !still(one))
    if (!departure) return refused(reason("rate.no-departure"))
    day = departure
    if (day !== shipDate) why.push(reason("why.departs", { day }))
  }
  const counts = (one: LocalDate) => transit.count === "calendar" || (moves.has(isoWeekday(one)) && !still(one))
  for (let left = days, steps = 0; left > 0; steps += 1) {
    if (steps > furthest) return refused(reason("rate.no-arrival"))
    day = addDays(day, 1)
    if (counts(day)) left -= 1
    else if (still(day)) skipped.push(day)
  }
  why.push(reason(`why.days-${transit.count}`, { days, zone, ...(lane ? { lane: lane[0] } : {}) }))
  const delivery = until(day, (one) => {
    const open = delivers.has(isoWeekday(one)) && !still(one)
    if (!open && still(one) && !skipped.includes(one)) skipped.push(one)
    return open
  })
  if (!delivery) return refused(reason("rate.no-arrival"))
  if (skipped.length > 0) why.push(reason("why.still", { days: skipped.join(", ") }))
  if (delivery !== day) why.push(reason("why.next-delivery", { day: delivery }))
  if (saturday.length > 0 && isoWeekday(delivery) === 6) why.push(reason("why.saturday"))
  const between = daysBetween(shipDate, delivery)
  const businessDays = Array.from({ length: between }, (_, index) => addDays(shipDate, index + 1)).filter(
    (one) => isoWeekday(one) < 6 && !still(one),
  ).length
  return accepted({ date: delivery, time: transit.by, businessDays, calendarDays: between, why })
}

/** What a tariff's calendar says, worked out once for each tariff: rating asks it for every service and day. */
const calendars = new WeakMap<Tariff, { holidays: ReadonlySet<LocalDate>; ahead: Map<string, LocalDate> }>()

function calendarOf(tariff: Tariff) {
  const known = calendars.get(tariff) ?? { holidays: new Set(tariff.holidays), ahead: new Map<string, LocalDate>() }
  calendars.set(tariff, known)
  return known
}

const holidaysOf = (tariff: Tariff): ReadonlySet<LocalDate> => calendarOf(tariff).holidays

/** The last day for which a carrier takes a shipment on a day, so many business days ahead. */
function lastShipDay(tariff: Tariff, today: LocalDate, ahead: number): LocalDate {
  const { holidays, ahead: known } = calendarOf(tariff)
  const key = `${today} ${ahead}`
  const found = known.get(key) ?? addBusinessDays(today, ahead, { holidays, saturday: false })
  // a process lives for weeks: days gone by are not kept
  if (known.size >= 100) known.clear()
  known.set(key, found)
  return found
}

function until(from: LocalDate, holds: (day: LocalDate) => boolean): LocalDate | null {
  let day = from
  for (let steps = 0; steps <= furthest; steps += 1) {
    if (holds(day)) return day
    day = addDays(day, 1)
  }
  return null
}

const isoWeekday = (day: LocalDate): number => weekday(day) || 7
const daysBetween = (from: LocalDate, to: LocalDate): number =>
  Math.round((Date.parse(to) - Date.parse(from)) / 86_400_000)
