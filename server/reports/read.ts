import type { SourceId } from "core/ids/index.ts"
import type { ReportModel } from "core/report/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { outwardFor } from "./send.ts"

/** What a source is told of an order of its own, in the order in which it happened: as it is set up now. */
export async function reportsOf(
  db: Knex,
  sourceId: SourceId,
  sourceNumber: string,
): Promise<
  { id: string; topic: string; at: string; state: "waiting" | "sent" | "refused"; data: Record<string, unknown> }[]
> {
  const rows = await db("outbox as x")
    .join("sales_order as o", "o.id", "x.order_id")
    .where({ "x.source_id": sourceId, "o.source_number": sourceNumber })
    .orderBy("x.id")
    .limit(200)
    .select("x.message_id", "x.topic", "x.created_at", "x.state", "x.payload")
  const out = await outwardFor(db, sourceId)
  return rows.map((row) => ({
    id: row.message_id,
    topic: row.topic,
    at: row.created_at.toISOString(),
    state: row.state,
    data: out(parsed<ReportModel>(row.payload)),
  }))
}
