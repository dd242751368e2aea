import { businessDaysBetween, localDate, type WorkingDays } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import type { Topic } from "core/telling/index.ts"
import {
  type EventKind,
  eventsKeptDays,
  type Followed,
  follow,
  isEnded,
  type Needed,
  needsOf,
  type TrackingEvent,
} from "core/tracking/index.ts"
import type { Knex } from "knex"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { TrackedUnitRow, TrackingEventRow } from "../db/tables.ts"
import { membersOf } from "../orders/joined.ts"
import { reportDelivered } from "../reports/index.ts"
import { tell } from "../telling/tell.ts"
import { chancesOf, measureDelivered, unmeasure } from "./measured.ts"

/** Who tells what a program found out. */
const program = { userId: null, name: "" }

/** How long a unit is left alone at most, until time itself says something new of it. */
const lookEveryMs = 3_600_000

export const eventOf = (row: EventRow): TrackingEvent => ({
  key: row.once_key,
  kind: row.kind as EventKind | null,
  at: row.at,
  place: row.place,
  estimatedOn: row.estimated_on,
  name: row.name,
  from: row.way === "own" || row.way === "typed" ? row.way : "carrier",
})

/** What an event is told of: a unit of ours, a package by its tracking number, or a whole shipment by its master number. */
const keyOfEvent = (event: Pick<EventRow, "unit_id" | "carrier_id" | "tracking" | "master">): string => {
  if (event.unit_id !== null) return `unit ${event.unit_id}`
  return event.tracking === ""
    ? `master ${event.carrier_id} ${event.master}`
    : `tracking ${event.carrier_id} ${event.tracking}`
}

/** By what events are told of a unit. */
const keysOfUnit = (unit: TrackedUnitRow): readonly string[] => [
  `unit ${unit.id}`,
  ...(unit.carrier_id === null ? [] : [`tracking ${unit.carrier_id} ${unit.tracking}`]),
  ...(unit.carrier_id === null || unit.master === "" ? [] : [`master ${unit.carrier_id} ${unit.master}`]),
]

/** Events that were told of units, or of their whole shipments. */
export const eventsAbout = (db: Knex, units: readonly TrackedUnitRow[]) => {
  const carried = units.filter((one) => one.carrier_id !== null)
  return db("tracking_event").where((any) => {
    any.whereIn(
      "unit_id",
      units.map((one) => one.id),
    )
    if (carried.length > 0)
      any
        .orWhereIn(
          ["carrier_id", "tracking"],
          carried.filter((one) => one.tracking !== "").map((one) => [one.carrier_id as number, one.tracking]),
        )
        .orWhereIn(
          ["carrier_id", "master"],
          carried.filter((one) => one.master !== "").map((one) => [one.carrier_id as number, one.master]),
        )
  })
}

/** Events by the units that they were told of, each with those of its whole shipment, in their own order. */
function byUnit(units: readonly TrackedUnitRow[], rows: readonly EventRow[]): Map<number, EventRow[]> {
  const told = grouped(
    rows.map((row, at) => ({ row, at })),
    ({ row }) => keyOfEvent(row),
  )
  return new Map(
    units.map((unit) => [
      unit.id,
      keysOfUnit(unit)
        .flatMap((key) => told.get(key) ?? [])
        .sort((one, other) => one.at - other.at)
        .map(({ row }) => row),
    ]),
  )
}

/** All events of units, as they happened. */
async function eventsOf(trx: Knex, units: readonly TrackedUnitRow[]): Promise<Map<number, EventRow[]>> {
  return byUnit(
    units,
    await eventsAbout(trx, units)
      .orderBy("at")
      .orderBy("id")
      .select(...columns),
  )
}

/** All of an event but its picture, which is large. */
export type EventRow = Omit<TrackingEventRow, "picture">

const columns = [
  "id",
  "once_key",
  "carrier_id",
  "unit_id",
  "way",
  "tracking",
  "master",
  "code",
  "kind",
  "at",
  "zone_offset",
  "place",
  "postal_code",
  "country",
  "text",
  "estimated_on",
  "name",
  "strokes",
  "picture_media",
  "taken_at",
  "known",
] as const satisfies readonly (keyof EventRow)[]

/** Events that are shown of a unit, on the average. */
const shownOfUnit = 40

/** Events of units to be shown, the latest first: no more than somebody would read, however many a carrier sent. */
export async function eventsOfUnits(db: Knex, units: readonly TrackedUnitRow[]): Promise<Map<number, EventRow[]>> {
  if (units.length === 0) return new Map()
  const rows = await eventsAbout(db, units)
    .orderBy("at", "desc")
    .orderBy("id", "desc")
    .limit(200 + units.length * shownOfUnit)
    .select(...columns)
  return byUnit(units, rows)
}

/** Units that are worked out in one transaction: it holds their orders. */
const unitsAtOnce = 20

/**
 * Works out anew where units stand, by all that was told of them and by the time, and what of it a person has to see to.
 * The same again changes nothing.
 */
export async function followAll(db: Knex, ids: readonly number[], now: Date): Promise<void> {
  for (let at = 0; at < ids.length; at += unitsAtOnce) {
    const some = ids.slice(at, at + unitsAtOnce)
    // before the transaction: it sees what was there at its first plain read, which must come after it holds its orders
    const orders: number[] = await db("tracked_unit").whereIn("id", some).distinct("order_id").pluck("order_id")
    await inTransaction(db, (trx) => followUnits(trx, some, orders, now))
  }
}

async function followUnits(trx: Knex, ids: readonly number[], orders: readonly number[], now: Date): Promise<void> {
  await trx("sales_order")
    .whereIn("id", [...orders])
    .orderBy("id")
    .forUpdate()
    .select("id")
  // of what ended so long ago nobody has the events any more: it stays as it is
  const kept = new Date(now.getTime() - eventsKeptDays * 86_400_000)
  const units = await trx("tracked_unit")
    .whereIn("id", [...ids])
    .whereNull("void_at")
    .where((any) =>
      any.whereNotIn("state", ["delivered", "returned"]).orWhereNull("seen_at").orWhere("seen_at", ">", kept),
    )
    .orderBy("id")
    .forUpdate()
  const events = await eventsOf(trx, units)
  const carriers = await trx("carrier")
    .whereIn(
      "id",
      units.flatMap((one) => one.carrier_id ?? []),
    )
    .select("id", "holidays")
  const chances = await chancesOf(trx, units, now)
  for (const unit of units) {
    const rows = events.get(unit.id) ?? []
    const followed = follow(rows.map(eventOf))
    const holidays = carriers.find((one) => one.id === unit.carrier_id)?.holidays
    await settleUnit(trx, unit, followed, rows, { now, chance: chances(unit), days: workingDays(holidays) })
  }
}

const workingDays = (holidays: unknown): WorkingDays => ({
  saturday: false,
  holidays: new Set(
    (typeof holidays === "string" ? (JSON.parse(holidays) as string[]) : ((holidays ?? []) as string[])) as never[],
  ),
})

interface At {
  readonly now: Date
  readonly days: WorkingDays
  /** The chance that it is late, as it stands. */
  readonly chance: (followed: Followed, days: WorkingDays) => number | null
}

async function settleUnit(
  trx: Knex,
  unit: TrackedUnitRow,
  followed: Followed,
  rows: readonly EventRow[],
  { now, days, chance }: At,
): Promise<void> {
  const { delivered } = followed
  const today = localDate(now, unit.zone)
  const needed =
    unit.kind === "return"
      ? []
      : needsOf(followed, {
          now,
          today,
          leftAt: unit.left_at ?? followed.seenAt,
          dueOn: unit.due_on,
          chance: chance(followed, days),
          businessDaysSince: (from) => businessDaysBetween(localDate(from, unit.zone), today, days),
        })
  const changed =
    followed.state !== unit.state || (delivered?.at.getTime() ?? 0) !== (unit.delivered_at?.getTime() ?? 0)
  await trx("tracked_unit")
    .where({ id: unit.id })
    .update({
      state: followed.state,
      since: followed.since,
      seen_at: followed.seenAt,
      place: followed.place,
      estimated_on: followed.estimatedOn,
      delivered_at: delivered?.at ?? null,
      delivered_to: delivered?.name ?? "",
      look_at: isEnded(followed.state) || unit.kind === "return" ? null : new Date(now.getTime() + lookEveryMs),
    })
  if (unit.package_id !== null && (delivered !== null) !== (unit.delivered_at !== null))
    await trx("package")
      .where((own) => own.where("id", unit.package_id).orWhere("parent_id", unit.package_id))
      .update({ delivered_at: delivered?.at ?? null })
  const opened = await settleCases(trx, unit, needed, now)
  if (delivered && unit.kind !== "return") await measureDelivered(trx, unit, rows.map(eventOf), delivered.at, days)
  else if (unit.delivered_at !== null) await unmeasure(trx, unit)
  if (unit.kind === "elsewhere") await settleElsewhere(trx, unit.order_id)
  if (unit.kind !== "return") await tellReceiver(trx, unit, followed, needed, now)
  if (!changed && opened.length === 0) return
  await tellStory(trx, unit, followed, opened, now)
}

/** Tells the customer what is new for him: each once, whatever the number of packages. */
async function tellReceiver(
  trx: Knex,
  unit: TrackedUnitRow,
  followed: Followed,
  needed: readonly Needed[],
  now: Date,
): Promise<void> {
  const orders = unit.kind === "package" ? await membersOf(trx, unit.order_id) : [unit.order_id]
  const all = async (topic: Topic, more: Parameters<typeof tell>[4] = {}) => {
    for (const orderId of orders) await tell(trx, orderId, topic, now, more)
  }
  const late = needed.find((one) => one.kind === "late")?.figures.estimated
  if (late) await all("delayed", { of: late, told: { expected_on: late } })
  if (followed.state === unit.state) return
  if (followed.state === "out-for-delivery") await all("out-for-delivery")
  if (followed.state === "ready")
    await all("ready", { of: unit.name, told: { counter: followed.place || unit.carrier } })
  if (followed.state !== "delivered") return
  const open = await trx("tracked_unit")
    .where({ order_id: unit.order_id })
    .whereNot({ kind: "return" })
    .whereNull("void_at")
    .whereNull("delivered_at")
    .first("id")
  if (open || !followed.delivered) return
  await all("delivered")
  const { at, name } = followed.delivered
  const units = await trx("tracked_unit")
    .where({ order_id: unit.order_id })
    .whereNot({ kind: "return" })
    .whereNull("void_at")
    .orderBy("piece")
    .pluck("tracking")
  for (const orderId of orders) await reportDelivered(trx, orderId, { at, name, tracking: units }, now)
}

/** An order of others is delivered once all its numbers are. */
async function settleElsewhere(trx: Knex, orderId: OrderId): Promise<void> {
  const units = await trx("tracked_unit").where({ order_id: orderId, kind: "elsewhere" }).select("delivered_at")
  const last = units.reduce<Date | null>(
    (at, one) => (one.delivered_at && (!at || one.delivered_at > at) ? one.delivered_at : at),
    null,
  )
  await trx("outside_order")
    .where({ order_id: orderId })
    .update({ delivered_at: units.length > 0 && units.every((one) => one.delivered_at) ? last : null })
}

/** Opens a case for what is new, ends those whose cause is gone, and wakes watched ones; answers which are new. */
async function settleCases(trx: Knex, unit: TrackedUnitRow, needed: readonly Needed[], now: Date): Promise<Needed[]> {
  const known = await trx("tracking_case").where({ unit_id: unit.id }).forUpdate()
  const opened: Needed[] = []
  for (const one of needed) {
    const same = known.find((row) => row.kind === one.kind && row.since_key === one.key)
    if (!same) {
      // what was late already, and still is by another day, is no second case
      const before = known.find((row) => row.kind === one.kind && (row.state === "open" || row.state === "watched"))
      if (before) {
        await trx("tracking_case")
          .where({ id: before.id })
          .update({ since_key: one.key, figures: JSON.stringify(one.figures) })
        before.since_key = one.key
        continue
      }
      await trx("tracking_case").insert({
        warehouse_id: unit.warehouse_id,
        order_id: unit.order_id,
        unit_id: unit.id,
        kind: one.kind,
        since_key: one.key,
        figures: JSON.stringify(one.figures),
        opened_at: now,
      })
      opened.push(one)
    } else if (same.state === "over") {
      await trx("tracking_case")
        .where({ id: same.id })
        .update({ state: "open", figures: JSON.stringify(one.figures) })
      same.state = "open"
    } else if (same.state === "watched" && same.watch_until && same.watch_until <= now) {
      await trx("tracking_case").where({ id: same.id }).update({ state: "open", watch_until: null })
    } else
      await trx("tracking_case")
        .where({ id: same.id })
        .update({ figures: JSON.stringify(one.figures) })
  }
  const open = known.filter((row) => row.state === "open" || row.state === "watched")
  const over = open.filter((row) => !needed.some((one) => one.kind === row.kind && one.key === row.since_key))
  if (over.length > 0)
    await trx("tracking_case")
      .whereIn(
        "id",
        over.map((row) => row.id),
      )
      .update({ state: "over", told_at: now })
  return opened
}

/** Writes what is new into the story of the orders it is of, and shows it to whoever is looking. */
async function tellStory(
  trx: Knex,
  unit: TrackedUnitRow,
  followed: Followed,
  opened: readonly Needed[],
  now: Date,
): Promise<void> {
  const { delivered } = followed
  const isNew = delivered !== null && unit.delivered_at === null
  const members = unit.kind === "package" ? await membersOf(trx, unit.order_id) : [unit.order_id]
  for (const orderId of members) {
    if (isNew)
      await record(trx, program, now, {
        action: unit.kind === "return" ? "tracking.came-back" : "tracking.delivered",
        orderId,
        detail: { package: unit.name, name: delivered.name === "" ? "none" : delivered.name },
      })
    for (const one of opened)
      await record(trx, program, now, {
        action: "tracking.trouble",
        orderId,
        // selectors of messages have no hyphens
        detail: { package: unit.name, carrier: unit.carrier, kind: one.kind.replaceAll("-", "_") },
      })
    if (!isNew && opened.length === 0) await announce(trx, { orderId })
  }
}
