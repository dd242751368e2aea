import { isLocalDate, localDate } from "core/calendar/index.ts"
import { wallTime } from "core/calendar/schema.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { onTheLine, replanAll } from "../plan/plan.ts"
import { ensureCollections } from "../setup/collections.ts"
import { type Holiday, publicHolidays } from "../setup/holidays.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"

/** The most people that one warehouse may have at work. */
const mostHands = 99

/** Sets how many people are at work today, whatever the shifts say; null: as the shifts say. Safe to repeat. */
export async function setHands(context: Context, warehouse: Warehouse, hands: number | null): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "hands.set")
  if (hands !== null && !(Number.isInteger(hands) && hands >= 1 && hands <= mostHands))
    return refused(reason("shifts.hands", { most: mostHands }))
  const at = { warehouse_id: warehouse.id, on_date: localDate(now, warehouse.zone) }
  await inTransaction(db, async (trx) => {
    const before = await trx("day_exception").where(at).forUpdate().first("hands")
    if ((before?.hands ?? null) === hands) return
    await trx("day_exception")
      .insert({ ...at, hands })
      .onConflict(["warehouse_id", "on_date"])
      .merge({ hands })
    await record(trx, actor, now, {
      action: hands === null ? "work.hands-as-shifts" : "work.hands-set",
      warehouseId: warehouse.id,
      detail: { name: warehouse.name, hands },
    })
  })
  return accepted(null)
}

const figure = z.coerce.number({ error: "shifts.figure" }).min(0, "shifts.figure").max(999, "shifts.figure")
const time = wallTime("shifts.time")
const people = z.union([z.literal("").transform(() => null), z.coerce.number().int().min(1).max(mostHands)], {
  error: "shifts.people",
})

export const workForm = z.object({
  version: z.coerce.number().int(),
  hands: z.coerce
    .number({ error: "shifts.people" })
    .int("shifts.people")
    .min(1, "shifts.people")
    .max(mostHands, "shifts.people"),
  hand_hour: z
    .string()
    .trim()
    .regex(/^\d{1,4}(\.\d{1,2})?$/, "shifts.hour"),
  leave_policy: z.enum(["soonest", "latest"], { error: "shifts.policy" }),
  per_order: figure,
  per_bin: figure,
  per_line: figure,
  per_package: figure,
  per_paper: figure,
  periods: z
    .array(z.object({ kind: z.enum(["shift", "break"]), starts: time, ends: time, hands: people }))
    .max(20, "shifts.time")
    .refine((list) => list.some((one) => one.kind === "shift"), "shifts.no-shift")
    .refine((list) => list.every((one) => one.starts !== one.ends), "shifts.time"),
})
export type WorkForm = z.infer<typeof workForm>

/**
 * Sets the actor's warehouse's shifts and breaks, its people, the coefficients of minutes and when goods leave, and plans
 * the open orders again. Refused when somebody else changed them meanwhile.
 */
export async function saveWork(context: Context, form: WorkForm): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const saved = await inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const row = there(await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().first("version", "name"))
    if (row.version !== form.version) return refused(reason("shifts.changed-meanwhile"))
    await trx("warehouse")
      .where({ id: actor.warehouseId })
      .update({
        version: form.version + 1,
        hands: form.hands,
        hand_hour: form.hand_hour,
        leave_policy: form.leave_policy,
        work_per_order: form.per_order,
        work_per_bin: form.per_bin,
        work_per_line: form.per_line,
        work_per_package: form.per_package,
        work_per_paper: form.per_paper,
      })
    await trx("work_period").where({ warehouse_id: actor.warehouseId }).delete()
    await trx("work_period").insert(form.periods.map((one) => ({ ...one, warehouse_id: actor.warehouseId })))
    await record(trx, actor, now, {
      action: "work.changed",
      warehouseId: actor.warehouseId,
      detail: { name: row.name, hands: form.hands },
    })
    return accepted(null)
  })
  if (saved.ok) await planAnew(context)
  return saved
}

/** A day on which a warehouse is closed, or might be: a public holiday there. */
export interface CalendarDay extends Holiday {
  readonly closed: boolean
}

/** The public holidays of a warehouse's place in this year and the next, and its own closed days, from today on. */
export async function calendarDays(db: Knex, warehouse: Warehouse, now: Date): Promise<CalendarDay[]> {
  const today = localDate(now, warehouse.zone)
  const year = Number(today.slice(0, 4))
  const closed = await db("day_exception")
    .where({ warehouse_id: warehouse.id, closed: true })
    .where("on_date", ">=", today)
    .select("on_date", "name")
  const days = new Map<string, CalendarDay>()
  for (const day of [year, year + 1].flatMap((one) => publicHolidays(warehouse.country, warehouse.state, one)))
    if (day.date >= today) days.set(day.date, { ...day, closed: false })
  for (const day of closed)
    days.set(day.on_date, { date: day.on_date, name: day.name || (days.get(day.on_date)?.name ?? ""), closed: true })
  return [...days.values()].sort((a, b) => a.date.localeCompare(b.date))
}

/**
 * Closes the actor's warehouse on a day, or opens it again. Its collections of that day go, unless goods are labeled
 * for them, and the open orders are planned again. Refused for a day that is gone or on which goods are labeled.
 */
export async function closeDay(context: Context, date: string, name: string, closed: boolean): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const warehouse = await warehouseById(db, actor.warehouseId)
  if (!isLocalDate(date) || date < localDate(now, warehouse.zone))
    return refused(reason("shifts.day-gone", { day: date }))
  const saved = await inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const at = { warehouse_id: warehouse.id, on_date: date }
    if (closed) {
      const taken = await trx("collection as c")
        .where(at)
        .where((used) =>
          used
            .whereNotNull("c.closed_at")
            .orWhereExists(trx("package as p").whereRaw("p.collection_id = c.id").select(trx.raw("1")))
            .orWhereExists(trx("shipment as h").whereRaw("h.collection_id = c.id").select(trx.raw("1"))),
        )
        .first("c.door")
      if (taken) return refused(reason("shifts.day-used", { day: date, door: taken.door }))
      const gone = await trx("collection").where(at).pluck("id")
      await trx("sales_order").whereIn("collection_id", gone).update({ collection_id: null })
      await trx("collection").whereIn("id", gone).delete()
    }
    await trx("day_exception")
      .insert({ ...at, closed, name: name.slice(0, 60) })
      .onConflict(["warehouse_id", "on_date"])
      .merge({ closed, name: name.slice(0, 60) })
    await record(trx, actor, now, {
      action: closed ? "work.day-closed" : "work.day-opened",
      warehouseId: warehouse.id,
      detail: { name: warehouse.name, day: date },
    })
    return accepted(null)
  })
  if (saved.ok) await planAnew(context)
  return saved
}

async function planAnew({ db, actor, now }: Context): Promise<void> {
  const warehouse = await warehouseById(db, actor.warehouseId)
  await ensureCollections(db, warehouse, now)
  await replanAll(db, warehouse.id, await onTheLine(db, warehouse.id), now)
  await announce(db, { warehouseId: warehouse.id })
}
