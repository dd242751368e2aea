import { randomUUID } from "node:crypto"
import {
  addDays,
  instantAt,
  isLocalDate,
  type LocalDate,
  type LocalTime,
  localDate,
  localTime,
} from "core/calendar/index.ts"
import { isoDay, wallTime } from "core/calendar/schema.ts"
import { bookingFlaws, mostDaysAhead } from "core/handover/index.ts"
import type { BookedCollectionId, CarrierId, CollectionId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { BookedTerms, Tariff } from "core/tariff/index.ts"
import { type Mass, mass, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { leadOf } from "../orders/joined.ts"
import { tariffOn } from "../rating/tariffs.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { nextTruck } from "./close.ts"
import { collecting } from "./jobs.ts"

/** What a carrier is asked for, as it was typed. */
export const askSchema = z.object({
  door: z
    .string()
    .trim()
    .regex(/^\d{1,3}$/, "collect.door"),
  day: isoDay,
  ready: wallTime("collect.time"),
  latest: wallTime("collect.time"),
  pieces: z.coerce.number().int().min(1, "collect.pieces").max(9_999, "collect.pieces"),
  /** None where the field is left empty. */
  pallets: z.preprocess(
    (value) => value ?? 0,
    z.coerce.number<number>().int().min(0, "collect.pallets").max(999, "collect.pallets"),
  ),
  /** Pounds, as text. */
  weight: z
    .string()
    .trim()
    .regex(/^\d{1,6}(\.\d{1,2})?$/, "collect.weight")
    .refine((text) => Number(text) > 0, "collect.weight"),
  place: z.string().trim().max(60).default(""),
  contact: z.string().trim().min(1, "form.missing").max(60),
  phone: z.string().trim().max(24).default(""),
  instructions: z.string().trim().max(200).default(""),
  /** Others who are told of it by e-mail, apart by commas or blanks. */
  tell: z.string().trim().max(300).default(""),
  /** What is ready for the carrier is put on this truck. */
  takes: z.boolean().default(true),
})
export type Ask = z.infer<typeof askSchema>

/** The addresses in a text, apart by commas, semicolons or blanks; null where one of them is none. */
export function addressesIn(text: string): string[] | null {
  const all = text.split(/[\s,;]+/).filter(Boolean)
  return all.length <= 10 && all.every((one) => z.email().max(120).safeParse(one).success) ? all : null
}

export interface BookedRow {
  readonly id: BookedCollectionId
  readonly carrier: string
  readonly carrierCode: string
  readonly collectionId: CollectionId | null
  readonly state: "asking" | "booked" | "refused" | "cancelling" | "cancelled"
  readonly revision: number
  readonly ask: Ask
  /** What is booked while a change is asked for. */
  readonly held: Ask | null
  readonly number: string
  readonly fee: string
  readonly currency: string
  readonly trouble: unknown
  readonly askedAt: Date
  readonly askedBy: string
  readonly onDate: LocalDate
}

const select = (db: Knex) =>
  db("booked_collection as b")
    .join("carrier as k", "k.id", "b.carrier_id")
    .select("b.*", "k.name as carrier", "k.code as carrier_code")

const fromRow = (row: Awaited<ReturnType<typeof select>>[number]): BookedRow => ({
  id: row.id,
  carrier: row.carrier,
  carrierCode: row.carrier_code,
  collectionId: row.collection_id,
  state: row.state,
  revision: row.revision,
  ask: askSchema.parse(parsed(row.ask)),
  held: row.held === null ? null : askSchema.parse(parsed(row.held)),
  number: row.number,
  fee: row.fee,
  currency: row.currency,
  trouble: parsed(row.trouble),
  askedAt: row.asked_at,
  askedBy: row.asked_by,
  onDate: row.on_date,
})

/** Bookings from a day on, the next ones first. */
export async function bookingsFrom(db: Knex, warehouseId: number, day: LocalDate): Promise<BookedRow[]> {
  const rows = await select(db)
    .where("b.warehouse_id", warehouseId)
    .where("b.on_date", ">=", day)
    .orderBy(["b.on_date", "b.id"])
    .limit(200)
  return rows.map(fromRow)
}

/** The bookings that stand on collections: one that is booked or asked for, or the last that was refused. */
export async function bookingsOn(
  db: Knex,
  warehouseId: number,
  collectionIds: readonly CollectionId[],
): Promise<Map<number, BookedRow>> {
  const rows = await select(db)
    .where("b.warehouse_id", warehouseId)
    .whereIn("b.collection_id", [...collectionIds])
    .whereNot("b.state", "cancelled")
    .orderBy("b.id")
  return new Map(rows.map((row) => [row.collection_id as number, fromRow(row)]))
}

export async function bookingById(db: Knex, warehouseId: number, id: BookedCollectionId): Promise<BookedRow | null> {
  const row = await select(db).where("b.warehouse_id", warehouseId).where("b.id", id).first()
  return row ? fromRow(row) : null
}

/** What a collection is to be booked for: one shipment, a door, or all of a carrier's that is ready. */
export interface Scope {
  readonly carrierId: CarrierId
  readonly collectionId: CollectionId | null
  readonly orderId: OrderId | null
}

/** Packages that are ready to be collected: how many, of those pallets, and their weight. */
export async function readyFor(
  db: Knex,
  warehouseId: number,
  { carrierId, collectionId, orderId }: Scope,
): Promise<{ readonly pieces: number; readonly pallets: number; readonly weight: Mass }> {
  const query = db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .leftJoin("packaging as g", "g.id", "p.packaging_id")
    .where("h.warehouse_id", warehouseId)
    .whereNull("p.parent_id")
    .whereIn("p.state", ["labelled", "left-behind", "on-truck"])
  if (orderId !== null) query.where("h.order_id", await leadOf(db, orderId))
  else if (collectionId !== null) query.where("p.collection_id", collectionId)
  else
    query.whereIn(
      "p.collection_id",
      db("collection").where({ carrier_id: carrierId, warehouse_id: warehouseId }).whereNull("drop_off").select("id"),
    )
  const row = await query.first<{ n: number; pallets: number; kg: string }>(
    db.raw("COUNT(*) AS n"),
    db.raw("COALESCE(SUM(g.kind = 'pallet'), 0) AS pallets"),
    db.raw("COALESCE(SUM(p.sent_kg), 0) AS kg"),
  )
  return { pieces: Number(row.n), pallets: Number(row.pallets), weight: mass(String(row.kg), "kg") }
}

/** A carrier with what holds for collections that are booked with him, on a day. */
export interface BookableCarrier {
  readonly id: CarrierId
  readonly code: string
  readonly name: string
  readonly terms: BookedTerms | null
  readonly currency: string
  /** Regular trucks of today. */
  readonly regular: readonly { readonly door: string; readonly cutOff: Date; readonly onCall: boolean }[]
}

/** All carriers of a warehouse, with their terms and the trucks that come anyway. */
export async function bookableCarriers(db: Knex, warehouse: Warehouse, day: LocalDate): Promise<BookableCarrier[]> {
  const [carriers, trucks] = await Promise.all([
    db("carrier").orderBy("name").select("id", "code", "name"),
    db("collection")
      .where({ warehouse_id: warehouse.id, on_date: day })
      .whereNull("closed_at")
      .whereNull("drop_off")
      .orderBy("cut_off")
      .select("carrier_id", "door", "cut_off", "on_call"),
  ])
  return Promise.all(
    carriers.map(async (one) => {
      const tariff = await tariffOn(db, one.id, day)
      return {
        ...one,
        terms: tariff?.handover.booked ?? null,
        currency: tariff?.currency ?? "USD",
        regular: trucks
          .filter((truck) => truck.carrier_id === one.id)
          .map((truck) => ({ door: truck.door, cutOff: truck.cut_off, onCall: !!truck.on_call })),
      }
    }),
  )
}

const feeOf = (tariff: Tariff | null): { amount: string; currency: string } | null =>
  tariff?.handover.booked ? { amount: Number(tariff.handover.booked.fee).toFixed(2), currency: tariff.currency } : null

/** What keeps an asked collection from being booked, and what it costs. */
async function judged(
  db: Knex,
  warehouse: Warehouse,
  carrierId: CarrierId,
  ask: Ask,
  now: Date,
): Promise<Outcome<{ amount: string; currency: string }>> {
  const today = localDate(now, warehouse.zone)
  const tariff = await tariffOn(db, carrierId, ask.day)
  const flaws = bookingFlaws(
    tariff?.handover.booked ?? null,
    ask,
    today,
    localTime(now, warehouse.zone),
    addDays(today, mostDaysAhead),
  )
  if (addressesIn(ask.tell) === null) flaws.push(reason("collect.tell", { field: "tell" }))
  const fee = feeOf(tariff)
  return flaws.length > 0 || !fee ? refused(...flaws) : accepted(fee)
}

export interface NewBooking {
  readonly carrier: string
  readonly collectionId: CollectionId | null
  readonly orderId: OrderId | null
  readonly ask: Ask
  /** What the clerk saw that it costs. */
  readonly fee: string
}

export interface BookingAsked {
  readonly id: BookedCollectionId
  readonly carrier: string
}

/**
 * Writes down that a collection is to be booked, once by its key, and leaves asking the carrier to a job: for one
 * shipment, for the truck of a door, or for all that is ready of a carrier.
 */
export async function book(context: Context, wanted: NewBooking, key: string): Promise<Outcome<BookingAsked>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const warehouse = await warehouseById(db, actor.warehouseId)
  const carrier = await db("carrier").where({ code: wanted.carrier }).first("id", "name")
  if (!carrier) return refused(reason("tariff.no-carrier"))
  const before = await db("booked_collection")
    .where({ press_key: pressKey(actor, key) })
    .first("id")
  if (before) return accepted({ id: before.id, carrier: carrier.name })
  const judgement = await judged(db, warehouse, carrier.id, wanted.ask, now)
  if (!judgement.ok) return judgement
  const fee = judgement.value
  if (fee.amount !== wanted.fee) return refused(reason("collect.fee-changed", { seen: wanted.fee, now: fee.amount }))
  return inTransaction(db, async (trx): Promise<Outcome<BookingAsked>> => {
    // one after another: two that ask for one truck see one another
    await trx("warehouse").where({ id: warehouse.id }).forUpdate().select("id")
    const pressed = await trx("booked_collection")
      .where({ press_key: pressKey(actor, key) })
      .first("id")
    if (pressed) return accepted({ id: pressed.id, carrier: carrier.name })
    const truck = await truckOf(trx, warehouse, carrier.id, wanted)
    if (!truck.ok) return truck
    const id = newId(
      await trx("booked_collection").insert({
        warehouse_id: warehouse.id,
        carrier_id: carrier.id,
        collection_id: wanted.collectionId,
        order_id: wanted.orderId,
        press_key: pressKey(actor, key),
        once_key: randomUUID(),
        state: "asking",
        ask: JSON.stringify(wanted.ask),
        fee: fee.amount,
        currency: fee.currency,
        on_date: wanted.ask.day,
        asked_at: now,
        asked_by: actor.name,
      }),
    )
    await askIn(trx, id, 1)
    await record(trx, actor, now, {
      action: "collect.asked",
      ...(wanted.orderId === null ? {} : { orderId: wanted.orderId }),
      collectionId: wanted.collectionId,
      warehouseId: warehouse.id,
      detail: { carrier: carrier.name, day: wanted.ask.day, ready: wanted.ask.ready, latest: wanted.ask.latest },
    })
    return accepted({ id, carrier: carrier.name })
  })
}

const pressKey = (actor: Context["actor"], key: string): string => `${actor.userId ?? 0}:${key}`.slice(0, 64)

const askIn = (trx: Knex, bookingId: BookedCollectionId, asked: number): Promise<void> =>
  collecting.queue(trx, `collect:${bookingId}:${asked}`, { bookingId })

/** Whether the truck that a booking is for can be had: an open one of the carrier, or a free door at that time. */
async function truckOf(
  trx: Knex,
  warehouse: Warehouse,
  carrierId: CarrierId,
  { collectionId, orderId, ask }: Pick<NewBooking, "collectionId" | "orderId" | "ask">,
): Promise<Outcome<null>> {
  if (orderId !== null && !(await trx("sales_order").where({ id: orderId, warehouse_id: warehouse.id }).first("id")))
    return refused(reason("order.unknown"))
  if (collectionId === null) {
    const at = instantAt(ask.day, ask.latest, warehouse.zone)
    const taken = await trx("collection as c")
      .join("carrier as k", "k.id", "c.carrier_id")
      .where({ "c.warehouse_id": warehouse.id, "c.door": ask.door, "c.cut_off": at })
      .first("k.name")
    if (taken) return refused(reason("collect.door-taken", { door: ask.door, carrier: taken.name, field: "door" }))
    const asked = await trx("booked_collection")
      .where({ warehouse_id: warehouse.id, on_date: ask.day, state: "asking" })
      .whereRaw("JSON_VALUE(ask, '$.door') = ? AND JSON_VALUE(ask, '$.latest') = ?", [ask.door, ask.latest])
      .first("id")
    return asked
      ? refused(reason("collect.door-asked", { door: ask.door, time: ask.latest, field: "door" }))
      : accepted(null)
  }
  const truck = await trx("collection")
    .where({ id: collectionId, warehouse_id: warehouse.id })
    .first("carrier_id", "closed_at", "door", "on_date")
  if (!truck || truck.carrier_id !== carrierId) return refused(reason("dock.no-such-collection"))
  if (truck.closed_at) return refused(reason("dock.closed", { door: truck.door }))
  if (truck.on_date !== ask.day)
    return refused(reason("collect.other-day", { door: truck.door, day: truck.on_date, field: "day" }))
  const known = await trx("booked_collection")
    .where({ collection_id: collectionId })
    .whereIn("state", ["asking", "booked", "cancelling"])
    .first("number")
  return known ? refused(reason("collect.already", { door: truck.door, number: known.number || "…" })) : accepted(null)
}

/** Changes what was booked: asked of the carrier under the same key; what was booked holds until he has taken it. */
export async function changeBooking(
  context: Context,
  id: BookedCollectionId,
  revision: number,
  ask: Ask,
): Promise<Outcome<{ readonly carrier: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const warehouse = await warehouseById(db, actor.warehouseId)
  const found = await bookingById(db, warehouse.id, id)
  if (!found) return refused(reason("collect.unknown"))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly carrier: string }>> => {
    const row = await trx("booked_collection").where({ id, warehouse_id: warehouse.id }).forUpdate().first()
    if (row?.state !== "booked") return refused(reason("collect.not-booked", { carrier: found.carrier }))
    if (row.revision !== revision) return refused(reason("collect.changed-meanwhile"))
    if (JSON.stringify(askSchema.parse(parsed(row.ask))) === JSON.stringify(ask))
      return accepted({ carrier: found.carrier })
    const judgement = await judged(trx, warehouse, row.carrier_id, ask, now)
    if (!judgement.ok) return judgement
    const truck = row.collection_id
      ? await trx("collection").where({ id: row.collection_id }).first("closed_at", "door", "on_date")
      : null
    if (truck?.closed_at) return refused(reason("dock.closed", { door: truck.door }))
    // a truck that comes anyway keeps its day and door
    if (truck && !row.own_truck && (truck.on_date !== ask.day || truck.door !== ask.door))
      return refused(reason("collect.other-day", { door: truck.door, day: truck.on_date, field: "day" }))
    await trx("booked_collection")
      .where({ id })
      .update({
        state: "asking",
        ask: JSON.stringify(ask),
        held: JSON.stringify(parsed(row.ask)),
        revision: revision + 1,
        asked: row.asked + 1,
        trouble: null,
        on_date: ask.day,
      })
    await askIn(trx, id, row.asked + 1)
    await record(trx, actor, now, {
      action: "collect.change-asked",
      collectionId: row.collection_id,
      warehouseId: warehouse.id,
      detail: { carrier: found.carrier, number: row.number, day: ask.day, ready: ask.ready, latest: ask.latest },
    })
    return accepted({ carrier: found.carrier })
  })
}

/**
 * Cancels a collection that is booked or asked for: asked of the carrier under its key, so that one that he has not heard
 * of is never booked. Refused where something is on its truck, or would have no other. Safe to repeat.
 */
export async function cancelBooking(
  context: Context,
  id: BookedCollectionId,
): Promise<Outcome<{ readonly carrier: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const found = await bookingById(db, actor.warehouseId, id)
  if (!found) return refused(reason("collect.unknown"))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly carrier: string }>> => {
    const row = await trx("booked_collection").where({ id, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!row || !["asking", "booked"].includes(row.state)) return accepted({ carrier: found.carrier })
    const why = row.own_truck && row.collection_id ? await keepsTruck(trx, row.collection_id) : []
    if (why.length > 0) return refused(...why)
    await trx("booked_collection")
      .where({ id })
      .update({ state: "cancelling", asked: row.asked + 1, trouble: null })
    await askIn(trx, id, row.asked + 1)
    await record(trx, actor, now, {
      action: "collect.cancel-asked",
      collectionId: row.collection_id,
      warehouseId: actor.warehouseId,
      detail: { carrier: found.carrier, number: row.number },
    })
    return accepted({ carrier: found.carrier })
  })
}

/** What is on a truck, or could go with no other one. */
async function keepsTruck(trx: Knex, collectionId: CollectionId): Promise<Reason[]> {
  const truck = await trx("collection").where({ id: collectionId }).first()
  if (!truck || truck.closed_at) return truck ? [reason("dock.closed", { door: truck.door })] : []
  const packages = await trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", "o.id", "h.order_id")
    .where("p.collection_id", collectionId)
    .whereNull("p.parent_id")
    .orderBy("p.id")
    .select("p.id", "p.state", "p.number", "o.order_number")
  const why: Reason[] = []
  for (const one of packages) {
    const name = `${one.order_number}-${one.number}`
    if (one.state === "on-truck") why.push(reason("collect.loaded", { package: name }))
    else if (["labelled", "left-behind"].includes(one.state) && !(await nextTruck(trx, truckBrief(truck), one)))
      why.push(reason("collect.no-other", { package: name }))
    if (why.length >= 5) break
  }
  return why
}

/** What finding the next truck goes by. */
export const truckBrief = (row: { readonly carrier_id: CarrierId; readonly cut_off: Date }) => ({
  carrierId: row.carrier_id,
  cutOff: row.cut_off,
})

/** A day in the text of an address, or today. */
export const dayOr = (text: string | null, today: LocalDate): LocalDate => (text && isLocalDate(text) ? text : today)

/** How heavy something is, as it stands in the field of a form. */
export const poundsField = (value: Mass): string => massIn(value, "lb").toFixed(1)

/** The hour from which goods are usually ready: the next full one. */
export function nextHour(now: LocalTime): LocalTime {
  const hour = Math.min(23, Number(now.slice(0, 2)) + 1)
  return `${String(hour).padStart(2, "0")}:00` as LocalTime
}
