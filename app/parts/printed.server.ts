import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { compute } from "server/compute/pool.ts"
import { roundSheetOf } from "server/dock/round.ts"
import type { DocumentKind } from "server/documents/index.ts"
import { bytesOf, printNow } from "server/documents/index.ts"
import type { Work } from "server/http/context.ts"
import { type OrderSummary, summaryByNumber } from "server/orders/facts.ts"
import { logisticLabels } from "server/papers/logistic.ts"
import { masterBillOf } from "server/papers/masterBill.ts"
import { pickListModel } from "server/papers/pickList.ts"
import { slipsOf } from "server/papers/slip.ts"
import { whyNotMade } from "server/papers/unprintable.ts"
import { logisticLabelsPdf } from "server/pdf/logisticLabel.ts"
import { masterBillPdf } from "server/pdf/masterBill.ts"
import { pickListPdf } from "server/pdf/pickList.ts"
import { roundSheetPdf } from "server/pdf/roundSheet.ts"
import { slipsPdf } from "server/pdf/slip.ts"
import { orderWalk, runWalk } from "server/picking/index.ts"
import { ordersOfRun, runs } from "server/picking/runs.ts"
import { papersOfRun } from "server/shipping/printRun.ts"
import { runById } from "server/shippingRuns/read.ts"
import { say } from "words/index.ts"
import { runLabel } from "./runLabel.ts"

/** A paper of the floor or the bench, made from how things are now. */
export interface FloorPaper {
  readonly kind: DocumentKind
  readonly name: string
  readonly bytes: Buffer
  readonly orderId: OrderId | null
}

interface MakeOf {
  /** Whether a shipment's page offers it. */
  readonly offered: (packages: readonly { readonly sscc: string | null }[]) => boolean
  /** Its bytes, or null where there is nothing to print. */
  readonly make: (work: Work, order: OrderSummary) => Promise<Buffer | null>
  readonly kind: DocumentKind
  /** What its file is called, before the order's number. */
  readonly file: string
}

/** The papers of one order by the names of their addresses: what each is called stands in `paper.of-floor.` in `words`. */
const ofOrder: Readonly<Record<string, MakeOf>> = {
  list: {
    kind: "pick-list",
    file: "pick-list",
    offered: () => false,
    make: async ({ db, warehouse, now }, order) => {
      const head = {
        number: order.orderNumber,
        title: say("paper.of-floor.list"),
        facts: [order.customer, order.place],
      }
      return pickListPdf(pickListModel(await orderWalk(db, warehouse.id, order.id), head), now)
    },
  },
  slips: {
    kind: "packing-slip",
    file: "packing-slip",
    offered: () => true,
    make: async ({ db, now }, order) => {
      const slips = await slipsOf(db, order.id)
      return slips && slipsPdf(slips, order.orderNumber, now)
    },
  },
  logistic: {
    kind: "logistic-label",
    file: "logistic-labels",
    offered: (packages) => packages.some((one) => one.sscc),
    make: async ({ db, now }, order) => {
      const labels = await logisticLabels(db, order.id)
      return labels && labels.length > 0 ? logisticLabelsPdf(labels, now) : null
    },
  },
}

/** The names of the papers that a shipment's page offers. */
export const offeredPapers = (packages: readonly { readonly sscc: string | null }[]): string[] =>
  packages.length === 0 ? [] : Object.keys(ofOrder).filter((name) => ofOrder[name]?.offered(packages))

/** A paper of an order by its name; null for no such order or paper, or where there is nothing to print. */
export async function orderPaper(work: Work, paper: string, orderNumber: string): Promise<FloorPaper | null> {
  const made = Object.hasOwn(ofOrder, paper) ? ofOrder[paper] : undefined
  const order = made && (await summaryByNumber(work.db, work.warehouse, orderNumber))
  const bytes = order && (await made.make(work, order))
  return bytes ? { kind: made.kind, name: `${made.file}-${orderNumber}`, bytes, orderId: order.id } : null
}

/** The pick list of a run, or the packing slips of its orders before they are packed; null where there are none. */
export async function runPaper(work: Work, paper: string, number: number): Promise<FloorPaper | null> {
  const { db, warehouse, now } = work
  const [run] = await runs(db, warehouse.id, { number })
  if (!run) return null
  if (paper === "slips") {
    const orders = await ordersOfRun(db, run.id)
    const models = (await Promise.all(orders.map((order) => slipsOf(db, order.id)))).flatMap((one) => one ?? [])
    if (models.length === 0) return null
    const bytes = await slipsPdf(models, `R${number}`, now)
    return { kind: "packing-slip", name: `packing-slips-R${number}`, bytes, orderId: null }
  }
  if (paper !== "list") return null
  const model = pickListModel(await runWalk(db, warehouse.id, run.id), {
    number: `R${number}`,
    title: say("paper.of-floor.list"),
    facts: [
      runLabel(run.label),
      say("runs.plate.no-walk", { orders: run.orders }),
      ...(run.cart ? [`${say("runs.cart")} ${run.cart}`] : []),
    ],
  })
  return { kind: "pick-list", name: `pick-list-R${number}`, bytes: await pickListPdf(model, now), orderId: null }
}

/** Orders whose packing slips are read together. */
const slipsAtOnce = 8

/**
 * Papers of a shipping run: its labels as one PDF in the order in which they are printed, the packing slips of all its
 * orders, or the pick lists of those that are not picked. Null where there are none.
 */
export async function shippingRunPaper(work: Work, paper: string, runId: number): Promise<FloorPaper | null> {
  const { db, warehouse, now } = work
  const run = await runById(db, warehouse.id, runId)
  if (!run) return null
  const orders = run.rows.filter((row) => row.step !== "out" && row.step !== "with")
  const made = (kind: DocumentKind, name: string, bytes: Uint8Array): FloorPaper => ({
    kind,
    name: `${name}-${runId}`,
    bytes: Buffer.from(bytes),
    orderId: null,
  })
  switch (paper) {
    case "slips": {
      const models = []
      // some at a time: each waits for the database most of its time
      for (let at = 0; at < orders.length; at += slipsAtOnce) {
        const some = orders.slice(at, at + slipsAtOnce).map((one) => slipsOf(db, one.orderId))
        models.push(...(await Promise.all(some)).flatMap((one) => one ?? []))
      }
      if (models.length === 0) return null
      return made("packing-slip", "packing-slips-run", await slipsPdf(models, String(runId), now))
    }
    case "pick-lists": {
      const files = []
      for (const one of orders.filter((row) => row.step === "not-picked")) {
        const list = await orderPaper(work, "list", one.orderNumber)
        if (list) files.push(list.bytes)
      }
      return files.length > 0 ? made("pick-list", "pick-lists-run", await merged(`Run ${runId}`, files)) : null
    }
    case "labels": {
      const papers = await papersOfRun(db, runId, run.printOrder)
      const labels = papers.filter((one) => one.kind === "label").map((one) => one.documentId)
      const files = await bytesOf(work, labels)
      return files.length > 0 ? made("label", "labels-run", await merged(`Run ${runId}`, files)) : null
    }
    default:
      return null
  }
}

/** The master bill of lading over the freight of one truck; null where it has none. */
export async function masterBillPaper({ db, warehouse, now }: Work, collectionId: number): Promise<FloorPaper | null> {
  const model = await masterBillOf(db, warehouse, collectionId)
  return model && { kind: "master-bill", name: model.number, bytes: await masterBillPdf(model, now), orderId: null }
}

/** The sheet to sign of our own vehicle's round; null where none is planned. */
export async function roundSheetPaper({ db, warehouse, now }: Work, collectionId: number): Promise<FloorPaper | null> {
  const model = await roundSheetOf(db, warehouse.id, collectionId)
  return model && { kind: "round-sheet", name: model.number, bytes: await roundSheetPdf(model, now), orderId: null }
}

const merged = (title: string, files: readonly Uint8Array[]): Promise<Uint8Array> =>
  compute("mergePdfs", { title, files })

/** Prints a paper once and answers its name, or what on it can't be printed. */
export async function printed(work: Work, made: Promise<FloorPaper | null>, key: string): Promise<Outcome<string>> {
  let paper: FloorPaper | null
  try {
    paper = await made
  } catch (error) {
    const why = whyNotMade(error)
    if (!why) throw error
    return refused(...why)
  }
  if (!paper) return refused(reason("packing.no-paper"))
  const outcome = await printNow(work, paper, key)
  return outcome.ok ? accepted(paper.name) : outcome
}
