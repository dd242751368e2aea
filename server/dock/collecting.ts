import { instantAt, localDate, localTime } from "core/calendar/index.ts"
import type { BookedCollectionId, CollectionId } from "core/ids/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { onPaper } from "words/papers.ts"
import { announce, parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { BookedCollectionRow } from "../db/tables.ts"
import { newId, there } from "../db/there.ts"
import { CarrierUnreachable } from "../gateways/carrier.ts"
import { type CarrierDock, type CollectionAnswer, httpCarrierDock } from "../gateways/carrierDock.ts"
import { postMail } from "../mail/index.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { type Ask, addressesIn, askSchema, truckBrief } from "./bookings.ts"
import { calendarFile } from "./calendar.ts"
import { nextTruck } from "./close.ts"
import { withLoad } from "./load.ts"

type Row = BookedCollectionRow & { readonly carrier: string; readonly base_url: string; readonly account: string }

const read = (db: Knex, id: BookedCollectionId): Promise<Row | undefined> =>
  db("booked_collection as b")
    .join("carrier as k", "k.id", "b.carrier_id")
    .where("b.id", id)
    .first("b.*", "k.name as carrier", "k.base_url", "k.account")

/**
 * Carries a booking to its end: books, changes or cancels it with the carrier by its key, and writes his answer, the
 * truck and the messages in one transaction. Run again after any failure, it never books twice: the carrier takes each
 * revision of a key once, and from the second try on he is first asked what he has. Throws CarrierUnreachable to be run
 * again.
 */
export async function askCollection(
  db: Knex,
  id: BookedCollectionId,
  tries: number,
  dockAt: (url: string) => CarrierDock = httpCarrierDock,
): Promise<void> {
  const row = await read(db, id)
  if (!row || (row.state !== "asking" && row.state !== "cancelling")) return
  const gateway = dockAt(row.base_url)
  try {
    if (row.state === "cancelling") {
      await gateway.cancelCollection(row.once_key)
      return await settleCancelled(db, row)
    }
    const answer = await askedOf(db, gateway, row, tries)
    if (answer.kind === "booked" && row.revision === 1 && !sameFee(answer, row)) {
      await gateway.cancelCollection(row.once_key)
      const { amount, currency } = answer.fee
      return await settleRefused(
        db,
        row,
        reason("collect.fee-differs", { carrier: row.carrier, seen: row.fee, now: amount, currency }),
      )
    }
    if (answer.kind === "booked") return await settleBooked(db, row, answer)
    const why = answer.kind === "cancelled" ? "it was canceled" : answer.reason
    return await settleRefused(db, row, reason("collect.refused", { carrier: row.carrier, why }))
  } catch (error) {
    if (error instanceof CarrierUnreachable) {
      await db("booked_collection")
        .where({ id, state: row.state, asked: row.asked })
        .update({ trouble: JSON.stringify(reason("collect.no-answer", { carrier: row.carrier })) })
      await announce(db, { warehouseId: row.warehouse_id })
    }
    throw error
  }
}

const sameFee = ({ fee }: { fee: { amount: string; currency: string } }, row: Row): boolean =>
  fee.currency === row.currency && Number(fee.amount) === Number(row.fee)

async function askedOf(db: Knex, gateway: CarrierDock, row: Row, tries: number): Promise<CollectionAnswer> {
  const known = tries > 1 ? await gateway.findCollection(row.once_key) : null
  // an earlier revision is what it is to be changed from
  if (known && !(known.kind === "booked" && known.revision < row.revision)) return known
  const warehouse = await warehouseById(db, row.warehouse_id)
  const ask = askSchema.parse(parsed(row.ask))
  const now = await businessNow(db)
  return gateway.collect(row.once_key, {
    account: row.account,
    askedOn: localDate(now, warehouse.zone),
    askedAt: localTime(now, warehouse.zone),
    revision: row.revision,
    day: ask.day,
    ready: ask.ready,
    latest: ask.latest,
    pieces: ask.pieces,
    pallets: ask.pallets,
    weightLb: ask.weight,
    place: placeOf(ask),
    address: warehouse.sender,
    contact: ask.contact,
    phone: ask.phone,
    instructions: ask.instructions,
  })
}

const placeOf = (ask: Ask): string =>
  [onPaper("collect.at-door", { door: ask.door }), ask.place].filter(Boolean).join(", ")

/** Writes an answer, where the booking still stands as it was asked for. False: it was asked for otherwise meanwhile. */
async function settle(trx: Knex, row: Row, change: Record<string, unknown>): Promise<boolean> {
  const now = await businessNow(trx)
  const changed = await trx("booked_collection")
    .where({ id: row.id, state: row.state, asked: row.asked })
    .update({ ...change, answered_at: now })
  return changed > 0
}

async function settleBooked(
  db: Knex,
  row: Row,
  { number }: Extract<CollectionAnswer, { kind: "booked" }>,
): Promise<void> {
  const now = await businessNow(db)
  const warehouse = await warehouseById(db, row.warehouse_id)
  const ask = askSchema.parse(parsed(row.ask))
  await inTransaction(db, async (trx) => {
    if (row.order_id) await trx("sales_order").where({ id: row.order_id }).forUpdate().select("id")
    if (row.collection_id) await trx("collection").where({ id: row.collection_id }).forUpdate().select("id")
    if (!(await settle(trx, row, { state: "booked", number, held: null, trouble: null }))) return
    const truck = await truckFor(trx, row, warehouse, ask)
    if (truck !== null && ask.takes) await moveReady(trx, row, truck, now)
    await record(trx, { userId: null, name: row.asked_by }, now, {
      action: row.revision > 1 ? "collect.changed" : "collect.booked",
      ...(row.order_id ? { orderId: row.order_id } : {}),
      collectionId: truck,
      warehouseId: row.warehouse_id,
      detail: { carrier: row.carrier, number, day: ask.day, ready: ask.ready, latest: ask.latest },
    })
    await tellOf(trx, { ...row, number, collection_id: truck }, warehouse, ask, false, now)
  })
}

/** The truck that a booking makes, or moves; one that comes anyway stays as it is. Null where its door was taken meanwhile. */
async function truckFor(trx: Knex, row: Row, warehouse: Warehouse, ask: Ask): Promise<CollectionId | null> {
  const cutOff = instantAt(ask.day, ask.latest, warehouse.zone)
  if (row.collection_id) {
    if (row.own_truck)
      await trx("collection")
        .where({ id: row.collection_id })
        .whereNull("closed_at")
        .update({ door: ask.door, on_date: ask.day, cut_off: cutOff })
    return row.collection_id
  }
  const services = await trx("service")
    .where({ carrier_id: row.carrier_id, returns: false })
    .orderBy("code")
    .pluck("code")
  const made = newId(
    await trx("collection")
      .insert({
        warehouse_id: row.warehouse_id,
        carrier_id: row.carrier_id,
        door: ask.door,
        on_date: ask.day,
        cut_off: cutOff,
        services: JSON.stringify(services),
      })
      .onConflict(["warehouse_id", "door", "cut_off"])
      .ignore(),
  )
  const own = made
    ? { id: made }
    : await trx("collection")
        .where({ warehouse_id: row.warehouse_id, door: ask.door, cut_off: cutOff, carrier_id: row.carrier_id })
        .first("id")
  if (!own) return null
  await trx("booked_collection")
    .where({ id: row.id })
    .update({ collection_id: own.id, own_truck: made > 0 })
  return own.id
}

/** Puts what is ready for a booked truck on it: the packages of its shipment, or those of the carrier that would go later. */
async function moveReady(trx: Knex, row: Row, collectionId: CollectionId, now: Date): Promise<void> {
  const truck = there(
    await trx("collection").where({ id: collectionId }).first("cut_off", "services", "door", "on_date"),
  )
  const packages = trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("service as s", "s.id", "h.service_id")
    .join("collection as c", "c.id", "p.collection_id")
    .where({
      "h.warehouse_id": row.warehouse_id,
      "h.state": "bought",
      "p.state": "labelled",
      "c.carrier_id": row.carrier_id,
    })
    .whereIn("s.code", parsed<string[]>(truck.services))
    .whereNot("c.id", collectionId)
    .whereNull("p.form_id")
  if (row.order_id) packages.where("h.order_id", row.order_id)
  // what is brought was priced so, and waits at a door of its own
  else packages.where("c.cut_off", ">", truck.cut_off).whereNull("c.drop_off")
  const rows = await packages.select("p.id", "h.id as shipment_id", "h.order_id")
  const ids = rows.map((one) => one.id)
  await trx("package").whereIn("id", ids).where({ state: "labelled" }).update({ collection_id: collectionId })
  await trx("shipment")
    .whereIn("id", [...new Set(rows.map((one) => one.shipment_id))])
    .update({ collection_id: collectionId })
  for (const orderId of new Set<number>(rows.map((one) => one.order_id)))
    await record(trx, { userId: null, name: row.asked_by }, now, {
      action: "collect.moved",
      orderId,
      collectionId,
      detail: { door: truck.door, day: truck.on_date, carrier: row.carrier },
    })
}

async function settleRefused(db: Knex, row: Row, why: Reason): Promise<void> {
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    // a change that is refused leaves it as it was booked
    const change =
      row.held === null
        ? { state: "refused", trouble: JSON.stringify(why) }
        : {
            state: "booked",
            ask: JSON.stringify(parsed(row.held)),
            held: null,
            on_date: askSchema.parse(parsed(row.held)).day,
            trouble: JSON.stringify(why),
          }
    if (!(await settle(trx, row, change))) return
    await record(trx, { userId: null, name: row.asked_by }, now, {
      action: "collect.refused",
      ...(row.order_id ? { orderId: row.order_id } : {}),
      collectionId: row.collection_id,
      warehouseId: row.warehouse_id,
      detail: { reasons: [why] },
    })
  })
}

async function settleCancelled(db: Knex, row: Row): Promise<void> {
  const now = await businessNow(db)
  const warehouse = await warehouseById(db, row.warehouse_id)
  const ask = askSchema.parse(parsed(row.held ?? row.ask))
  await inTransaction(db, async (trx) => {
    if (row.collection_id) await trx("collection").where({ id: row.collection_id }).forUpdate().select("id")
    if (!(await settle(trx, row, { state: "cancelled", held: null, trouble: null }))) return
    if (row.own_truck && row.collection_id) await dissolve(trx, row.collection_id, row.asked_by, now)
    await record(trx, { userId: null, name: row.asked_by }, now, {
      action: "collect.cancelled",
      ...(row.order_id ? { orderId: row.order_id } : {}),
      collectionId: row.collection_id,
      warehouseId: row.warehouse_id,
      detail: { carrier: row.carrier, number: row.number },
    })
    if (row.number) await tellOf(trx, row, warehouse, ask, true, now)
  })
}

/** A truck that does not come: its packages go with the next one, and nothing is planned with it. */
async function dissolve(trx: Knex, collectionId: CollectionId, by: string, now: Date): Promise<void> {
  const truck = there(await trx("collection").where({ id: collectionId }).first())
  const packages = await trx("package")
    .where({ collection_id: collectionId })
    .whereNull("parent_id")
    .whereIn("state", ["labelled", "left-behind"])
    .select("id")
  for (const one of packages) {
    const next = await nextTruck(trx, truckBrief(truck), one)
    if (next) await withLoad(trx, one.id).update({ collection_id: next.id, state: "labelled" })
  }
  await trx("collection")
    .where({ id: collectionId })
    .update({ closed_at: now, closed_by: by, final_at: now, cancelled_at: now })
}

/** Writes to whoever should know of a collection, with it as a calendar takes it; once for each change. */
async function tellOf(
  trx: Knex,
  row: Row,
  warehouse: Warehouse,
  ask: Ask,
  cancelled: boolean,
  now: Date,
): Promise<void> {
  const set = await trx("closing_address")
    .where({ warehouse_id: row.warehouse_id, purpose: "collections" })
    .where((own) => own.whereNull("carrier_id").orWhere("carrier_id", row.carrier_id))
    .distinct("email")
    .pluck("email")
  const to = [...new Set([...set, ...(addressesIn(ask.tell) ?? [])])].sort()
  const file = Buffer.from(bookingCalendar(row, warehouse, ask, cancelled, now))
  const words = wordsOf(row, ask)
  for (const email of to)
    await postMail(trx, {
      onceKey: `book:${row.id}:${row.revision}:${cancelled ? "x" : ""}:${email}`.slice(0, 100),
      warehouseId: row.warehouse_id,
      to: email,
      subject: onPaper(cancelled ? "collect.mail-cancelled" : "collect.mail-subject", words).slice(0, 150),
      body: onPaper(cancelled ? "collect.mail-cancelled-text" : "collect.mail-text", words),
      attachment: { name: `collection-${row.id}.ics`, bytes: file },
      quoteId: null,
      by: row.asked_by,
      at: now,
    })
}

const wordsOf = (row: Pick<Row, "carrier" | "number">, ask: Ask) => ({
  carrier: row.carrier,
  number: row.number,
  day: ask.day,
  ready: ask.ready,
  latest: ask.latest,
  pieces: ask.pieces,
  lb: ask.weight,
  pallets: ask.pallets,
  place: placeOf(ask),
  contact: [ask.contact, ask.phone].filter(Boolean).join(", "),
})

/** A booking as iCalendar. */
export const bookingCalendar = (
  row: Pick<Row, "carrier" | "number" | "once_key" | "asked">,
  warehouse: Pick<Warehouse, "zone" | "sender">,
  ask: Ask,
  cancelled: boolean,
  now: Date,
): string =>
  calendarFile({
    uid: `${row.once_key}@varnok`,
    sequence: row.asked - 1,
    starts: instantAt(ask.day, ask.ready, warehouse.zone),
    ends: instantAt(ask.day, ask.latest, warehouse.zone),
    title: onPaper("collect.mail-subject", wordsOf(row, ask)),
    text: onPaper("collect.mail-text", wordsOf(row, ask)),
    place: `${placeOf(ask)}, ${warehouse.sender.slice(0, 3).join(", ")}`,
    cancelled,
    madeAt: now,
  })

/** A booking of a warehouse as iCalendar; null where there is none. */
export async function calendarOf(
  db: Knex,
  warehouse: Warehouse,
  id: BookedCollectionId,
): Promise<{ readonly name: string; readonly text: string } | null> {
  const row = await read(db, id)
  if (!row || row.warehouse_id !== warehouse.id) return null
  const ask = askSchema.parse(parsed(row.held ?? row.ask))
  return {
    name: `collection-${row.id}.ics`,
    text: bookingCalendar(row, warehouse, ask, row.state === "cancelled", row.asked_at),
  }
}
