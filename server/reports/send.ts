import type { OutboxId, SourceId } from "core/ids/index.ts"
import { coded, reason } from "core/refusal/index.ts"
import {
  columnsOf,
  type OutNames,
  outward,
  type ReportField,
  type ReportModel,
  rowsOf,
  usualReportFields,
} from "core/report/index.ts"
import type { Knex } from "knex"
import { announce, parsed } from "../audit/index.ts"
import { csvText } from "../formats/csvOut.ts"
import { type ReportAnswer, sendReport, sendWebhook } from "../gateways/orderSourceReports.ts"
import { putIntoFolder } from "../gateways/partner.ts"
import { connectionTrouble } from "../gateways/reach.ts"
import { unseal } from "../secrets/index.ts"

/** What webhook secrets are sealed for. */
export const webhookPurpose = "source webhooks"

/** Ways out of the house, as they are reached. */
export interface ReportWays {
  readonly post: typeof sendReport
  readonly sign: typeof sendWebhook
  readonly put: typeof putIntoFolder
}
const ways: ReportWays = { post: sendReport, sign: sendWebhook, put: putIntoFolder }

const targetOf = (db: Knex, sourceId: SourceId) =>
  db("order_source")
    .where({ id: sourceId })
    .first(
      "id",
      "report_way",
      "report_url",
      "report_folder",
      "report_fields",
      "report_names",
      "report_cost",
      "report_secret",
      "report_secret_before",
    )

type Target = NonNullable<Awaited<ReturnType<typeof targetOf>>>

/** What a source chose to be told, as it is set up now. */
export function chosenFields(target: Pick<Target, "report_fields" | "report_cost">): ReportField[] {
  const fields = target.report_fields ? parsed<ReportField[]>(target.report_fields) : [...usualReportFields]
  return target.report_cost && !fields.includes("cost") ? [...fields, "cost"] : fields
}

const outwardOf = (target: Target, model: ReportModel): Record<string, unknown> =>
  outward(model, chosenFields(target), target.report_names ? parsed<OutNames>(target.report_names) : {})

/** How a source's reports look, as it is set up now. */
export async function outwardFor(
  db: Knex,
  sourceId: SourceId,
): Promise<(model: ReportModel) => Record<string, unknown>> {
  const target = await targetOf(db, sourceId)
  return (model) => (target ? outwardOf(target, model) : {})
}

interface Message {
  readonly id: number
  readonly messageId: string
  readonly model: ReportModel
  readonly at: Date
}

/** Hands a message over as its source is set up now. Throws to be tried again. */
async function handOver(target: Target, message: Message, by: ReportWays): Promise<ReportAnswer> {
  const { report_way: way, report_url: url, report_folder: folder } = target
  if (way === "folder-json" || way === "folder-csv") {
    if (!folder) throw new Error(coded(reason("report.nowhere")))
    const name = `report-${String(message.id).padStart(8, "0")}`
    const names = target.report_names ? parsed<OutNames>(target.report_names) : {}
    const columns = columnsOf(chosenFields(target))
    const text =
      way === "folder-json"
        ? JSON.stringify(outwardOf(target, message.model), null, 2)
        : csvText(
            columns.map((column) => names[column] ?? column),
            rowsOf(message.model).map((row) =>
              Object.fromEntries(columns.map((column) => [names[column] ?? column, row[column]])),
            ),
          )
    await by.put(folder, {
      key: message.messageId,
      name: `${name}.${way === "folder-json" ? "json" : "csv"}`,
      media: way === "folder-json" ? "application/json" : "text/csv",
      bytes: Buffer.from(text),
    })
    return { kind: "taken" }
  }
  if (!url) throw new Error(coded(reason("report.nowhere")))
  const data = outwardOf(target, message.model)
  if (way === "http") return by.post(url, message.messageId, data)
  const secrets = [target.report_secret, target.report_secret_before].flatMap((one) =>
    one ? [unseal(webhookPurpose, one)] : [],
  )
  if (secrets.length === 0) throw new Error(coded(reason("report.no-secret")))
  return by.sign(
    url,
    message.messageId,
    { type: message.model.topic, timestamp: message.at.toISOString(), data },
    secrets,
  )
}

/**
 * Sends a message of the outbox to its source, and before it those of the same order that wait: a source is told in the
 * order in which it happened. The source takes each id once. What it refuses for good stands so until somebody has mended
 * it, and keeps none of the others. Throws to be run again.
 */
export async function sendOutbox(db: Knex, outboxId: OutboxId, by: ReportWays = ways): Promise<void> {
  const wanted = await db("outbox").where({ id: outboxId }).first("order_id", "source_id", "state")
  if (wanted?.state !== "waiting") return
  const rows = await db("outbox")
    .where({ order_id: wanted.order_id, source_id: wanted.source_id, state: "waiting" })
    .where("id", "<=", outboxId)
    .orderBy("id")
  const target = await targetOf(db, wanted.source_id)
  if (!target) return
  for (const row of rows) {
    let answer: ReportAnswer
    try {
      answer = await handOver(
        target,
        { id: row.id, messageId: row.message_id, model: parsed<ReportModel>(row.payload), at: row.created_at },
        by,
      )
    } catch (error) {
      await db("outbox")
        .where({ id: row.id, state: "waiting" })
        .update({ trouble: connectionTrouble(error).slice(0, 280) })
      throw error
    }
    await db("outbox")
      .where({ id: row.id, state: "waiting" })
      .update(
        answer.kind === "taken"
          ? { state: "sent", sent_at: new Date(), trouble: null }
          : { state: "refused", trouble: coded(reason("report.refused", { status: answer.status })) },
      )
    await announce(db, { orderId: row.order_id })
  }
}

/** Sends a source a message that says nothing, to see whether it comes. */
export async function sendTest(
  db: Knex,
  sourceId: SourceId,
  id: string,
  now: Date,
  by: ReportWays = ways,
): Promise<ReportAnswer> {
  const target = await targetOf(db, sourceId)
  if (!target) return { kind: "refused", status: 404 }
  return handOver(
    target,
    { id: 0, messageId: id, model: { topic: "test", orderNumber: "TEST", packages: [] }, at: now },
    by,
  )
}
