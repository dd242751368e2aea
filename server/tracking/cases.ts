import type { OrderId, TrackedUnitId, TrackingCaseId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { type Need, needs, type TrackingState } from "core/tracking/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { likeInAnyCase } from "../db/words.ts"

export interface TrackingCase {
  readonly id: TrackingCaseId
  readonly kind: Need
  readonly figures: Readonly<Record<string, string>>
  readonly state: "open" | "watched" | "let-go" | "over"
  readonly openedAt: Date
  readonly watchUntil: Date | null
  readonly note: string
  readonly by: string
  readonly unit: {
    readonly id: TrackedUnitId
    readonly name: string
    readonly tracking: string
    readonly carrier: string
    readonly state: TrackingState
    readonly place: string
    readonly seenAt: Date | null
    readonly dueOn: string | null
    readonly estimatedOn: string | null
    /** Whether a carrier of ours has it, so that he can be told something. */
    readonly ours: boolean
  }
  readonly orderNumber: string
  readonly customer: string
  readonly company: string
  readonly place: string
  readonly phone: string
  readonly readdressed: "waiting" | "taken" | "refused" | null
}

export interface CaseSearch {
  readonly text: string
  readonly kind: Need | ""
  readonly state: "open" | "watched" | "let-go" | "over"
  readonly page: number
}

/** Cases on a page. */
export const casesAtOnce = 50

const listed = (db: Knex, warehouseId: WarehouseId) =>
  db("tracking_case as c")
    .join("tracked_unit as u", "u.id", "c.unit_id")
    .join("sales_order as o", "o.id", "c.order_id")
    .where("c.warehouse_id", warehouseId)
    .select(
      "c.*",
      "u.name",
      "u.tracking",
      "u.carrier",
      "u.carrier_id",
      "u.state as unit_state",
      "u.place as unit_place",
      "u.seen_at",
      "u.due_on",
      "u.estimated_on",
      "o.order_number",
      "o.customer_name",
      "o.company",
      "o.city",
      "o.state as ship_state",
      "o.phone",
      db.raw(
        "(SELECT r.state FROM tracking_readdress r WHERE r.unit_id = u.id ORDER BY r.id DESC LIMIT 1) AS readdressed",
      ),
    )

type Listed = Awaited<ReturnType<typeof listed>>[number]

const fromRow = (row: Listed): TrackingCase => ({
  id: row.id,
  kind: row.kind as Need,
  figures: parsed(row.figures),
  state: row.state,
  openedAt: row.opened_at,
  watchUntil: row.watch_until,
  note: row.note,
  by: row.told_by,
  unit: {
    id: row.unit_id,
    name: row.name,
    tracking: row.tracking,
    carrier: row.carrier,
    state: row.unit_state,
    place: row.unit_place,
    seenAt: row.seen_at,
    dueOn: row.due_on,
    estimatedOn: row.estimated_on,
    ours: row.carrier_id !== null,
  },
  orderNumber: row.order_number,
  customer: row.customer_name,
  company: row.company,
  place: [row.city, row.ship_state].filter(Boolean).join(", "),
  phone: row.phone,
  readdressed: (row as unknown as { readdressed: TrackingCase["readdressed"] }).readdressed,
})

/** What a person has to see to, what matters most first; one more than a page where there are more. */
export async function searchCases(db: Knex, warehouseId: WarehouseId, search: CaseSearch): Promise<TrackingCase[]> {
  const query = listed(db, warehouseId)
    .where("c.state", search.state)
    .orderByRaw(`FIELD(c.kind, ${urgency.map(() => "?").join(", ")})`, urgency)
    .orderBy("c.id", search.state === "open" ? "asc" : "desc")
    .limit(casesAtOnce + 1)
    .offset((search.page - 1) * casesAtOnce)
  if (search.kind) query.where("c.kind", search.kind)
  const text = search.text.trim()
  if (text) {
    const like = `%${text.replace(/[\\%_]/g, "\\$&")}%`
    query.where((any) => {
      any.where("o.order_number", text).orWhere("u.tracking", text).orWhere("u.name", text)
      for (const column of ["o.company", "o.customer_name", "u.carrier"])
        any.orWhereRaw(likeInAnyCase(db, column, like))
    })
  }
  return (await query).map(fromRow)
}

/** In which order a person sees to them: what stands still for us, what is lost, what comes late. */
const urgency = [
  "address",
  "customs",
  "refused",
  "attempted",
  "damaged",
  "lost",
  "returning",
  "late",
  "not-seen",
  "no-movement",
  "not-fetched",
  "likely-late",
] as const satisfies readonly Need[]

/** How many are open, by kind; of a whole warehouse. */
export async function openCases(db: Knex, warehouseId: WarehouseId): Promise<ReadonlyMap<Need, number>> {
  const rows = await db("tracking_case")
    .where({ warehouse_id: warehouseId, state: "open" })
    .groupBy("kind")
    .select("kind")
    .count({ n: "*" })
  return new Map(rows.map((row) => [row.kind as Need, Number((row as { n?: unknown }).n)]))
}

/** What a person has to see to of an order's packages. */
export const casesOf = async (db: Knex, warehouseId: WarehouseId, orderId: OrderId): Promise<TrackingCase[]> =>
  (
    await listed(db, warehouseId).where("c.order_id", orderId).whereIn("c.state", ["open", "watched"]).orderBy("c.id")
  ).map(fromRow)

export const caseForm = z.object({
  until: z.enum(["4h", "1d", "3d"]).default("1d"),
  note: z.string().trim().max(200).default(""),
})
const watchMs = { "4h": 4 * 3_600_000, "1d": 86_400_000, "3d": 3 * 86_400_000 } as const

/** Puts cases aside for a while: they come back by themselves where nothing was mended meanwhile. Safe to repeat. */
export async function watchCases(
  context: Context,
  ids: readonly number[],
  said: z.infer<typeof caseForm>,
): Promise<Outcome<{ readonly cases: number }>> {
  return settle(context, ids, async (trx, row) => {
    const until = new Date(context.now.getTime() + watchMs[said.until])
    await trx("tracking_case").where({ id: row.id }).update({
      state: "watched",
      watch_until: until,
      note: said.note,
      told_by: context.actor.name,
      told_at: context.now,
    })
    // it is looked at when its time is over, not an hour later
    await trx("tracked_unit").where({ id: row.unit_id }).whereNotNull("look_at").update({ look_at: until })
    return "tracking.watched"
  })
}

/** Lets cases go for good, with a reason: the same cause brings them back no more. */
export async function letCasesGo(
  context: Context,
  ids: readonly number[],
  why: string,
): Promise<Outcome<{ readonly cases: number }>> {
  const note = why.trim().slice(0, 200)
  if (note === "") return refused(reason("tracking.no-reason", { field: "note" }))
  return settle(context, ids, async (trx, row) => {
    await trx("tracking_case")
      .where({ id: row.id })
      .update({ state: "let-go", watch_until: null, note, told_by: context.actor.name, told_at: context.now })
    return "tracking.let-go"
  })
}

/** So many cases are settled at once. */
const mostCases = 200

async function settle(
  { db, actor, now }: Context,
  ids: readonly number[],
  does: (
    trx: Knex,
    row: { readonly id: number; readonly unit_id: number },
  ) => Promise<"tracking.watched" | "tracking.let-go">,
): Promise<Outcome<{ readonly cases: number }>> {
  authorise(actor, "orders.work")
  if (ids.length === 0) return refused(reason("tracking.choose"))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly cases: number }>> => {
    const rows = await trx("tracking_case as c")
      .join("tracked_unit as u", "u.id", "c.unit_id")
      .where("c.warehouse_id", actor.warehouseId)
      .whereIn("c.id", ids.slice(0, mostCases))
      .whereIn("c.state", ["open", "watched"])
      .orderBy("c.id")
      .forUpdate()
      .select("c.id", "c.unit_id", "c.order_id", "c.kind", "u.name", "u.carrier")
    for (const row of rows) {
      const action = await does(trx, row)
      await record(trx, actor, now, {
        action,
        orderId: row.order_id,
        detail: { package: row.name, kind: row.kind },
      })
    }
    return accepted({ cases: rows.length })
  })
}

export const isNeed = (text: string): text is Need => (needs as readonly string[]).includes(text)
