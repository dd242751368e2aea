import { localDate, localTime } from "core/calendar/index.ts"
import { poundsColumn as pounds } from "core/documents/index.ts"
import { data, redirect } from "react-router"
import { may } from "server/actors/index.ts"
import { placeOfPostalCode } from "server/addresses/places.ts"
import { bookingsOn } from "server/dock/bookings.ts"
import { type Door, doorsAtWork, ordersToGo } from "server/dock/doors.ts"
import { usualTimes } from "server/dock/driver.ts"
import { placesFor } from "server/dock/dropOff.ts"
import { closingTerms, formsOf, type ListedForm } from "server/dock/forms.ts"
import { closingWait } from "server/dock/handover.ts"
import { type NextTruck, nextTrucks } from "server/dock/nextTrucks.ts"
import { type DockPackage, packagesOf } from "server/dock/packages.ts"
import { isOwnVehicle } from "server/dock/round.ts"
import type { Work } from "server/http/context.ts"
import { driverOf } from "server/papers/driver.ts"

const brief = (one: DockPackage, next: NextTruck | null | undefined = undefined) => ({
  id: one.id,
  name: one.name,
  state: one.state,
  receiver: one.receiver,
  place: one.place,
  service: one.service,
  sscc: one.sscc,
  tracking: one.tracking,
  lb: pounds(one.weight),
  seenAt: one.seenAt,
  seenWhere: one.seenWhere,
  stopped: one.stopped,
  formId: one.formId,
  /** Of one that stays: the truck that it goes with; null where none is known. */
  next,
})

const doorOf = ({ collection, counts }: Door, toGo: number, early: boolean) => ({
  id: collection.id,
  door: collection.door,
  carrier: collection.carrier,
  cutOff: collection.cutOff,
  onDate: collection.onDate,
  closedAt: collection.closedAt,
  cancelled: collection.cancelledAt !== null,
  closedBy: collection.closedBy,
  /** The carrier and the sources were told of a closing. */
  final: collection.finalAt !== null,
  labelled: counts.labelled,
  onTruck: counts.onTruck,
  behind: counts.leftBehind,
  gone: counts.gone,
  orders: counts.orders,
  lb: pounds(counts.weight),
  loadedLb: pounds(counts.loadedWeight),
  stoppedOn: counts.stoppedOn,
  /** Everything for it is on the truck, and nothing that would miss it is still worked on. */
  complete:
    !collection.closedAt &&
    counts.labelled === 0 &&
    counts.onTruck > 0 &&
    counts.stoppedOn === 0 &&
    !(early && toGo > 0),
})

export const formBrief = (form: ListedForm) => ({
  id: form.id,
  number: form.number,
  way: form.way,
  account: form.account,
  service: form.service,
  packages: form.packages,
  state: form.state,
  supplement: form.supplement,
  carrierNumber: form.carrierNumber,
  trouble: form.trouble,
  document: form.documentId,
})

/** What the dock shows: every door at work, and the one that is asked for, or the first with something to do, whole. */
export async function dockView(work: Work, asked: number | null) {
  const { doors: found, finished } = await doorsAtWork(work, work.warehouse.zone, asked)
  const waiting = found.flatMap(({ collection }) => (collection.closedAt ? [] : [collection.id]))
  const toGo = await ordersToGo(work.db, work.warehouse.id, waiting)
  const doors = found.map((one) =>
    doorOf(one, toGo.get(one.collection.id)?.length ?? 0, work.now < one.collection.cutOff),
  )
  const chosen = asked === null ? undefined : doors.find((one) => one.id === asked)
  if (asked !== null && !chosen) throw data(null, { status: 404 })
  const date = localDate(work.now, work.warehouse.zone)
  const today = doors.filter((one) => one.onDate === date)
  const open =
    chosen ??
    today.find((one) => !one.closedAt && one.labelled + one.onTruck + one.behind > 0) ??
    today.find((one) => !one.closedAt) ??
    today.at(-1) ??
    doors.at(-1) ??
    null
  // a door has its own address, so that it stays in view when it is closed
  if (asked === null && open) throw redirect(`/dock/${open.id}`)
  return {
    doors,
    finished,
    open: open ? await openDoor(work, found, open, toGo.get(open.id) ?? []) : null,
    /** A lead or an administrator is here. */
    lead: may(work.actor, "dock.reopen"),
    key: crypto.randomUUID(),
  }
}

async function openDoor(
  work: Work,
  found: readonly Door[],
  open: ReturnType<typeof doorOf>,
  toGo: NonNullable<Awaited<ReturnType<typeof ordersToGo>> extends Map<number, infer Orders> ? Orders : never>,
) {
  const { collection } = found.find((one) => one.collection.id === open.id) as Door
  const [packages, forms, terms, wait, bookings, taken, usual] = await Promise.all([
    packagesOf(work.db, [open.id]),
    formsOf(work.db, work.warehouse.id, [open.id]),
    closingTerms(work.db, collection),
    closingWait(work.db, work.warehouse.id),
    bookingsOn(work.db, work.warehouse.id, [open.id]),
    driverOf(work.db, work.warehouse, open.id),
    usualTimes(work.db, work.warehouse, [collection]),
  ])
  const booking = bookings.get(open.id)
  const own = packages.get(open.id) ?? []
  const next = await nextTrucks(
    work.db,
    work.warehouse,
    collection,
    own.filter((one) => one.state === "left-behind"),
  )
  return {
    ...open,
    packages: own.map((one) => brief(one, next.get(one.id))),
    forms: forms.filter((form) => form.state !== "discarded").map(formBrief),
    way: terms.way,
    byService: terms.by === "service",
    told: terms.told,
    wait,
    driver: driverBrief(taken, work.warehouse.zone),
    /** When it usually comes. */
    usual: usual.get(open.id) ?? null,
    /** It comes only when it is booked. */
    onCall: collection.onCall,
    booking: booking
      ? {
          id: booking.id,
          state: booking.state,
          changing: booking.state === "asking" && booking.held !== null,
          number: booking.number,
          ready: (booking.held ?? booking.ask).ready,
          latest: (booking.held ?? booking.ask).latest,
          trouble: booking.trouble,
        }
      : null,
    /** When nobody can reopen it any more. */
    sendsAt:
      collection.closedAt && !collection.finalAt ? new Date(collection.closedAt.getTime() + wait * 60_000) : null,
    /** Of its freight there is a master bill. */
    freight: own.some((one) => one.freight),
    dropOff: await dropOffOf(work, collection),
    /** It is our own vehicle, which makes a round. */
    ownVehicle: await isOwnVehicle(work.db, collection.carrierId),
    toGo,
    /** Orders that would miss its truck if it were closed now. */
    missing: work.now < collection.cutOff ? toGo : [],
  }
}

/** Where the packages of a drop-off go, and where else they could; null for a truck. */
async function dropOffOf({ db, warehouse }: Work, collection: Door["collection"]) {
  const { dropOff } = collection
  if (!dropOff) return null
  const at = (one: { readonly country: string; readonly postalCode: string }): readonly [number, number] | null => {
    const place = placeOfPostalCode(one.country, one.postalCode)
    return place ? [place.longitude, place.latitude] : null
  }
  const places = await placesFor(db, warehouse, collection)
  // one that is no place of the carrier's any more is still where this one goes
  const all = places.some((one) => one.code === dropOff.code) ? places : [dropOff, ...places]
  return {
    code: dropOff.code,
    from: at(warehouse),
    places: all.map((one) => ({
      ...one,
      at: at(one),
      miles: one.km === null ? null : Math.round(one.km / 1.609344),
    })),
  }
}

/** The driver as the form has him. */
function driverBrief(taken: Awaited<ReturnType<typeof driverOf>>, zone: string) {
  const { driver, arrivedAt, departedAt } = taken ?? { driver: null, arrivedAt: null, departedAt: null }
  return {
    name: driver?.name ?? "",
    units: driver?.units === undefined || driver.units === null ? "" : String(driver.units),
    reason: driver?.reason ?? "",
    seal: driver?.seal ?? "",
    trailer: driver?.trailer ?? "",
    onPaper: driver?.onPaper ?? false,
    strokes: driver?.strokes ?? [],
    arrived: arrivedAt ? localTime(arrivedAt, zone) : "",
    departed: departedAt ? localTime(departedAt, zone) : "",
  }
}

export type DockData = Awaited<ReturnType<typeof dockView>>
export type DoorData = DockData["doors"][number]
export type OpenDoorData = NonNullable<DockData["open"]>
export type DoorForm = OpenDoorData["forms"][number]
