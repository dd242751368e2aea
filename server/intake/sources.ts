import type { SourceId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"
import { recheckWhere } from "../decisions/again.ts"
import { type Mapping, mapped, mapping } from "../formats/mapping.ts"
import { readRow } from "../formats/orderRow.ts"
import { Catalogue } from "./catalogue.ts"
import { type Source, sourceFromRow, wishOf } from "./source.ts"

/** A source as its list shows it: how it was run last, and what came of it. */
export interface SourceRow extends Source {
  readonly warehouse: string | null
  readonly warehouseId: WarehouseId | null
  readonly folder: string | null
  readonly pullUrl: string | null
  readonly reportUrl: string | null
  /** Whether it is told what the freight cost us, beside what is charged. */
  readonly reportCost: boolean
  readonly everySeconds: number
  readonly ranAt: Date | null
  readonly trouble: string | null
  readonly orders: number
  readonly refusedRows: number
  /** The last intake with refused rows. */
  readonly lastIntake: number | null
  /** The last file that could not be read at all, with its reason, until somebody has seen it. */
  readonly refusedFile: {
    readonly id: number
    readonly name: string
    readonly reason: Reason
    readonly at: Date
  } | null
}

/** All sources with their counts, of the warehouse where the actor is. */
export async function sources({ db, actor }: Context): Promise<SourceRow[]> {
  authorise(actor, "orders.work")
  const rows = await db("order_source as s")
    .leftJoin("warehouse as w", "w.id", "s.pull_warehouse_id")
    .orderBy("s.name")
    .select("s.*", "w.name as warehouse")
  const sums = await db("intake_file")
    .where({ warehouse_id: actor.warehouseId })
    .groupBy("source_id")
    .select<{ source_id: number; refused: number; last: number | null }[]>(
      "source_id",
      db.raw("SUM(refused_count) AS refused"),
      db.raw("MAX(IF(refused_count > 0, id, NULL)) AS last"),
    )
  const orders = await db("sales_order")
    .where({ warehouse_id: actor.warehouseId })
    .groupBy("source_id")
    .select<{ source_id: number; n: number }[]>("source_id", db.raw("COUNT(*) AS n"))
  const files = await db("intake_refusal").whereNull("seen_at").where({ warehouse_id: actor.warehouseId }).orderBy("id")
  return rows.map((row): SourceRow => {
    const of = <Row extends { source_id: number }>(some: readonly Row[]) => some.find((one) => one.source_id === row.id)
    const file = files.findLast((one) => one.source_id === row.id)
    return {
      ...sourceFromRow(row),
      warehouse: row.warehouse,
      warehouseId: row.pull_warehouse_id,
      folder: row.folder,
      pullUrl: row.pull_url,
      reportUrl: row.report_url,
      reportCost: !!row.report_cost,
      everySeconds: row.pull_every_s,
      ranAt: row.ran_at,
      trouble: row.run_trouble,
      orders: Number(of(orders)?.n ?? 0),
      refusedRows: Number(of(sums)?.refused ?? 0),
      lastIntake: of(sums)?.last ?? null,
      refusedFile: file ? { id: file.id, name: file.name, reason: parsed<Reason>(file.reason), at: file.at } : null,
    }
  })
}

/** Puts the note of a file that could not be read away. Safe to repeat. */
export async function seenRefusedFile({ db, actor, now }: Context, id: number): Promise<void> {
  authorise(actor, "orders.work")
  await db("intake_refusal")
    .where({ id, warehouse_id: actor.warehouseId })
    .whereNull("seen_at")
    .update({ seen_at: now })
}

const states = z
  .string()
  .max(400)
  .transform((text) => [
    ...new Set(
      text
        .split(/[,\n]/)
        .map((one) => one.trim().toLowerCase())
        .filter(Boolean),
    ),
  ])
const address = z.union(
  [
    z.literal(""),
    z
      .string()
      .trim()
      .max(300)
      .regex(/^https?:\/\/[^\s"<>]+$/, { error: "source.address" }),
  ],
  {
    error: "source.address",
  },
)

/** A source as the setup's form gives it. */
export const sourceForm = z.object({
  code: z
    .string()
    .trim()
    .toLowerCase()
    .regex(/^[a-z0-9][a-z0-9-]{1,23}$/, { error: "source.code" }),
  name: z.string().trim().min(1, { error: "source.name" }).max(60, { error: "source.name" }),
  kind: z.enum(["upload", "folder", "pull"], { error: "source.kind" }),
  version: z.coerce.number().int().default(0),
  active: z.literal("on").optional(),
  warehouse: z.coerce.number().int().positive(),
  folder: z
    .string()
    .trim()
    .toLowerCase()
    .regex(/^([a-z0-9][a-z0-9-]{0,39})?$/, { error: "source.folder" })
    .default(""),
  pull_url: address.default(""),
  routing: z.enum(["own", "nearest"]).default("own"),
  every: z.coerce.number().int().min(10, { error: "source.every" }).max(86_400, { error: "source.every" }).default(60),
  report_url: address.default(""),
  record_url: address.default(""),
  ship_states: states.default([]),
  cancelled_states: states.default([]),
})
export type SourceForm = z.infer<typeof sourceForm>

/**
 * Adds a source, or changes one (its version tells which state the form showed). Refused: a kind without what it needs,
 * a folder that another source has, a state that both ships and cancels, somebody else's change meanwhile.
 */
export async function saveSource(
  context: Context,
  form: SourceForm,
  fresh: boolean,
): Promise<Outcome<{ code: string }>> {
  const { db, actor, now } = context
  authorise(actor, "sources.manage")
  if (form.kind === "folder" && !form.folder) return refused(reason("source.needs-folder"))
  if (form.kind === "pull" && !form.pull_url) return refused(reason("source.needs-address"))
  const both = form.ship_states.find((state) => form.cancelled_states.includes(state))
  if (both) return refused(reason("source.state-twice", { state: both }))
  const fields = {
    name: form.name,
    active: form.active === "on",
    pull_warehouse_id: form.warehouse,
    folder: form.kind === "folder" ? form.folder : null,
    pull_url: form.kind === "pull" ? form.pull_url : null,
    pull_every_s: form.every,
    routing: form.routing,
    report_url: form.report_url || null,
    record_url: form.record_url || null,
    ship_states: JSON.stringify(form.ship_states),
    cancelled_states: JSON.stringify(form.cancelled_states),
  }
  const saved = await inTransaction(db, async (trx): Promise<Outcome<number>> => {
    if (!(await trx("warehouse").where({ id: form.warehouse }).first("id"))) return refused(reason("source.warehouse"))
    const row = await trx("order_source").where({ code: form.code }).forUpdate().first()
    const twin = fields.folder ? await trx("order_source").where({ folder: fields.folder }).first("code", "name") : null
    if (twin && twin.code !== form.code) return refused(reason("source.folder-taken", { name: twin.name }))
    if (fresh) {
      if (row) return refused(reason("source.code-taken", { code: form.code }))
      const id = newId(await trx("order_source").insert({ code: form.code, kind: form.kind, ...fields }))
      await record(trx, actor, now, { action: "source.added", detail: { name: form.name } })
      return accepted(id)
    }
    if (!row) return refused(reason("source.unknown", { code: form.code }))
    if (row.version !== form.version) return refused(reason("source.changed-meanwhile", { name: row.name }))
    // a source keeps its kind: its orders and cursor hang on it. The address of one that is asked may change.
    await trx("order_source")
      .where({ id: row.id })
      .update({
        ...fields,
        ...(row.kind === "pull" ? {} : { pull_url: row.pull_url }),
        ...(row.kind === "folder" ? {} : { folder: row.folder }),
        version: row.version + 1,
      })
    await record(trx, actor, now, { action: "source.changed", detail: { name: form.name } })
    return accepted(row.id)
  })
  if (!saved.ok) return saved
  await applyStates(context, saved.value)
  return accepted({ code: form.code })
}

/** Open orders wait or ship by their source's states as they are set up now. */
async function applyStates(context: Context, sourceId: SourceId): Promise<void> {
  const { db } = context
  const source = sourceFromRow(there(await db("order_source").where({ id: sourceId }).first()))
  const orders = await db("sales_order")
    .where({ source_id: sourceId })
    .whereNull("left_line_at")
    .whereNot({ source_state: "" })
    .select("id", "source_state", "source_waits")
  const changed = orders.filter((order) => (wishOf(source, order.source_state) === "wait") !== !!order.source_waits)
  for (const order of changed)
    await db("sales_order").where({ id: order.id }).update({ source_waits: !order.source_waits })
  if (changed.length > 0)
    await recheckWhere(context, (query) =>
      query.whereIn(
        "o.id",
        changed.map((order) => order.id),
      ),
    )
}

export interface Sample {
  readonly name: string
  readonly header: readonly string[]
  readonly rows: readonly Readonly<Record<string, string>>[]
}

/** Keeps the first rows of a file for setting up a source's mapping. */
export async function keepSample({ db, actor }: Context, code: string, sample: Sample): Promise<void> {
  authorise(actor, "sources.manage")
  await db("order_source")
    .where({ code })
    .update({ sample: JSON.stringify(sample) })
}

export async function sampleOf(db: Knex, code: string): Promise<Sample | null> {
  const row = await db("order_source").where({ code }).first("sample")
  return row?.sample ? parsed<Sample>(row.sample) : null
}

/** Sets how a source writes its CSV files, or, with null, that it writes them as ours are. */
export async function saveMapping(
  { db, actor, now }: Context,
  code: string,
  version: number,
  by: Mapping | null,
): Promise<Outcome<null>> {
  authorise(actor, "sources.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const row = await trx("order_source").where({ code }).forUpdate().first("id", "name", "version")
    if (!row) return refused(reason("source.unknown", { code }))
    if (row.version !== version) return refused(reason("source.changed-meanwhile", { name: row.name }))
    await trx("order_source")
      .where({ id: row.id })
      .update({ mapping: by ? JSON.stringify(mapping.parse(by)) : null, version: version + 1 })
    await record(trx, actor, now, { action: "source.mapped", detail: { name: row.name } })
    return accepted(null)
  })
}

/** A row of a sample as the mapping makes it, and what would be refused of it. */
export interface MappedRow {
  readonly fields: Readonly<Record<string, string>>
  readonly refusals: readonly Reason[]
}

/** What a mapping makes of a sample's rows; nothing is kept. */
export async function tryMapping(db: Knex, sample: Sample, by: Mapping): Promise<MappedRow[]> {
  const catalogue = new Catalogue(db)
  const rows: MappedRow[] = []
  for (const [index, record] of sample.rows.entries()) {
    const read = await catalogue.resolve(readRow(mapped(record, by), index + 2))
    rows.push({ fields: read.raw, refusals: read.refusals })
  }
  return rows
}
