import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { DocumentKind } from "server/documents/index.ts"
import { printNow } from "server/documents/index.ts"
import type { Work } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { logisticLabels } from "server/papers/logistic.ts"
import { pickListModel } from "server/papers/pickList.ts"
import { slipsOf } from "server/papers/slip.ts"
import { whyNotMade } from "server/papers/unprintable.ts"
import { logisticLabelsPdf } from "server/pdf/logisticLabel.ts"
import { pickListPdf } from "server/pdf/pickList.ts"
import { slipsPdf } from "server/pdf/slip.ts"
import { orderWalk, runWalk } from "server/picking/index.ts"
import { ordersOfRun, runs } from "server/picking/runs.ts"
import { say } from "words/index.ts"
import { runLabel } from "./runLabel.ts"

/** A paper of the floor or the bench, made from how things are now. */
export interface FloorPaper {
  readonly kind: DocumentKind
  readonly name: string
  readonly bytes: Buffer
  readonly orderId: OrderId | null
}

/** The pick list, the packing slips or the logistic labels of an order; null where there are none. */
export async function orderPaper(work: Work, paper: string, orderNumber: string): Promise<FloorPaper | null> {
  const { db, warehouse, now } = work
  const order = await summaryByNumber(db, warehouse, orderNumber)
  if (!order) return null
  if (paper === "list") {
    const head = { number: order.orderNumber, title: say("pick.list"), facts: [order.customer, order.place] }
    const bytes = await pickListPdf(pickListModel(await orderWalk(db, warehouse.id, order.id), head), now)
    return { kind: "pick-list", name: `pick-list-${orderNumber}`, bytes, orderId: order.id }
  }
  if (paper === "slips") {
    const slips = await slipsOf(db, order.id)
    const bytes = slips ? await slipsPdf(slips, orderNumber, now) : null
    return bytes && { kind: "packing-slip", name: `packing-slip-${orderNumber}`, bytes, orderId: order.id }
  }
  const labels = paper === "logistic" ? await logisticLabels(db, order.id) : null
  if (!labels || labels.length === 0) return null
  const bytes = await logisticLabelsPdf(labels, now)
  return { kind: "logistic-label", name: `logistic-labels-${orderNumber}`, bytes, orderId: order.id }
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
    title: say("pick.list"),
    facts: [
      runLabel(run.label),
      say("runs.plate.no-walk", { orders: run.orders }),
      ...(run.cart ? [`${say("runs.cart")} ${run.cart}`] : []),
    ],
  })
  return { kind: "pick-list", name: `pick-list-R${number}`, bytes: await pickListPdf(model, now), orderId: null }
}

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
