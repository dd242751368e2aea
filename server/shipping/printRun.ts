import type { DocumentId, ShippingRunId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { inPrintOrder, type PrintOrder, type RunLabel } from "core/shippingRuns/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { type DocumentKind, printDocument, whose } from "../documents/index.ts"
import { firstPress } from "../documents/once.ts"
import { lockRun } from "../shippingRuns/make.ts"

/** A paper of a run: a label, or what goes with a shipment's labels, which has no package of its own. */
export interface RunPaper extends RunLabel {
  readonly kind: DocumentKind
  readonly orderId: number
  readonly name: string
  readonly copies: number
  /** It was sent to a printer, or is on its way. */
  readonly asked: boolean
}

/** The papers of what is bought of a run, as they are printed: in the order of packing or of the doors. */
export async function papersOfRun(db: Knex, runId: ShippingRunId, by: PrintOrder): Promise<RunPaper[]> {
  const rows = await db("shipping_run_order as r")
    .join("sales_order as o", "o.id", "r.order_id")
    .join("document as d", "d.intent_id", "r.intent_id")
    .join("buy_intent as i", "i.id", "r.intent_id")
    .join("shipment as h", "h.id", "i.shipment_id")
    .leftJoin("package as p", "p.label_document_id", "d.id")
    .leftJoin("collection as c", "c.id", "h.collection_id")
    // what went as data is printed only when somebody asks for it by itself
    .where({ "r.run_id": runId, "r.state": "bought", "d.electronic": false })
    .whereNull("d.void_at")
    .orderBy("d.id")
    .select(
      "d.id",
      "d.kind",
      "d.name",
      "r.position",
      "r.order_id",
      "d.copies",
      "p.number",
      "p.id as package_id",
      "c.door",
      "c.cut_off",
      db.raw("EXISTS (SELECT 1 FROM print_job j WHERE j.document_id = d.id AND j.state <> 'cancelled') AS asked"),
      // when somebody closed its packages; those that a run closes come after them, in its order, whenever it came to them
      db.raw(
        "(SELECT MIN(a.at) FROM audit a WHERE a.order_id = r.order_id AND a.action = 'pack.closed' AND JSON_VALUE(a.detail, '$.run') IS NULL) AS closed_at",
      ),
    )
  return inPrintOrder(
    rows.map((row) => ({
      documentId: row.id,
      kind: row.kind as DocumentKind,
      name: row.name,
      orderId: row.order_id,
      position: row.position,
      // what goes with the labels comes after them
      package: row.number ?? Number.MAX_SAFE_INTEGER,
      packedAt: row.closed_at,
      door: row.door ?? "",
      cutOff: row.cut_off,
      copies: row.copies,
      asked: !!row.asked,
    })),
    by,
  )
}

/** Which papers of a run are printed: those that never were, all, or the labels from one on, such as after a jam. */
export type PrintWhich = "unprinted" | "all" | { readonly from: DocumentId }

/**
 * Prints the papers of what is bought of a run, in one go and in their order. A key of the client's counts once: asked
 * again, nothing is printed again.
 */
export async function printRun(
  context: Context,
  runId: ShippingRunId,
  which: PrintWhich,
  key: string,
): Promise<Outcome<{ readonly labels: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const run = await lockRun(trx, context, runId)
    if (!run.ok) return run
    const papers = await papersOfRun(trx, runId, run.value.print_order)
    const wanted = chosenOf(papers, which)
    if (wanted.length === 0) return refused(reason("shipping-run.nothing-to-print"))
    const labels = wanted.filter((one) => one.kind === "label").length
    if (!(await firstPress(trx, context, key, `run ${runId}`))) return accepted({ labels })
    for (const paper of wanted) {
      await printDocument(trx, actor.warehouseId, paper.documentId, paper.kind, paper.copies, whose(context))
      if (paper.asked)
        await record(trx, actor, now, {
          action: "paper.reprinted",
          orderId: paper.orderId,
          detail: { name: paper.name },
        })
    }
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ labels })
  })
}

function chosenOf(papers: readonly RunPaper[], which: PrintWhich): readonly RunPaper[] {
  if (which === "all") return papers
  if (which === "unprinted") return papers.filter((one) => !one.asked)
  const labels = papers.filter((one) => one.kind === "label")
  const at = labels.findIndex((one) => one.documentId === which.from)
  return at < 0 ? [] : labels.slice(at)
}

/** Prints what a run bought, where it prints in one go; its job's key makes it once for each purchase. */
export async function printBoughtRun(db: Knex, { runId, key }: { runId: ShippingRunId; key: string }): Promise<void> {
  const run = await db("shipping_run").where({ id: runId }).first()
  if (run?.prints !== "after") return
  const actor = {
    userId: run.bought_by_id,
    name: run.bought_by ?? run.made_by,
    role: "clerk",
    warehouseId: run.warehouse_id,
  } as const
  // nothing left to print is no failure
  await printRun({ db, now: await businessNow(db), actor, benchId: run.bench_id }, runId, "unprinted", key)
}
