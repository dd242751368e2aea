import { data } from "react-router"
import { may } from "server/actors/index.ts"
import type { Work } from "server/http/context.ts"
import { scalesOf } from "server/packing/scales.ts"
import { type RunRow, runById, type ShippingRun } from "server/shippingRuns/read.ts"
import { changeChoices, lastOf, whatsFor } from "../parts/group.server.ts"

/** Reasons of one order that its row tells; more stand on the order itself. */
const mostReasons = 3

/** What the page of a shipping run shows. */
export async function runView(work: Work, id: number) {
  const run = await runById(work.db, work.warehouse.id, id)
  if (!run) throw data(null, { status: 404 })
  const [choices, last, scales] = await Promise.all([
    changeChoices(work),
    lastOf(work),
    scalesOf(work.db, work.warehouse.id),
  ])
  const labels = run.rows.filter((row) => row.step === "bought")
  return {
    ...run,
    rows: run.rows.map((row) => ({
      ...row,
      packable: row.step === "not-packed" && isPackable(row),
      reasons: row.reasons.slice(0, mostReasons),
    })),
    counts: countsOf(run),
    /** Papers that are made of the run as it is now, before its labels. */
    papers: [
      ...(run.rows.some((row) => row.step === "not-picked") ? ["pick-lists"] : []),
      ...(run.rows.some((row) => row.step !== "out" && row.step !== "with") ? ["slips"] : []),
    ],
    labels: labels.reduce((sum, row) => sum + row.pieces, 0),
    unprinted: labels.reduce((sum, row) => sum + row.unprinted, 0),
    currency: work.warehouse.currency,
    mayWork: may(work.actor, "shipping.buy"),
    packs: work.warehouse.packInRuns,
    changes: choices,
    whats: whatsFor(work, choices, ["ship", "pattern", "let-go"]),
    last,
    scales,
    key: crypto.randomUUID(),
  }
}

export type RunView = Awaited<ReturnType<typeof runView>>
export type RunRowView = RunView["rows"][number]

/** Nobody has packed it, and nothing was said against packing it as suggested. */
const isPackable = (row: Pick<RunRow, "packed" | "reasons">): boolean => !row.packed && row.reasons.length === 0

const countsOf = (run: ShippingRun) => {
  const of = (...steps: RunRow["step"][]) => run.rows.filter((row) => steps.includes(row.step)).length
  return {
    all: run.rows.filter((row) => row.step !== "out" && row.step !== "with").length,
    waiting: of("waiting"),
    stale: of("stale"),
    unpacked: run.rows.filter((row) => row.step === "not-packed" && isPackable(row)).length,
    failed: of("failed"),
    ready: of("ready"),
    asked: of("asked"),
    buying: of("buying"),
    bought: of("bought"),
  }
}
