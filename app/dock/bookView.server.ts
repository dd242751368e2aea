import { addDays, localDate, localTime } from "core/calendar/index.ts"
import { mostDaysAhead } from "core/handover/index.ts"
import type { CarrierId } from "core/ids/index.ts"
import { data } from "react-router"
import {
  type BookableCarrier,
  type BookedRow,
  bookableCarriers,
  bookingById,
  bookingsFrom,
  bookingsOn,
  dayOr,
  nextHour,
  poundsField,
  readyFor,
} from "server/dock/bookings.ts"
import type { Work } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { type Collection, collectionById } from "server/setup/collections.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"

const bookingBrief = (one: BookedRow) => ({
  id: one.id,
  carrier: one.carrier,
  carrierCode: one.carrierCode,
  collectionId: one.collectionId,
  state: one.state,
  changing: one.state === "asking" && one.held !== null,
  revision: one.revision,
  ask: one.held ?? one.ask,
  number: one.number,
  fee: one.fee,
  currency: one.currency,
  trouble: one.trouble,
})
export type BookingBrief = ReturnType<typeof bookingBrief>

interface Asked {
  readonly carrier: string
  readonly collection: number
  readonly order: string
  readonly booking: number
  readonly day: string | null
}

/** What the page for booking collections shows: the form for a carrier, filled from what is ready, and the bookings. */
export async function bookView(work: Work, asked: Asked) {
  const { db, warehouse, now } = work
  const today = localDate(now, warehouse.zone)
  const truck = asked.collection ? await collectionById(db, warehouse.id, asked.collection) : null
  if (asked.collection && !truck) throw data(null, { status: 404 })
  const order = asked.order ? await summaryByNumber(db, warehouse, asked.order) : null
  if (asked.order && !order) throw data(null, { status: 404 })
  const changed = asked.booking ? await bookingById(db, warehouse.id, asked.booking) : null
  if (asked.booking && !changed) throw data(null, { status: 404 })
  const day = dayOr(asked.day, truck?.onDate ?? today)
  const carriers = await bookableCarriers(db, warehouse, day)
  const code = changed?.carrierCode ?? truck?.carrierCode ?? asked.carrier
  const carrier = carriers.find((one) => one.code === code) ?? carriers.find((one) => one.terms) ?? null
  const standing = truck ? (await bookingsOn(db, warehouse.id, [truck.id])).get(truck.id) : undefined
  const bookings = await bookingsFrom(db, warehouse.id, addDays(today, -1))
  return {
    carriers: carriers.map((one) => ({ code: one.code, name: one.name, books: one.terms !== null })),
    carrier: carrier && carrierBrief(carrier, warehouse.zone),
    scope: {
      collection: truck ? { id: truck.id, door: truck.door, cutOff: truck.cutOff } : null,
      /** What is said where the truck is booked already. */
      booked:
        truck && standing && standing.state !== "refused"
          ? say("collect.already", { door: truck.door, number: standing.number || standing.carrier })
          : null,
      order: order ? { id: order.id, orderNumber: order.orderNumber } : null,
    },
    change: changed?.state === "booked" ? bookingBrief(changed) : null,
    first: carrier ? await firstAsk(work, carrier, truck, order?.id ?? null, day) : null,
    today,
    lastDay: addDays(today, mostDaysAhead),
    bookings: bookings.map(bookingBrief),
    key: crypto.randomUUID(),
  }
}

const carrierBrief = (one: BookableCarrier, zone: string) => ({
  code: one.code,
  name: one.name,
  terms: one.terms,
  fee: Number(one.terms?.fee ?? 0).toFixed(2),
  currency: one.currency,
  regular: one.regular
    .filter((truck) => !truck.onCall)
    .map((truck) => ({ door: truck.door, at: clock(truck.cutOff, zone) })),
})

/** What stands in the form before anybody types: what is ready, and the times of the carrier and the truck. */
async function firstAsk(
  { db, warehouse, now }: Work,
  carrier: BookableCarrier,
  truck: Collection | null,
  orderId: number | null,
  day: BookedRow["onDate"],
) {
  const scope = { carrierId: carrier.id as CarrierId, collectionId: truck?.id ?? null, orderId }
  const ready = await readyFor(db, warehouse.id, scope)
  const today = localDate(now, warehouse.zone)
  const hour = nextHour(localTime(now, warehouse.zone))
  const { from = hour, to = "17:00" } = carrier.terms ?? {}
  const latest = truck ? localTime(truck.cutOff, warehouse.zone) : to
  return {
    door: truck?.door ?? "",
    day,
    ready: day === today && hour > from ? (hour < latest ? hour : from) : from,
    latest,
    pieces: String(Math.max(1, ready.pieces)),
    pallets: String(ready.pallets),
    weight: ready.pieces > 0 ? poundsField(ready.weight) : "",
    place: "",
    contact: "",
    phone: warehouse.phone,
    instructions: "",
    tell: "",
  }
}

export type BookData = Awaited<ReturnType<typeof bookView>>
