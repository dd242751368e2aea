import { randomBytes, randomUUID } from "node:crypto"
import type { OutboxId, SourceId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { outNames, type ReportField, type ReportModel, reportColumns, reportFields } from "core/report/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { connectionTrouble } from "../gateways/reach.ts"
import { canKeepSecrets, seal } from "../secrets/index.ts"
import { reporting } from "./jobs.ts"
import { chosenFields, sendTest, webhookPurpose } from "./send.ts"

export const reportStates = ["waiting", "sent", "refused"] as const
export type ReportState = (typeof reportStates)[number]

export interface ReportShown {
  readonly id: OutboxId
  readonly topic: string
  readonly source: string
  readonly orderNumber: string
  readonly sourceNumber: string
  readonly state: ReportState
  readonly trouble: string | null
  readonly madeAt: Date
  readonly sentAt: Date | null
  readonly tracking: readonly string[]
}

export interface ReportSearch {
  readonly text: string
  readonly state: ReportState | ""
  readonly page: number
}

/** Reports on a page. */
export const reportsAtOnce = 50

/** What sources were told of a warehouse's orders, the newest first; one more than a page where there are more. */
export async function searchReports(db: Knex, warehouseId: WarehouseId, search: ReportSearch): Promise<ReportShown[]> {
  const query = db("outbox as x")
    .join("sales_order as o", "o.id", "x.order_id")
    .join("order_source as s", "s.id", "x.source_id")
    .where("o.warehouse_id", warehouseId)
    .orderBy("x.id", "desc")
    .limit(reportsAtOnce + 1)
    .offset((search.page - 1) * reportsAtOnce)
    .select("x.*", "o.order_number", "o.source_number", "s.name as source")
  if (search.state) query.where("x.state", search.state)
  const text = search.text.trim()
  if (text) query.where((any) => any.where("o.order_number", text).orWhere("o.source_number", text))
  return (await query).map((row) => ({
    id: row.id,
    topic: row.topic,
    source: row.source,
    orderNumber: row.order_number,
    sourceNumber: row.source_number,
    state: row.state,
    trouble: row.trouble,
    madeAt: row.created_at,
    sentAt: row.sent_at,
    tracking: (parsed<ReportModel>(row.payload).packages ?? []).map((one) => one.trackingNumber).filter(Boolean),
  }))
}

/** How many reports wait, by source: of a warehouse's orders. */
export async function waitingReports(
  db: Knex,
  warehouseId: WarehouseId,
): Promise<{ readonly sourceId: SourceId; readonly source: string; readonly n: number; readonly byHand: boolean }[]> {
  const rows = await db("outbox as x")
    .join("sales_order as o", "o.id", "x.order_id")
    .join("order_source as s", "s.id", "x.source_id")
    .where({ "o.warehouse_id": warehouseId, "x.state": "waiting" })
    .groupBy("s.id", "s.name", "s.report_by_hand")
    .orderBy("s.name")
    .select("s.id", "s.name", "s.report_by_hand")
    .count({ n: "*" })
  return (rows as unknown as { id: SourceId; name: string; report_by_hand: number; n: number }[]).map((row) => ({
    sourceId: row.id,
    source: row.name,
    n: Number(row.n),
    byHand: !!row.report_by_hand,
  }))
}

/** So many reports are sent by hand at once. */
const mostAtOnce = 2_000

/**
 * Sends reports by hand: those that are named, or all that wait of a source. One that was refused is sent again; one that
 * the source has is sent again where it was named, under its own id, so that the source knows it.
 */
export async function sendReports(
  context: Context,
  which: { readonly ids: readonly number[] } | { readonly sourceId: SourceId },
): Promise<Outcome<{ readonly reports: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  if ("ids" in which && which.ids.length === 0) return refused(reason("report.choose"))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly reports: number }>> => {
    const query = trx("outbox as x")
      .join("sales_order as o", "o.id", "x.order_id")
      .where("o.warehouse_id", actor.warehouseId)
      .orderBy("x.id")
      .limit(mostAtOnce)
      .forUpdate()
      .select("x.id", "x.state", "x.asked", "x.order_id", "x.topic")
    if ("ids" in which) query.whereIn("x.id", which.ids.slice(0, mostAtOnce))
    else query.where({ "x.source_id": which.sourceId, "x.state": "waiting" })
    const rows = await query
    for (const row of rows) {
      await trx("outbox")
        .where({ id: row.id })
        .update({ state: "waiting", asked: row.asked + 1, trouble: null })
      await reporting.queue(trx, `outbox:${row.id}:${row.asked + 1}`, { outboxId: row.id })
      if (row.state !== "waiting")
        await record(trx, actor, now, { action: "report.again", orderId: row.order_id, detail: { topic: row.topic } })
    }
    return accepted({ reports: rows.length })
  })
}

const pairs = z
  .string()
  .max(2_000)
  .default("")
  .transform((text) =>
    text
      .split(/[\n,]/)
      .map((line) => line.split("=").map((part) => part.trim()))
      .filter((pair) => pair.some(Boolean)),
  )

export const reportForm = z.object({
  id: z.coerce.number().int().positive(),
  version: z.coerce.number().int().default(0),
  way: z.enum(["http", "webhook", "folder-json", "folder-csv"]),
  folder: z.string().trim().toLowerCase().max(40).default(""),
  fields: z.preprocess((value) => (value === undefined ? [] : [value].flat()), z.array(z.enum(reportFields)).max(20)),
  names: pairs,
  by_hand: z.string().optional(),
  labels: z.string().optional(),
  delivery: z.string().optional(),
  returns: z.string().optional(),
})

/** Sets how a source is told. Refused: a folder's name that is none, a name of ours that is not told, two under one. */
export async function saveReporting(context: Context, said: z.infer<typeof reportForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "sources.manage")
  const isFolder = said.way === "folder-json" || said.way === "folder-csv"
  if (isFolder && !/^[a-z0-9][a-z0-9-]{0,39}$/.test(said.folder))
    return refused(reason("source.folder", { field: "folder" }))
  const known: readonly string[] = said.way === "folder-csv" ? reportColumns : outNames
  const wrong = said.names.find(([ours = "", theirs = ""]) => !known.includes(ours) || !/^[\w .:-]{1,40}$/.test(theirs))
  if (wrong) return refused(reason("report.name", { name: wrong.join(" = ").slice(0, 60), field: "names" }))
  // under one name, one of the two would be lost
  const renamed = new Map(said.names.map(([ours = "", theirs = ""]) => [ours, theirs]))
  const outward = known.map((ours) => renamed.get(ours) ?? ours)
  const twice = outward.find((name, at) => outward.indexOf(name) !== at)
  if (twice !== undefined) return refused(reason("report.name-twice", { name: twice, field: "names" }))
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const row = await trx("order_source").where({ id: said.id }).forUpdate().first("name", "version")
    if (!row) return refused(reason("source.unknown", { code: "" }))
    if (row.version !== said.version) return refused(reason("source.changed-meanwhile", { name: row.name }))
    await trx("order_source")
      .where({ id: said.id })
      .update({
        report_way: said.way,
        report_folder: isFolder ? said.folder : "",
        report_fields: JSON.stringify(said.fields),
        report_names: JSON.stringify(Object.fromEntries(said.names)),
        report_cost: said.fields.includes("cost"),
        report_by_hand: said.by_hand === "on",
        report_labels: said.labels === "on",
        report_delivery: said.delivery === "on",
        report_returns: said.returns === "on",
        version: row.version + 1,
      })
    await record(trx, actor, now, { action: "source.changed", detail: { name: row.name } })
    return accepted(null)
  })
}

export interface Reporting {
  readonly way: "http" | "webhook" | "folder-json" | "folder-csv"
  readonly folder: string
  readonly fields: readonly ReportField[]
  readonly names: Readonly<Record<string, string>>
  readonly byHand: boolean
  readonly labels: boolean
  readonly delivery: boolean
  readonly returns: boolean
  readonly hasSecret: boolean
}

/** How a source is told. */
export async function reportingOf(db: Knex, sourceId: SourceId): Promise<Reporting> {
  const row = await db("order_source").where({ id: sourceId }).first()
  return {
    way: row?.report_way ?? "http",
    folder: row?.report_folder ?? "",
    fields: row ? chosenFields(row) : [],
    names: row?.report_names ? parsed(row.report_names) : {},
    byHand: !!row?.report_by_hand,
    labels: !!row?.report_labels,
    delivery: !!row?.report_delivery,
    returns: !!row?.report_returns,
    hasSecret: !!row?.report_secret,
  }
}

/**
 * Makes the secret that messages to a source are signed with. The one before it signs as well until the next is made, so
 * that the other side can change it when it likes. It is shown once.
 */
export async function makeReportSecret(context: Context, sourceId: SourceId): Promise<Outcome<{ secret: string }>> {
  const { db, actor, now } = context
  authorise(actor, "sources.manage")
  if (!canKeepSecrets()) return refused(reason("secrets.no-key"))
  return inTransaction(db, async (trx): Promise<Outcome<{ secret: string }>> => {
    const row = await trx("order_source").where({ id: sourceId }).forUpdate().first("name", "report_secret")
    if (!row) return refused(reason("source.unknown", { code: "" }))
    const secret = `whsec_${randomBytes(24).toString("base64")}`
    await trx("order_source")
      .where({ id: sourceId })
      .update({ report_secret: seal(webhookPurpose, secret), report_secret_before: row.report_secret })
    await record(trx, actor, now, { action: "report.secret-made", detail: { name: row.name } })
    return accepted({ secret })
  })
}

/** Sends a source a message that says nothing, at once, and says what it answered. */
export async function testReporting(context: Context, sourceId: SourceId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "sources.manage")
  try {
    const answer = await sendTest(db, sourceId, randomUUID(), now)
    return answer.kind === "taken" ? accepted(null) : refused(reason("report.refused", { status: answer.status }))
  } catch (error) {
    return refused(reason("report.test-failed", { why: connectionTrouble(error) }))
  }
}
